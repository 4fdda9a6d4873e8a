import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import Agent, Waiting, open_to_all, ruled_out
from callcore.routing.events import HandlingRule, QueueRule, Status
from callcore.routing.groups import rounds
from callcore.routing.router import Router

MEMBERS = {"q1": ["ann", "bea"], "q2": ["bea", "cai"]}


def make(members=None, handling=None, **queue):
    router = Router(explain=True)
    rules = [QueueRule("q1", **queue), QueueRule("q2", priority=9)]
    router.configure(rules, members or MEMBERS, handling or HandlingRule(), 0)
    return router


def available(router, *agents):
    for now, agent in enumerate(agents):
        router.apply(e.SignIn(agent), now)
        router.apply(e.GoAvailable(agent), now)


def rung(decisions):
    return [(d.contact, d.agent) for d in decisions if isinstance(d, e.Ring)]


_levels = st.lists(st.tuples(st.sampled_from(["welsh", "french"]), st.integers(1, 9)), max_size=1).map(tuple)


class OpenToAllTests(unittest.TestCase):
    @given(_levels, _levels, st.booleans(), st.booleans(), st.booleans(), st.integers(0, 90_000))
    def test_it_is_what_ruling_out_says_of_somebody_without_anything(
        self, required, asks, widens, preferred, passed, now
    ):
        rule = QueueRule("q", required_skills=required, prefer_ms=9_000 if preferred else 0)
        rule = rule._replace(widening=(e.Widen(60_000, agents=("dov",)),) if widens else ())
        contact = Waiting("c", "q", 0, 1, asks=asks, preferred=("cai",) if preferred else ())
        contact.passed = frozenset({"ann"}) if passed else frozenset()
        stranger = Agent("ann")
        free = not ruled_out(stranger, contact, rule, now)
        if open_to_all(contact, rule):
            self.assertTrue(free)
        bound = required or asks or widens or preferred or passed
        self.assertEqual(open_to_all(contact, rule), not bound)


