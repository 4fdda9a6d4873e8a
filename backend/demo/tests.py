"""The demo's flows, written for other machines."""

from django.test import SimpleTestCase

from callcore.flow import scxml, voicexml
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import load
from callcore.tests.machine_files import SCXML, VXML, read
from demo import around_queues, definitions, other_lines


class Names(dict):
    """A reference of the right kind for every name in the scenario."""

    def __missing__(self, name):
        kinds = {
            "mailbox": "mailbox:m",
            "Office": "group:g",
            "words": "sound:s",
            "hours": "flow:f",
            "Welcome": "flow:w",
        }
        found = next((ref for word, ref in kinds.items() if word in name), "queue:q")
        return {"hours": "hours:h", "storm": "hours:s"}.get(name, found)


class FileTests(SimpleTestCase):
    def test_every_flow_of_the_demo_is_a_sound_document_of_both_standards(self):
        refs = Names()
        made = [
            definitions.main_line(refs),
            definitions.after_hours(refs),
            definitions.lost_property("queue:q"),
            definitions.port_desk(),
            other_lines.booking_check("table:t"),
            other_lines.inside_line(refs),
            other_lines.group_travel(refs, "flow:b"),
            definitions.welcome(refs, "sound:s", "sound:w"),
            other_lines.text_line(refs),
            around_queues.after_the_call(),
            around_queues.while_waiting("mailbox:m"),
        ]
        for definition in made:
            flow = load(definition)
            with self.subTest(flow.start):
                _, ids = read(self, SCXML, scxml.write(flow, "A flow", Catalogue()))
                self.assertLess(len(flow.steps), len(ids))
                if flow.channel == "voice":
                    _, ids = read(self, VXML, voicexml.write(flow, Catalogue()))
                    self.assertEqual(len(ids), len(flow.steps) + 1)
