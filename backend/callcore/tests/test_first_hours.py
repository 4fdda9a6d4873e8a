"""Which hours callers meet first."""

import unittest

from callcore.flow.definition import Flow, load
from callcore.flow.first_hours import first_hours
from callcore.tests.flows import OFFICE, main_line, with_hours

INPUT = {"name": "hours", "type": "hours", "label": "Hours", "default": "hours:night"}


def flow(*steps, inputs=()):
    return load({"start": steps[0]["id"], "steps": [*steps], "inputs": [*inputs]})


def asks(hours, **leads):
    return {"kind": "hours", "id": "open", "hours": hours, "open": None, "closed": None, **leads}


def uses(block, name="use", worked="open"):
    return {"kind": "block", "id": name, "flow": block, "worked": worked, "not_worked": worked}


def met(found: Flow, blocks=None, **values):
    hours = first_hours(found, lambda reference, _number: (blocks or {}).get(reference))
    return hours.met(values) if hours else ""


class FirstHoursTests(unittest.TestCase):
    def test_they_are_those_of_the_nearest_stop_that_asks_any(self):
        self.assertEqual(met(with_hours()), OFFICE)
        self.assertEqual(met(main_line()), "")

    def test_a_value_is_what_the_caller_brings_or_its_default(self):
        own = flow(asks("value:hours"), inputs=[INPUT])
        self.assertEqual(met(own, hours="hours:day"), "hours:day")
        self.assertEqual(met(own), "hours:night")

    def test_a_shared_block_on_the_way_is_looked_into(self):
        asking = flow(asks("hours:boats"))
        outer = flow(uses("flow:welcome"), asks("hours:office"))
        self.assertEqual(met(outer, {"flow:welcome": asking}), "hours:boats")
        self.assertEqual(met(outer), "hours:office")
        given = flow(asks("value:hours"), inputs=[INPUT])
        self.assertEqual(met(outer, {"flow:welcome": given}), "hours:office")

    def test_blocks_in_a_circle_come_to_an_end(self):
        many = flow(*(uses("flow:round", f"use-{n}", f"use-{n + 1}") for n in range(40)))
        self.assertEqual(met(many, {"flow:round": many}), "")


if __name__ == "__main__":
    unittest.main()
