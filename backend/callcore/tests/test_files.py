import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore.errors import DefinitionError
from callcore.flow import flow_file, scxml, voicexml
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import End, Flow, Ring, Say, SpokenText, WaitInQueue
from callcore.flow.flow_file import FlowFile, QueueThing, SoundThing, with_references
from callcore.flow.xml_names import NAME
from callcore.lookups.table import Column, NotATable, guarded, read, unguarded
from callcore.tests.flows import BOOKINGS, WORLD, main_line, with_hours, with_step
from callcore.tests.machine_files import SCXML, VXML
from callcore.tests.machine_files import read as read_file
from callcore.tests.random_flows import random_flows


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
        things = (
            QueueThing(ref=BOOKINGS, name="Bookings"),
            SoundThing(ref="sound:s", name="Hello", content={"recordings": []}),
        )
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
            None,
            [],
            {},
            {"format": "other"},
            {**good, "version": 2},
            {**good, "definition": {"x": 1}},
            {**good, "things": [{"kind": "ship", "ref": "ship:1", "name": "Ship"}]},
            {**good, "things": [{"kind": "table", "ref": "table:1", "name": "T", "content": {}}]},
            {
                **good,
                "things": [
                    {
                        "kind": "hours",
                        "ref": "hours:1",
                        "name": "H",
                        "content": {"time_zone": "Mars/Base", "week": []},
                    }
                ],
            },
        ]
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
    @given(random_flows(), st.text(max_size=8))
    def test_scxml_names_every_stop_once_and_every_target_is_there(self, flow, name):
        root, ids = read_file(self, SCXML, scxml.write(flow, name, Catalogue()))
        targets = {t.get("target") for t in root.iter(f"{SCXML}transition")}
        self.assertLessEqual(targets | {root.get("initial")}, ids)
        self.assertRegex(root.get("name"), NAME)
        for log in root.iter(f"{SCXML}log"):
            json.loads(log.get("expr"))

    @given(random_flows())
    def test_voicexml_leads_only_to_dialogs_that_are_there_and_begins_where_the_flow_does(self, flow):
        root, ids = read_file(self, VXML, voicexml.write(flow, Catalogue()))
        used = {goto.get("next").removeprefix("#") for goto in root.iter(f"{VXML}goto")}
        self.assertLessEqual(used, ids)
        declared = {v.get("name") for v in root.findall(f"{VXML}var")}
        spoken = {v.get("expr") for v in root.iter(f"{VXML}value")}
        self.assertLessEqual(spoken, declared)
        first = root.find(f"{VXML}form").get("id")
        self.assertEqual(first, flow.start if flow.start in ids else "failure-rule")

    def test_ids_are_names_each_once_and_texts_whole_without_control_characters(self):
        long = "Press 1. " * 20 + "\x0bEnd\x00 & <more>"
        flow = Flow(
            start="1st",
            steps=(
                Say(id="1st", prompt=SpokenText(text=long), next="stop-1st"),
                WaitInQueue(id="stop-1st", queue=BOOKINGS),
                End(id="failure-rule"),
                End(id="stop-1st-answered"),
            ),
        )
        root, ids = read_file(self, SCXML, scxml.write(flow, "\x01", WORLD))
        self.assertEqual(len(ids), 6)
        said = json.loads(root.find(f"{SCXML}state/{SCXML}onentry/{SCXML}log").get("expr"))
        self.assertIn("Press 1. " * 20 + "End & <more>", said)
        root, ids = read_file(self, VXML, voicexml.write(flow, WORLD))
        self.assertEqual(len(ids), 5)
        self.assertIn("End & <more>", "".join(root.find(f"{VXML}form").itertext()))

    def menu(self, **changes):
        """The keys of a menu, and when its silences and wrong keys are one too many."""
        flow = with_step(main_line(), "menu", **changes)
        root, _ = read_file(self, VXML, voicexml.write(flow, WORLD))
        field = root.find(f"{VXML}form/{VXML}field[@name='pressed']")
        over = []
        for event in ("noinput", "nomatch"):
            (caught,) = field.findall(f"{VXML}{event}")
            found = caught.find(f"{VXML}if")
            over.append("" if found is None else found.get("cond"))
        return [o.get("dtmf") for o in field.findall(f"{VXML}option")], *over

    def test_a_menu_counts_silence_and_wrong_keys_as_the_engine_does(self):
        keys, silent, wrong = self.menu(tries=1)
        self.assertEqual(keys, ["1", "2"])
        self.assertEqual((silent, wrong), ("silences + wrong >= 1",) * 2)
        self.assertEqual(self.menu(tries=3, wrong_tries=2)[1:], ("silences >= 3", "wrong >= 2"))
        self.assertEqual(self.menu(tries=None, wrong_tries=0)[1:], ("", ""))

    def test_values_are_spoken_and_not_their_braces(self):
        prompt = SpokenText(text="Boat {boat}, order {order:digits}, from {dialled}.")
        flow = Flow(start="a", steps=(Say(id="a", prompt=prompt),))
        root, _ = read_file(self, VXML, voicexml.write(flow, WORLD))
        said = root.find(f".//{VXML}prompt")
        self.assertEqual("|".join(said.itertext()), "Boat |, order |, from |.")
        self.assertEqual(
            [v.get("expr") for v in said.iter(f"{VXML}value")], ["value_boat", "value_order", "value_dialled"]
        )
        self.assertEqual(said.find(f"{VXML}say-as").get("interpret-as"), "vxml:digits")
