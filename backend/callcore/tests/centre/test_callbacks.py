"""Waiting plans and callbacks on the exchange."""

import unittest
from unittest import mock

from callcore.centre.handlers.telephone import place_call
from callcore.centre.setup import RunnableFlow
from callcore.errors import EventRefused
from callcore.events import Kind, facts
from callcore.flow.catalogue import Catalogue, SoundFacts, Spoken
from callcore.flow.definition import load
from callcore.flow.runner import Machine
from callcore.people.crowd import OWN, Crowd, CrowdSettings
from callcore.tests.centre.hand import SECOND, Hand, configuration, restarted
from callcore.waiting.estimate import Expected

PLAN = load(
    {
        "purpose": "plan",
        "start": "music",
        "steps": [
            {"kind": "music", "id": "music", "seconds": 10, "next": "tell"},
            {"kind": "tell", "id": "tell", "next": "offer"},
            {
                "kind": "callback",
                "id": "offer",
                "prompt": {"kind": "text", "text": "Press 1."},
                "other_number": False,
                "attempts": 2,
                "retry_s": 60,
                "declined": "music",
            },
        ],
    }
)
#: By their last figure: answers, and never answers.
REACHED, AWAY = "+447700900123", "+447700900128"


def config():
    """The test configuration whose queue has a waiting plan."""
    base = configuration()
    machine = Machine(PLAN, lambda _: 2 * SECOND)
    plan = RunnableFlow("plan-1", "Waiting", 1, 21, machine, base.flows["flow-1"].catalogue, {})
    queue = base.queues["bookings"]._replace(plan="plan-1")
    return configuration(flows={**base.flows, "plan-1": plan}, queues={"bookings": queue})


def booked(hand, name="c1", caller=REACHED):
    """A caller who waits and takes the offer; gives the callback's id."""
    place_call(hand.centre, name, "+442079460210", caller, None, hand.now)
    hand.after(2.5)
    hand.do("call.key", contact=name, key="1")
    hand.after(15)
    hand.do("call.key", contact=name, key="1")
    return next(h.contact for h in hand.written() if h.kind is Kind.BOOKED and h.fact.origin == name)


