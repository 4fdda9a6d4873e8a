"""Why an agent is rung: what the router keeps of it, and the words that are made of that."""

from __future__ import annotations

import json
import unittest
from typing import Any

from callcore.centre.why_rung import why_rung, why_waits
from callcore.errors import EventRefused
from callcore.events import decode, encode, facts
from callcore.routing import events as e
from callcore.routing.events import HandlingRule, QueueRule
from callcore.routing.explaining import MOST_NAMED
from callcore.routing.router import Router

NAMES = {"agent:ann": "Ann", "agent:bea": "Bea", "agent:cai": "Cai", "agent:dov": "Dov", "skill:f": "Freight"}
ALL = ("ann", "bea", "cai", "dov")


def everybody(_agent: str) -> bool:
    return True


def router(*, members=ALL, skills=None, **rule: Any) -> Router:
    """All members at work, each available a second after the one before."""
    made = Router(explain=True)
    made.configure([QueueRule("q", **rule)], {"q": members}, HandlingRule(texts=2), 0, skills or {})
    for place, agent in enumerate(members):
        made.apply(e.SignIn(agent), 0)
        made.apply(e.GoAvailable(agent), 1000 * (place + 1))
    return made


def rang(decisions: list[e.Decision]) -> facts.Rang:
    """The last ring as the journal keeps it, and gives it back."""
    ring = [d for d in decisions if isinstance(d, e.Ring)][-1]
    fact = facts.Rang(ring.queue, ring.until_ms, ring.rule, *ring.why)
    read = decode("leg.rang", json.loads(json.dumps(encode(fact))))
    assert read == fact and isinstance(read, facts.Rang)
    return read


def told(decisions: list[e.Decision], at_ms: int) -> tuple[str, list[str]]:
    """The sentence, and everybody else as lines."""
    why = why_rung(rang(decisions), at_ms, NAMES.get, everybody)
    lines = [
        f"{c['words']}: {', '.join(c['people'])}{' +' + str(c['more']) if c['more'] else ''}"
        for c in why["considered"]
    ]
    return why["words"], lines


