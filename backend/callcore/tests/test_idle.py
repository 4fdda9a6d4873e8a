"""Nobody idles beside a contact that they could take, whatever happens and in whatever order."""

import contextlib
import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import WAYS, ruled_out
from callcore.routing.events import HandlingRule, QueueRule, Status
from callcore.routing.router import Router

AGENTS = ("ann", "bea", "cai", "dov")
QUEUES = ("desk", "bookings", "freight")
#: Something that takes a while: a router is driven through this many random events.
EVENTS = 150


def random_rule(rng: random.Random, queue: str) -> QueueRule:
    widening = (
        e.Widen(15_000, lower=rng.randint(0, 4)),
        e.Widen(30_000, lower=9, agents=(rng.choice(AGENTS),)),
    )
    return QueueRule(
        queue,
        priority=rng.randint(1, 9),
        priority_growth=rng.choice([0, 0, 2.5]),
        longest_wait_ms=rng.choice([None, 60_000]),
        distribution=rng.choice(sorted(WAYS)),
        required_skills=(("x", rng.randint(1, 9)),) if rng.random() < 0.4 else (),
        widening=widening if rng.random() < 0.5 else (),
        prefer_ms=rng.choice([0, 8_000]),
    )


def configured(router: Router, rng: random.Random, now: int) -> None:
    """Another set of queues, members, skills and handling rules."""
    rules = [random_rule(rng, queue) for queue in QUEUES if rng.random() < 0.9]
    members = {q: [a for a in AGENTS if rng.random() < 0.6] for q in QUEUES}
    skills = {a: {"x": rng.randint(1, 10)} for a in AGENTS if rng.random() < 0.8}
    handling = HandlingRule(
        ring_ms=rng.choice([5_000, 20_000]),
        wrap_up=rng.choice(["none", "optional"]),
        missed_away=rng.choice(["", "Missed"]),
        texts=rng.randint(1, 3),
    )
    router.configure(rules, members, handling, now, skills)


