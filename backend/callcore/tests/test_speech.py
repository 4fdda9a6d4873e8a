import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore.speech.values import LARGEST, about, clock, digits, duration, ordinal, whole

LANGUAGES = st.sampled_from(["en", "cy"])


def said(words):
    return " ".join(words)


class SpokenValueTests(unittest.TestCase):
    def check(self, function, cases):
        for arguments, words in cases.items():
            with self.subTest(arguments):
                self.assertEqual(said(function(*arguments)), words)

    def test_whole_numbers(self):
        self.check(
            whole,
            {
                (0, "en"): "zero",
                (21, "en"): "twenty one",
                (105, "en"): "one hundred and five",
                (1234, "en"): "one thousand two hundred and thirty four",
                (-3, "en"): "minus three",
                (0, "cy"): "dim",
                (11, "cy"): "un deg un",
                (20, "cy"): "dau ddeg",
                (56, "cy"): "pum deg chwech",
                (100, "cy"): "cant",
                (101, "cy"): "cant ac un",
                (103, "cy"): "cant a thri",
                (345, "cy"): "tri chant pedwar deg pump",
                (2005, "cy"): "dwy fil a phump",
                (3600, "cy"): "tair mil chwe chant",
                (21000, "cy"): "dau ddeg un mil",
                (2_000_000, "cy"): "dwy filiwn",
                (-3, "cy"): "minws tri",
            },
        )

    def test_ordinals(self):
        self.check(
            ordinal,
            {
                (1, "en"): "first",
                (3, "en"): "third",
                (22, "en"): "twenty second",
                (1, "cy"): "cyntaf",
                (3, "cy"): "trydydd",
                (16, "cy"): "unfed ar bymtheg",
                (31, "cy"): "unfed ar ddeg ar hugain",
                (40, "cy"): "rhif pedwar deg",
            },
        )
        for number in (0, -1):
            with self.assertRaises(ValueError):
                ordinal(number, "en")

    def test_durations(self):
        self.check(
            duration,
            {
                (90, "en"): "one minute and thirty seconds",
                (1, "en"): "one second",
                (0, "en"): "zero seconds",
                (3600, "en"): "one hour",
                (7260, "en"): "two hours and one minute",
                (3661, "en"): "one hour one minute and one second",
                (90, "cy"): "un munud a thri deg o eiliadau",
                (120, "cy"): "dau funud",
                (7205, "cy"): "dwy awr a phum eiliad",
                (180, "cy"): "tri munud",
                (68, "cy"): "un munud ac wyth eiliad",
                (900, "cy"): "un deg pump o funudau",
            },
        )

    def test_waits_are_rounded_up_into_a_phrase(self):
        self.check(
            about,
            {
                (0, "en"): "less than two minutes",
                (119, "en"): "less than two minutes",
                (120, "en"): "about two minutes",
                (241, "en"): "about five minutes",
                (601, "en"): "about fifteen minutes",
                (1200, "en"): "about twenty minutes",
                (1201, "en"): "more than twenty minutes",
                (30, "cy"): "llai na dau funud",
                (240, "cy"): "tua phedwar munud",
                (3000, "cy"): "mwy nag ugain munud",
            },
        )

    def test_clock_times(self):
        self.check(
            clock,
            {
                (0, 0, "en"): "midnight",
                (12, 0, "en"): "midday",
                (9, 0, "en"): "nine o'clock in the morning",
                (18, 5, "en"): "six oh five in the evening",
                (13, 30, "en"): "one thirty in the afternoon",
                (0, 15, "en"): "twelve fifteen in the morning",
                (12, 0, "cy"): "hanner dydd",
                (9, 0, "cy"): "naw o'r gloch y bore",
                (18, 30, "cy"): "chwech tri deg yr hwyr",
            },
        )
        for hour, minute in ((24, 0), (-1, 0), (10, 60)):
            with self.assertRaises(ValueError):
                clock(hour, minute, "en")

    def test_digits_one_by_one(self):
        self.assertEqual(said(digits("020 79-4", "en")), "zero two zero seven nine four")
        self.assertEqual(said(digits("105", "cy")), "un dim pump")


class SpokenValueProperties(unittest.TestCase):
    @given(st.integers(0, LARGEST), st.integers(0, LARGEST), LANGUAGES)
    def test_two_numbers_never_sound_alike(self, a, b, language):
        self.assertEqual(whole(a, language) == whole(b, language), a == b)

    @given(st.integers(0, 360_000), LANGUAGES)
    def test_every_duration_is_said_in_plain_words(self, seconds, language):
        for words in (duration(seconds, language), about(seconds, language)):
            self.assertTrue(all(word.replace("'", "").isalpha() for word in words), words)

    @given(st.integers(0, 86_399), LANGUAGES)
    def test_every_minute_of_the_day_has_a_time_of_its_own(self, second, language):
        minute = second // 60
        other = (minute + 720) % 1440
        self.assertNotEqual(clock(*divmod(minute, 60), language), clock(*divmod(other, 60), language))

    @given(st.integers(120, 1200), LANGUAGES)
    def test_a_longer_wait_is_never_told_shorter(self, seconds, language):
        told = {said(about(s, "en")): s for s in range(120, 1201)}
        self.assertLessEqual(seconds, told[said(about(seconds, "en"))])
        self.assertTrue(about(seconds, language))
