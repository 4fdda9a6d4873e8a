"""The router written down and taken up at every moment, and the moments at which its rules turn."""

import contextlib
import json
import random
import unittest
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import effective, lowered, next_change_ms, ruled_out
from callcore.routing.events import HandlingRule, QueueRule, Status
from callcore.routing.router import Router

AGENTS = ("ann", "bea", "cai", "dov")
RULES = (
    QueueRule("calm", priority=3, priority_growth=1.5, longest_wait_ms=50_000, distribution="turn"),
    QueueRule("all", distribution="all", longest_wait_ms=70_000),
    QueueRule(
        "deep",
        priority=7,
        distribution="best_skill",
        required_skills=(("x", 5),),
        widening=(e.Widen(10_000, lower=2), e.Widen(20_000, agents=("dov",))),
        prefer_ms=15_000,
        keeps=False,
    ),
)
MEMBERS = {"calm": ("ann", "bea"), "all": ("bea", "cai"), "deep": ("ann", "cai")}
SKILLS = {"ann": {"x": 3}, "cai": {"x": 8}, "dov": {"x": 4}}
HANDLING = HandlingRule(longest_wrap_ms=9_000)
HANDLING_OF = {
    "ann": HandlingRule(texts=2, wrap_up="none", reply_ms=30_000),
    "dov": HandlingRule(missed_away="Missed"),
}


def configured(router, now=0):
    router.configure(RULES, MEMBERS, HANDLING, now, SKILLS, HANDLING_OF)
    return router


def written(router):
    """What is kept of a router, as JSON."""
    kept = (
        {agent.id: router.agent_data(agent) for agent in router.agents.values()},
        {contact.id: router.waiting_data(contact) for contact in router.contacts.values()},
        router.own_data(),
    )
    return json.loads(json.dumps(kept))


def taken_up(router):
    again = configured(Router())
    again.take_up(*written(router))
    return again


def staff(router):
    """Who could come to each queue and line, with and without a skill asked for."""
    lines = [*MEMBERS, *router.direct_rules]
    asked = [(line, asks) for line in lines for asks in ((), (("x", 2),), (("x", 6),))]
    return {
        (line, asks): (sorted(a.id for a in router.signed_in_for(line, asks)), router.at_work_for(line, asks))
        for line, asks in asked
    }


class Life:
    """Anything that can happen to a router with all its kinds of queues."""

    def __init__(self, seed):
        self.rng = random.Random(seed)
        self.router = configured(Router())
        self.now = self.number = 0

    def join(self):
        self.number += 1
        preferred = ("cai",) if self.rng.random() < 0.3 else ()
        return e.Join(
            f"c{self.number}",
            self.rng.choice(("calm", "all", "deep")),
            self.now - self.rng.choice((0, 0, 5_000)),
            self.rng.choice((None, None, 9, 1)),
            self.rng.random() < 0.15,
            (("x", 2),) if self.rng.random() < 0.2 else (),
            preferred,
            self.rng.random() < 0.3,
        )

    def next(self):
        """Something that might happen now, as what to do with a router."""
        rng, agent = self.rng, self.rng.choice(AGENTS)
        contact = rng.choice(list(self.router.contacts) or ["c0"])
        if rng.random() < 0.06:
            people = tuple(rng.sample(AGENTS, 2))
            self.number += 1
            return lambda router, id=f"d{self.number}": router.ring_directly(id, people, 8_000, self.now)
        event = rng.choice(
            [
                self.join(),
                self.join(),
                e.Leave(contact, rng.choice(("hung_up", "waited_out"))),
                e.ContactDue(contact),
                e.ContactDue(contact),
                e.Rank(contact, rng.randint(1, 20)),
                e.Serve(agent, rng.choice(((), ("calm",), ("all", "deep")))),
                e.SignIn(agent),
                e.GoAvailable(agent),
                e.GoAvailable(agent),
                e.GoAway(agent, "Lunch"),
                e.Answer(agent),
                e.Answer(agent),
                e.Decline(agent),
                e.EndContact(agent),
                e.FinishWrapUp(agent, "7"),
                e.AgentDue(agent),
                e.StayOn(agent),
                e.SignOut(agent, rng.random() < 0.5),
            ]
        )
        return lambda router: router.apply(event, self.now)