class IdleTests(unittest.TestCase):
    @settings(deadline=None, max_examples=150)
    @given(st.integers(0, 10**9))
    def test_nobody_idles_beside_a_contact_that_they_could_take(self, seed):
        rng = random.Random(seed)
        router, now = Router(), 0
        configured(router, rng, now)
        for number in range(EVENTS):
            now += rng.choice([0, 40, 3_000, 9_000])
            self.time_passes(router, now)
            with contextlib.suppress(EventRefused):
                self.something(router, rng, f"c{number}", now)
            self.check(router, now)

    def time_passes(self, router, now):
        """What a driver owes the router: whatever is due by now."""
        for agent in list(router.agents.values()):
            if agent.due_ms is not None and agent.due_ms <= now:
                router.apply(e.AgentDue(agent.id), now)
        for contact in list(router.contacts):
            router.apply(e.ContactDue(contact), now)

    def something(self, router, rng, name, now):
        agent = rng.choice(AGENTS)
        state = router.agents.get(agent)
        held = [state.contact, *(c for c, _ in state.others)] if state else [""]
        about = rng.choice(held)
        queue = rng.choice(QUEUES)
        waits = [c.id for c in router.contacts.values() if not c.connected]
        one_of = [
            e.SignIn(agent),
            e.GoAvailable(agent),
            e.GoAvailable(agent),
            e.GoAway(agent, "Lunch"),
            e.Answer(agent),
            e.Answer(agent),
            e.Decline(agent),
            e.EndContact(agent, about),
            e.FinishWrapUp(agent, ""),
            e.SignOut(agent),
            e.Join(
                name,
                queue,
                now,
                rng.choice([None, None, 9]),
                text=rng.random() < 0.3,
                preferred=(agent,) if rng.random() < 0.2 else (),
            ),
            *(e.Leave(contact, "hung_up") for contact in waits[:1]),
        ]
        done = rng.random()
        if done < 0.06:
            configured(router, rng, now)
        elif done < 0.12:
            group = tuple(rng.sample(AGENTS, rng.randint(1, 3)))
            router.ring_directly(name, group, 10_000, now)
        elif done < 0.18 and about in router.contacts and state.status is Status.ON_CONTACT:
            text = router.contacts[about].text
            router.apply(e.EndContact(agent, about, "transferred"), now)
            router.apply(e.Join(about, queue, now, text=text), now)
        else:
            router.apply(rng.choice(one_of), now)

    def check(self, router, now):
        for contact in router.contacts.values():
            if contact.agent:
                continue
            rule = router._rules[contact.queue]
            for agent in router.agents.values():
                free = agent.status is Status.AVAILABLE or (contact.text and agent.room)
                able = contact.queue in agent.lines and not ruled_out(agent, contact, rule, now)
                self.assertFalse(free and able, f"{agent.id} idles beside {contact.id}")

    def test_who_lets_pass_what_rings_elsewhere_takes_what_waits_in_another_queue(self):
        router = Router()
        rules = [QueueRule("desk", distribution="all", priority=9), QueueRule("bookings")]
        members = {"desk": ["ann", "bea"], "bookings": ["ann"]}
        router.configure(rules, members, HandlingRule(), 0)
        for agent in ("ann", "bea"):
            router.apply(e.SignIn(agent), 0)
        router.apply(e.Join("first", "bookings", 0), 0)
        router.apply(e.Join("all", "desk", 1), 1)
        for agent in ("bea", "ann"):
            router.apply(e.GoAvailable(agent), 2)
        self.assertEqual(router.agents["ann"].contact, "all")
        rung = [d for d in router.apply(e.Decline("ann"), 3) if isinstance(d, e.Ring)]
        self.assertEqual([(d.agent, d.contact) for d in rung], [("ann", "first")])

    def test_a_new_configuration_offers_by_priority_over_all_queues(self):
        router = Router()
        rules = [QueueRule("desk", priority=1), QueueRule("bookings", priority=8)]
        router.configure(rules, {}, HandlingRule(), 0)
        router.apply(e.SignIn("ann"), 0)
        router.apply(e.GoAvailable("ann"), 0)
        router.apply(e.Join("low", "desk", 0), 0)
        router.apply(e.Join("high", "bookings", 5), 5)
        moved = router.configure(rules, {"desk": ["ann"], "bookings": ["ann"]}, HandlingRule(), 6)
        self.assertEqual([d.contact for d in moved if isinstance(d, e.Ring)], ["high"])

    def test_the_longest_wait_waits_for_whoever_rings(self):
        for answers in (True, False):
            router = Router()
            router.configure(
                [QueueRule("desk", longest_wait_ms=30_000)], {"desk": ["ann"]}, HandlingRule(), 0
            )
            router.apply(e.SignIn("ann"), 0)
            contact = router.apply(e.Join("c1", "desk", 0), 0)
            self.assertEqual(contact, [])
            router.apply(e.GoAvailable("ann"), 25_000)
            waiting = router.contacts["c1"]
            self.assertEqual(router.due_ms(waiting, 25_000), 30_000)
            self.assertEqual(router.apply(e.ContactDue("c1"), 30_000), [])
            self.assertIsNone(router.due_ms(waiting, 30_000))
            if answers:
                kinds = [type(d) for d in router.apply(e.Answer("ann"), 31_000)]
                self.assertIn(e.Connected, kinds)
            else:
                left = router.apply(e.Decline("ann"), 31_000)
                self.assertIn(e.LeftQueue("c1", "desk", 0, "waited_out"), left)
                self.assertIs(router.agents["ann"].status, Status.AVAILABLE)


class AtWorkTests(unittest.TestCase):
    def test_who_is_away_or_not_able_counts_for_no_wait(self):
        router = Router()
        rule = QueueRule(
            "desk",
            required_skills=(("x", 5),),
            widening=(e.Widen(10_000, lower=2), e.Widen(20_000, agents=("dov",))),
        )
        skills = {"ann": {"x": 9}, "bea": {"x": 3}, "cai": {"x": 2}, "dov": {"x": 9}}
        router.configure([rule], {"desk": ["ann", "bea", "cai"]}, HandlingRule(), 0, skills)
        self.assertEqual(router.at_work_for("desk"), 0)
        for agent in AGENTS:
            router.apply(e.SignIn(agent), 0)
        self.assertEqual(router.at_work_for("desk"), 0, "all are away")
        for agent in AGENTS:
            router.apply(e.GoAvailable(agent), 0)
        self.assertEqual(router.at_work_for("desk"), 3, "as widened as it ever gets")
        self.assertEqual(router.at_work_for("desk", (("language:cy", 1),)), 0)
        router.apply(e.GoAway("ann", "Lunch"), 1)
        self.assertEqual(router.at_work_for("desk"), 2)
        self.assertEqual(router.at_work_for("gone"), 0)
