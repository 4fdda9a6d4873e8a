"""Findings about forks, look-ups, blocks and other things that stops name; each has its test."""

import ast
import unittest
from pathlib import Path

from hypothesis import given, settings

from callcore.flow.catalogue import (
    FlowFacts,
    HoursFacts,
    MailboxFacts,
    QueueFacts,
    SoundFacts,
    Spoken,
    TableFacts,
)
from callcore.flow.checks import check
from callcore.flow.definition import load
from callcore.flow.inputs import Input
from callcore.flow.rules.forks import MOST_LAID
from callcore.tests.flows import BOOKINGS, WORLD, patched
from callcore.tests.random_flows import random_flows

TESTS = Path(__file__).parent
RULES = TESTS.parent / "flow" / "rules"
ALWAYS = {
    "kind": "group",
    "join": "and",
    "parts": [{"kind": "compare", "value": "caller", "how": "given", "other": ""}],
}
MORNING = {"days": [0, 1, 2, 3, 4], "start": 480, "end": 720}
SAY = {"kind": "text", "text": "Hello."}


SAYS = {"kind": "say", "id": "s", "prompt": SAY}


def whole(*steps, world=WORLD, **flow):
    """The findings of a flow that begins at its first stop and ends at “bye”."""
    steps = [*steps, {"kind": "end", "id": "bye"}]
    return check(load({"start": steps[0]["id"], "steps": steps, **flow}), world)


def found(*steps, world=WORLD, **flow):
    """Their codes, with their stop and way."""
    return {(f.code, f.step, f.exit) for f in whole(*steps, world=world, **flow)}


