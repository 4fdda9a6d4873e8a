"""What nothing has happened to yet: nothing is counted, nobody waits, and nobody is there."""

import unittest
from dataclasses import astuple, fields

from hypothesis import given
from hypothesis import strategies as st

from callcore.measures.account import Account
from callcore.measures.activity import MINUTES, Activity
from callcore.measures.figures import Figures
from callcore.measures.rows import LONGEST, QueueRow, total
from callcore.measures.summary import Summary
from callcore.measures.tallies import Amount, Steps
from callcore.routing.choosing import Agent, Waiting
from callcore.routing.router import Router
from callcore.waiting.estimate import Line

_NAMES = [field.name for field in fields(QueueRow)]
_rows = st.builds(QueueRow, **{name: st.integers(0, 10**6) for name in _NAMES})


class BeginningTests(unittest.TestCase):
    def test_no_field_says_anything(self):
        for thing in (QueueRow(), Summary(), Account(), Amount(), Steps()):
            for field in fields(thing):
                with self.subTest(type(thing).__name__, field=field.name):
                    self.assertFalse(getattr(thing, field.name))
        agent = Agent("ann")
        self.assertEqual([f.name for f in fields(agent) if getattr(agent, f.name)], ["id", "status"])
        waiting = Waiting("c", "q", 7, 1)
        told = [f.name for f in fields(waiting) if getattr(waiting, f.name)]
        self.assertEqual(told, ["id", "queue", "entered_ms", "sequence"])

    def test_what_is_folded_is_empty(self):
        figures, router = Figures(), Router()
        self.assertEqual((figures.arrived, figures.ended, figures.legs, figures.coded), (0, 0, 0, 0))
        self.assertEqual(figures.centre_total(), QueueRow())
        self.assertEqual((router.agents, router.contacts, router.handled), ({}, {}, {}))
        self.assertEqual(router.own_data(), {"sequence": 0, "ranks": 0, "last_chosen": {}})
        self.assertEqual({tuple(line) for line in Activity().lines(0).values()}, {(0,) * MINUTES})
        self.assertEqual(Line().all(0, 0.0, 3, 0), {"head": 0.0})


class RowTests(unittest.TestCase):
    @given(st.lists(_rows, max_size=4))
    def test_rows_add_up_and_of_the_longest_the_longest_stays(self, rows):
        whole = total(rows)
        for name in _NAMES:
            values = [getattr(row, name) for row in rows]
            expected = max(values, default=0) if name in LONGEST else sum(values)
            self.assertEqual(getattr(whole, name), expected, name)

    @given(_rows, _rows)
    def test_adding_changes_only_what_is_added_to(self, one, two):
        before = astuple(two)
        one.add(two)
        self.assertEqual(astuple(two), before)