class RouterTests(unittest.TestCase):
    def test_the_longest_idle_agent_is_rung_and_the_choice_explained(self):
        router = make()
        available(router, "bea", "ann")
        decisions = router.apply(e.Join("c1", "q1", 10), 10)
        ring = decisions[0]
        self.assertEqual((ring.agent, ring.rule, ring.until_ms), ("bea", "longest_idle", 20_010))
        self.assertEqual(set(ring.why.considered), {("bea", "chosen"), ("ann", "eligible")})

    def test_who_helps_out_in_another_queue_is_rung_at_once_if_they_are_there(self):
        for there in (True, False):
            with self.subTest(there):
                router = make()
                available(router, "ann")
                router.apply(e.Join("c2", "q2", 10), 10)
                if not there:
                    router.apply(e.GoAway("ann", "Lunch"), 11)
                decided = router.apply(e.Serve("ann", ("q2", "q2")), 12)
                self.assertEqual(rung(decided), [("c2", "ann")] if there else [])
                self.assertEqual(router.agents["ann"].extra, ("q2",))
                if not there:
                    self.assertEqual(rung(router.apply(e.GoAvailable("ann"), 13)), [("c2", "ann")])

    def test_who_helps_out_does_so_until_the_queue_is_gone_or_their_own(self):
        for members, rules, left in (
            ({"q1": ["ann"], "q2": ["bea"]}, ("q1", "q2"), ("q2",)),
            ({"q1": ["ann"], "q2": ["ann", "bea"]}, ("q1", "q2"), ()),
            ({"q1": ["ann"]}, ("q1",), ()),
        ):
            router = make()
            available(router, "ann")
            router.apply(e.Serve("ann", ("q2",)), 5)
            router.configure([QueueRule(name) for name in rules], members, HandlingRule(), 6)
            ann = router.agents["ann"]
            self.assertEqual(ann.extra, left)
            self.assertEqual("q2" in ann.lines, bool(left) or "ann" in members.get("q2", ()))

    def test_who_may_take_a_queue_at_last_counts_as_widened_as_it_ever_gets(self):
        widens = (e.Widen(30_000, lower=1), e.Widen(60_000, lower=1, agents=("cai",)))
        router = make(required_skills=(("welsh", 5),), widening=widens, prefer_ms=5_000, keeps=False)
        skills = {"ann": {"welsh": 3}, "bea": {"welsh": 2}, "cai": {"welsh": 9}}
        rules = [QueueRule("q1", required_skills=(("welsh", 5),), widening=widens, keeps=False)]
        router.configure(rules, {"q1": ["ann", "bea"]}, HandlingRule(), 0, skills)
        available(router, "ann", "bea", "cai")
        self.assertEqual([agent.id for agent in router.signed_in_for("q1")], ["ann", "cai"])
        self.assertEqual([agent.id for agent in router.signed_in_for("q1", (("french", 1),))], [])
        router.apply(e.GoAway("cai", "Lunch"), 5)
        self.assertEqual((router.at_work_for("q1"), router.at_work_for("gone")), (1, 0))
        router.apply(e.SignOut("ann"), 6)
        router.apply(e.SignOut("cai"), 7)
        left = router.apply(e.Join("c", "q1", 10), 10)
        self.assertEqual([type(decided) for decided in left], [e.LeftQueue])

    def test_whoever_is_not_known_is_not_rung_and_the_others_are(self):
        router = make()
        available(router, "ann")
        rings = router.ring_directly("c1", ("nobody", "ann"), 10_000, 1)
        self.assertEqual(rung(rings), [("c1", "ann")])
        self.assertEqual(set(rings[0].why.considered), {("nobody", "out"), ("ann", "chosen")})
        waiting = router.contacts["c1"]
        self.assertEqual((waiting.text, waiting.inner), (False, False))
        texts = router.ring_directly("c2", ("ann",), 10_000, 1, text=True)
        self.assertIsNone(texts)

    def test_a_group_in_turn_begins_after_who_was_first(self):
        people = ("ann", "bea", "cai")
        for after, order in (
            ("", "ann bea cai"),
            ("ann", "bea cai ann"),
            ("bea", "cai ann bea"),
            ("cai", "ann bea cai"),
            ("gone", "ann bea cai"),
        ):
            self.assertEqual(rounds(people, "turn", after), tuple((name,) for name in order.split()))
            self.assertEqual(rounds(people, "listed", after), (("ann",), ("bea",), ("cai",)))
        self.assertEqual((rounds(people, "all", "ann"), rounds((), "turn")), ((people,), ()))

    def test_of_equal_contacts_the_one_that_came_first_is_taken_also_over_queues(self):
        members = {"q1": ["ann"], "q2": ["ann"]}
        router = Router()
        router.configure([QueueRule("q1"), QueueRule("q2")], members, HandlingRule(), 0)
        for name, queue in (("a", "q2"), ("b", "q1"), ("c", "q2")):
            router.apply(e.Join(name, queue, 10), 10)
        available(router, "ann")
        self.assertEqual(router.agents["ann"].contact, "a")

    def test_a_missed_ring_goes_to_the_next_agent_and_the_caller_keeps_the_place(self):
        router = make()
        available(router, "ann", "bea")
        router.apply(e.Join("c1", "q1", 10), 10)
        self.assertEqual(rung(router.apply(e.AgentDue("ann"), 20_010)), [("c1", "bea")])
        router.apply(e.Join("c2", "q1", 20_020), 20_020)
        self.assertEqual([c.id for c in router.waiting("q1")], ["c1", "c2"])
        self.assertEqual(router.agents["ann"].contact, "c2")

    def test_the_only_agent_is_rung_again(self):
        router = make()
        available(router, "ann")
        router.apply(e.Join("c1", "q1", 0), 0)
        self.assertEqual(rung(router.apply(e.Decline("ann"), 5)), [("c1", "ann")])

    def test_an_agent_who_frees_up_gets_the_highest_priority_then_the_longest_wait(self):
        router = make()
        router.apply(e.Join("old", "q1", 0), 0)
        router.apply(e.Join("new", "q1", 5), 5)
        router.apply(e.Join("urgent", "q2", 9), 9)
        available(router, "bea")
        self.assertEqual(router.agents["bea"].contact, "urgent")
        self.assertEqual(rung(router.apply(e.Leave("urgent", "hung_up"), 20)), [("old", "bea")])

    def test_talk_wrap_up_and_the_next_contact(self):
        router = make(handling=HandlingRule(wrap_up="required"))
        available(router, "ann")
        router.apply(e.Join("c1", "q1", 0), 0)
        router.apply(e.Join("c2", "q1", 1), 1)
        connected = router.apply(e.Answer("ann"), 3)[0]
        self.assertEqual(connected, e.Connected("c1", "q1", "ann", 0))
        router.apply(e.EndContact("ann"), 9)
        with self.assertRaisesRegex(EventRefused, "Choose a wrap-up code"):
            router.apply(e.FinishWrapUp("ann", ""), 10)
        decisions = router.apply(e.FinishWrapUp("ann", "11"), 12)
        self.assertEqual(decisions[0], e.Coded("c1", "q1", "ann", "11"))
        self.assertEqual(rung(decisions), [("c2", "ann")])

    def test_wrap_up_ends_by_itself_without_a_code(self):
        router = make(handling=HandlingRule(wrap_up="required", longest_wrap_ms=1000))
        available(router, "ann")
        router.apply(e.Join("c1", "q1", 0), 0)
        router.apply(e.Answer("ann"), 1)
        router.apply(e.Leave("c1", "hung_up"), 2)
        self.assertEqual(router.apply(e.AgentDue("ann"), 1001), [])
        self.assertEqual(router.apply(e.AgentDue("ann"), 1002)[0].code, "")
        self.assertIs(router.agents["ann"].status, Status.AVAILABLE)

    def test_away_while_on_a_contact_counts_afterwards(self):
        router = make(handling=HandlingRule(wrap_up="none"))
        available(router, "ann")
        router.apply(e.Join("c1", "q1", 0), 0)
        router.apply(e.Answer("ann"), 1)
        told = router.apply(e.GoAway("ann", "Lunch"), 2)
        self.assertEqual([(d.status, d.next) for d in told], [(Status.ON_CONTACT, (Status.AWAY, "Lunch"))])
        router.apply(e.EndContact("ann"), 3)
        self.assertEqual((router.agents["ann"].status, router.agents["ann"].reason), (Status.AWAY, "Lunch"))

    def test_the_longest_wait_takes_a_contact_out(self):
        router = make(longest_wait_ms=60_000)
        router.apply(e.Join("c1", "q1", 0), 0)
        self.assertEqual(router.apply(e.ContactDue("c1"), 59_999), [])
        left = router.apply(e.ContactDue("c1"), 60_000)
        self.assertEqual(left, [e.LeftQueue("c1", "q1", 0, "waited_out")])

    def test_whoever_rings_to_the_very_end_of_the_wait_is_the_last(self):
        router = make(longest_wait_ms=20_000)
        available(router, "ann", "bea")
        router.apply(e.Join("c1", "q1", 0), 0)
        (agent,) = (a for a in router.agents.values() if a.contact == "c1")
        decided = router.apply(e.AgentDue(agent.id), 20_000)
        self.assertEqual(agent.due_ms, None)
        self.assertIn(e.LeftQueue("c1", "q1", 0, "waited_out"), decided)
        self.assertEqual(rung(decided), [])

    def test_who_talks_waits_for_nothing(self):
        router = make(longest_wait_ms=20_000)
        available(router, "ann")
        router.apply(e.Join("c1", "q1", 0), 0)
        contact = router.contacts["c1"]
        self.assertEqual(router.due_ms(contact, 19_999), 20_000)
        router.apply(e.Answer("ann"), 1)
        self.assertIsNone(router.due_ms(contact, 2))

    def test_nothing_is_left_of_a_priority_of_ones_own_once_its_contacts_have_gone(self):
        router = make()
        for name, priority in (("c1", None), ("c2", 2), ("c3", 9)):
            router.apply(e.Join(name, "q1", 0, priority=priority), 0)
        self.assertEqual([contact.id for contact in router.waiting("q1")], ["c3", "c1", "c2"])
        router.apply(e.Leave("c3", "hung_up"), 1)
        self.assertEqual([contact.id for contact in router.waiting("q1")], ["c1", "c2"])
        router.apply(e.Leave("c2", "hung_up"), 2)
        self.assertEqual(router._own_priority, {})

    def test_a_queue_that_is_deleted_lets_its_contacts_go_with_the_reason(self):
        router = make()
        router.apply(e.Join("c1", "q1", 0), 0)
        decisions = router.configure([QueueRule("q2")], {"q2": ["bea"]}, HandlingRule(), 5)
        self.assertEqual(decisions, [e.LeftQueue("c1", "q1", 0, "queue_gone")])
        self.assertEqual(router.apply(e.Join("c2", "q1", 6), 6)[0].why, "queue_gone")

    def test_a_new_member_is_offered_what_waits(self):
        router = make()
        available(router, "cai")
        router.apply(e.Join("c1", "q1", 5), 5)
        rules = [QueueRule("q1"), QueueRule("q2")]
        decisions = router.configure(rules, {"q1": ["cai"]}, HandlingRule(), 9)
        self.assertEqual(rung(decisions), [("c1", "cai")])

    def test_what_does_not_fit_is_refused_in_words(self):
        router = make()
        for event in (e.Answer("ann"), e.GoAvailable("ann"), e.Leave("nobody", "hung_up")):
            with self.subTest(event), self.assertRaises(EventRefused):
                router.apply(event, 0)
        available(router, "ann")
        for event in (e.Answer("ann"), e.EndContact("ann"), e.FinishWrapUp("ann", "")):
            with self.subTest(event), self.assertRaises(EventRefused):
                router.apply(event, 0)


