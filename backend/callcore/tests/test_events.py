"""Events: their way to JSON and back, journals of other versions, and words for who reads."""

from __future__ import annotations

import json
import unittest
from typing import Any, get_args, get_origin

from callcore.centre.setup import RunnableFlow
from callcore.centre.telling import Story
from callcore.events import Happening, Kind, Unreadable, decode, encode, facts, read
from callcore.events.codec import FACTS, VERSIONS
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import End, Flow, Menu, MenuArm, Music, Say
from callcore.flow.runner import Machine
from callcore.tests.flows import text


def filled(kind: type) -> Any:
    """A fact of a kind with something in every field."""
    hints = kind.__annotations__
    return kind(**{name: _something(str(hint), name) for name, hint in hints.items()})


def _something(hint: str, name: str) -> Any:
    if hint.startswith("tuple[tuple"):
        return (("ann", "chosen"),) if name == "considered" else (("skill", 3),)
    if hint == "tuple[str, ...]":
        return ("agent:ann", "agent:bea")
    if hint.startswith("tuple[str, str]"):
        return ("block.step", "next")
    if "Mapping" in hint:
        return {"a": 1}
    if hint.startswith("int"):
        return 7
    return True if hint == "bool" else "something"


class CodecTests(unittest.TestCase):
    def test_every_fact_comes_back_as_it_was_and_says_only_what_is_to_be_said(self):
        for kind, fact in FACTS.items():
            for one in (fact(), filled(fact)):
                body = json.loads(json.dumps(encode(one)))
                self.assertEqual(decode(kind, body), one, kind)
            self.assertEqual(encode(fact()), {}, kind)

    def test_what_a_later_version_wrote_is_refused_in_words(self):
        for kind, body in (("contact.beamed", {}), ("contact.keyed", {"v": 2, "key": "1"})):
            with self.assertRaises(Unreadable):
                decode(kind, body)
        VERSIONS[Kind.KEYED] = 2
        try:
            self.assertEqual(encode(facts.Keyed(key="1")), {"key": "1", "v": 2})
            self.assertEqual(decode("contact.keyed", {"v": 2, "key": "1"}).key, "1")
        finally:
            del VERSIONS[Kind.KEYED]

    def test_what_an_earlier_version_wrote_keeps_its_words(self):
        """Until November 2026 events held words, and the state of their contact."""
        moved = decode(
            "contact.moved",
            {
                "step": "a",
                "exit": "next",
                "to": "b",
                "why": "heard",
                "words": "heard to the end",
                "run": ["b", "playing"],
            },
        )
        self.assertEqual((moved.to, moved.told), ("b", "heard to the end"))
        self.assertEqual(decode("contact.heard", {"words": "Hello", "take": 3}).text, "Hello")
        self.assertEqual(decode("talk.joined", {"words": "Bea", "talk": []}).to, "Bea")

    def test_what_was_called_otherwise_is_read_by_its_old_name(self):
        arrived = decode("contact.arrived", {"number": "n", "aside": "c"})
        self.assertEqual(arrived, facts.Arrived(number="n", consult_of="c"))
        self.assertEqual(decode("talk.consults", {"side": "s"}), facts.Consults("s"))
        self.assertEqual(decode("talk.transferred", {"side": "s"}).consult, "s")
        self.assertEqual(decode("talk.side_over", {"to": "x"}), facts.ConsultOver("x"))

    def test_the_hints_of_all_fields_are_known_here(self):
        for fact in FACTS.values():
            self.assertEqual(len(filled(fact)), len(fact._fields))
        self.assertEqual(get_origin(get_args(facts.Fact)[0]), None)


MENU = Menu(
    id="menu",
    name="Main",
    prompt=text("For bookings, press 1."),
    arms=(MenuArm(key="1", label="Bookings", next="end"),),
    no_key="end",
    no_key_prompt=text("I heard nothing."),
)
FLOW = Flow(
    start="hello",
    steps=(Say(id="hello", prompt=text("Good morning."), next="menu"), MENU, End(id="end", label="Heard")),
)
PLAN = Flow(purpose="plan", start="music", steps=(Music(id="music", seconds=9, next="music"),))


class Names:
    """Things that are there, by reference."""

    known = {"agent:bea": "Bea", "group:g": "Harbour", "mailbox:night": "Night"}

    def name_of(self, reference):
        return self.known.get(reference) if ":" in reference else f"({reference})"

    def code_name(self, code):
        return {"c": "New booking"}.get(code, "")


def runnable(flow: Flow) -> RunnableFlow:
    return RunnableFlow("f", "Line", 1, 1, Machine(flow, lambda _: 1000), Catalogue(), {}, flow)


def told(*happened: Any, flow: RunnableFlow | None = None) -> list[dict[str, Any]]:
    events = [Happening(5, "c", "ann", fact) for fact in (facts.Arrived(), *happened)]
    plans = {"7": runnable(PLAN)}
    return Story(Names(), lambda _: flow or runnable(FLOW), plans.get, bool).lines(events)[1:]


class TellingTests(unittest.TestCase):
    def words(self, *happened: Any, **more: Any) -> list[str]:
        return [line["words"] for line in told(*happened, **more)]

    def test_a_move_is_told_by_the_version_that_ran(self):
        line = told(facts.Moved("menu", "key:1", "end", "key", "1"))[0]
        self.assertEqual(line["words"], "key 1 → Bookings")
        self.assertEqual((line["title"], line["sentence"]), ("Ends", "Heard"))
        kept = told(facts.Moved("menu", "key:1", "end", "key", told="as it was told then"))[0]
        self.assertEqual(kept["words"], "as it was told then")
        plan = facts.Moved("wait~music", "next", "wait~music", "heard", plan="p", plan_version="7")
        self.assertEqual(told(plan)[0]["title"], "Music · 9 s")

    def test_what_was_heard_is_what_the_stop_says_unless_it_was_something_else(self):
        self.assertEqual(
            self.words(
                facts.Heard("hello", "prompt"),
                facts.Heard("menu", "no_key"),
                facts.Heard("menu", "prompt", text="Your number is 7."),
                facts.Heard("menu", "notice", text="This call is being recorded, as all of our calls."),
            ),
            [
                "Good morning.",
                "I heard nothing.",
                "Your number is 7.",
                "This call is being recorded, as all of our calls.",
            ],
        )

    def test_things_are_told_by_their_names_of_now(self):
        self.assertEqual(
            self.words(
                facts.RingsPerson("s", ("agent:bea", "agent:gone"), 9, "group:g"),
                facts.RingsPerson("s", ("agent:bea",)),
                facts.Records("s", "mailbox:night"),
                facts.Transferred("+441632"),
                facts.Joined("bea"),
                facts.Consults("x", "agent:gone"),
                facts.Diverted("d", "Storm", "mailbox:night"),
                facts.EmergencyTaken("Deepa"),
            ),
            ["Harbour (Bea)", "Bea", "Night", "(+441632)", "Bea", "", "Storm → Night", "Deepa"],
        )
        self.assertEqual(
            [line["name"] for line in told(facts.Coded("q", "c"), facts.Coded("q"))], ["New booking", ""]
        )

    def test_a_version_that_is_gone_leaves_no_words_and_breaks_nothing(self):
        events = [
            read(1, "contact.arrived", "c", "", {}),
            read(2, "contact.moved", "c", "", {"step": "a", "exit": "b", "to": "c"}),
            read(3, "contact.heard", "c", "", {"step": "a", "role": "prompt"}),
        ]
        lines = Story(Names(), lambda _: None, lambda _: None, bool).lines(events)
        self.assertEqual([line.get("words") for line in lines], [None, "", ""])
