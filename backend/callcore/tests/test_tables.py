"""Lookup tables: cells by their types, and files of which every bad line is named."""

import csv
import io
import unittest
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from callcore.lookups import table
from callcore.lookups.table import Column, NotATable, cell, guarded, read, row, shown, unguarded

COLUMNS = (Column("Ref", "text"), Column("Cars", "number"), Column("Paid", "yes_no"), Column("Sails", "date"))
HEAD = "Ref,Cars,Paid,Sails\n"
DESKS = {"freight": "queue:q1"}

_texts = st.text(
    st.characters(codec="utf-8", exclude_characters="\x00\r\n", exclude_categories=["Cs"]), max_size=30
)
_rows = st.tuples(
    st.uuids().map(str),
    st.none() | st.integers(-table.LARGEST, table.LARGEST),
    st.none() | st.booleans(),
    st.none() | st.dates().map(lambda day: day.isoformat()),
)


def find(kind: str, typed: str) -> str | None:
    return DESKS.get(typed.casefold()) if kind == "queue" else None


def taken(text: str | bytes, **more):
    return read(COLUMNS, text.encode() if isinstance(text, str) else text, **more)


class CellTests(unittest.TestCase):
    def test_what_is_typed_is_kept_as_its_column_has_it(self):
        for kind, typed, kept in (
            ("text", "  AB 1 ", "AB 1"),
            ("text", "   ", None),
            ("text", None, None),
            ("text", 12, "12"),
            ("number", "-0042", -42),
            ("number", str(table.LARGEST), table.LARGEST),
            ("yes_no", "YES", True),
            ("yes_no", "1", True),
            ("yes_no", "False", False),
            ("yes_no", False, False),
            ("date", "2027-02-28", "2027-02-28"),
            ("queue", "Freight", "queue:q1"),
        ):
            with self.subTest(kind, typed=typed):
                self.assertEqual(cell(kind, typed, find), kept)

    def test_what_does_not_fit_is_refused_in_words(self):
        for kind, typed, words in (
            ("text", "x" * 201, "longer than 200"),
            ("number", "1.5", "not a whole number"),
            ("number", "--1", "not a whole number"),
            ("number", "٣", "not a whole number"),
            ("number", str(table.LARGEST + 1), "not a whole number"),
            ("number", "9" * 5000, "not a whole number"),
            ("yes_no", "perhaps", "neither yes nor no"),
            ("date", "2027-02-29", "not a date"),
            ("date", "1 May 2027", "not a date"),
            ("queue", "Nowhere", "there is no queue “Nowhere”"),
            ("agent", "Ann", "there is no person “Ann”"),
        ):
            with self.subTest(kind, typed=typed[:9]), self.assertRaisesRegex(ValueError, words):
                cell(kind, typed, find)

    def test_a_thing_is_none_where_nobody_can_find_any(self):
        with self.assertRaisesRegex(ValueError, "there is no mailbox"):
            cell("mailbox", "Night")

    def test_a_row_names_the_column_that_is_wrong_and_has_a_key(self):
        self.assertEqual(row(COLUMNS, ["A", "1", "no", ""]), ["A", 1, False, None])
        for cells, words in ((["A", "x", "", ""], "^Cars: "), (["", "1", "", ""], "^Ref: the key is empty")):
            with self.subTest(words), self.assertRaisesRegex(ValueError, words):
                row(COLUMNS, cells)


class FileTests(unittest.TestCase):
    @given(st.lists(_rows, max_size=8, unique_by=lambda r: r[0]))
    def test_what_is_shown_is_read_back(self, rows):
        out = io.StringIO()
        writer = csv.writer(out)
        writer.writerow(c.name for c in COLUMNS)
        writer.writerows([guarded(shown(value)) for value in line] for line in rows)
        found = taken(out.getvalue())
        self.assertEqual((found.rows, found.bad), ([list(line) for line in rows], []))

    @given(_texts)
    def test_no_spreadsheet_runs_a_cell_and_none_is_changed(self, text):
        self.assertEqual(unguarded(guarded(text)), text)
        self.assertFalse(guarded(text).startswith(("=", "+", "-", "@", "\t")))

    def test_columns_stand_in_any_order_and_case_and_empty_lines_are_passed_over(self):
        found = taken("\ufeffsails;CARS; ref ;Paid\n\n2027-05-01;3;AB1;yes\n;;;\n;;'=AB2;no\n")
        self.assertEqual(found.rows, [["AB1", 3, True, "2027-05-01"], ["=AB2", None, False, None]])

    def test_every_bad_line_is_named_by_its_column(self):
        found = taken(HEAD + "A,two,,\n,1,,\nA,1,,\nB,1\na,2,,\n")
        self.assertEqual(
            [(line.line, line.column, line.words) for line in found.bad],
            [
                (2, "Cars", "“two” is not a whole number"),
                (3, "Ref", "the key is empty"),
                (5, "", "2 cells where 4 are needed"),
                (6, "Ref", "“a” stands in line 4 already"),
            ],
        )
        self.assertEqual((found.rows, found.bad_count), ([["A", 1, None, None]], 4))

    def test_of_many_bad_lines_the_first_are_named_and_all_are_counted(self):
        found = taken(HEAD + "A,x,,\n" * 80)
        self.assertEqual((len(found.bad), found.bad_count), (table.MOST_NAMED, 80))

    def test_keys_are_the_same_by_the_rule_that_is_given(self):
        same = taken(HEAD + "0161 1,1,,\n01611,1,,\n", key_of=lambda key: str(key).replace(" ", ""))
        self.assertEqual([line.line for line in same.bad], [3])

    def test_what_is_no_table_is_refused_in_words(self):
        for data, words in (
            (b"", "The file is empty"),
            (b"\n1,2", "The file is empty"),
            (b"\xff\xfe\x00", "not text in UTF-8"),
            (HEAD + "\x00", "no text"),
            ("Ref,Cars,Paid\n", "column Sails is missing"),
            ("Ref,Cars,Paid,Sails,ref\n", "column ref stands there twice"),
            (HEAD.strip() + ",Colour\n", "no column “Colour”"),
            (HEAD + '"A,1,yes\n', "no CSV"),
            ('"Ref,Cars', "no CSV"),
        ):
            with self.subTest(words), self.assertRaisesRegex(NotATable, words):
                taken(data)

    def test_a_file_has_a_longest_length(self):
        with patch.object(table, "MOST_ROWS", 3), self.assertRaisesRegex(NotATable, "more than 3 rows"):
            taken(HEAD + "".join(f"{n},x,,\n" for n in range(4)))
