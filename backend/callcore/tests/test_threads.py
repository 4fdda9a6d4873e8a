"""Several texts at once, colleagues who ask each other, and contacts that change hands."""

import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import ruled_out
from callcore.routing.events import HandlingRule, QueueRule, Status
from callcore.routing.router import Router

AGENTS = ("ann", "bea", "cai")


def make(**handling):
    router = Router(explain=True)
    router.configure([QueueRule("q")], {"q": AGENTS}, HandlingRule(**handling), 0)
    return router


def ready(router, *agents):
    for agent in agents:
        router.apply(e.SignIn(agent), 0)
        router.apply(e.GoAvailable(agent), 0)


def kinds(decisions):
    return [type(d).__name__ for d in decisions]


class ThreadTests(unittest.TestCase):
    def writing(self, **handling):
        """Ann with the text t1 in hand."""
        router = make(texts=3, **handling)
        ready(router, "ann")
        router.apply(e.Join("t1", "q", 0, text=True), 0)
        router.apply(e.Answer("ann"), 1)
        return router

    def test_further_texts_come_without_ringing_up_to_the_limit_and_calls_do_not(self):
        router = self.writing()
        router.apply(e.Join("call", "q", 2), 2)
        given = router.apply(e.Join("t2", "q", 3, text=True), 3)
        self.assertEqual(kinds(given), ["Ring", "Connected", "AgentChanged"])
        self.assertEqual(given[0].rule, "room")
        router.apply(e.Join("t3", "q", 4, text=True), 4)
        self.assertEqual(router.apply(e.Join("t4", "q", 5, text=True), 5), [])
        self.assertEqual(router.agents["ann"].others, (("t2", "q"), ("t3", "q")))
        self.assertEqual([w.id for w in router.waiting("q")], ["call", "t4"])

    def test_an_ended_text_is_wrapped_up_and_the_next_comes_into_the_hand(self):
        router = self.writing()
        router.apply(e.Join("call", "q", 1), 1)
        for name in ("t2", "t3", "t4"):
            router.apply(e.Join(name, "q", 2, text=True), 2)
        router.apply(e.EndContact("ann", "t3"), 9)
        ann = router.agents["ann"]
        self.assertEqual((ann.status, ann.contact), (Status.WRAPPING, "t3"))
        with self.assertRaises(EventRefused):
            router.apply(e.EndContact("ann", "t1"), 10)
        decisions = router.apply(e.FinishWrapUp("ann", ""), 11)
        self.assertEqual((ann.status, ann.contact), (Status.ON_CONTACT, "t1"))
        self.assertIn("t4", [d.contact for d in decisions if isinstance(d, e.Connected)])
        self.assertEqual(ann.others, (("t2", "q"), ("t4", "q")))
        self.assertEqual([w.id for w in router.waiting("q")], ["call"], "who writes takes no call")

    def test_threads_that_go_during_another_wrap_up_get_their_own_one_after_another(self):
        router = self.writing()
        for name in ("t2", "t3"):
            router.apply(e.Join(name, "q", 2, text=True), 2)
        router.apply(e.EndContact("ann"), 5)
        decisions = router.apply(e.Leave("t2", "hung_up"), 6)
        self.assertEqual(kinds(decisions), ["LegEnded", "AgentChanged"])
        router.apply(e.EndContact("ann", "t3", "no_reply"), 7)
        coded = []
        for code in ("a", "b", "c"):
            decisions = router.apply(e.FinishWrapUp("ann", code), 8)
            coded += [(d.contact, d.code) for d in decisions if isinstance(d, e.Coded)]
        self.assertEqual(coded, [("t1", "a"), ("t2", "b"), ("t3", "c")])
        self.assertEqual(router.agents["ann"].status, Status.AVAILABLE)

    def test_who_ends_work_while_wrapping_up_leaves_no_leg_without_its_mark(self):
        router = self.writing()
        router.apply(e.Join("t2", "q", 2, text=True), 2)
        router.apply(e.EndContact("ann"), 5)
        router.apply(e.Leave("t2", "hung_up"), 6)
        decisions = router.apply(e.SignOut("ann"), 7)
        self.assertEqual([d.contact for d in decisions if isinstance(d, e.Coded)], ["t1", "t2"])
        self.assertEqual(router.agents["ann"].to_wrap, ())

    def test_no_more_texts_and_no_end_of_work_before_the_last_one(self):
        router = self.writing()
        router.apply(e.GoAway("ann", "Lunch"), 2)
        self.assertEqual(router.apply(e.Join("t2", "q", 3, text=True), 3), [])
        given = router.apply(e.GoAvailable("ann"), 4)
        self.assertEqual(given[1].contact, "t2")
        with self.assertRaises(EventRefused):
            router.apply(e.SignOut("ann"), 5)

    def test_a_state_from_the_journal_has_all_its_texts(self):
        router = self.writing()
        router.apply(e.Join("t2", "q", 2, text=True), 2)
        ann = router.agents["ann"]
        later = make(texts=3)
        later.restore_agent(e.AgentChanged("ann", ann.status, "", ann.contact, "q", 1, None, ann.others))
        for name in ("t1", "t2"):
            later.restore_connected(name, "q", "ann", 0, text=True, inner=False)
        self.assertEqual([later.contacts[name].connected for name in ("t1", "t2")], [True, True])
        given = later.apply(e.Join("t3", "q", 9, text=True), 9)
        self.assertEqual(kinds(given), ["Ring", "Connected", "AgentChanged"])

    def test_who_was_free_in_the_journal_is_rung_at_once(self):
        router = make()
        router.restore_agent(e.AgentChanged("ann", Status.AVAILABLE, "", "", "", 1, None))
        self.assertEqual(kinds(router.apply(e.Join("c1", "q", 9), 9)), ["Ring", "AgentChanged"])

    def test_a_text_that_comes_beside_others_says_who_was_considered_where_that_is_kept(self):
        for explained in (True, False):
            router = Router(explain=explained)
            router.configure([QueueRule("q")], {"q": AGENTS}, HandlingRule(texts=3), 0)
            ready(router, "ann")
            router.apply(e.Join("t1", "q", 0, text=True), 0)
            router.apply(e.Answer("ann"), 1)
            ring = router.apply(e.Join("t2", "q", 3, text=True), 3)[0]
            self.assertEqual([name for name, _ in ring.why.considered], list(AGENTS) if explained else [])

    def test_an_agent_whose_callback_reaches_nobody_is_free_again(self):
        router = make()
        ready(router, "ann")
        router.apply(e.Join("c1", "q", 0, callback=True), 0)
        with self.assertRaises(EventRefused):
            router.apply(e.NotReached("c1"), 1)
        router.apply(e.Answer("ann"), 2)
        decided = router.apply(e.NotReached("c1"), 3)
        self.assertEqual((router.agents["ann"].status, router.contacts), (Status.AVAILABLE, {}))
        self.assertEqual(kinds(decided), ["AgentChanged"])

    def test_a_thread_that_an_agent_began_themself_is_theirs_to_end(self):
        router = self.writing()
        with self.assertRaises(EventRefused):
            router.apply(e.Begin("bea", "t8", "q"), 2)
        router.apply(e.Begin("ann", "t9", "q"), 2)
        self.assertTrue(router.contacts["t9"].connected)
        ended = router.apply(e.EndContact("ann", "t9"), 3)
        self.assertEqual([d.contact for d in ended if isinstance(d, e.LegEnded)], ["t9"])

    def test_the_last_who_goes_home_after_a_contact_leaves_nobody_waiting_in_vain(self):
        router = make()
        router.configure([QueueRule("q", keeps=False)], {"q": AGENTS}, HandlingRule(), 0)
        ready(router, "ann")
        router.apply(e.Join("c1", "q", 0), 0)
        router.apply(e.Answer("ann"), 1)
        router.apply(e.Join("c2", "q", 2), 2)
        router.apply(e.SignOut("ann", after=True), 3)
        router.apply(e.EndContact("ann"), 4)
        decisions = router.apply(e.FinishWrapUp("ann", ""), 5)
        self.assertIn(e.LeftQueue("c2", "q", 2, "nobody_there"), decisions)

    @settings(deadline=None)
    @given(st.integers(0, 10**6))
    def test_no_text_waits_beside_room_for_it_and_nobody_has_more_than_the_limit(self, seed):
        rng = random.Random(seed)
        router = make(texts=2, wrap_up=rng.choice(["none", "optional"]))
        joined, gone, now = 0, set(), 0
        for _ in range(120):
            now += rng.randint(0, 5_000)
            agent = rng.choice(AGENTS)
            held = [router.agents[agent].contact, *(c for c, _ in router.agents[agent].others)]
            events = [
                e.SignIn(agent),
                e.GoAvailable(agent),
                e.GoAway(agent, "x"),
                e.Answer(agent),
                e.EndContact(agent, rng.choice(held)),
                e.FinishWrapUp(agent, ""),
                e.SignOut(agent),
                e.Join(f"c{joined}", "q", now, text=rng.random() < 0.7),
                *(e.Leave(c, "hung_up") for c in list(router.contacts)[:1]),
            ]
            event = rng.choice(events)
            try:
                decisions = router.apply(event, now)
            except EventRefused:
                continue
            joined += isinstance(event, e.Join)
            gone |= {d.contact for d in decisions if isinstance(d, e.LeftQueue | e.LegEnded)}
            self.check(router, now)
        self.assertEqual({f"c{i}" for i in range(joined)}, gone | set(router.contacts))

    def check(self, router, now):
        rule = QueueRule("q")
        held = [c for a in router.agents.values() for c, _ in a.others]
        for a in router.agents.values():
            busy = a.status in (Status.ON_CONTACT, Status.RINGING)
            held += [a.contact] if busy else []
            self.assertLessEqual(len(a.others) + (a.status is Status.ON_CONTACT), 2)
        self.assertEqual(len(held), len(set(held)), "one contact with two agents")
        self.assertEqual(
            set(held), {c.id for c in router.contacts.values() if c.agent}, "a contact in no hands"
        )
        for contact in router.contacts.values():
            if contact.agent:
                continue
            for a in router.agents.values():
                texts = [a.contact, *(c for c, _ in a.others)]
                room = (
                    contact.text
                    and a.status is Status.ON_CONTACT
                    and len(texts) < 2
                    and a.next_status is None
                    and all(router.contacts[c].text for c in texts)
                )
                free = a.status is Status.AVAILABLE or room
                self.assertFalse(free and not ruled_out(a, contact, rule, now))


