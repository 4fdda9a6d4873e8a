"""Waiting: plans, the offer to call back, what is told, and how waits are estimated."""

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore.events import Kind
from callcore.events import read as happened
from callcore.flow.catalogue import Catalogue, FlowFacts, QueueFacts
from callcore.flow.checks import check
from callcore.flow.definition import (
    End,
    Flow,
    Message,
    Music,
    OfferCallback,
    Ring,
    Say,
    TellWait,
    WaitInQueue,
)
from callcore.flow.runner import (
    BookCallback,
    Due,
    Finish,
    HungUp,
    JoinQueue,
    Key,
    LeaveQueue,
    Machine,
    MadeUp,
    MailboxRule,
    MessageLeft,
    Place,
    Play,
    PlayMusic,
    Taken,
    WaitedOut,
    from_data,
    to_data,
)
from callcore.flow.telling import tell
from callcore.flow.trial import Trial
from callcore.flow.trial_setup import Pretend, Setup
from callcore.speech.values import band
from callcore.tests.flows import text
from callcore.waiting.estimate import LEAST_SCORED, Waits

SECOND = 1000
NOON = 1_795_435_200_000
QUEUE = "queue:q"
FLOW = Flow(start="wait", steps=(WaitInQueue(id="wait", queue=QUEUE, waited="over"), End(id="over")))


def plan(*steps: object) -> Flow:
    return Flow(purpose="plan", start=steps[0].id, steps=steps)  # type: ignore[attr-defined]


OFFER = OfferCallback(
    id="offer",
    prompt=text("Shall we call back?"),
    declined="music",
    other_number=False,
    attempts=2,
    retry_s=60,
)
ROUND = plan(Music(id="music", seconds=20, next="tell"), TellWait(id="tell", next="offer"), OFFER)


class Call:
    """A caller in a queue with a waiting plan, driven by hand; a prompt lasts two seconds."""

    def __init__(self, waiting: Flow, caller="+4420") -> None:
        place = Place(3, 240.0)
        around = MadeUp(
            mailbox=lambda _: MailboxRule(None, 60 * SECOND),
            plan=lambda _queue, wanted: wanted or "p",
            plan_machine=lambda key: machine if key == "p" else None,
            place=lambda _: place,
            outside=lambda typed: typed if len(typed) > 4 else None,
        )
        machine = Machine(waiting, lambda _: 2 * SECOND, around)
        self.machine = Machine(FLOW, lambda _: 2 * SECOND, around)
        self.now = NOON
        self.state, effects = self.machine.start(NOON, {"caller": caller})
        self.effects = list(effects)

    def feed(self, *events):
        for event in events:
            self.state = from_data(json.loads(json.dumps(to_data(self.state))))
            self.state, effects = self.machine.resume(self.state, event, self.now)
            self.effects += effects
        return self

    def wait(self, times=1):
        for _ in range(times):
            self.now = self.state.due_ms
            self.feed(Due())
        return self

    def kinds(self):
        return [type(e) for e in self.effects]

    def heard(self):
        return [e.prompt.text for e in self.effects if isinstance(e, Play)]