class NamedThingTests(unittest.TestCase):
    def test_forks(self):
        times = {"kind": "times", "id": "t", "otherwise": "bye"}
        fork = {"kind": "fork", "id": "f", "otherwise": "bye"}
        arm = {"id": "a1", "label": "Mornings", "next": "bye"}
        self.assertIn(("no-arm", "t", ""), found(times))
        self.assertIn(("no-arm", "f", ""), found(fork))
        self.assertIn(("arm-never", "t", "arm:a1"), found({**times, "arms": [{**arm, "periods": []}]}))
        early = {**arm, "periods": [MORNING]}
        late = {**arm, "id": "a2", "periods": [{**MORNING, "start": 700, "end": 900}]}
        self.assertIn(("arms-overlap", "t", "arm:a2"), found({**times, "arms": [early, late]}))
        apart = {**late, "periods": [{**MORNING, "start": 720, "end": 900}]}
        self.assertEqual(found({**times, "arms": [early, apart]}), set())
        for label, named in (("Mornings", "“Mornings”"), ("", "A way")):
            bare = whole({**times, "arms": [{**arm, "label": label, "periods": []}]})
            self.assertTrue(any(f.code == "arm-never" and named in f.message for f in bare), label)
        open_ = {"kind": "group", "join": "and", "parts": []}
        self.assertIn(("no-condition", "f", "arm:a1"), found({**fork, "arms": [{**arm, "when": open_}]}))
        self.assertEqual(found({**fork, "arms": [{**arm, "when": ALWAYS}]}), set())

    def test_look_ups(self):
        ways = {"found": "bye", "not_found": "bye", "failed": "bye"}
        step = {"kind": "lookup", "id": "l", "table": "table:b", "key": "caller", **ways}
        world = WORLD._replace(tables={"table:b": TableFacts("Boats", ("Name", "Port"))})
        self.assertEqual(found({**step, "take": [{"column": "Port", "into": "port"}]}, world=world), set())
        gone = {**step, "take": [{"column": "Colour", "into": "colour"}]}
        self.assertIn(("unknown-column", "l", ""), found(gone, world=world))

    def test_skills_and_people(self):
        label = {"kind": "label", "id": "l", "next": "bye", "skills": [{"skill": "skill:w", "least": 3}]}
        self.assertIn(("missing-skill", "l", ""), found(label))
        self.assertEqual(found(label, world=WORLD._replace(skills={"skill:w": "Welsh"})), set())
        ways = {"no_answer": "bye", "busy": "bye", "failed": "bye"}
        ring = {"kind": "ring", "id": "r", "people": ["agent:a"], **ways}
        self.assertIn(("missing-person", "r", ""), found(ring))
        self.assertEqual(found(ring, world=WORLD._replace(agents={"agent:a": "Ana"})), set())

    def test_one_of_several_people_who_is_gone(self):
        ways = {"no_answer": "bye", "busy": "bye", "failed": "bye"}
        ring = {"kind": "ring", "id": "r", "people": ["agent:a", "agent:b"], **ways}
        world = WORLD._replace(agents={"agent:a": "Ana"})
        self.assertIn(("missing-person", "r", ""), found(ring, world=world))

    def test_who_says_what_becomes_of_silence(self):
        menu = {"kind": "menu", "id": "m", "name": "Main", "prompt": {**SAY, "text": "Press 1."}, "tries": 1}
        menu["arms"] = [{"key": "1", "label": "One", "next": "bye"}]
        self.assertIn(("default-failure", "m", "no_key"), found(menu))
        self.assertEqual(found(menu, world=WORLD._replace(silence_ends=True)), set())

    def test_an_outside_number_is_looked_for_along_every_way(self):
        ways = {"no_answer": "bye", "busy": "bye", "failed": "bye"}
        ring = {"kind": "ring", "id": "r", "number": "+441632960111", **ways}
        say = {"kind": "say", "id": "s", "prompt": SAY, "next": "t"}
        again = {"kind": "say", "id": "t", "prompt": SAY, "next": "r"}
        self.assertIn(("outside-at-any-hour", "r", ""), found(say, again, ring))
        hours = {"kind": "hours", "id": "h", "hours": "hours:office", "open": "s", "closed": "bye"}
        self.assertEqual(found(hours, say, again, ring), set())

    def test_an_outside_number_that_a_caller_comes_back_to_by_many_stops_rings_each_time(self):
        ways = {"no_answer": "s", "busy": "bye", "failed": "bye"}
        ring = {"kind": "ring", "id": "r", "number": "+441632960111", **ways}
        say = {"kind": "say", "id": "s", "prompt": SAY, "next": "t"}
        for to, loops in (("r", True), ("u", False), ("s", False)):
            again = {"kind": "say", "id": "t", "prompt": SAY, "next": to}
            last = {"kind": "say", "id": "u", "prompt": SAY, "next": "bye"}
            told = ("outside-in-a-loop", "r", "") in found(ring, say, again, last)
            self.assertEqual(told, loops, to)

    def test_an_outside_number_behind_closed_hours_rings_when_nobody_looks(self):
        ways = {"no_answer": "bye", "busy": "bye", "failed": "bye"}
        ring = {"kind": "ring", "id": "r", "number": "+441632960111", **ways}
        hours = {"kind": "hours", "id": "h", "hours": "hours:office", "open": "bye", "closed": "r"}
        self.assertIn(("outside-at-any-hour", "r", ""), found(hours, ring))
        times = {"kind": "times", "id": "h", "otherwise": "r"}
        arm = {"id": "a1", "label": "Mornings", "next": "bye", "periods": [MORNING]}
        self.assertIn(("outside-at-any-hour", "r", ""), found({**times, "arms": [arm]}, ring))
        by_day = {**times, "otherwise": "bye", "arms": [{**arm, "next": "r"}]}
        self.assertEqual(found(by_day, ring), set())

    def test_what_a_finding_says_and_offers(self):
        def only(code, *steps, world=WORLD, **flow):
            steps = [*steps, {"kind": "end", "id": "bye"}]
            whole = load({"start": steps[0]["id"], "steps": steps, **flow})
            return next(f for f in check(whole, world) if f.code == code)

        queue = {"kind": "queue", "id": "q", "waited": "bye"}
        self.assertEqual(only("missing-queue", queue).mend, "Choose the queue.")
        gone = only("missing-queue", {**queue, "queue": "queue:gone"})
        self.assertEqual(gone.mend, "Choose another queue.")
        self.assertIn("does not exist any more", gone.message)
        fork = {"kind": "fork", "id": "f", "otherwise": "bye"}
        open_ = {"kind": "group", "join": "and", "parts": []}
        for label, begins in (("", "A way"), ("Mornings", "“Mornings”")):
            arm = {"id": "a1", "label": label, "next": "bye", "when": open_}
            self.assertTrue(only("no-condition", {**fork, "arms": [arm]}).message.startswith(begins))
        rounds = {"kind": "repeat", "id": "r", "times": 3, "again": "r", "done": "bye"}
        self.assertIn("The rounds take no time", only("no-time-loop", rounds).message)
        goes = {"kind": "ring", "id": "r", "people": ["agent:a"], "no_answer": "bye", "failed": "bye"}
        ana = WORLD._replace(agents={"agent:a": "Ana"})
        busy = only("no-time-loop", {**goes, "busy": "r"}, world=ana)
        self.assertIn("come back here in the same moment", busy.message)
        sound = {"kind": "say", "id": "s", "prompt": {"kind": "sound", "sound": "sound:s"}, "next": "bye"}
        for takes, told in ((("cy",), True), (("en", "cy"), False), ((), False)):
            world = WORLD._replace(
                sounds={"sound:s": SoundFacts("Bell", dict.fromkeys(takes, Spoken("bell", 9)))}
            )
            codes = {code for code, *_ in found(sound, world=world)}
            self.assertEqual("sound-in-other-language" in codes, told, takes)
        never = WORLD._replace(hours={"hours:night": HoursFacts("Nights", False)})
        hours = {"kind": "hours", "id": "h", "hours": "hours:night", "open": "bye", "closed": "bye"}
        self.assertEqual(only("never-open", hours, world=never).fix.goto, "hours:night")
        ways = {"found": "bye", "not_found": "bye", "failed": "bye"}
        step = {"kind": "lookup", "id": "l", "table": "table:b", "key": "caller", **ways}
        boats = WORLD._replace(tables={"table:b": TableFacts("Boats", ("Name",))})
        taking = {**step, "take": [{"column": "Colour", "into": "colour"}]}
        self.assertEqual(only("unknown-column", taking, world=boats).fix.goto, "table:b")
        say = {"kind": "say", "id": "s", "prompt": SAY, "next": "bye"}
        for label, called in (("", "desk"), ("Which desk", "Which desk")):
            inputs = [{"name": "desk", "label": label}]
            unused = only("unused-input", say, inputs=inputs)
            self.assertEqual(unused.message, f"Nobody uses the input {called}.")
            self.assertEqual(unused.fix.patch[0]["path"], "/inputs/0")
        menu = {"kind": "menu", "id": "m", "prompt": SAY, "no_key": "bye", "tries": 1}
        for key, label, words in (
            ("1", "Bookings", "Hello. For bookings, press 1."),
            ("#", "", "Hello. For this choice, press hash."),
            ("*", "All", "Hello. For all, press star."),
        ):
            arms = [{"key": key, "label": label, "next": "bye"}]
            found_one = only("arm-not-named", {**menu, "arms": arms})
            self.assertEqual(found_one.fix.patch[0]["value"], words)
        long = [{"kind": "music", "id": f"m{n}", "seconds": 600, "next": f"m{n + 1}"} for n in range(2)] + [
            {"kind": "music", "id": "m2", "seconds": 61, "next": "bye"}
        ]
        stay = only("longer-than-limit", *long, stay_limit_s=900)
        self.assertEqual(stay.fix.patch[0]["value"], 1320, "whole minutes, no less than it takes")

    def test_figures_that_are_always_or_never_reached(self):
        def level(limit):
            step = {"kind": "check_queue", "id": "c", "queue": BOOKINGS, "yes": "bye", "no": "bye"}
            return found({**step, "figure": "service_level", "limit": limit})

        self.assertEqual(level(100), set())
        self.assertNotEqual(level(101), set())
        self.assertNotEqual(level(0), set())

    def test_blocks_and_other_flows(self):
        block = {"kind": "block", "id": "b", "flow": "flow:x", "worked": "bye", "not_worked": "bye"}
        facts = FlowFacts("Booking check", True, "voice", purpose="block", outputs=("booking",))

        def world(**changed):
            return WORLD._replace(flows={"flow:x": facts._replace(**changed)})

        self.assertEqual(found(block, world=world()), set())
        self.assertIn(("block-not-in-force", "b", ""), found(block, world=world(in_force=False)))
        inputs = (Input(name="party", type="number"),)
        for handed, wrong in (
            ({"input": "party", "to": 4}, False),
            ({"input": "party", "to": "four"}, True),
            ({"input": "party", "copy_of": "digits"}, False),
            ({"input": "crew", "copy_of": "digits"}, True),
        ):
            codes = found({**block, "give": [handed]}, world=world(inputs=inputs))
            self.assertEqual(("wrong-type", "b", "") in codes, wrong, handed)
        taking = {**block, "take": [{"output": "price", "into": "price"}]}
        self.assertIn(("unknown-output", "b", ""), found(taking, world=world()))
        going = {"kind": "go", "id": "g", "flow": "flow:x", "failed": "bye"}
        self.assertIn(("no-flow", "g", ""), found(going, world=world()))
        self.assertEqual(found(going, world=world(purpose="flow")), set())

    def test_queues_of_another_channel(self):
        queue = {"kind": "queue", "id": "q", "queue": BOOKINGS, "waited": "bye"}
        world = WORLD._replace(queues={BOOKINGS: QueueFacts("Bookings", True, 2, 900, channels=("text",))})
        self.assertIn(("queue-of-another-channel", "q", ""), found(queue, world=world))
        self.assertEqual(found(queue, world=world, channel="text"), set())

    def test_values_that_are_set_only_later(self):
        say = {"kind": "say", "id": "s", "prompt": {**SAY, "text": "Hello, {guest}."}, "next": "v"}
        value = {"kind": "set", "id": "v", "value": "guest", "to": "Ana", "next": "bye"}
        self.assertIn(("used-too-early", "s", ""), found(say, value))
        self.assertEqual(found({**value, "next": "s"}, {**say, "next": "bye"}), set())