class Day:
    """A random day at two queues; the checks after each event are plain scans."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.router = make(longest_wait_ms=50_000, handling=HandlingRule(longest_wrap_ms=9_000))
        self.now = self.number = 0
        self.log: list = []
        self.answered: list[str] = []

    def event(self):
        kind = self.rng.choice(["join", "join", "leave", "agent", "agent", "agent", "due"])
        contacts, agent = list(self.router.contacts), self.rng.choice(["ann", "bea", "cai"])
        if kind == "join":
            self.number += 1
            return e.Join(f"c{self.number}", self.rng.choice(["q1", "q2"]), self.now)
        if kind == "leave" and contacts:
            return e.Leave(self.rng.choice(contacts), "hung_up")
        if kind == "due":
            return e.ContactDue(contacts[0]) if contacts else e.AgentDue(agent)
        return self.rng.choice(
            [
                e.SignIn(agent),
                e.GoAvailable(agent),
                e.GoAway(agent, "Break"),
                e.Answer(agent),
                e.EndContact(agent),
                e.FinishWrapUp(agent, "7"),
                e.AgentDue(agent),
                e.SignOut(agent),
            ]
        )

    def run(self, steps: int, check) -> list:
        for _ in range(steps):
            self.now += self.rng.randint(0, 8_000)
            try:
                decisions = self.router.apply(self.event(), self.now)
            except EventRefused:
                continue
            self.log += decisions
            self.answered += [d.contact for d in decisions if isinstance(d, e.Connected)]
            check(self)
        return self.log


class RouterProperties(unittest.TestCase):
    @settings(deadline=None)
    @given(st.integers(0, 10**6))
    def test_the_rules_hold_after_every_event(self, seed):
        def check(day: Day) -> None:
            router = day.router
            for contact in router.contacts.values():
                if not contact.agent:
                    idle = [a for a in MEMBERS[contact.queue] if router.agents[a].status is Status.AVAILABLE]
                    self.assertEqual(idle, [], "an idle agent and a waiting contact coexist")
                else:
                    self.assertEqual(router.agents[contact.agent].contact, contact.id)
            busy = [a for a in router.agents.values() if a.status in (Status.RINGING, Status.ON_CONTACT)]
            self.assertEqual(len({a.contact for a in busy}), len(busy), "one contact, two agents")

        day = Day(seed)
        log = day.run(200, check)
        self.assertEqual(len(day.answered), len(set(day.answered)), "served twice")
        gone = {d.contact for d in log if isinstance(d, e.LeftQueue | e.LegEnded)}
        joined = {f"c{i + 1}" for i in range(day.number)}
        self.assertEqual(joined, gone | set(day.router.contacts), "a contact was lost")

    @given(st.integers(0, 10**6))
    def test_the_same_events_give_the_same_decisions(self, seed):
        self.assertEqual(Day(seed).run(60, lambda _: None), Day(seed).run(60, lambda _: None))


class DirectTests(unittest.TestCase):
    """One person's own line, and priorities of contacts."""

    def router(self):
        router = Router()
        router.configure([QueueRule("q")], {"q": ("ann", "bea")}, HandlingRule(), 0)
        for agent in ("ann", "bea"):
            router.apply(e.SignIn(agent), 0)
            router.apply(e.GoAvailable(agent), 0)
        return router

    def test_one_person_is_rung_and_nobody_else(self):
        router = self.router()
        rings = router.ring_directly("c1", ("bea",), 10_000, 1)
        self.assertEqual([r.agent for r in rings if isinstance(r, e.Ring)], ["bea"])
        self.assertIsNone(router.ring_directly("c2", ("bea",), 10_000, 2))
        connected = router.apply(e.Answer("bea"), 3)[0]
        self.assertEqual((connected.contact, connected.queue), ("c1", "agent:bea"))
        self.assertIsNone(router.ring_directly("c3", ("nobody",), 10_000, 4))

    def test_the_line_goes_away_with_a_new_configuration_but_not_under_a_call(self):
        router = self.router()
        router.ring_directly("c1", ("bea",), 10_000, 1)
        router.configure([QueueRule("q")], {"q": ("ann", "bea")}, HandlingRule(), 2)
        self.assertIn("agent:bea", router.agents["bea"].lines)
        router.apply(e.Leave("c1", "hung_up"), 3)
        self.assertEqual(router.agents["bea"].lines, ("q",))

    def test_a_contact_with_a_higher_priority_of_its_own_goes_first(self):
        router = Router()
        router.configure([QueueRule("q")], {"q": ("ann",)}, HandlingRule(wrap_up="none"), 0)
        for i, priority in enumerate([None, None, 9, 2]):
            router.apply(e.Join(f"c{i}", "q", i, priority), i)
        self.assertEqual([w.id for w in router.waiting("q")], ["c2", "c0", "c1", "c3"])
        router.apply(e.SignIn("ann"), 9)
        rung = [d.contact for d in router.apply(e.GoAvailable("ann"), 9) if isinstance(d, e.Ring)]
        for now in range(10, 13):
            router.apply(e.Answer("ann"), now)
            ended = router.apply(e.EndContact("ann"), now)
            rung += [d.contact for d in ended if isinstance(d, e.Ring)]
        self.assertEqual(rung, ["c2", "c0", "c1", "c3"])