class KeptTests(unittest.TestCase):
    @settings(deadline=None, max_examples=60)
    @given(st.integers(0, 10**6))
    def test_a_router_that_was_taken_up_goes_on_as_if_nothing_had_been(self, seed):
        life = Life(seed)
        for agent in AGENTS:
            life.router.apply(e.SignIn(agent), 0)
        for _ in range(70):
            life.now += life.rng.randint(0, 7_000)
            again, act = taken_up(life.router), life.next()
            self.assertEqual(written(again), written(life.router))
            outcomes = []
            for router in (life.router, again):
                try:
                    outcomes.append(act(router))
                except EventRefused as refused:
                    outcomes.append(refused.code)
            self.assertEqual(*outcomes)
            self.assertEqual(written(again), written(life.router))
            for queue in MEMBERS:
                self.assertEqual(
                    [c.id for c in again.waiting(queue)], [c.id for c in life.router.waiting(queue)]
                )
            for contact in life.router.contacts.values():
                twin = again.contacts[contact.id]
                self.assertEqual(again.due_ms(twin, life.now), life.router.due_ms(contact, life.now))
            # What is kept of who could come is what is found by looking anew.
            self.assertEqual(staff(taken_up(life.router)), staff(life.router))

    def test_what_rang_until_a_past_moment_rings_once_more(self):
        router = configured(Router())
        for agent in ("ann", "bea"):
            router.apply(e.SignIn(agent), 0)
            router.apply(e.GoAvailable(agent), 0)
        router.apply(e.Join("c1", "calm", 0), 0)
        router.apply(e.Join("c2", "calm", 15_000), 15_000)
        rung = {d.agent: d.due_ms for d in router.ring_anew(20_000)}
        self.assertEqual(rung, {"ann": 40_000})
        self.assertEqual(router.agents["bea"].due_ms, 35_000)

    def test_who_is_signed_in(self):
        router = configured(Router())
        self.assertEqual([router.signed_in(a) for a in ("ann", "nobody")], [False, False])
        router.apply(e.SignIn("ann"), 0)
        router.apply(e.GoAway("ann", "Lunch"), 1)
        self.assertEqual([router.signed_in(a) for a in ("ann", "bea")], [True, False])

    def test_helping_out_in_other_queues_ends_with_signing_out(self):
        router = configured(Router())
        router.apply(e.SignIn("dov"), 0)
        router.apply(e.Serve("dov", ("calm", "deep")), 1)
        self.assertEqual(router.agents["dov"].extra, ("calm", "deep"))
        with self.assertRaises(EventRefused):
            router.apply(e.Serve("dov", ("gone",)), 2)
        self.assertIn("calm", router.agents["dov"].lines)
        router.apply(e.GoAway("dov", "Lunch"), 3)
        self.assertEqual(router.agents["dov"].extra, ("calm", "deep"))
        router.apply(e.SignOut("dov"), 4)
        self.assertEqual((router.agents["dov"].extra, "calm" in router.agents["dov"].lines), ((), False))

    def test_a_contact_that_rings_others_later_is_known_to_reach_them(self):
        router = configured(Router())
        for agent in AGENTS:
            router.apply(e.SignIn(agent), 0)
            router.apply(e.GoAvailable(agent), 0)
        for people in (["ann", "bea"], ["cai", "dov"]):
            router.ring_directly("c1", tuple(people), 5_000, 0)
            reached = router.signed_in_for(router.contacts["c1"].queue)
            self.assertEqual(sorted(agent.id for agent in reached), people)
            router.apply(e.Leave("c1", "waited_out"), 5_000)

    def test_so_many_answers_are_kept_and_no_more(self):
        router = configured(Router())
        with mock.patch("callcore.routing.state._MOST_KEPT", 2):
            for least in range(5):
                router.at_work_for("calm", (("x", least),))
                self.assertLessEqual(len(router._could), 2)

    def test_a_line_of_ones_own_leaves_nothing_behind(self):
        router = configured(Router())
        router.apply(e.SignIn("bea"), 0)
        router.apply(e.GoAvailable("bea"), 0)
        lines = set(router._idle)
        for why, said in (("hung_up", "caller_left"), ("waited_out", "missed")):
            router.ring_directly("d", ("bea",), 8_000, 1)
            stopped = router.apply(e.Leave("d", why), 2)
            self.assertEqual([d.why for d in stopped if isinstance(d, e.RingStopped)], [said])
            self.assertEqual((set(router._idle), router.direct_rules), (lines, {}))

    def test_a_ring_that_is_missed_in_a_queue_is_the_callers_leaving(self):
        router = configured(Router())
        router.apply(e.SignIn("bea"), 0)
        router.apply(e.GoAvailable("bea"), 0)
        router.apply(e.Join("c1", "calm", 0), 0)
        stopped = router.apply(e.Leave("c1", "waited_out"), 9)
        self.assertEqual([d.why for d in stopped if isinstance(d, e.RingStopped)], ["caller_left"])