class PlanTests(unittest.TestCase):
    def test_the_plan_goes_on_while_the_caller_waits_and_ends_when_somebody_answers(self):
        call = Call(ROUND)
        self.assertEqual(call.kinds()[1:4:2], [JoinQueue, PlayMusic])
        self.assertEqual(call.effects[-1].step, "wait~music")
        call.wait()
        self.assertEqual(call.heard(), ["You are third in line. The wait is about four minutes."])
        call.feed(Taken())
        self.assertEqual((call.state.phase, call.state.inner), ("with_person", None))

    def test_a_plan_that_is_over_leaves_the_caller_waiting(self):
        call = Call(plan(Music(id="music", seconds=5))).wait()
        self.assertEqual((call.state.phase, call.state.inner, call.state.due_ms), ("queued", None, None))
        call.feed(WaitedOut())
        self.assertEqual(call.effects[-1], Finish("over", "ended"))

    def test_a_plan_has_no_longest_stay_but_the_queue_has(self):
        call = Call(plan(Music(id="music", seconds=600, next="music"))).wait(8)
        self.assertEqual(call.state.phase, "queued")
        self.assertGreater(call.now - NOON, 4_000 * SECOND)

    def test_a_message_leads_out_of_the_queue_and_is_kept_also_when_the_caller_hangs_up(self):
        steps = (Music(id="music", seconds=5, next="box"), Message(id="box", mailbox="mailbox:m"))
        call = Call(plan(*steps)).wait()
        self.assertIn(LeaveQueue("wait", "message"), call.effects)
        self.assertEqual(call.state.phase, "leaving")
        call.now += 9 * SECOND
        call.feed(HungUp())
        self.assertEqual(
            call.effects[-2:], [MessageLeft("wait~box", "mailbox:m", 9 * SECOND), Finish("wait", "message")]
        )

    def test_a_callback_keeps_the_place_and_ends_the_call(self):
        call = Call(ROUND).wait(2).feed(Key("1"))
        self.assertIn(BookCallback("wait~offer", QUEUE, "+4420", 2, 60 * SECOND), call.effects)
        self.assertEqual(call.effects[-1], Finish("wait", "callback"))

    def test_no_wish_for_one_goes_on_waiting(self):
        for event in (Key("2"), Due()):
            call = Call(ROUND).wait(2)
            call = call.feed(event) if isinstance(event, Key) else call.wait(2)
            self.assertEqual((call.state.phase, call.state.inner.step), ("queued", "music"))

    def test_another_number_can_be_typed_and_one_that_is_none_is_asked_for_again(self):
        offer = OFFER.model_copy(update={"other_number": True, "thanks": text("We will.")})
        call = Call(plan(offer)).feed(Key("1"), *map(Key, "12#"))
        self.assertEqual(len(call.heard()), 3)
        call.feed(*map(Key, "0123456#"))
        booked = next(e for e in call.effects if isinstance(e, BookCallback))
        self.assertEqual(booked.number, "0123456")
        call.feed(HungUp())
        self.assertEqual(call.effects[-1], Finish("wait", "callback"))

    def test_a_caller_without_a_number_meets_the_exit_for_it(self):
        offer = OFFER.model_copy(update={"failed": "sorry"})
        call = Call(plan(offer, Say(id="sorry", prompt=text("Sorry."))), caller="").feed(Key("1"))
        self.assertEqual((call.state.phase, call.heard()[-1]), ("queued", "Sorry."))

    def test_a_trial_walks_the_plan_until_the_pretended_answer(self):
        catalogue = Catalogue(queues={QUEUE: QueueFacts("Desk", True, 1, 900, "p")})
        around = MadeUp(
            plan=lambda queue, wanted: wanted or catalogue.queues[queue].plan,
            plan_machine=lambda _: Machine(ROUND, catalogue.length_ms),
            outside=lambda typed: typed,
        )

        def run(keys, **pretend):
            setup = Setup(keys=keys, pretend=Pretend(**pretend))
            return Trial(FLOW, FLOW, catalogue, setup, around, lambda _t, _k: None, NOON).run()

        figures = {QUEUE: {"position": 2, "expected_wait": 60}}
        result = run((), waits={QUEUE: 25}, figures=figures)
        self.assertEqual((result.ending, result.place), ("person", "Desk"))
        told = "You are second in line. The wait is less than two minutes."
        self.assertEqual(result.heard[0], told)
        result = run(("1",), waits={QUEUE: 60})
        self.assertEqual((result.ending, result.place), ("callback", "Desk"))

    def test_the_checker_knows_what_a_plan_cannot_do_and_lets_it_go_round(self):
        self.assertEqual(check(ROUND, Catalogue()), [])
        ring = plan(Ring(id="ring", number="+441632960111"))
        self.assertIn("not-while-waiting", {f.code for f in check(ring, Catalogue())})
        wait = WaitInQueue(id="wait", queue=QUEUE, plan="flow:x", waited="e")
        flow = Flow(start="wait", steps=(wait, End(id="e")))
        for facts, code in (
            ({}, "missing-plan"),
            ({"flow:x": FlowFacts("X", True, "voice")}, "no-plan"),
            ({"flow:x": FlowFacts("X", False, "voice", purpose="plan")}, "plan-not-in-force"),
        ):
            catalogue = Catalogue(queues={QUEUE: QueueFacts("Desk", True, 2, 900)}, flows=facts)
            self.assertEqual([f.code for f in check(flow, catalogue)], [code])


class TellingTests(unittest.TestCase):
    def test_nothing_is_told_that_is_not_known(self):
        self.assertEqual(
            tell(Place(1, None), None, "en", position=True, wait=True), ("You are next in line.", (1, None))
        )
        self.assertEqual(tell(Place(2, None), None, "en", position=False, wait=True)[0], "")

    def test_a_wait_of_nothing_or_none_does_not_let_the_next_one_grow(self):
        for between in (Place(2, None), Place(2, 0.0)):
            _, told = tell(Place(3, 300.0), None, "en", position=False, wait=True)
            _, told = tell(between, told, "en", position=False, wait=True)
            said, _ = tell(Place(1, 1500.0), told, "en", position=False, wait=True)
            self.assertNotIn("twenty", said)

    @given(st.lists(st.tuples(st.integers(1, 50), st.none() | st.floats(0, 5000)), min_size=2))
    def test_a_told_wait_never_grows_while_the_position_does_not(self, places):
        told = None
        for position, seconds in places:
            before = told
            said, told = tell(Place(position, seconds), told, "cy", position=True, wait=True)
            if before is not None and before[1] is not None and position <= before[0]:
                self.assertLessEqual(told[1], before[1])
            if seconds is not None:
                self.assertIn("amser", said)


