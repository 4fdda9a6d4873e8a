"""Stops that listen for words: what is understood, what comes of it, what the checker finds."""

from __future__ import annotations

import unittest

from callcore.flow.catalogue import Catalogue, QueueFacts
from callcore.flow.checks import check
from callcore.flow.definition import Digits, End, Flow, Menu, MenuArm, WaitInQueue
from callcore.flow.runner import NOTHING_AROUND, Machine, Spoken
from callcore.flow.spoken_keys import offered_words
from callcore.flow.trial import Trial
from callcore.flow.trial_setup import Setup
from callcore.flow.voicexml import write
from callcore.flow.why import why
from callcore.speech.recogniser import Grammar, TypedSpeech, sounds_alike
from callcore.tests.flows import text

NOON = 1_795_435_200_000
WORLD = Catalogue(queues={"queue:q": QueueFacts("Desk", True, 2, 900)})
ARMS = (
    MenuArm(key="1", label="Bookings", words=("book a crossing", "tocyn"), next="ref"),
    MenuArm(key="2", label="Lost property", words=("lost",), next="wait"),
)


def flow(
    *,
    listens: bool = True,
    arms=ARMS,
    says: str = "For bookings, press 1. Or say lost.",
    language: str = "en",
) -> Flow:
    return Flow(
        language=language,
        start="menu",
        steps=(
            Menu(id="menu", prompt=text(says), arms=arms, tries=2, no_key="bye", listens=listens),
            Digits(
                id="ref",
                prompt=text("Your booking?"),
                into="ref",
                least=4,
                most=4,
                tries=2,
                confirm=text("You said {ref:digits}. Is that right?"),
                next="wait",
                no_digits="bye",
                listens=listens,
            ),
            WaitInQueue(id="wait", queue="queue:q", waited="bye"),
            End(id="bye", prompt=text("Goodbye.")),
        ),
    )


def trial(*keys: str, of: Flow | None = None):
    tried = of or flow()
    return Trial(tried, tried, WORLD, Setup(keys=keys), NOTHING_AROUND, lambda _t, _k: None, NOON).run()


class RecogniserTests(unittest.TestCase):
    def test_phrases_are_known_inside_of_sentences_and_the_longest_counts(self):
        choices = (("1", ("ferry",)), ("2", ("ferry times", "amserlen")), ("*", ()))
        grammar = Grammar("en", choices)
        for said, meant in {
            "Ferry, please!": "1",
            "the FERRY times for today": "2",
            "Amserlén": "2",
            "star": "*",
            "number two": "2",
            "2": "2",
            "ferries": "",
            "": "",
            "ferry or star": "",
            "times ferry": "1",
        }.items():
            self.assertEqual(TypedSpeech().understood(said, grammar), meant, said)
        welsh = Grammar("cy", choices)
        self.assertEqual(TypedSpeech().understood("un", welsh), "1")
        self.assertEqual(TypedSpeech().understood("one", welsh), "")

    def test_digits_are_said_one_by_one(self):
        for said, language, meant in (
            ("one oh four, two", "en", "1042"),
            ("double four treble 1", "en", "44111"),
            ("10 42", "en", "1042"),
            ("un dau tri", "cy", "123"),
            ("one maybe two", "en", ""),
            ("nine " * 500, "en", ""),
            ("٣", "en", ""),
        ):
            grammar = Grammar(language, digits=True)
            self.assertEqual(TypedSpeech().understood(said, grammar), meant, said)

    def test_what_sounds_alike(self):
        for one, two in (("fares", "ferries"), ("Freight", "fright"), ("lost", "last"), ("a", "A")):
            self.assertTrue(sounds_alike(one, two), (one, two))
        for one, two in (("bookings", "sailings"), ("on", "in"), ("port", "portrait")):
            self.assertFalse(sounds_alike(one, two), (one, two))


