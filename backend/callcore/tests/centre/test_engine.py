import dataclasses
import unittest

from callcore.centre.setup import RunnableFlow
from callcore.centre.spans import Spans
from callcore.centre.timers import Timers
from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow.definition import Flow, GoOn, Say
from callcore.flow.parts import SpokenText
from callcore.routing.events import HandlingRule, Status
from callcore.tests.centre.hand import NOON, SECOND, Hand, configuration, restarted, script


class EngineTests(unittest.TestCase):
    def test_from_a_ringing_number_to_a_wrapped_up_leg(self):
        hand = Hand()
        hand.ready("ann")
        hand.queued("c1")
        self.assertEqual(hand.shown("desk.ann")["agent"]["status"], "ringing")
        hand.do("agent.answer", agent="ann")
        hand.after(30)
        hand.do("agent.end", agent="ann")
        hand.do("agent.wrap_up", agent="ann", code="code-1")
        self.assertEqual(
            hand.kinds("c1"),
            [
                Kind.ARRIVED,
                Kind.MOVED,
                Kind.HEARD,
                Kind.MOVED,
                Kind.HEARD,
                Kind.KEYED,
                Kind.MOVED,
                Kind.QUEUED,
                Kind.RANG,
                Kind.AGENT,
                Kind.ANSWERED,
                Kind.MOVED,
                Kind.AGENT,
                Kind.LEG_ENDED,
                Kind.ENDED,
                Kind.AGENT,
                Kind.CODED,
            ],
        )
        floor = hand.shown("floor")
        figures = floor["queues"]["bookings"]["figures"]
        self.assertEqual((figures["offered"], figures["answered"], figures["service_level"]), (1, 1, 1.0))
        self.assertEqual(floor["agents"]["ann"]["status"], "available")

    def test_a_caller_waits_with_music_and_can_hang_up(self):
        hand = Hand()
        hand.queued("c1")
        hand.queued("c2")
        shown = hand.shown("call.c2")["call"]
        self.assertEqual((shown["music"], shown["position"], shown["queue"]), (True, 2, "Bookings"))
        hand.after(70)
        hand.do("call.hang_up", contact="c1")
        self.assertEqual(hand.shown("call.c2")["call"]["position"], 1)
        row = hand.centre.figures.queue_total("bookings")
        self.assertEqual((row.abandoned, row.abandoned_late, row.under_way), (1, 1, 1))
        with self.assertRaisesRegex(EventRefused, "This call is over"):
            hand.do("call.key", contact="c1", key="1")

    def test_hanging_up_at_every_moment_leaves_nothing_behind(self):
        for moment in ("greeting", "menu", "ringing", "talking"):
            with self.subTest(moment):
                hand = Hand()
                hand.ready("ann")
                hand.call("c1") if moment == "greeting" else hand.queued("c1")
                if moment == "menu":
                    hand.do("call.hang_up", contact="c1")
                    hand.call("c1")
                    hand.after(3)
                if moment == "talking":
                    hand.do("agent.answer", agent="ann")
                hand.do("call.hang_up", contact="c1")
                self.assertEqual(hand.centre.contacts, {})
                self.assertEqual(hand.centre.router.contacts, {})
                self.assertEqual(hand.written()[-1].kind is Kind.ENDED or moment == "talking", True)
                status = hand.centre.router.agents["ann"].status
                self.assertEqual(status, "wrapping" if moment == "talking" else "available")

    def test_a_missed_ring_goes_on_to_the_next_agent(self):
        hand = Hand()
        hand.ready("ann")
        hand.after(1)
        hand.ready("bea")
        hand.queued("c1")
        hand.after(21)
        self.assertEqual(hand.centre.router.agents["bea"].contact, "c1")

    def test_after_the_longest_wait_the_caller_goes_on_in_the_flow(self):
        hand = Hand()
        hand.queued("c1")
        hand.after(901)
        ended = hand.written()[-1]
        self.assertEqual((ended.kind, ended.fact.ending), (Kind.ENDED, "ended"))

    def test_a_deleted_queue_lets_its_callers_go_on_in_the_flow(self):
        hand = Hand()
        hand.queued("c1")
        hand.centre.configure(configuration(queues={}), hand.now)
        self.assertEqual(hand.centre.contacts, {})
        self.assertEqual(hand.written()[-1].fact.ending, "ended")

    def test_a_new_version_counts_for_new_calls_only(self):
        hand = Hand()
        hand.call("old")
        newer = script()
        newer.number = 2
        hand.centre.configure(configuration(flows={"flow-1": newer}), hand.now)
        hand.call("new")
        contacts = hand.centre.contacts
        self.assertEqual((contacts["old"].flow.number, contacts["new"].flow.number), (1, 2))

    def test_what_was_heard_in_a_version_out_of_force_is_told_by_it(self):
        def two(words: str, number: int) -> RunnableFlow:
            steps = (
                Say(id="say", prompt=SpokenText(text=words), next="on"),
                GoOn(id="on", flow="flow:flow-2"),
            )
            ran = script(Flow(start="say", steps=steps))
            return dataclasses.replace(ran, number=number, version_id=100 + number)

        second = script(Flow(start="say", steps=(Say(id="say", prompt=SpokenText(text="On. " * 9)),)))
        second = dataclasses.replace(second, flow_id="flow-2", flow_name="Second", version_id=12)
        hand = Hand(configuration(flows={"flow-1": two("As it was", 1), "flow-2": second}))
        hand.call("c1")
        hand.after(3)
        newer = {"flow-1": two("As it is", 2), "flow-2": second}
        hand.centre.configure(configuration(flows=newer), hand.now)
        told = [line.get("words") for line in hand.shown("call.c1")["log"].values()]
        self.assertIn("As it was", told)
        hand.written()
        standing = next(row.body for row in hand.rows() if row.name == "c1")
        self.assertEqual([flow["version"] for flow in standing["past"]], [101])
        self.assertEqual(len(restarted(hand, 0).centre.contacts["c1"].past), 1)

    def test_what_cannot_be_is_refused_in_words(self):
        hand = Hand(configuration(flows={}))
        for body in (
            {"kind": "agent.answer", "agent": "ann"},
            {"kind": "agent.sign_in", "agent": "nobody"},
            {"kind": "agent.away", "agent": "ann", "reason": "Bored"},
            {"kind": "call.hang_up", "contact": "none"},
            {"kind": "teleport"},
        ):
            with self.subTest(body), self.assertRaises(EventRefused):
                hand.do(**body)
        with self.assertRaisesRegex(EventRefused, "no flow in force"):
            hand.call("c1")

    def test_figures_of_today_begin_again_at_the_centres_midnight(self):
        hand = Hand()
        hand.queued("c1")
        hand.do("call.hang_up", contact="c1")
        self.assertEqual(hand.centre.figures.arrived, 1)
        hand.after(12 * 3600)
        self.assertEqual(hand.centre.figures.arrived, 0)