class CallbackTests(unittest.TestCase):
    def setUp(self):
        self.hand = Hand(config())

    def endings(self):
        return {h.contact: h.fact.ending for h in self.hand.written() if h.kind is Kind.ENDED}

    def test_what_is_told_of_a_wait_is_written_down_with_it(self):
        told = Expected(260.0, "staff", True)
        with mock.patch.object(self.hand.centre.waits, "expected", return_value=told):
            booked(self.hand)
        waits = [h.fact for h in self.hand.written() if h.kind is Kind.WAIT_TOLD]
        self.assertEqual(waits, [facts.WaitTold("bookings", 260)])
        self.setUp()
        booked(self.hand)  # nothing is known of waits yet: only the place is told
        self.assertNotIn(Kind.WAIT_TOLD, {h.kind for h in self.hand.written()})

    def test_a_stand_in_that_goes_home_wants_no_call_back(self):
        theirs, own = booked(self.hand, f"{OWN}1"), booked(self.hand, "c1")
        crowd = Crowd(self.hand.centre, CrowdSettings(True, 1, 0, 1), self.hand.now)
        crowd.go_home(self.hand.now)
        self.assertEqual(self.endings()[theirs], "cancelled")
        self.assertIn(own, self.hand.centre.contacts)

    def test_it_keeps_the_callers_place_and_rings_them_when_its_turn_comes(self):
        back = booked(self.hand)
        self.hand.queued("c2")
        self.hand.after(12)
        self.assertEqual([w.id for w in self.hand.centre.router.waiting("bookings")], [back, "c2"])
        figures = self.hand.shown("strip")["figures"]
        self.assertEqual((figures["waiting"], figures["callbacks"]), (1, 1))
        self.hand.ready("ann")
        self.hand.do("agent.answer", agent="ann")
        desk = self.hand.desk("ann")
        self.assertEqual((desk["callback"]["attempt"], desk["callback"]["talking"]), (1, False))
        self.hand.after(5)
        desk = self.hand.desk("ann")
        self.assertTrue(desk["callback"]["talking"])
        self.hand.after(40)
        self.assertEqual(self.endings(), {"c1": "callback", back: "person"})
        row = self.hand.centre.figures.queue_total("bookings")
        self.assertEqual((row.offered, row.left_otherwise, row.answered), (2, 1, 0))
        self.assertEqual(row.talk_ms, 30 * SECOND)

    def test_who_does_not_answer_is_rung_again_later_and_at_last_given_up(self):
        back = booked(self.hand, caller=AWAY)
        self.hand.ready("ann")
        self.hand.after(11)
        self.hand.do("agent.answer", agent="ann")
        self.hand.after(26)
        self.assertEqual(self.hand.centre.router.agents["ann"].status, "available")
        self.assertEqual(self.endings(), {"c1": "callback"})
        self.hand.after(60)
        self.hand.do("agent.answer", agent="ann")
        self.hand.after(26)
        self.assertEqual(self.endings()[back], "not_reached")
        self.assertEqual(self.hand.centre.router.contacts, {})

    def test_the_agent_reads_its_queue_and_that_nobody_was_reached(self):
        hand = self.hand
        queue = hand.centre.setup.queues["bookings"]
        hand.centre.setup.queues["bookings"] = queue._replace(note="Ask for the reference")
        booked(hand, caller=AWAY)
        hand.ready("ann")
        hand.after(12)
        hand.do("agent.answer", agent="ann")
        shown = hand.desk("ann")
        self.assertEqual((shown["queue"], shown["note"]), ("Bookings", "Ask for the reference"))
        hand.after(26)
        unreached = hand.shown("desk.ann")["agent"]["unreached"]
        self.assertEqual((unreached["result"], unreached["attempt"]), ("no_answer", 1))
        self.assertEqual(unreached["next_ms"], unreached["at_ms"] + 60_000)

    def test_an_agent_who_stops_ringing_leaves_it_to_a_later_attempt(self):
        back = booked(self.hand)
        self.hand.ready("ann")
        self.hand.after(11)
        self.hand.do("agent.answer", agent="ann")
        self.hand.do("agent.end", agent="ann")
        self.assertEqual(self.hand.centre.router.agents["ann"].status, "available")
        self.hand.after(59)
        self.assertEqual(self.hand.centre.router.agents["ann"].status, "available")
        self.hand.after(2)
        self.hand.do("agent.answer", agent="ann")
        self.hand.after(5)
        self.hand.do("agent.end", agent="ann")
        self.assertEqual(self.endings()[back], "person")

    def test_nobody_holds_a_telephone_at_the_other_end_of_one(self):
        back = booked(self.hand)
        for kind, body in (("call.key", {"key": "1"}), ("call.hang_up", {})):
            with self.subTest(kind), self.assertRaises(EventRefused):
                self.hand.do(kind, contact=back, **body)
        self.assertIn(back, self.hand.centre.contacts)

    def test_one_that_waits_can_be_cancelled_and_one_that_is_over_cannot(self):
        back = booked(self.hand)
        self.hand.after(12)
        self.hand.do("callback.cancel", contact=back)
        self.assertEqual(self.endings()[back], "cancelled")
        with self.assertRaises(EventRefused):
            self.hand.do("callback.cancel", contact=back)

    def test_a_crash_loses_neither_the_place_nor_the_waiting_plan(self):
        back = booked(self.hand)
        self.hand.queued("c2")
        self.hand.after(12)
        again = restarted(self.hand, 0)
        self.assertEqual([w.id for w in again.centre.router.waiting("bookings")], [back, "c2"])
        self.assertEqual(again.centre.contacts["c2"].state.inner.step, "offer")
        again.do("call.key", contact="c2", key="1")
        self.assertEqual(again.written()[-1].fact.ending, "callback")

    def test_hold_music_is_what_the_closest_place_says(self):
        def sound(take):
            return SoundFacts(f"Sound {take}", {"en": Spoken("", 9_000, take)})

        sounds = {f"sound:{n}": sound(n) for n in (1, 2, 3, 4)}
        levels = [("queue", 2), ("plan", 3), ("stop", 4)]
        for told in range(len(levels) + 1):
            has = dict(levels[:told])
            base = config()
            queue = base.queues["bookings"]._replace(music="sound:2" if "queue" in has else "")
            data = {**PLAN.model_dump(), "music": "sound:3" if "plan" in has else None}
            data["steps"] = [dict(s) for s in data["steps"]]
            data["steps"][0]["sound"] = "sound:4" if "stop" in has else None
            machine = Machine(load(data), lambda _: 2 * SECOND)
            plan = RunnableFlow("plan-1", "Waiting", 1, 21, machine, base.flows["flow-1"].catalogue, {})
            hand = Hand(
                configuration(
                    flows={**base.flows, "plan-1": plan},
                    queues={"bookings": queue},
                    music="sound:1",
                    catalogue=Catalogue(sounds=sounds),
                )
            )
            hand.queued("c1")
            shown = hand.shown("call.c1")["call"]
            self.assertEqual((shown["music"], shown["music_take"]), (True, told + 1))
        self.assertEqual(hand.told("c1", Kind.MUSIC)[0]["words"], "Sound 4")
        hand.ready("ann")
        hand.do("agent.answer", agent="ann")
        hand.do("agent.hold", agent="ann")
        self.assertEqual(hand.shown("call.c1")["call"]["music_take"], 2)

    def test_the_telephone_hears_the_plan_and_the_plans_own_map_shows_who_is_in_it(self):
        self.hand.queued("c1")
        self.assertTrue(self.hand.shown("call.c1")["call"]["music"])
        self.hand.after(11)
        call = self.hand.shown("call.c1")["call"]
        self.assertEqual((call["music"], call["phase"], call["position"]), (False, "queued", 1))
        self.assertEqual(self.hand.shown("flow.plan-1")["here"], {"tell": 1})
        self.hand.after(3)
        arms = self.hand.shown("flow.plan-1")["arms"]
        self.assertEqual(arms["music next"], 1)