class EveryFindingTests(unittest.TestCase):
    def test_every_code_is_named_by_a_test(self):
        given = {
            call.args[0].value
            for file in RULES.glob("*.py")
            for call in ast.walk(ast.parse(file.read_text()))
            if isinstance(call, ast.Call) and isinstance(call.func, ast.Name) and call.func.id == "Finding"
            if call.args and isinstance(call.args[0], ast.Constant)
        }
        named = "".join(file.read_text() for file in TESTS.glob("test_*.py"))
        self.assertGreater(len(given), 40)
        self.assertEqual({code for code in given if f'"{code}"' not in named}, set())


if __name__ == "__main__":
    unittest.main()


class ToldAndMendedTests(unittest.TestCase):
    """What each finding is, over any flows at all."""

    WORLD = WORLD._replace(
        hours={**WORLD.hours, "hours:night": HoursFacts("Nights", False)},
        mailboxes={"mailbox:night": MailboxFacts("Night", True, 0, 60_000)},
        tables={"table:boats": TableFacts("Boats", ("Name", "Port"))},
        agents={"agent:a": "Ana"},
    )

    @settings(max_examples=200)
    @given(random_flows())
    def test_it_is_told_in_whole_sentences_and_its_fix_mends_it(self, flow):
        for finding in check(flow, self.WORLD):
            told = (finding.code, finding.step, finding.exit)
            for words in (finding.message, finding.mend):
                self.assertRegex(words, r"^[“A-Z0-9].*[.?]$", told)
                self.assertNotIn("None", words, told)
            if finding.fix is None:
                continue
            self.assertTrue(bool(finding.fix.patch) != bool(finding.fix.goto), told)
            if finding.fix.patch:
                after = check(patched(flow, finding.fix.patch), self.WORLD)
                self.assertNotIn(told, [(f.code, f.step, f.exit) for f in after])

    def test_the_way_out_of_a_round_is_not_one_that_leads_into_it(self):
        around = {"kind": "say", "id": "around", "prompt": SAY, "next": "around"}
        fax = {"kind": "fax", "id": "fax", "seconds": 1, "fax": "around", "no_fax": "around"}
        flow = load({"start": "fax", "steps": [around, fax]})
        [finding] = [f for f in check(flow, self.WORLD) if f.code == "no-way-out"]
        after = check(patched(flow, finding.fix.patch), self.WORLD)
        self.assertNotIn("no-way-out", [f.code for f in after])


