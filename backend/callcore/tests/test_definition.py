import json
import unittest

from callcore.errors import DefinitionError
from callcore.flow.definition import dump, json_schema, load
from callcore.flow.steps import STEP_KINDS
from callcore.tests.flows import main_line


class DefinitionTests(unittest.TestCase):
    def test_dump_and_load_give_the_same_flow(self):
        flow = main_line()
        self.assertEqual(load(json.loads(json.dumps(dump(flow)))), flow)

    def test_schema_names_every_kind_of_step(self):
        kinds = json_schema()["properties"]["steps"]["items"]["discriminator"]["mapping"]
        self.assertEqual(sorted(kinds), sorted(STEP_KINDS))

    def test_bad_definitions_are_refused_in_words(self):
        cases = [
            ({"steps": [{"kind": "teleport", "id": "a"}]}, "Step 1: 'teleport' is not a kind"),
            (
                {"steps": [{"kind": "queue", "id": "a", "queue": "sound:1"}]},
                "Step 1, queue: this refers to a sound, where a queue is needed",
            ),
            (
                {"steps": [{"kind": "say", "id": "a", "prompt": {"kind": "text", "text": "x" * 2001}}]},
                "the text is longer than 2000 characters",
            ),
            (
                {"steps": [{"kind": "menu", "id": "a", "arms": [{"key": "1"}, {"key": "1"}]}]},
                "key 1 stands twice",
            ),
            ({"steps": [{"kind": "end", "id": "a"}, {"kind": "end", "id": "a"}]}, "two steps are"),
            ({"steps": [{"kind": "end", "id": "a", "colour": "red"}]}, "no such setting"),
            ({"steps": [{"id": "a"}]}, "its kind is missing"),
            ("not a flow", "The flow: "),
            (None, "The flow: "),
        ]
        for data, words in cases:
            with self.subTest(words=words), self.assertRaises(DefinitionError) as caught:
                load(data)
            self.assertIn(words, str(caught.exception))
