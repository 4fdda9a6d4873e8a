import unittest
from datetime import UTC, datetime, timedelta

from callcore.numbers.plan import Applies, Planned, applies

MARCH = datetime(2027, 3, 1, 6, tzinfo=UTC)
MAY = datetime(2027, 5, 1, 6, tzinfo=UTC)
PLANNED = [Planned(MAY, "summer"), Planned(MARCH, "spring")]


class NumberPlanTests(unittest.TestCase):
    def test_the_change_that_was_due_last_counts(self):
        moment = timedelta(milliseconds=1)
        cases = {
            MARCH - moment: Applies("winter", None, PLANNED[1]),
            MARCH: Applies("spring", MARCH, PLANNED[0]),
            MAY - moment: Applies("spring", MARCH, PLANNED[0]),
            MAY: Applies("summer", MAY, None),
        }
        for when, expected in cases.items():
            with self.subTest(when):
                self.assertEqual(applies("winter", PLANNED, when), expected)

    def test_a_number_without_changes_does_what_it_says(self):
        self.assertEqual(applies("winter", [], MAY), Applies("winter", None, None))