class ColleagueTests(unittest.TestCase):
    def consulting(self, **handling):
        """Ann has the call c1, and bea answers ann's question."""
        router = make(**handling)
        ready(router, "ann")
        router.apply(e.Join("c1", "q", 0), 0)
        router.apply(e.Answer("ann"), 1)
        ready(router, "bea")
        router.ring_directly("side", ("bea",), 20_000, 5, inner=True)
        router.apply(e.Answer("bea"), 6)
        return router

    def test_a_contact_is_put_through_and_each_wraps_up_their_own_part(self):
        router = self.consulting()
        self.assertEqual(router.handled, {"ann": 1})
        decisions = router.apply(e.TakeOver("c1", "side"), 9)
        told = ["LegEnded", "LegEnded", "AgentChanged", "TookOver", "AgentChanged"]
        self.assertEqual(kinds(decisions), told)
        ann, bea = router.agents["ann"], router.agents["bea"]
        self.assertEqual((ann.status, bea.status), (Status.WRAPPING, Status.ON_CONTACT))
        self.assertEqual((bea.contact, bea.queue, router.handled["bea"]), ("c1", "q", 1))
        router.apply(e.Leave("c1", "hung_up"), 12)
        self.assertIs(bea.status, Status.WRAPPING)

    def test_a_question_leaves_nothing_to_wrap_up(self):
        router = self.consulting()
        router.apply(e.Leave("side", "hung_up"), 9)
        self.assertIs(router.agents["bea"].status, Status.AVAILABLE)
        self.assertIs(router.agents["ann"].status, Status.ON_CONTACT)

    def test_nothing_is_put_through_before_somebody_answers(self):
        router = make()
        ready(router, "ann", "bea")
        router.apply(e.Join("c1", "q", 0), 0)
        router.apply(e.Answer("ann"), 1)
        router.ring_directly("side", ("bea",), 20_000, 5, inner=True)
        with self.assertRaises(EventRefused):
            router.apply(e.TakeOver("c1", "side"), 6)
