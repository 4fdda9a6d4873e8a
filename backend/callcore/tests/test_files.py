import json
import unittest
from xml.etree import ElementTree as Xml

from hypothesis import given
from hypothesis import strategies as st

from callcore.errors import DefinitionError
from callcore.flow import flow_file, scxml, voicexml
from callcore.flow.definition import Flow, Ring
from callcore.flow.flow_file import FlowFile, QueueThing, SoundThing, with_references
from callcore.flow.world import World
from callcore.lookups.table import Column, NotATable, guarded, read, unguarded
from callcore.tests.flows import BOOKINGS, WORLD, main_line, with_hours, with_step
from callcore.tests.random_flows import random_flows

SCXML, VXML = f"{{{scxml.NAMESPACE}}}", f"{{{voicexml.NAMESPACE}}}"


class GuardedCellTests(unittest.TestCase):
    @given(st.text(max_size=12))
    def test_a_cell_is_never_a_formula_and_comes_back_unchanged(self, cell):
        self.assertFalse(guarded(cell).startswith(tuple("=+-@\t\r\n")))
        self.assertEqual(unguarded(guarded(cell)), cell)

    def test_a_broken_head_is_refused_in_words(self):
        with self.assertRaisesRegex(NotATable, "no CSV"):
            read([Column("Name", "text")], b'"Name\nAnn')


class FlowFileTests(unittest.TestCase):
    def file(self, flow=None):
        things = (QueueThing(ref=BOOKINGS, name="Bookings"),
                  SoundThing(ref="sound:s", name="Hello", content={"recordings": []}))  # fmt: skip
        return FlowFile(name="Main line", definition=flow or main_line(), things=things)

    def test_what_is_written_is_read_back_the_same(self):
        data = json.loads(json.dumps(flow_file.write(self.file(with_hours()))))
        self.assertEqual(flow_file.read(data), self.file(with_hours()))

    @given(random_flows())
    def test_any_flow_comes_back_the_same(self, flow):
        data = json.loads(json.dumps(flow_file.write(self.file(flow))))
        self.assertEqual(flow_file.read(data).definition, flow)

    def test_what_is_no_file_is_refused_in_words(self):
        good = flow_file.write(self.file())
        bad = [
            None, [], {}, {"format": "other"}, {**good, "version": 2},
            {**good, "definition": {"x": 1}},
            {**good, "things": [{"kind": "ship", "ref": "ship:1", "name": "Ship"}]},
            {**good, "things": [{"kind": "table", "ref": "table:1", "name": "T", "content": {}}]},
            {**good, "things": [{"kind": "hours", "ref": "hours:1", "name": "H",
                                 "content": {"time_zone": "Mars/Base", "week": []}}]},
        ]  # fmt: skip
        for data in bad:
            with self.subTest(str(data)[:40]), self.assertRaises(DefinitionError):
                flow_file.read(data)

    def test_references_are_exchanged_and_people_who_are_missing_left_out(self):
        flow = with_references(main_line(), {BOOKINGS: "queue:new"})
        self.assertEqual(flow.steps[2].queue, "queue:new")
        ring = Flow(start="r", steps=(Ring(id="r", people=("agent:a", "agent:b")),))
        left = with_references(ring, {"agent:a": None, "agent:b": "agent:c"})
        self.assertEqual(left.steps[0].people, ("agent:c",))


class MachineFileTests(unittest.TestCase):
    @given(random_flows())
    def test_scxml_names_every_stop_once_and_every_target_is_there(self, flow):
        root = Xml.fromstring(scxml.write(flow, "A & B", World()))
        ids = [e.get("id") for e in root if e.tag in (f"{SCXML}state", f"{SCXML}final")]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertLessEqual({s.id for s in flow.steps}, set(ids))
        targets = {t.get("target") for t in root.iter(f"{SCXML}transition")}
        self.assertLessEqual(targets | {root.get("initial")}, set(ids))

    @given(random_flows())
    def test_voicexml_leads_only_to_dialogs_that_are_there(self, flow):
        root = Xml.fromstring(voicexml.write(flow, World()))
        ids = {e.get("id") for e in root}
        used = [g.get("next") for g in [*root.iter(f"{VXML}goto"), *root.iter(f"{VXML}choice")]]
        self.assertLessEqual({n.removeprefix("#") for n in used}, ids)
        if flow.start in {s.id for s in flow.steps}:
            self.assertEqual(root[0].get("id"), flow.start)

    def test_a_menu_becomes_a_menu_of_keys(self):
        flow = with_step(main_line(), "menu", tries=2)
        root = Xml.fromstring(voicexml.write(flow, WORLD))
        menu = root.find(f"{VXML}menu")
        keys = [(c.get("dtmf"), c.get("next")) for c in menu.findall(f"{VXML}choice")]
        self.assertEqual(keys, [("1", "#wait"), ("2", "#bye")])
        self.assertEqual(menu.findall(f"{VXML}noinput")[1].get("count"), "2")