def stay(contact: str, entered_s: float, waited_s: float, ends="answered", talk_s=0.0):
    """A caller's events."""
    end = round((entered_s + waited_s) * SECOND)
    yield happened(round(entered_s * SECOND), Kind.QUEUED, contact, "", {"queue": "q", "staff": 2})
    if ends != "answered":
        yield happened(end, Kind.LEFT_QUEUE, contact, "", {"queue": "q", "why": ends})
        return
    yield happened(end, Kind.ANSWERED, contact, "ann", {"queue": "q", "entered_ms": 0})
    if talk_s:
        done = end + round(talk_s * SECOND)
        yield happened(done, Kind.LEG_ENDED, contact, "ann", {"queue": "q"})


def folded(*stays) -> Waits:
    waits = Waits()
    for event in sorted((e for s in stays for e in s), key=lambda e: e.at_ms):
        waits.apply(event)
    return waits


class EstimateTests(unittest.TestCase):
    def test_each_estimator_says_what_its_formula_says(self):
        waits = folded(stay("a", 0, 30, talk_s=100), stay("b", 10, 50, talk_s=100), stay("c", 20, 9999))
        line = waits.lines["q"]
        found = line.all(2, 0.0, 2, 10_100 * SECOND)
        self.assertEqual(found["last"], 9999)
        self.assertEqual(found["staff"], 3 * 100 / 2)
        self.assertNotIn("rate", found, "those before are long past")
        waits = folded(stay("a", 0, 30), stay("b", 10, 50), stay("c", 20, 60))
        line = waits.lines["q"]
        self.assertEqual(line.all(2, 0.0, 2, 81 * SECOND)["rate"], 3 * (80 - 30) / 2)
        self.assertEqual(line.all(2, 0.0, 2, 630 * SECOND)["rate"], 3 * 600 / 3)
        waits = folded(stay("a", 0, 100, "hung_up"), stay("b", 0, 100, talk_s=50))
        served, leaving = 2 / 50, 1 / 200
        self.assertAlmostEqual(
            waits.lines["q"].all(1, 0.0, 2, 0)["staff"], 1 / served + 1 / (served + leaving)
        )

    def test_the_best_of_the_past_counts_and_only_a_good_one_may_be_told(self):
        steady = folded(*(stay(str(i), 200 * i, 190) for i in range(LEAST_SCORED + 2)))
        expected = steady.expected("q", 0, 0.0, 2, 4_500 * SECOND)
        self.assertEqual((expected.estimator, expected.seconds, expected.may_be_told), ("last", 190, True))
        few = folded(*(stay(str(i), 200 * i, 190) for i in range(5)))
        self.assertFalse(few.expected("q", 0, 0.0, 2, 1_000 * SECOND).may_be_told)
        wild = folded(*(stay(str(i), 300 * i, 10 + 4000 * (i % 2)) for i in range(40)))
        self.assertFalse(wild.expected("q", 0, 0.0, 2, 13_000 * SECOND).may_be_told)
        self.assertIsNone(steady.expected("other", 0, 0.0, 2, 0))
        self.assertIsNone(steady.expected("q", 0, 0.0, 0, 4_500 * SECOND), "nobody is at work")

    def test_quick_answers_long_past_say_nothing_of_now(self):
        quick = folded(*(stay(str(i), 60 * i, 2, talk_s=40) for i in range(LEAST_SCORED + 5)))
        soon = quick.expected("q", 0, 0.0, 2, 1_600 * SECOND)
        self.assertLess(soon.seconds, 5)
        later = quick.lines["q"].all(0, 0.0, 2, 6_000 * SECOND)
        self.assertNotIn("last", later)
        self.assertFalse({"last", "rate"} & quick.lines["q"].all(3, 0.0, 2, 6_000 * SECOND).keys())
        tomorrow = quick.expected("q", 3, 0.0, 2, 86_400 * SECOND)
        self.assertTrue(tomorrow is None or not tomorrow.may_be_told)

    def test_a_wait_that_the_caller_has_outlived_is_no_estimate(self):
        waits = folded(stay("a", 0, 5), stay("b", 10, 5), stay("c", 20, 900))
        line = waits.lines["q"]
        line.last_wait_s = 5.0
        self.assertNotIn("last", line.all(0, 60.0, 2, 80 * SECOND))
        self.assertNotIn("head", line.all(0, 60.0, 2, 80 * SECOND))

    def test_handling_a_contact_is_talk_and_wrap_up(self):
        coded = happened(120 * SECOND, Kind.CODED, "a", "ann", {"queue": "q", "code": ""})
        waits = folded(stay("a", 0, 30, talk_s=60), [coded])
        self.assertEqual(waits.lines["q"].all(0, 0.0, 1, 121 * SECOND)["staff"], 90)

    @given(st.floats(0, 10_000))
    def test_a_wait_is_within_its_own_band(self, seconds):
        low, high = band(seconds)
        self.assertTrue(low <= seconds <= high)
