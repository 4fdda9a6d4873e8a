"""The values that a flow declares, that a number hands over, and that a prompt says."""

import unittest

from pydantic import ValidationError

from callcore.flow.inputs import ALWAYS, Input, filled, misfit, misfits, resolved, said
from callcore.flow.parts import LibrarySound, SpokenText

_FAR = 10**12


class TypeTests(unittest.TestCase):
    def test_what_fits_a_type_and_what_does_not(self):
        for kind, fitting, not_fitting in (
            ("queue", ["queue:a"], ["mailbox:a", 5, "queue:" + "a" * 80]),
            ("hours", ["hours:a"], ["a"]),
            ("sound", ["sound:a"], [True]),
            ("mailbox", ["mailbox:a"], ["queue:a"]),
            ("yes_no", [True, False], ["yes", 1]),
            ("text", ["", "x" * 200], ["x" * 201, 7]),
            ("number", [0, -5, 10], [True, 1.5, "1", _FAR, -_FAR]),
            ("duration", [0, 90], [-1, False, _FAR]),
        ):
            for value in (*fitting, None):
                with self.subTest(kind, value=value):
                    self.assertIsNone(misfit(kind, value))
            for value in not_fitting:
                with self.subTest(kind, value=str(value)[:20]):
                    self.assertIn("is needed here", misfit(kind, value) or "")

    def test_an_input_has_a_default_that_fits_and_a_name_of_its_own(self):
        self.assertEqual(Input(name="desk", type="queue", default="queue:a").default, "queue:a")
        with self.assertRaisesRegex(ValidationError, "the default does not fit: a whole number is needed"):
            Input(name="tries", type="number", default="three")
        for name in ALWAYS:
            with self.subTest(name), self.assertRaisesRegex(ValidationError, "already"):
                Input(name=name)

    def test_a_contact_begins_with_what_is_given_and_fits_else_with_the_defaults(self):
        inputs = [Input(name="desk", type="queue", default="queue:a"), Input(name="vip", type="yes_no")]
        self.assertEqual(
            filled(inputs, {"caller": "+44", "desk": "mailbox:b", "vip": True, "other": 1}),
            {"caller": "+44", "dialled": "", "message": "", "desk": "queue:a", "vip": True},
        )
        self.assertEqual(
            misfits(inputs, {"desk": 5, "vip": None, "other": 1}),
            {"desk": "a queue is needed here", "other": "the flow has no such input"},
        )


class SaidTests(unittest.TestCase):
    def test_a_reference_to_a_value_is_what_stands_there(self):
        self.assertEqual(resolved("queue:a", {}), "queue:a")
        self.assertEqual(resolved("value:desk", {"desk": "queue:b"}), "queue:b")
        for nothing in ({}, {"desk": ""}, {"desk": 5}, {"desk": None}):
            self.assertIsNone(resolved("value:desk", nothing))
        self.assertIsNone(resolved(None, {}))

    def test_values_are_said_in_their_ways_and_languages(self):
        values = {
            "n": 21,
            "wait": 300,
            "paid": True,
            "typed": "020",
            "far": 10**11,
            "none": None,
            "minus": -3,
        }
        for text, language, words in (
            ("{n:number} boats", "en", "twenty one boats"),
            ("{n:ordinal}", "en", "twenty first"),
            ("{wait:duration}", "en", "five minutes"),
            ("{wait:wait}", "en", "about five minutes"),
            ("{wait:wait}", "cy", "tua phum munud"),
            ("{typed:digits}", "en", "zero, two, zero"),
            ("{paid}, {paid}", "en", "yes, yes"),
            ("{paid}", "cy", "ie"),
            ("[{none}]", "en", "[]"),
            ("[{unknown:number}]", "en", "[]"),
            ("{far:number}", "en", "100000000000"),
            ("{minus:duration}", "en", "-3"),
            ("{n}", "en", "21"),
        ):
            with self.subTest(text, language=language):
                heard = said(SpokenText(text=text, language=language), values)
                self.assertEqual(heard.text, words)

    def test_a_sound_that_a_value_names_is_played_and_one_left_open_is_none(self):
        sound = LibrarySound(sound="value:jingle")
        self.assertEqual(said(sound, {"jingle": "sound:s"}), LibrarySound(sound="sound:s"))
        self.assertIsNone(said(sound, {}))
