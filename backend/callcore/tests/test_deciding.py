"""Comparisons, one by one, and periods held against the minutes that they name."""

import unittest
from datetime import UTC, date, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from callcore.flow.conditions import Comparison, Group, complete, holds, values_of, words
from callcore.flow.periods import DAY_MINUTES, Period, overlap

_MONDAY = date(2027, 3, 1)
_BEFORE = datetime(2027, 2, 22, tzinfo=UTC)
_FORTNIGHT = [_MONDAY + timedelta(days=n) for n in range(14)]

_hours = st.integers(0, 23).map(lambda hour: hour * 60)
_days = st.sets(st.integers(0, 6), max_size=7).map(lambda days: tuple(sorted(days)))
_dates = st.none() | st.sampled_from(_FORTNIGHT)


@st.composite
def periods(draw):
    start = draw(_hours)
    end = draw(st.integers(1, 24).map(lambda hour: hour * 60).filter(lambda minute: minute != start))
    first, last = draw(_dates), draw(_dates)
    if first and last and last < first:
        first, last = last, first
    return Period(days=draw(_days), start=start, end=end, first=first, last=last)


def begins_on(period: Period, day: date) -> bool:
    """Whether a period has one of its days then."""
    dated = (period.first is None or period.first <= day) and (period.last is None or day <= period.last)
    return dated and day.weekday() in period.days


def covers(period: Period, local: datetime) -> bool:
    """What a period says, in other words: from its start, so many minutes."""
    lasts = (period.end - period.start) % DAY_MINUTES or DAY_MINUTES
    for ago in (0, 1):
        day = local.date() - timedelta(days=ago)
        since = (local.hour * 60 + local.minute) + ago * DAY_MINUTES - period.start
        if begins_on(period, day) and 0 <= since < lasts:
            return True
    return False


class PeriodTests(unittest.TestCase):
    @given(periods(), st.integers(0, 20 * 24 * 60).map(lambda minute: _BEFORE + timedelta(minutes=minute)))
    def test_a_period_holds_from_its_start_to_its_end_over_midnight_too(self, period, local):
        self.assertEqual(period.holds(local), covers(period, local))

    @given(st.lists(periods(), max_size=2), st.lists(periods(), max_size=2))
    def test_two_overlap_where_some_hour_is_in_both(self, one, other):
        # A week more on both sides: dates lie within the fortnight, weekdays come again.
        hours = [_BEFORE + timedelta(hours=hour) for hour in range(24 * 28)]
        both = any(any(p.holds(hour) for p in one) and any(p.holds(hour) for p in other) for hour in hours)
        self.assertEqual(overlap(one, other), both)

    def test_what_is_no_period_is_refused(self):
        for changes, why in (
            ({"start": 60, "end": 60}, "ends at another minute"),
            ({"first": date(2027, 3, 2), "last": _MONDAY}, "last date is before"),
        ):
            with self.subTest(why), self.assertRaisesRegex(ValidationError, why):
                Period(**changes)


class ComparisonTests(unittest.TestCase):
    def test_each_way_of_comparing(self):
        for how, other, true_of, false_of in (
            ("is", "Ann ", ["ann", "ANN", " Ann"], ["Anna", None, ""]),
            ("is", True, [True, "yes"], [False, "no", None]),
            ("is", 7, [7, "7"], [8, "07"]),
            ("is_not", "ann", ["Bea", None, ""], ["Ann"]),
            ("begins_with", "+44", ["+441632", "+44"], ["441632", None]),
            ("contains", "an", ["Susan", "AN"], ["Bob", None]),
            ("more_than", "9", [10, "10", "99"], [9, "9", "ten", None, ""]),
            ("less_than", 9, [8, "-1"], [9, "9", "one", None]),
            ("more_than", "many", [], [5, "5"]),
            ("given", None, ["x", 0, False], [None, ""]),
            ("not_given", None, [None, ""], ["x", 0, False]),
        ):
            one = Comparison(value="v", how=how, other=other)
            for value in true_of:
                with self.subTest(how, other=other, value=value):
                    self.assertTrue(holds(one, {"v": value}))
            for value in false_of:
                with self.subTest(how, other=other, value=value):
                    self.assertFalse(holds(one, {"v": value}))
            self.assertEqual(holds(one, {}), how in ("is_not", "not_given"), how)

    def test_groups_join_them_and_an_empty_one_never_holds(self):
        big = Comparison(value="party", how="more_than", other=9)
        paid = Comparison(value="paid", how="is", other=True)
        both = Group(join="and", parts=(big, paid))
        either = Group(join="or", parts=(big, paid, Group()))
        for party, is_paid, all_of, one_of in (
            (10, True, True, True),
            (10, False, False, True),
            (9, True, False, True),
            (9, False, False, False),
        ):
            values = {"party": party, "paid": is_paid}
            self.assertEqual((holds(both, values), holds(either, values)), (all_of, one_of), values)
        self.assertFalse(holds(Group(join="or"), {}))
        self.assertEqual(values_of(either), {"party", "paid"})
        self.assertTrue(complete(both))
        self.assertFalse(complete(either), "an empty group compares nothing")
        self.assertFalse(complete(big.model_copy(update={"other": ""})))

    def test_they_are_told_in_words(self):
        big = Comparison(value="party", how="more_than", other=9)
        paid = Comparison(value="paid", how="is", other=True)
        nested = Group(join="or", parts=(Group(parts=(big, paid)), Comparison(value="vip", how="given")))
        self.assertEqual(words(nested), "(party is more than 9 and paid is yes) or vip is given")
        self.assertEqual(words(Group()), "no condition yet")
        self.assertEqual(words(Comparison(value="a", how="contains")), "a contains …")
