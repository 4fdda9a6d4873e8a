import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore.directory.extensions import Clash, Dialled, clashes, dial
from callcore.directory.names import MOST_READ_OUT, Person, folded, keys_of, match, surname

NAMES = [
    "Nerys Vaughan",
    "Chidi Eze",
    "Tomasz Wrona",
    "Siân Ó Briain",
    "Jan van den Berg",
    "Ann Berger",
    "Bo Berg",
    "Zoë Łuczak",
    "Sofia Marchetti",
    "Prince",
]
PEOPLE = [Person(str(i), name) for i, name in enumerate(NAMES)]


def found(keys):
    result = match(PEOPLE, keys)
    return result.kind, [p.name for p in result.people]


class NameTests(unittest.TestCase):
    def test_accents_spaces_and_marks_are_folded(self):
        self.assertEqual(folded("Ó Briain-Łuczak"), "obriainluczak")
        self.assertEqual(keys_of("Straße"), "7872773")
        self.assertEqual(surname("Jan van den Berg"), "van den Berg")
        self.assertEqual(surname("Prince"), "Prince")
        self.assertEqual(surname(""), "")

    def test_one_several_or_nobody(self):
        self.assertEqual(found(keys_of("vaug")), ("one", ["Nerys Vaughan"]))
        self.assertEqual(found(keys_of("briain")), ("one", ["Siân Ó Briain"]))
        self.assertEqual(found(keys_of("ber")), ("several", ["Bo Berg", "Ann Berger"]))
        self.assertEqual(found(keys_of("zzz")), ("none", []))
        self.assertEqual(found(""), ("none", []))

    def test_a_surname_spelled_in_full_needs_no_more(self):
        self.assertEqual(found(keys_of("berg")), ("one", ["Bo Berg"]))

    def test_too_many_to_read_out_ask_for_more_letters(self):
        many = [Person(str(i), f"Ann Berg{'a' * i}") for i in range(MOST_READ_OUT + 1)]
        self.assertEqual(match(many, "237").kind, "more_letters")

    @given(st.sampled_from(PEOPLE), st.integers(1, 20))
    def test_whoever_is_spelled_is_among_those_found(self, person, length):
        spelled = keys_of(surname(person.name))[:length]
        full = {p.name for p in PEOPLE if keys_of(surname(p.name)) == spelled}
        names = found(spelled)[1]
        self.assertTrue(person.name in names or (full and full == set(names)))


class ExtensionTests(unittest.TestCase):
    PLAN = {"41": "queue", "4101": "nerys", "52": "kofi"}

    def test_dialling_digit_by_digit(self):
        for digits, expected in {
            "4": Dialled("more", "", False),
            "41": Dialled("found", "queue", True),
            "4101": Dialled("found", "nerys", False),
            "9": Dialled("none", "", False),
            "": Dialled("none", "", False),
        }.items():
            with self.subTest(digits):
                self.assertEqual(dial(self.PLAN, digits), expected)

    def test_a_clash_names_both(self):
        entries = [("4101", "nerys"), ("52", "kofi"), ("4101", "aoife")]
        self.assertEqual(clashes(entries), [Clash("4101", "aoife", "nerys")])
