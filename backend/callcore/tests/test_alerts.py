"""Alerts: when a rule holds, and what comes of it over time."""

import unittest
from datetime import UTC, datetime

from callcore.measures.alerts import OVER_MS, AlertRule, Watch, said

BEHIND = AlertRule("r", "Behind", "waiting", "q", True, 4, 60_000)
NIGHT = BEHIND._replace(weekdays=(4,), from_min=22 * 60, until_min=6 * 60)


class AlertTests(unittest.TestCase):
    def test_a_limit_itself_is_still_well_and_no_figure_is_no_alert(self):
        low = BEHIND._replace(above=False)
        self.assertEqual([BEHIND.holds(v) for v in (None, 4, 4.5)], [False, False, True])
        self.assertEqual([low.holds(v) for v in (None, 4, 3.5)], [False, False, True])

    def test_it_counts_in_its_hours_over_midnight_too(self):
        friday = datetime(2026, 11, 27, tzinfo=UTC)
        self.assertTrue(BEHIND.counts_at(friday))
        at = {hour: NIGHT.counts_at(friday.replace(hour=hour)) for hour in (5, 6, 21, 22)}
        self.assertEqual(at, {5: True, 6: False, 21: False, 22: True})
        self.assertFalse(NIGHT.counts_at(friday.replace(day=28, hour=23)))
        day = NIGHT._replace(from_min=8 * 60, until_min=18 * 60)
        at = {hour: day.counts_at(friday.replace(hour=hour)) for hour in (7, 8, 17, 18)}
        self.assertEqual(at, {7: False, 8: True, 17: True, 18: False})
        always = NIGHT._replace(until_min=22 * 60)
        self.assertTrue(all(always.counts_at(friday.replace(hour=hour)) for hour in range(24)))
        quarter = NIGHT._replace(from_min=8 * 60 + 15, until_min=8 * 60 + 45)
        at = {minute: quarter.counts_at(friday.replace(hour=8, minute=minute)) for minute in (14, 15, 44, 45)}
        self.assertEqual(at, {14: False, 15: True, 44: True, 45: False})
        for half in ({"from_min": None}, {"until_min": None}):
            self.assertTrue(NIGHT._replace(**half).counts_at(friday.replace(hour=12)), half)

    def test_it_arises_after_its_time_and_wavering_is_one_alert(self):
        watch, stands, told = Watch(), False, []
        moments = [
            (0, True),
            (59_999, True),
            (60_000, True),
            (61_000, False),
            (61_000 + OVER_MS - 1, False),
            (121_500, True),
            (130_000, False),
            (130_000 + OVER_MS, False),
        ]
        for now_ms, holds in moments:
            stands = watch.look(BEHIND, holds, stands, now_ms)
            told.append(stands)
        self.assertEqual(told, [False, False, True, True, True, True, True, False])

    def test_it_says_what_it_found_and_against_what(self):
        self.assertEqual(said(BEHIND, 9), "9 waiting, more than 4")
        level = BEHIND._replace(figure="level", above=False, value=80)
        self.assertEqual(said(level, 72.25), "service level today 72.2 %, less than 80 %")
        longest = BEHIND._replace(figure="longest", value=60)
        self.assertEqual(said(longest, 252), "the longest wait is 4:12, more than 1:00")