class BoundsTests(unittest.TestCase):
    """Where a finding begins to be one, and what it says there."""

    def test_what_is_always_or_never_so_says_which_way_everybody_takes(self):
        ask = {"kind": "check_queue", "id": "q", "figure": "waiting", "queue": BOOKINGS}
        ways = {"yes": "bye", "no": "bye"}
        for changes, always, way in (
            ({"limit": 0}, "always at least 0", "yes"),
            ({"limit": 0, "how": "less_than"}, "always at least 0", "no"),
            ({"limit": 101, "figure": "service_level"}, "never at least 101", "no"),
        ):
            said = " ".join(f.message for f in whole({**ask, **ways, **changes}))
            self.assertIn(always, said)
            self.assertIn(f"every caller takes the way “{way}”", said)

    def test_the_key_that_a_text_does_not_name_is_put_into_an_english_text_only(self):
        menu = {
            "kind": "menu",
            "id": "m",
            "no_key": "bye",
            "arms": [{"key": "1", "label": "Sales", "next": "bye"}],
        }
        for language, mends in (("en", True), ("cy", False)):
            prompt = {"kind": "text", "language": language, "text": "Hello there."}
            (one,) = [f for f in whole({**menu, "prompt": prompt}) if f.code == "arm-not-named"]
            self.assertEqual(one.fix is not None, mends, language)

    def test_a_key_that_a_text_offers_and_nobody_can_press_is_added_with_what_it_is_for(self):
        menu = {
            "kind": "menu",
            "id": "m",
            "no_key": "bye",
            "arms": [{"key": "1", "label": "Sales", "next": "bye"}],
        }
        for said, label, named in (
            (
                "For sales, press 1. For lost property, press 2.",
                "Add key 2: Lost property",
                "2 for lost property;",
            ),
            ("For sales, press 1. Press 2.", "Add key 2", "offers 2;"),
        ):
            menu["prompt"] = {"kind": "text", "text": said}
            (one,) = [f for f in whole(menu) if f.code == "key-without-arm"]
            self.assertEqual(one.fix.label, label)
            self.assertIn(named, one.message)

    def test_a_choice_is_late_after_twenty_five_seconds(self):
        menu = {"kind": "menu", "id": "m", "no_key": "bye", "arms": [{"key": "1", "next": "bye"}]}
        says = {"kind": "say", "id": "s", "prompt": {"kind": "sound", "sound": "sound:long"}, "next": "m"}
        for length_ms, late in ((25_000, False), (25_001, True)):
            sounds = {"sound:long": SoundFacts("Long", {"en": Spoken("Long.", length_ms)})}
            found = whole(says, {**menu, "prompt": SAY}, world=WORLD._replace(sounds=sounds))
            self.assertEqual("late-choice" in {f.code for f in found}, late, length_ms)

    def test_only_a_waiting_plan_asks_the_queue_that_its_caller_stands_in(self):
        ask = {"kind": "check_queue", "id": "q", "yes": "bye", "no": "bye", "limit": 3}
        self.assertIn(("missing-queue", "q", ""), found(ask))
        self.assertNotIn(("missing-queue", "q", ""), found(ask, purpose="plan"))
        self.assertIn(("missing-queue", "q", ""), found({**ask, "queue": "queue:gone"}, purpose="plan"))

    def test_a_flow_with_its_blocks_may_be_just_so_large(self):
        for laid, large in ((MOST_LAID, False), (MOST_LAID + 1, True)):
            codes = {f.code for f in whole({**SAYS, "next": "bye"}, world=WORLD._replace(laid=laid))}
            self.assertEqual("too-large" in codes, large, laid)

    def test_who_waits_too_long_needs_no_way_where_their_queue_says_what_becomes_of_them(self):
        wait = {"kind": "queue", "id": "w", "queue": BOOKINGS}
        self.assertIn(("default-failure", "w", "waited"), found(wait))
        sends = WORLD._replace(queues={BOOKINGS: WORLD.queues[BOOKINGS]._replace(overflow="mailbox:night")})
        self.assertNotIn(("default-failure", "w", "waited"), found(wait, world=sends))

    def test_a_plan_that_is_gone_is_told_and_so_is_a_flow_that_is_none(self):
        wait = {"kind": "queue", "id": "w", "queue": BOOKINGS, "waited": "bye", "plan": "flow:a"}
        self.assertIn(("missing-plan", "w", ""), found(wait))
        for purpose, in_force, code in (("flow", True, "no-plan"), ("plan", False, "plan-not-in-force")):
            flows = {"flow:a": FlowFacts("Calm", in_force, "voice", purpose=purpose)}
            self.assertIn((code, "w", ""), found(wait, world=WORLD._replace(flows=flows)))
        sound = {"flow:a": FlowFacts("Calm", True, "voice", purpose="plan")}
        self.assertEqual(found(wait, world=WORLD._replace(flows=sound)), set())

    def test_what_has_to_be_mended_elsewhere_is_opened_by_its_reference(self):
        wait = {"kind": "queue", "id": "w", "queue": BOOKINGS, "waited": "bye"}
        queue = WORLD.queues[BOOKINGS]
        for facts, code in (
            (queue._replace(finished=False), "unfinished-queue"),
            (queue._replace(members=0), "empty-queue"),
            (queue._replace(channels=("text",)), "queue-of-another-channel"),
        ):
            fixes = {f.code: f.fix for f in whole(wait, world=WORLD._replace(queues={BOOKINGS: facts}))}
            self.assertIn(code, fixes)
            self.assertEqual(fixes[code].goto, BOOKINGS, code)
        block = {"kind": "block", "id": "b", "flow": "flow:b", "worked": "bye", "not_worked": "bye"}
        flows = {"flow:b": FlowFacts("Welcome", False, "voice", purpose="block")}
        fixes = {f.code: f.fix for f in whole(block, world=WORLD._replace(flows=flows))}
        self.assertEqual(fixes["block-not-in-force"].goto, "flow:b")