class MomentTests(unittest.TestCase):
    """Each rule turns at its moment, not a millisecond before or after."""

    def waiting(self, queue="deep", **join):
        router = configured(Router())
        with contextlib.suppress(EventRefused):
            router.apply(e.SignIn("ann"), 0)
            router.apply(e.SignIn("cai"), 0)
        router.apply(e.Join("c", queue, 1_000, **join), 1_000)
        return router, router.contacts["c"]

    def test_priority_grows_by_the_minute(self):
        router, contact = self.waiting("calm")
        grown = [effective(contact, RULES[0], 1_000 + at) for at in (0, 40_000, 60_000, 120_000)]
        self.assertEqual(grown, [3, 4, 4.5, 6])
        self.assertEqual(router.priority(contact, 61_000), 4.5)
        self.assertEqual(effective(contact, QueueRule("calm", priority=3), 500_000), 3)
        self.assertEqual((QueueRule("q").priority, QueueRule("q").priority_growth), (5, 0.0))

    def test_skills_are_lowered_and_others_let_in_when_their_time_has_come(self):
        router, contact = self.waiting()
        rule = RULES[2]
        self.assertEqual([lowered(contact, rule, at) for at in (10_999, 11_000)], [0, 2])
        out = {
            agent: [
                ruled_out(router.agents[agent], contact, rule, at)
                for at in (1_000, 10_999, 11_000, 20_999, 21_000)
            ]
            for agent in ("ann", "dov")
        }
        self.assertEqual(out["ann"], ["skill:x", "skill:x", "", "", ""])
        self.assertEqual(out["dov"], ["not_yet", "not_yet", "not_yet", "not_yet", ""])
        never = QueueRule("deep", required_skills=(("x", 5),), widening=(e.Widen(0, lower=10),))
        self.assertEqual(
            ruled_out(router.agents["bea"], contact, never._replace(widening=()), 1_000), "skill:x"
        )
        router.agents["ann"].skills = {"x": 0}
        self.assertEqual(ruled_out(router.agents["ann"], contact, never, 1_000), "skill:x")

    def test_the_next_change_is_the_first_that_is_still_to_come(self):
        router, contact = self.waiting(preferred=("cai",))
        rule = RULES[2]
        changes = [next_change_ms(contact, rule, at) for at in (1_000, 11_000, 16_000, 21_000)]
        self.assertEqual(changes, [11_000, 16_000, 21_000, None])
        preferred = [ruled_out(router.agents["ann"], contact, rule, at) for at in (15_999, 16_000)]
        self.assertEqual(preferred, ["others_preferred", ""])

    def test_a_wait_of_its_own_ends_before_that_of_the_queue(self):
        router, contact = self.waiting("calm", longest_ms=20_000)
        self.assertEqual(router.due_ms(contact, 1_000), 21_000)
        router, contact = self.waiting("calm")
        self.assertEqual(router.due_ms(contact, 1_000), 51_000)
        router, contact = self.waiting("calm", callback=True)
        self.assertIsNone(router.due_ms(contact, 1_000))

    def test_ranking_anew_moves_one_to_the_front(self):
        router, _ = self.waiting("calm")
        router.apply(e.Join("d", "calm", 2_000), 2_000)
        self.assertEqual([c.id for c in router.waiting("calm")], ["c", "d"])
        router.apply(e.Rank("d", 12), 3_000)
        self.assertEqual([c.id for c in router.waiting("calm")], ["d", "c"])
        ring = router.apply(e.GoAvailable("ann"), 4_000)
        self.assertEqual([d.contact for d in ring if isinstance(d, e.Ring)], ["d"])
        self.assertIs(router.agents["ann"].status, Status.RINGING)


if __name__ == "__main__":
    unittest.main()
