"""Findings about forks, look-ups, blocks and other things that stops name; each has its test."""

import ast
import unittest
from pathlib import Path

from callcore.flow.catalogue import FlowFacts, QueueFacts, TableFacts
from callcore.flow.checks import check
from callcore.flow.definition import load
from callcore.tests.flows import BOOKINGS, WORLD

TESTS = Path(__file__).parent
RULES = TESTS.parent / "flow" / "rules"
ALWAYS = {
    "kind": "group",
    "join": "and",
    "parts": [{"kind": "compare", "value": "caller", "how": "given", "other": ""}],
}
MORNING = {"days": [0, 1, 2, 3, 4], "start": 480, "end": 720}
SAY = {"kind": "text", "text": "Hello."}


def found(*steps, world=WORLD, **flow):
    """The codes, with their stop and way, of a flow that begins at its first stop and ends at “bye”."""
    steps = [*steps, {"kind": "end", "id": "bye"}]
    whole = load({"start": steps[0]["id"], "steps": steps, **flow})
    return {(f.code, f.step, f.exit) for f in check(whole, world)}


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
