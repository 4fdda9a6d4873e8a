"""Times, figures and numbers as people read them."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore import wording
from callcore.measures.catalogue import PARTS, QUEUE_MEASURES
from callcore.measures.rows import LONGEST, QueueRow
from callcore.measures.sums import SUMS
from callcore.numbers import writing
from callcore.numbers.writing import NotANumber, national, read

ZONE = "Europe/London"
#: 14 July 2026, 08:52 in London.
JULY = 1_784_015_520_000


class WordingTests(unittest.TestCase):
    def test_lengths_are_rounded_to_the_second_and_hours_only_told_where_there_are_any(self):
        for ms, words in (
            (0, "0:00"),
            (499, "0:00"),
            (47_400, "0:47"),
            (59_600, "1:00"),
            (252_000, "4:12"),
            (3_599_600, "1:00:00"),
            (3_852_000, "1:04:12"),
        ):
            self.assertEqual(wording.length(ms), words)

    def test_shares_and_moments(self):
        self.assertEqual(wording.share(0.8134), "81.3 %")
        self.assertEqual(wording.share(1), "100.0 %")
        self.assertEqual(wording.day(JULY, ZONE), "Tue 14 Jul")
        self.assertEqual(wording.day(JULY, ZONE, year=True), "Tue 14 Jul 2026")
        self.assertEqual(wording.moment(JULY, ZONE), "Tue 14 Jul, 08:52")
        self.assertEqual(wording.moment(JULY, "Asia/Tokyo"), "Tue 14 Jul, 16:52")


class NumberTests(unittest.TestCase):
    def test_numbers_are_read_in_any_usual_writing(self):
        for typed in ("01632 960111", "(01632) 960-111", "+44 1632 960111", "0044 1632 960111"):
            self.assertEqual(read(typed, "GB"), "+441632960111", typed)
        self.assertEqual(read("030 123456", "DE"), "+4930123456")

    def test_what_is_no_number_is_refused_in_words(self):
        for typed, words in (
            ("", "not a telephone number"),
            ("Ann", "not a telephone number"),
            ("01632 960111 ext. 5", "Leave out the extension"),
            ("016", "too few or too many digits"),
            ("01632 960111 960", "too few or too many digits"),
            ("01632 960111 960111 96", "not a telephone number"),
            ("+44 1111 111111", "in no range"),
        ):
            with self.subTest(typed), self.assertRaisesRegex(NotANumber, words):
                read(typed, "GB")

    def test_numbers_are_written_as_people_of_the_region_write_them(self):
        self.assertEqual(national("+441632960111", "GB"), "01632 960111")
        self.assertEqual(national("+441632960111", "FR"), "+44 1632 960111")
        self.assertEqual(national("4101", "GB"), "4101")

    def test_ranges_for_fiction_are_known(self):
        self.assertTrue(all(map(writing.fictional, ("+442079460999", "+447700900000", "+448081570123"))))
        self.assertFalse(any(map(writing.fictional, ("+442079450999", "+4477009000000", "01632960111"))))


def _row(count: int) -> QueueRow:
    return QueueRow(**dict.fromkeys(PARTS, count))


class MeasureTests(unittest.TestCase):
    def test_a_measure_is_its_formula(self):
        row = QueueRow(
            offered=12,
            answered=8,
            abandoned=2,
            messages=2,
            answered_late=1,
            abandoned_late=1,
            short_abandons=1,
            wait_answered_ms=80_000,
            longest_answered_ms=30_000,
            legs=4,
            talk_ms=400_000,
        )
        for key, value in (
            ("offered", 12),
            ("level_A", 8 / 10),
            ("level_B", 7 / 8),
            ("level_C", 7 / 12),
            ("level_D", 7 / 11),
            ("wait_total", 80_000),
        ):
            with self.subTest(key):
                self.assertAlmostEqual(QUEUE_MEASURES[key].value(row), value)

    def test_sums_of_agents_say_their_formula_and_wrap_only_what_is_divided(self):
        said = {one.key: one.formula("agents") for one in SUMS["agents"].values()}
        self.assertIn("(talk + hold + wrap-up) ÷ parts of contacts", said.values())
        for key, one in SUMS["agents"].items():
            wrapped = (bool(one.under) and len(one.over) > 1) + (len(one.under) > 1)
            self.assertEqual(said[key].count("("), wrapped, key)

    def test_of_nobody_no_mean_and_no_longest_is_told(self):
        for key, measure in QUEUE_MEASURES.items():
            with self.subTest(key):
                value = measure.value(QueueRow())
                self.assertEqual(value, 0 if measure.adds == "sum" else None)

    @given(st.integers(1, 1000))
    def test_how_a_measure_is_totalled_is_how_its_rows_add_up(self, count):
        for key, measure in QUEUE_MEASURES.items():
            once, twice = measure.value(_row(count)), measure.value(_row(2 * count))
            self.assertEqual(twice, once if measure.adds == "parts" else 2 * once, key)
            if measure.adds == "longest":
                self.assertIn(measure.over[0].column, LONGEST, key)
