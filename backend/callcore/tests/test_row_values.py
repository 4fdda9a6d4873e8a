"""What a looked-up row, a ring group and hold music are to a flow and its checker."""

import unittest

from callcore.errors import DefinitionError
from callcore.flow.catalogue import Catalogue, GroupFacts, QueueFacts, SoundFacts, Spoken, TableFacts
from callcore.flow.checks import blocking, check
from callcore.flow.definition import End, Flow, Lookup, Music, Ring, WaitInQueue
from callcore.flow.runner import JoinQueue, Looked, Machine, RingPerson
from callcore.flow.steps.away import Taken
from callcore.flow.trial_setup import Pretend, pretended_rows

TABLE = TableFacts("Customers", ("Ref", "Desk", "Who"), ("text", "queue", "agent"))
WORLD = Catalogue(tables={"table:t": TABLE}, queues={"queue:q": QueueFacts("Freight", True, 2, 60)})
ROW = {"Ref": "A1", "Desk": "queue:q", "Who": "agent:ann"}


def flow(last, column="Desk"):
    look = Lookup(
        id="look",
        table="table:t",
        key="caller",
        found=last.id,
        not_found="end",
        failed="end",
        take=(Taken(column=column, into="named"),),
    )
    return Flow(start="look", steps=(look, last, End(id="end")))


class RowValueTests(unittest.TestCase):
    QUEUE = WaitInQueue(id="wait", queue="value:named", waited="end")
    RING = Ring(id="ring", people=("value:named",), no_answer="end", busy="end", failed="end")

    def looked(self, flow, row):
        machine = Machine(flow, lambda _: 0)
        state, _ = machine.start(0, {"caller": "+441632960111"})
        state, effects = machine.resume(state, Looked(row), 10)
        return effects[-1], state

    def test_a_row_names_the_queue_or_the_person(self):
        last, _ = self.looked(flow(self.QUEUE), ROW)
        self.assertEqual(last, JoinQueue("wait", "queue:q"))
        last, _ = self.looked(flow(self.RING, "Who"), ROW)
        self.assertIsInstance(last, RingPerson)
        self.assertEqual(last.people, ("agent:ann",))
        _, state = self.looked(flow(self.RING, "Who"), {**ROW, "Who": None})
        self.assertEqual(state.step, "end", "nobody is named: the exit for that is taken")

    def test_a_trial_names_things_as_a_table_does(self):
        setup = Pretend(rows={"table:t": {"Ref": "A1", "Desk": "freight", "Who": ""}})
        rows = pretended_rows(setup, WORLD)
        self.assertEqual(rows["table:t"], {"Ref": "A1", "Desk": "queue:q", "Who": None})
        with self.assertRaisesRegex(DefinitionError, "there is no queue"):
            pretended_rows(Pretend(rows={"table:t": {"Desk": "Nowhere"}}), WORLD)

    def test_the_checker_knows_what_a_column_holds(self):
        self.assertEqual(blocking(check(flow(self.QUEUE), WORLD)), [])
        self.assertEqual(blocking(check(flow(self.RING, "Who"), WORLD)), [])
        for last, column in ((self.QUEUE, "Who"), (self.RING, "Desk"), (self.QUEUE, "Ref")):
            with self.subTest(last.kind, column=column):
                codes = [f.code for f in blocking(check(flow(last, column), WORLD))]
                self.assertEqual(codes, ["wrong-type"])


class GroupAndMusicTests(unittest.TestCase):
    """What the checker says of ring groups and of hold music."""

    def codes(self, step, **catalogue):
        checked = Flow(start=step.id, steps=(step, End(id="end")), music=catalogue.pop("music", None))
        return {f.code for f in check(checked, Catalogue(**catalogue))}

    def test_a_group_must_be_there_have_people_and_stand_alone(self):
        exits = {"no_answer": "end", "busy": "end", "failed": "end"}
        ring = Ring(id="ring", group="group:g", **exits)
        groups = {"group:g": GroupFacts("Harbour", 2, 30)}
        self.assertEqual(self.codes(ring, groups=groups), set())
        self.assertIn("missing-group", self.codes(ring))
        empty = {"group:g": GroupFacts("Harbour", 0, 30)}
        self.assertIn("empty-group", self.codes(ring, groups=empty))
        both = Ring(id="ring", group="group:g", number="+441632960111", **exits)
        self.assertIn("people-and-number", self.codes(both, groups=groups))
        alone = Ring(id="ring", group="group:g", failed="end")
        taken = {"group:g": GroupFacts("Harbour", 2, 30, "mailbox:m")}
        self.assertIn("default-failure", self.codes(alone, groups=groups))
        self.assertNotIn("default-failure", self.codes(alone, groups=taken))

    def test_hold_music_that_is_gone_is_said_at_its_place(self):
        music = Music(id="music", sound="sound:s", next="end")
        self.assertIn("missing-music", self.codes(music))
        there = {"sound:s": SoundFacts("Tide", {"en": Spoken("", 9_000)})}
        self.assertNotIn("missing-music", self.codes(music, sounds=there))
        self.assertIn("missing-music", self.codes(Music(id="m", next="end"), music="sound:gone"))
