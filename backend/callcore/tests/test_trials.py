import unittest

from callcore.errors import DefinitionError
from callcore.flow.catalogue import FlowFacts, QueueFacts, TableFacts
from callcore.flow.compare import in_words
from callcore.flow.definition import (
    CheckQueue,
    End,
    Flow,
    GoOn,
    Input,
    Lookup,
    Message,
    Ring,
    SetValue,
    WaitInQueue,
)
from callcore.flow.expectation import differences, expected
from callcore.flow.runner import MadeUp, MailboxRule
from callcore.flow.steps.away import Taken as LookupTaken
from callcore.flow.trial import Trial
from callcore.flow.trial_setup import setup_of
from callcore.tests.flows import BOOKINGS, OFFICE, WORLD, main_line, text, with_hours, with_step

AROUND = MadeUp(lambda _ref, _now: (True, "Mon 10:00"), lambda _ref: MailboxRule(None, 60_000))
#: 1 March 2027, 10:00 in London.
NOW = 1_803_981_600_000


def run(flow, hold=False, **setup):
    call = Trial(flow, flow, WORLD, setup_of(setup), AROUND, lambda _t, _k: None, NOW)
    return call.run(hold=hold)


class TrialTests(unittest.TestCase):
    def test_a_call_is_run_with_its_transcript_and_reasons(self):
        result = run(main_line(), keys=["1"])
        self.assertEqual((result.ending, result.place), ("person", "Bookings"))
        self.assertEqual(result.stops, ["hello", "menu", "wait"])
        moved = [(line.words, line.why) for line in result.lines if line.kind == "moved"]
        self.assertIn(("Queue: Bookings", "key 1 → Bookings"), moved)
        self.assertIn("Presses 1", [line.words for line in result.lines])

    def test_it_holds_where_a_key_is_needed_and_a_key_less_is_a_step_back(self):
        waits = run(main_line(), hold=True)
        self.assertEqual((waits.open, waits.ending, waits.step), ("key", "", "menu"))
        self.assertEqual(run(main_line(), hold=True, keys=["1"]).ending, "person")
        wrong = run(main_line(), hold=True, keys=["9", "wait"])
        self.assertEqual(wrong.open, "key")

    def test_silence_runs_to_the_end_by_itself(self):
        self.assertEqual(run(main_line()).place, "Sailings heard")

    def test_hours_waits_figures_rows_and_rings_can_be_pretended(self):
        closed = run(with_hours(), pretend={"hours": {OFFICE: False}})
        self.assertEqual(closed.stops, ["open", "bye"])
        self.assertEqual(run(with_hours(), hold=True).stops[0:2], ["open", "hello"])
        ends = (End(id="a", label="A"), End(id="b", label="B"))
        check = CheckQueue(id="check", queue=BOOKINGS, figure="waiting", limit=5, yes="a", no="b")
        busy = Flow(start="check", steps=(check, *ends))
        self.assertEqual(run(busy).place, "B")
        full = {"figures": {BOOKINGS: {"waiting": 7}}}
        self.assertEqual(run(busy, pretend=full).place, "A")
        look = Lookup(id="look", table="table:t", key="caller", found="a", not_found="b")
        table = Flow(start="look", steps=(look, *ends))
        self.assertEqual(run(table).place, "B")
        self.assertEqual(run(table, pretend={"rows": {"table:t": {"x": 1}}}).place, "A")
        typed = WORLD._replace(tables={"table:t": TableFacts("T", ("k", "x"), ("text", "number"))})

        def with_row(x):
            setup = setup_of({"pretend": {"rows": {"table:t": {"x": x}}}})
            said = look.model_copy(update={"take": (LookupTaken(column="x", into="cars"),)})
            flow = Flow(start="look", steps=(said, End(id="a", prompt=text("{cars:number}.")), ends[1]))
            return Trial(flow, flow, typed, setup, AROUND, lambda *_: None, NOW).run()

        self.assertEqual(with_row(" 12 ").heard, ["twelve."])
        with self.assertRaisesRegex(DefinitionError, "not a whole number"):
            with_row("many")
        ring = Ring(id="ring", number="+441632960111", busy="a", no_answer="b")
        outside = Flow(start="ring", steps=(ring, *ends))
        self.assertEqual(run(outside).ending, "elsewhere")
        self.assertEqual(run(outside, pretend={"rings": {"ring": "busy"}}).place, "A")
        self.assertEqual(run(outside, pretend={"rings": {"ring": "no_answer"}}).place, "B")

    def test_a_wait_without_end_is_said_and_a_longest_wait_is_kept(self):
        flow = Flow(start="q", steps=(WaitInQueue(id="q", queue=BOOKINGS, waited="a"), End(id="a")))
        never = {"waits": {BOOKINGS: None}}
        setup = setup_of({"pretend": never})

        def with_longest(wait_s):
            catalogue = WORLD._replace(queues={BOOKINGS: QueueFacts("Bookings", True, 2, wait_s)})
            return Trial(flow, flow, catalogue, setup, AROUND, lambda *_: None, NOW).run()

        self.assertEqual(with_longest(None).open, "queued")
        result = with_longest(600)
        self.assertEqual((result.seconds, result.stops), (600.0, ["q", "a"]))

    def test_a_step_can_be_pretended_to_fail_and_a_trial_can_begin_anywhere(self):
        flow = Flow(
            start="box", steps=(Message(id="box", mailbox="mailbox:m", failed="a"), End(id="a", label="Busy"))
        )
        self.assertEqual(run(flow).ending, "message")
        failed = run(flow, pretend={"failing": ["box"]})
        self.assertEqual(failed.place, "Busy")
        self.assertEqual(failed.lines[1].why, "this step is pretended to fail")
        self.assertEqual(run(main_line(), start="bye").stops, ["bye"])

    def test_it_goes_on_in_another_flow_with_its_values_and_round_and_round_ends(self):
        def there(flow, other):
            catalogue = WORLD._replace(flows={"flow:o": FlowFacts("Other", True, "voice")})
            setup = setup_of({"pretend": {"rings": {"flow:o/ring": "busy"}}})
            library = {"flow:o": (other, other)}
            trial = Trial(flow, flow, catalogue, setup, AROUND, lambda *_: None, NOW, library.get)
            return trial.run()

        note = SetValue(id="note", value="port", to="Northby", next="go")
        first = Flow(start="note", steps=(note, GoOn(id="go", flow="flow:o")))
        ring = Ring(id="ring", number="+441632960111", busy="told")
        told = End(id="told", label="Told", prompt=text("Busy at {port}."))
        other = Flow(start="ring", inputs=(Input(name="port"),), steps=(ring, told))
        result = there(first, other)
        self.assertEqual((result.ending, result.place), ("ended", "Told"))
        self.assertEqual(result.stops, ["note", "go", "flow:o/ring", "flow:o/told"])
        self.assertEqual(result.heard, ["Busy at Northby."])
        self.assertEqual(result.names["flow:o/told"], "Told")
        changed = there(first, with_step(other, "told", label="Said"))
        words = "It ended at Told (ended by us); now at Said (ended by us)."
        self.assertEqual(differences(expected(result), changed, {}), [words])
        back = Flow(start="go", steps=(GoOn(id="go", flow="flow:o"),))
        self.assertEqual(there(back, back).ending, "failed")
        self.assertEqual(run(back).ending, "failed", "not in force")

    def test_a_setup_that_is_none_is_refused_in_words(self):
        with self.assertRaises(DefinitionError):
            run(main_line(), keys=["hello"])
        for data in (
            {"keys": [""]},
            {"pretend": {"magic": 1}},
            {"at": "soon"},
            [],
            {"pretend": {"waits": {"q": -1}}},
        ):
            with self.subTest(data), self.assertRaises(DefinitionError):
                setup_of(data)

    def test_what_is_otherwise_than_expected_is_told(self):
        want = expected(run(main_line(), keys=["1"]))
        names = {"menu": "Main menu", "wait": "Bookings", "bye": "Sailings"}
        self.assertEqual(differences(want, run(main_line(), keys=["1"]), names), [])
        moved = main_line()
        arms = (moved.steps[1].arms[0].model_copy(update={"next": "bye"}),)
        told = differences(want, run(with_step(moved, "menu", arms=arms), keys=["1"]), names)
        self.assertIn("After Main menu came Bookings; now Sailings.", told)
        self.assertIn("It ended at Bookings (with a person)", told[0])
        said = differences(want, run(with_step(moved, "hello", prompt=text("Hi.")), keys=["1"]), {})
        words = "“Thank you for calling Ostrel Island Ferries.” was heard; now “Hi.”."
        self.assertEqual(said, [words])


class ChangeWordsTests(unittest.TestCase):
    def test_changes_are_told_by_stop_with_what_was_and_is(self):
        after = with_step(main_line(stay_limit_s=60), "hello", prompt=text("Hi."), next="wait")
        rows = {row.words: row for row in in_words(main_line(), after, WORLD)}
        hello = next(row for row in rows.values() if row.step == "hello")
        self.assertEqual(
            hello.details,
            (
                "what is said: “Thank you for calling Ostrel Island Ferries.” → “Hi.”",
                "leads to: “Main menu” → “Bookings”",
            ),
        )
        self.assertEqual(rows["the longest stay"].details, ("900 → 60",))
        arms = main_line().steps[1].arms[:1]
        fewer = in_words(main_line(), with_step(main_line(), "menu", arms=arms), WORLD)
        words = "its ways, key 2: 2 Sailing today “Sailings heard” → nothing"
        self.assertEqual(fewer[0].details, (words,))