class RunnerTests(unittest.TestCase):
    def test_words_choose_as_keys_do_and_the_trace_says_what_was_said(self):
        result = trial("say:I have lost my hat")
        self.assertEqual((result.stops, result.ending), (["menu", "wait"], "person"))
        self.assertIn("“I have lost my hat” → Lost property", [line.why for line in result.lines])
        said = ("say:book a crossing", "say:one two", "say:one two three four", "say:yes please")
        result = trial(*said)
        self.assertEqual((result.stops[-1], result.ending), ("wait", "person"))
        self.assertIn("You said one, two, three, four. Is that right?", result.heard)

    def test_a_no_asks_again_and_keys_before_words_count_too(self):
        again = trial("1", "1", "0", "say:four two", "say:no", "1", "0", "4", "2", "1")
        self.assertEqual((again.heard.count("Your booking?"), again.ending), (2, "person"))

    def test_what_is_not_understood_is_a_wrong_key(self):
        result = trial("say:what?", "say:eh")
        self.assertEqual((result.ending, result.place), ("ended", "Goodbye."))
        self.assertIn("“what?” is not a choice → asked again", [line.why for line in result.lines])

    def test_a_stop_that_does_not_listen_hears_nothing(self):
        machine = Machine(flow(listens=False), lambda _: 1000)
        state, _ = machine.start(NOON)
        self.assertIsNone(machine.grammar(state))
        self.assertEqual(machine.resume(state, Spoken("lost", "2"), NOON + 10), (state, ()))
        silent = trial("say:lost", of=flow(listens=False))
        self.assertIn("nothing listens for words here", [line.why for line in silent.lines])
        listening = Machine(flow(), lambda _: 1000)
        state, _ = listening.start(NOON)
        self.assertEqual(listening.grammar(state).choices[1], ("2", ("Lost property", "lost")))
        state, _ = listening.resume(state, Spoken("lost", "2"), NOON + 10)
        self.assertIsNone(listening.grammar(state), "not in a queue")

    def test_a_key_is_told_as_a_key(self):
        machine = Machine(flow(), lambda _: 1000)
        state, _ = machine.start(NOON)
        _, effects = machine.resume(state, Spoken("two", "2"), NOON + 10)
        self.assertEqual(why(effects[0], machine.flow), "“two” → Lost property")


class CheckerTests(unittest.TestCase):
    def codes(self, **more):
        return [f.code for f in check(flow(**more), WORLD)]

    def test_words_in_the_text_are_enough_where_the_menu_listens(self):
        self.assertEqual(self.codes(), [])
        self.assertEqual(self.codes(listens=False), ["arm-not-named"])

    def test_words_that_no_arm_knows(self):
        said = "Press 1, press 2, or say timetable. We say sorry. You can say what you need."
        found = [f for f in check(flow(says=said), WORLD) if f.code == "words-without-arm"]
        self.assertEqual(len(found), 1)
        self.assertIn("“timetable”", found[0].message)
        self.assertEqual(offered_words("Dywedwch ‘amserlen’ neu pwyswch 1, or say three."), ("amserlen",))

    def test_arms_that_sound_alike_or_have_no_words(self):
        arms = (
            MenuArm(key="1", label="Fares", next="wait"),
            MenuArm(key="2", label="Ferries", next="wait"),
            MenuArm(key="3", next="wait"),
        )
        says = "Press 1, 2 or 3."
        found = set(self.codes(arms=arms, says=says))
        self.assertLessEqual({"words-alike", "arm-without-words"}, found)
        silent = set(self.codes(arms=arms, says=says, listens=False))
        self.assertEqual(found - silent, {"words-alike", "arm-without-words"})


class DocumentTests(unittest.TestCase):
    def test_a_document_listens_with_the_same_words(self):
        document = write(flow(), WORLD)
        self.assertIn('value="dtmf voice"', document)
        self.assertIn(">book a crossing</", document)
        self.assertNotIn("voice", write(flow(listens=False), WORLD))
