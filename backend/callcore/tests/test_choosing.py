"""Whom a queue takes: ways of choosing, skills, widening, priorities that grow."""

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
from callcore.tests.test_router import available, make, rung


class ChoosingTests(unittest.TestCase):
    """How queues choose, ask for skills, widen, and let priorities grow."""

    def router(self, skills=None, members=("ann", "bea", "cai"), agents=("ann", "bea", "cai"), **q):
        router = Router(explain=True)
        rules = [QueueRule("q", **q)]
        router.configure(rules, {"q": members}, HandlingRule(wrap_up="none"), 0, skills or {})
        available(router, *agents)
        return router

    def serve(self, router, contact, now, **join):
        """Who is rung for a contact; they answer and end it at once."""
        decisions = router.apply(e.Join(contact, "q", now, **join), now)
        agent = rung(decisions)[0][1]
        router.apply(e.Answer(agent), now + 1)
        router.apply(e.EndContact(agent), now + 2)
        return agent

    def test_each_way_of_choosing_takes_whom_it_says(self):
        def order(**rule):
            router = self.router(**rule)
            return [self.serve(router, f"c{i}", 100 + 10 * i) for i in range(4)]

        self.assertEqual(order(), ["ann", "bea", "cai", "ann"])
        self.assertEqual(order(distribution="listed", members=("cai", "ann", "bea"))[::3], ["cai", "cai"])
        self.assertEqual(
            order(distribution="turn", agents=("cai", "bea", "ann")), ["ann", "bea", "cai", "ann"]
        )
        levels = {"ann": {"freight": 3}, "bea": {"freight": 9}}
        best = order(distribution="best_skill", required_skills=(("freight", 2),), skills=levels)
        self.assertEqual(best, ["bea"] * 4)

    def test_in_turn_whoever_helps_out_comes_after_the_last_member(self):
        router = self.router(members=("ann", "bea"), agents=("cai", "bea", "ann"), distribution="turn")
        router.apply(e.Serve("cai", ("q",)), 50)
        self.assertEqual(
            [self.serve(router, f"c{i}", 100 + 10 * i) for i in range(4)], ["ann", "bea", "cai", "ann"]
        )

    def test_however_far_a_queue_lowers_what_it_asks_nobody_without_the_skill_is_rung(self):
        asks = {"required_skills": (("cy", 3),), "widening": (e.Widen(0, lower=9),)}
        router = self.router({"bea": {"cy": 1}}, agents=("ann", "bea"), distribution="best_skill", **asks)
        self.assertEqual(self.serve(router, "c1", 90), "bea")

    def test_nobody_is_rung_twice_in_a_row_while_another_is_free(self):
        for agents, order in ((("ann", "bea"), ["ann", "bea", "ann", "bea"]), (("ann",), ["ann"] * 4)):
            router = self.router(distribution="listed", agents=agents)
            decided, rings = router.apply(e.Join("c1", "q", 100), 100), []
            for again in range(4):
                (ring,) = rung(decided)
                rings.append(ring[1])
                decided = router.apply(e.AgentDue(ring[1]), 100 + 20_000 * (again + 1))
            self.assertEqual(rings, order)

    def test_fewest_contacts_of_today(self):
        router = self.router(distribution="fewest")
        router.handled.update(ann=3, bea=1, cai=2)
        self.assertEqual(
            [self.serve(router, f"c{i}", 100 + 10 * i) for i in range(4)], ["bea", "cai", "bea", "ann"]
        )

    def test_all_ring_at_once_and_the_first_to_answer_has_it(self):
        router = self.router(distribution="all")
        decisions = router.apply(e.Join("c1", "q", 9), 9)
        self.assertEqual([agent for _, agent in rung(decisions)], ["ann", "bea", "cai"])
        decisions = router.apply(e.Answer("bea"), 12)
        self.assertEqual(
            [(d.agent, d.why) for d in decisions if isinstance(d, e.RingStopped)],
            [("ann", "other"), ("cai", "other")],
        )
        statuses = {a.id: a.status for a in router.agents.values()}
        self.assertEqual(
            statuses, {"ann": Status.AVAILABLE, "bea": Status.ON_CONTACT, "cai": Status.AVAILABLE}
        )
        self.assertEqual(router.apply(e.Leave("c1", "hung_up"), 20)[0].by, "caller")

    def test_one_who_declines_leaves_the_others_ringing(self):
        router = self.router(distribution="all", agents=("ann", "bea"))
        router.apply(e.Join("c1", "q", 9), 9)
        self.assertEqual(rung(router.apply(e.Decline("ann"), 10)), [])
        self.assertEqual(rung(router.apply(e.Decline("bea"), 11)), [("c1", "ann"), ("c1", "bea")])
        router.apply(e.Leave("c1", "hung_up"), 12)
        self.assertIs(router.agents["bea"].status, Status.AVAILABLE)

    def test_skills_rule_out_and_widening_lets_in_and_says_so(self):
        router = self.router(
            skills={"ann": {"cy": 4}, "cai": {"cy": 9}},
            members=("ann", "bea"),
            required_skills=(("cy", 6),),
            longest_wait_ms=90_000,
            widening=(e.Widen(10_000, lower=2), e.Widen(30_000, agents=("cai",))),
        )
        self.assertEqual(router.apply(e.Join("c1", "q", 0), 0), [])
        contact = router.contacts["c1"]
        self.assertEqual(router.due_ms(contact, 0), 10_000)
        ring = router.apply(e.ContactDue("c1"), 10_000)[0]
        self.assertEqual(dict(ring.why.considered), {"ann": "chosen", "bea": "skill:cy", "cai": "not_yet"})
        router.apply(e.GoAway("ann", "Lunch"), 11_000)
        self.assertEqual(router.due_ms(contact, 11_000), 30_000)
        self.assertEqual(rung(router.apply(e.ContactDue("c1"), 30_000)), [("c1", "cai")])
        self.assertEqual(router.due_ms(contact, 31_000), 90_000)
        self.assertEqual(router.agents["cai"].queues, ())

    def test_preferred_agents_come_first_for_a_time(self):
        router = self.router(prefer_ms=20_000, agents=("ann", "bea"))
        router.apply(e.Join("c1", "q", 0, preferred=("cai",)), 0)
        self.assertEqual(router.contacts["c1"].agent, "")
        self.assertEqual(rung(router.apply(e.ContactDue("c1"), 20_000)), [("c1", "ann")])

    def test_a_priority_that_grows_overtakes_one_that_does_not(self):
        router = Router()
        rules = [QueueRule("slow", 5, priority_growth=2.0), QueueRule("fast", 9)]
        router.configure(rules, {"slow": ["ann"], "fast": ["ann"]}, HandlingRule(), 0)
        router.apply(e.Join("old", "slow", 0), 0)
        router.apply(e.Join("new", "fast", 90_000), 90_000)
        available(router, "ann")
        router.apply(e.Decline("ann"), 100_000)
        self.assertEqual(router.agents["ann"].contact, "new")
        router.apply(e.Leave("new", "hung_up"), 121_000)
        self.assertEqual(router.agents["ann"].contact, "old")

    def test_a_missed_ring_sets_away_where_the_agents_own_rules_say_so(self):
        router = Router()
        own = {"ann": HandlingRule(ring_ms=5_000, missed_away="Missed a call")}
        router.configure([QueueRule("q")], {"q": ["ann"]}, HandlingRule(), 0, handling_of=own)
        available(router, "ann")
        ring = router.apply(e.Join("c1", "q", 0), 0)[0]
        self.assertEqual(ring.until_ms, 5_000)
        router.apply(e.AgentDue("ann"), 5_000)
        self.assertEqual(
            (router.agents["ann"].status, router.agents["ann"].reason), (Status.AWAY, "Missed a call")
        )

    def test_a_queue_that_keeps_nobody_in_vain_lets_go_when_the_last_agent_signs_out(self):
        router = make(keeps=False)
        self.assertEqual(
            router.apply(e.Join("early", "q1", 0), 0), [e.LeftQueue("early", "q1", 0, "nobody_there")]
        )
        available(router, "ann", "bea")
        for agent in ("ann", "bea"):
            router.apply(e.GoAway(agent, "Lunch"), 5)
        router.apply(e.Join("c1", "q1", 10), 10)
        router.apply(e.Join("other", "q2", 10), 10)
        router.apply(e.Join("back", "q1", 11, callback=True), 11)
        router.apply(e.SignOut("ann"), 20)
        self.assertEqual([c.id for c in router.waiting("q1")], ["c1", "back"])
        decisions = router.apply(e.SignOut("bea"), 30)
        self.assertIn(e.LeftQueue("c1", "q1", 10, "nobody_there"), decisions)
        self.assertEqual([c.id for c in router.waiting("q1")], ["back"])
        self.assertEqual([c.id for c in router.waiting("q2")], ["other"])

    def test_whoever_lacks_the_skill_at_any_level_does_not_count_as_there(self):
        router = Router()
        rule = QueueRule(
            "q", required_skills=(("ferry", 5),), widening=(e.Widen(60_000, lower=3),), keeps=False
        )
        skills = {"ann": {"ferry": 2}, "bea": {"ferry": 1}}
        router.configure([rule], {"q": ["ann", "bea"]}, HandlingRule(), 0, skills=skills)
        available(router, "ann", "bea")
        router.apply(e.Join("c1", "q", 0), 0)
        self.assertEqual([a.id for a in router.signed_in_for("q")], ["ann"])
        spoken = router.apply(e.Join("c2", "q", 0, asks=(("lang:cy", 1),)), 0)
        self.assertEqual(spoken, [e.LeftQueue("c2", "q", 0, "nobody_there")])
        left = router.apply(e.SignOut("ann"), 10)
        self.assertIn(e.LeftQueue("c1", "q", 0, "nobody_there"), left)

    def test_a_longest_wait_of_its_own_counts_instead_of_the_queues(self):
        router = make(longest_wait_ms=60_000)
        router.apply(e.Join("short", "q1", 0, longest_ms=10_000), 0)
        router.apply(e.Join("long", "q1", 0, longest_ms=90_000), 0)
        router.apply(e.Join("plain", "q1", 0), 0)
        for now_ms, left in ((10_000, ["long", "plain"]), (60_000, ["long"]), (90_000, [])):
            for contact in ("short", "long", "plain"):
                router.apply(e.ContactDue(contact), now_ms)
            self.assertEqual([c.id for c in router.waiting("q1")], left)

    def test_whoever_may_come_by_widening_counts_as_there(self):
        later = (e.Widen(10_000, agents=("cai",)),)
        router = make(keeps=False, widening=later)
        available(router, "cai")
        router.apply(e.Join("c1", "q1", 0), 0)
        self.assertEqual([c.id for c in router.waiting("q1")], ["c1"])
        moved = router.configure([QueueRule("q1", keeps=False)], {"q1": ["ann"]}, HandlingRule(), 5)
        self.assertEqual([d.why for d in moved if isinstance(d, e.LeftQueue)], ["nobody_there"])

    @settings(deadline=None)
    @given(st.integers(0, 10**6))
    def test_widening_only_widens_and_nobody_who_may_take_a_contact_idles_beside_it(self, seed):
        rng = random.Random(seed)
        names = ["ann", "bea", "cai", "dov"]
        skills = {a: {s: rng.randint(1, 10) for s in ("x", "y") if rng.random() < 0.7} for a in names}
        rule = QueueRule(
            "q",
            priority_growth=rng.choice([0, 1.5]),
            distribution=rng.choice(sorted(WAYS)),
            required_skills=(("x", rng.randint(1, 9)),),
            widening=(e.Widen(10_000, lower=3), e.Widen(20_000, lower=9, agents=("dov",))),
        )
        router = Router()
        router.configure([rule], {"q": names[:3]}, HandlingRule(wrap_up="none"), 0, skills)
        now, before = 0, {}
        for number in range(80):
            now += rng.randint(0, 6_000)
            agent, contacts = rng.choice(names), list(router.contacts)
            events = [
                e.SignIn(agent),
                e.GoAvailable(agent),
                e.Answer(agent),
                e.EndContact(agent),
                e.Decline(agent),
                e.Join(f"c{number}", "q", now),
            ]
            with contextlib.suppress(EventRefused):
                router.apply(rng.choice(events), now)
            for contact in contacts:
                router.apply(e.ContactDue(contact), now)
            for contact in router.contacts.values():
                able = {a for a in names if not ruled_out(router.agents[a], contact, rule, now)}
                self.assertLessEqual(before.get(contact.id, set()), able)
                before[contact.id] = able
                if not contact.agent:
                    idle = {a for a in able if router.agents[a].status is Status.AVAILABLE}
                    self.assertEqual(idle, set())


if __name__ == "__main__":
    unittest.main()
