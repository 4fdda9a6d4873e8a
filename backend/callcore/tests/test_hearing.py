"""What a caller heard, made short."""

import unittest

from callcore.events import Happening, facts
from callcore.measures.hearing import KEPT_MS, LONGEST_MS, heard_in

T = 1_795_435_200_000
S = 1_000


def events(*rows):
    return [Happening(T + round(at_s * S), "c", agent, fact) for at_s, agent, fact in rows]


CALL = events(
    (0, "", facts.Arrived(flow="f")),
    (0, "", facts.Heard("welcome", "prompt", take=1, length_ms=3 * S)),
    (3, "", facts.Heard("menu", "prompt", text="Press 1.", length_ms=10 * S)),
    (5, "", facts.Keyed(key="1")),
    (5, "", facts.Queued("q")),
    (5, "", facts.Heard("wait", "prompt", take=2, length_ms=4 * S)),
    (70, "ann", facts.Answered("q", T)),
    (130, "ann", facts.LegEnded("q", "agent")),
    (130, "", facts.Ended("end", "person")),
)


class HearingTests(unittest.TestCase):
    def test_prompts_stay_whole_as_far_as_they_were_heard_and_the_rest_is_a_moment(self):
        parts = [(part.what, (part.at_ms - T) // S, part.length_ms) for part in heard_in(CALL, T)]
        self.assertEqual(
            parts,
            [
                ("words", 0, 3 * S),
                ("words", 3, 2 * S),
                ("words", 5, 4 * S),
                ("music", 9, KEPT_MS["music"]),
                ("talk", 70, KEPT_MS["talk"]),
            ],
        )
        self.assertEqual([part.of for part in heard_in(CALL, T)][-1], "ann")

    def test_music_that_a_stop_plays_and_hold_are_a_moment_each_and_a_breath_is_nothing(self):
        rows = (
            (0, "", facts.Arrived(flow="f")),
            (0, "", facts.Heard("welcome", "prompt", take=1, length_ms=3 * S)),
            (3.1, "", facts.Music("music", T + 23_100)),
            (23.1, "", facts.Heard("more", "prompt", take=2, length_ms=2 * S)),
            (25.3, "", facts.Heard("last", "prompt", take=3, length_ms=2 * S)),
            (28, "", facts.Ended("end", "ended")),
        )
        parts = [(part.what, part.at_ms - T, part.length_ms) for part in heard_in(events(*rows), T)]
        self.assertEqual(
            parts,
            [
                ("words", 0, 3_000),
                ("music", 3_100, KEPT_MS["music"]),
                ("words", 23_100, 2_000),
                ("quiet", 25_100, 200),
                ("words", 25_300, 2_000),
                ("quiet", 27_300, 700),
            ],
        )
        self.assertEqual((KEPT_MS, LONGEST_MS), ({"music": 4_000, "talk": 1_500, "quiet": 1_500}, 600_000))

    def test_a_text_and_a_contact_that_heard_nothing_have_none(self):
        text = events((0, "", facts.Arrived(flow="f")), (1, "", facts.Heard("a", text="Hello")))
        self.assertEqual(heard_in(text, T + 5 * S), [])
        self.assertEqual(heard_in([], T), [])

    def test_it_is_never_longer_than_it_may_be(self):
        rows = [(0, "", facts.Arrived(flow="f"))]
        rows += [(at * 100, "", facts.Heard("a", take=1, length_ms=90 * S)) for at in range(20)]
        parts = heard_in(events(*rows), T + 3_000 * S)
        self.assertEqual(sum(part.length_ms for part in parts), LONGEST_MS)