class RecoveryTests(unittest.TestCase):
    def test_waiting_contacts_wait_in_their_order_and_are_served_in_it(self):
        hand = Hand()
        for name in ("c1", "c2", "c3"):
            hand.queued(name)
        hand.do("call.hang_up", contact="c2")
        again = restarted(hand, 4)
        self.assertEqual([w.id for w in again.centre.router.waiting("bookings")], ["c1", "c3"])
        again.ready("ann")
        self.assertEqual(again.centre.router.agents["ann"].contact, "c1")
        row = again.centre.figures.queue_total("bookings")
        self.assertEqual((row.offered, row.abandoned, row.under_way), (3, 1, 2))

    def test_a_contact_with_an_agent_stays_with_the_agent(self):
        hand = Hand()
        hand.ready("ann")
        hand.queued("c1")
        hand.do("agent.answer", agent="ann")
        again = restarted(hand, 4)
        self.assertEqual(again.shown("call.c1")["call"]["phase"], "with_person")
        again.do("agent.end", agent="ann")
        self.assertEqual(again.centre.contacts, {})

    def test_what_was_ringing_rings_again(self):
        hand = Hand()
        hand.ready("ann")
        hand.queued("c1")
        again = restarted(hand, 4)
        self.assertEqual(again.centre.router.agents["ann"].status, "ringing")
        again.do("agent.answer", agent="ann")
        self.assertEqual(again.centre.contacts["c1"].state.phase, "with_person")

    def test_a_contact_in_a_menu_goes_on_there(self):
        hand = Hand()
        hand.call("c1")
        hand.after(3)
        again = restarted(hand, 0.1)
        again.do("call.key", contact="c1", key="1")
        self.assertEqual(again.centre.contacts["c1"].state.phase, "queued")

    def test_a_wrap_up_that_ran_out_meanwhile_ends(self):
        hand = Hand(configuration(handling=HandlingRule(longest_wrap_ms=3000)))
        hand.ready("ann")
        hand.queued("c1")
        hand.do("agent.answer", agent="ann")
        hand.do("agent.end", agent="ann")
        again = restarted(hand, 4)
        self.assertEqual(again.centre.router.agents["ann"].status, "available")


class TimersTests(unittest.TestCase):
    def test_one_set_again_for_its_moment_falls_due_once_in_the_same_order(self):
        timers = Timers()
        for due_ms, kind, who in ((5, "wait", "a"), (5, "reply", "b"), (5, "wait", "a")):
            timers.set(due_ms, kind, who)
        self.assertEqual(timers.pop(4), None)
        self.assertEqual([timers.pop(5) for _ in range(3)], [("reply", "b"), ("wait", "a"), None])
        timers.set(5, "wait", "a")
        self.assertEqual(timers.pop(5), ("wait", "a"))

    def test_nothing_is_due_any_more_about_who_is_dropped(self):
        timers = Timers()
        timers.set(5, "line", "a 1")
        timers.set(6, "wait", "a")
        timers.set(7, "wait", "b")
        self.assertEqual(timers.of("a"), [(5, "line", "a 1"), (6, "wait", "a")])
        timers.drop("a")
        self.assertEqual((timers.next_ms(99), timers.pop(6), timers.of("a")), (7, None, []))
        again = Timers()
        again.take_up(timers.of("b"))
        self.assertEqual(again.pop(7), ("wait", "b"))
        self.assertEqual(again.next_ms(99), 99)


class SpanTests(unittest.TestCase):
    def test_the_hour_before_is_forgotten(self):
        spans = Spans()
        for minute, status in ((0, "away"), (1, "available"), (15, "ringing"), (80, "away")):
            spans.add("ann", "t", minute * 60 * SECOND, Status(status))
        told = [status for span in spans.shown().values() for _, status in span["states"]]
        self.assertEqual(told, ["ringing", "away"])
        self.assertEqual((spans.last("ann"), spans.last("bea")), (Status.AWAY, None))

    def test_a_desk_that_changes_its_state_all_the_time_does_not_grow_without_end(self):
        spans = Spans()
        for second in range(3_000):
            spans.add("ann", "t", second * SECOND, Status.AWAY if second % 2 else Status.AVAILABLE)
        kept = [at_ms for span in spans.shown().values() for at_ms, _ in span["states"]]
        self.assertEqual((kept[-1], sorted(kept)), (2_999 * SECOND, kept))
        self.assertLess(len(kept), 1_000)

    def test_the_test_clock_is_noon(self):
        self.assertEqual(Hand().centre.day_begins_ms, NOON - 12 * 3600 * 1000)