class WhyRungTests(unittest.TestCase):
    def join(self, made: Router, at_ms: int = 65_000, **more: Any) -> tuple[str, list[str]]:
        return told(made.apply(e.Join("c1", "q", at_ms, **more), at_ms), at_ms)

    def test_each_rule_says_what_it_compared(self):
        skills = {name: {"f": level} for name, level in zip(ALL, (2, 9, 4, 1), strict=True)}
        cases = {
            "longest_idle": (
                "Idle longest, 1:04, of 4 who could",
                "Bea (idle 1:03), Cai (idle 1:02), Dov (idle 1:01)",
            ),
            "fewest": (
                "Fewest contacts today, 1, of 4 who could",
                "Dov (2 today), Ann (3 today), Bea (4 today)",
            ),
            "best_skill": (
                "Best skill, level 9, of 4 who could",
                "Cai (level 4), Ann (level 2), Dov (level 1)",
            ),
            "turn": ("Next in turn of 4 who could", "Bea, Cai, Dov"),
            "listed": ("First in the list of 4 who could", "Bea, Cai, Dov"),
        }
        for rule, (sentence, others) in cases.items():
            with self.subTest(rule):
                made = router(distribution=rule, skills=skills, required_skills=(("f", 1),))
                made.handled.update(ann=3, bea=4, cai=1, dov=2)
                self.assertEqual(self.join(made), (sentence, [f"Could have come: {others}"]))

    def test_whoever_could_not_is_told_with_what_ruled_them_out(self):
        both, one = {"f": 5, "language:cy": 10}, {"f": 5}
        made = router(
            skills={"ann": one, "bea": both, "dov": both},
            members=("ann", "bea", "cai"),
            required_skills=(("f", 3), ("language:cy", 1)),
            widening=(e.Widen(90_000, agents=("dov",)),),
        )
        made.apply(e.SignIn("dov"), 5_000)
        made.apply(e.GoAvailable("dov"), 6_000)
        sentence, others = self.join(made)
        self.assertEqual(sentence, "Nobody else could come")
        self.assertEqual(
            others,
            [
                "Come in later, as the queue widens: Dov",
                "Without enough Freight: Cai",
                "Without enough Welsh: Ann",
            ],
        )
        made = router()
        made.apply(e.GoAway("bea", "Lunch"), 7_000)
        made.apply(e.SignOut("cai"), 8_000)
        made.apply(e.Join("c0", "q", 9_000), 9_000)
        self.assertEqual(self.join(made)[1], ["Rung already: Ann", "Away: Bea", "Signed out: Cai"])

    def test_who_knows_the_caller_comes_first_and_who_let_it_pass_waits(self):
        made = router(prefer_ms=20_000)
        sentence, others = self.join(made, preferred=("cai",))
        self.assertEqual(sentence, "Knows the caller")
        self.assertEqual(others, ["Wait while those who know the caller come first: Ann, Bea, Dov"])
        decisions = made.apply(e.Decline("cai"), 70_000)
        sentence, others = told(decisions, 70_000)
        self.assertEqual(sentence, "Idle longest, 1:09, of 3 who could")
        self.assertEqual(others[-1], "Had just let it pass: Cai")

    def test_who_comes_free_takes_who_is_first_in_line(self):
        made = router(members=("ann",), priority=3, priority_growth=1.0)
        made.apply(e.Join("c1", "q", 1_000), 1_000)
        made.apply(e.Answer("ann"), 2_000)
        for number in (2, 3, 4):
            made.apply(e.Join(f"c{number}", "q", 3_000), 3_000)
        made.apply(e.EndContact("ann"), 60_000)
        decisions = made.apply(e.FinishWrapUp("ann", ""), 93_000)
        sentence = "Came free, and this was first of 3 who waited: priority 4.5"
        self.assertEqual(told(decisions, 93_000), (sentence, []))
        for number in (3, 4):
            made.apply(e.Leave(f"c{number}", "hung_up"), 93_000)
        made.apply(e.GoAway("ann", "Lunch"), 94_000)
        decisions = made.apply(e.GoAvailable("ann"), 95_000)
        self.assertEqual(told(decisions, 95_000)[0], "Came free while nobody else waited")

    def test_texts_beside_others_and_rings_of_everybody(self):
        made = router(members=("ann", "bea"))
        made.apply(e.GoAway("bea", "Lunch"), 5_000)
        made.apply(e.Join("t1", "q", 6_000, text=True), 6_000)
        made.apply(e.Answer("ann"), 7_000)
        sentence, others = self.join(made, text=True)
        self.assertEqual((sentence, others), ("Writes already, and had room for one more", ["Away: Bea"]))
        made = router(distribution="all")
        self.assertEqual(self.join(made)[0], "Everybody who could come is rung at once")
        made = router()
        decisions = made.ring_directly("c1", ("ann", "gone"), 5_000, 9_000)
        self.assertEqual(told(decisions, 9_000), ("", ["Signed out: somebody who is gone"]))

    def test_of_the_largest_queues_the_first_are_named_and_the_others_counted(self):
        many = tuple(f"a{number:03}" for number in range(MOST_NAMED + 30))
        made = router(members=many)
        for agent in many[-20:]:
            made.apply(e.GoAway(agent, "Lunch"), 90_000)
        kept = rang(made.apply(e.Join("c1", "q", 95_000), 95_000))
        self.assertEqual((len(kept.considered), kept.considered[0]), (MOST_NAMED, ("a000", "chosen")))
        self.assertEqual(kept.unnamed, (("away", 20), ("eligible", 10)))
        why = why_rung(kept, 95_000, lambda _: None, everybody)
        self.assertIn(f"of {MOST_NAMED + 10} who could", why["words"])
        self.assertEqual(
            [(c["words"], len(c["people"]), c["more"]) for c in why["considered"]],
            [("Could have come", MOST_NAMED - 1, 10), ("Away", 0, 20)],
        )

    def waits(self, made: Router, contact: str, at_ms: int) -> tuple[str, list[str]]:
        why = why_waits(made.why_waits(contact, at_ms), NAMES.get, everybody)
        return why["words"], [
            f"{c['words']}: {', '.join(c['people']) or c['more']}" for c in why["considered"]
        ]

    def test_a_contact_that_waits_says_for_whom_and_who_could_not_take_it(self):
        skills = {"ann": {"f": 5}, "bea": {"f": 5}, "dov": {"f": 1}}
        made = router(skills=skills, required_skills=(("f", 3),))
        made.apply(e.Join("c1", "q", 10_000), 10_000)
        made.apply(e.Join("c2", "q", 10_000), 10_000)
        made.apply(e.Join("c3", "q", 11_000), 11_000)
        made.apply(e.Answer("ann"), 12_000)
        words, lines = self.waits(made, "c3", 13_000)
        self.assertEqual(words, "2 who could take it are at work, and busy")
        # Cai and Dov are free, and never could: that counts, not what they do.
        self.assertEqual(
            lines, ["Without enough Freight: Cai, Dov", "Rung already: Bea", "On a contact: Ann"]
        )
        made.apply(e.Leave("c2", "hung_up"), 14_000)
        made.apply(e.Decline("bea"), 14_000)
        made.apply(e.GoAway("bea", "Lunch"), 15_000)
        made.apply(e.SignOut("cai"), 15_000)
        words, lines = self.waits(made, "c3", 16_000)
        self.assertEqual(words, "1 who could take it is at work, and busy; 1 more away")
        self.assertEqual(lines[-2:], ["Away: Bea", "Signed out: 1"])
        with self.assertRaises(EventRefused):
            made.why_waits("c2", 17_000)

    def test_how_others_stood_whom_a_reader_does_not_reach_is_told_in_numbers(self):
        made = router()
        made.apply(e.GoAway("dov", "Lunch"), 60_000)
        kept = rang(made.apply(e.Join("c1", "q", 65_000), 65_000))
        why = why_rung(kept, 65_000, NAMES.get, {"bea": True}.get)
        self.assertEqual(why["words"], "Idle longest, 1:04, of 3 who could")
        self.assertEqual(
            [(c["people"], c["more"]) for c in why["considered"]], [(["Bea (idle 1:03)"], 1), ([], 1)]
        )

    def test_a_ring_that_was_not_explained_says_nothing(self):
        self.assertEqual(
            why_rung(facts.Rang("q", 9, "turn"), 1, NAMES.get, everybody), {"words": "", "considered": []}
        )
        old = facts.Rang("q", 9, "longest_idle", (("ann", "chosen"), ("bea", "eligible"), ("cai", "resting")))
        why = why_rung(old, 1, NAMES.get, everybody)
        self.assertEqual(why["words"], "Idle longest of 2 who could")
        self.assertEqual([c["words"] for c in why["considered"]], ["Could have come", "resting"])
