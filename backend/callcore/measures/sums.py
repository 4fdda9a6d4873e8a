"""Figures of agents, codes and numbers: each a sum of parts, or one sum divided by another. What
the API, the reports, their files and the sums behind them say of a figure, they say from here.

Handle time is talk, hold and wrap-up; occupancy is handling, of handling and readiness."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple

from callcore.measures.catalogue import Adds, Unit

#: What a row is of.
Subject = Literal["agents", "codes", "numbers"]
#: States in which somebody is signed in; they add up to the time signed in.
STATES = ("available", "ringing", "on_contact", "wrapping", "away")
#: What is work on contacts, and what is readiness for them.
_HANDLES, _READY = ("on_contact_ms", "wrapping_ms"), ("available_ms", "ringing_ms")
_STATES_MS = tuple(f"{state}_ms" for state in STATES)

#: The parts in words. Those that end with `_ms` are times (ms), the others are counts.
PARTS: dict[Subject, dict[str, str]] = {
    "agents": {
        "available_ms": "Available",
        "ringing_ms": "Ringing",
        "on_contact_ms": "On contact",
        "wrapping_ms": "Wrapping up",
        "away_ms": "Away",
        "legs": "Parts of contacts",
        "talk_ms": "Talk",
        "hold_ms": "Hold",
        "wrap_ms": "Wrap-up",
        "handed_on": "Passed on",
        "coded": "Parts with a code",
        "rang": "Rings",
        "missed": "Rings missed",
    },
    "codes": {
        "legs": "Parts",
        "all_legs": "Parts of all codes",
        "first_legs": "First parts",
        "handed_on": "Passed on",
        "talk_ms": "Talk",
        "hold_ms": "Hold",
        "wrap_ms": "Wrap-up",
    },
    "numbers": {
        "arrived": "Contacts",
        "person": "With a person",
        "hung_up": "Hung up",
        "message": "Message left",
        "callback": "Callback",
        "elsewhere": "Sent elsewhere",
        "ended": "Ended by us",
        "over": "Contacts that are over",
        "lasted_ms": "How long they took",
    },
}


class Sum(NamedTuple):
    """A figure: the parts `over`, added up, divided by those `under` where there are any.

    Attributes:
        short: the head of a column.
        contacts: the part whose contacts stand behind it; empty where that is none.
    """

    key: str
    name: str
    short: str
    unit: Unit
    sentence: str
    over: tuple[str, ...]
    under: tuple[str, ...] = ()
    contacts: str = ""

    @property
    def adds(self) -> Adds:
        """How it is totalled."""
        return "parts" if self.under else "sum"

    def value(self, row: Mapping[str, int]) -> float | None:
        """The figure of a row of parts; None where there is nothing to divide by."""
        whole = sum(row[part] for part in self.over)
        if not self.under:
            return whole
        divisor = sum(row[part] for part in self.under)
        return whole / divisor if divisor else None

    def formula(self, subject: Subject) -> str:
        """How it comes about, in words."""
        names = PARTS[subject]
        over, under = (" + ".join(names[part].lower() for part in parts) for parts in (self.over, self.under))
        wrapped = f"({over})" if len(self.over) > 1 and under else over
        return f"{wrapped} ÷ {f'({under})' if len(self.under) > 1 else under}" if under else over

    def words(self, subject: Subject) -> str:
        """Its sentence, and its formula where that says more."""
        told = self.formula(subject)
        if told == PARTS[subject].get(self.key, "").lower():
            return self.sentence
        return f"{self.sentence} = {told}"


def _part(subject: Subject, key: str, sentence: str, *, contacts: str = "", short: str = "") -> Sum:
    name = PARTS[subject][key]
    unit: Unit = "ms" if key.endswith("_ms") else "count"
    return Sum(key, name, short or name, unit, sentence, (key,), (), contacts)


def _averages(over: str) -> tuple[Sum, ...]:
    told = {
        "talk": ("talk", "Speaking or writing, without hold."),
        "hold": ("hold", "With the other party on hold."),
        "wrap": ("wrap-up", "Wrapping up."),
    }
    return tuple(
        Sum(
            f"{part}_average_ms",
            f"Average {name}",
            f"{name.capitalize()}, average",
            "ms",
            sentence,
            (f"{part}_ms",),
            (over,),
            over,
        )
        for part, (name, sentence) in told.items()
    )


def _state_share(state: str) -> Sum:
    name = PARTS["agents"][f"{state}_ms"]
    return Sum(
        f"{state}_share",
        f"{name}, share",
        f"{name}, share",
        "share",
        "Of the time signed in.",
        (f"{state}_ms",),
        _STATES_MS,
    )


def _by_key(figures: Iterable[Sum]) -> dict[str, Sum]:
    return {figure.key: figure for figure in figures}


SUMS: dict[Subject, dict[str, Sum]] = {
    "agents": _by_key(
        (
            Sum("signed_in_ms", "Signed in", "Signed in", "ms", "All states together.", _STATES_MS),
            _part("agents", "on_contact_ms", "With a contact."),
            _part("agents", "wrapping_ms", "Wrapping up after a contact."),
            _part("agents", "ringing_ms", "Being rung."),
            _part("agents", "available_ms", "Free for a contact."),
            _part("agents", "away_ms", "Signed in, and not to be rung."),
            Sum(
                "occupancy",
                "Occupancy",
                "Occupancy",
                "share",
                "On contact and wrapping up, of these and available and ringing.",
                _HANDLES,
                (*_HANDLES, *_READY),
            ),
            _part("agents", "legs", "Parts of contacts that they had.", contacts="legs", short="Contacts"),
            Sum(
                "handle_average_ms",
                "Average handle time",
                "Handle, average",
                "ms",
                "Talk, hold and wrap-up, over their parts.",
                ("talk_ms", "hold_ms", "wrap_ms"),
                ("legs",),
                "legs",
            ),
            *_averages("legs"),
            _part("agents", "talk_ms", "Speaking or writing, without hold.", contacts="legs"),
            _part("agents", "hold_ms", "With the other party on hold.", contacts="legs"),
            _part("agents", "wrap_ms", "Wrapping up their parts.", contacts="legs"),
            _part("agents", "handed_on", "Parts that they sent on to somebody else.", contacts="handed_on"),
            _part("agents", "coded", "Parts that have a code.", contacts="coded"),
            Sum(
                "coded_share",
                "Coded",
                "Coded",
                "share",
                "Parts that have a code, of all.",
                ("coded",),
                ("legs",),
                "coded",
            ),
            _part("agents", "rang", "How often they were rung."),
            _part(
                "agents", "missed", "Rings that passed, were declined, or found no desk.", contacts="missed"
            ),
            Sum(
                "missed_share",
                "Rings missed, share",
                "Missed, share",
                "share",
                "Rings missed, of all rings.",
                ("missed",),
                ("rang",),
                "missed",
            ),
            *map(_state_share, STATES),
        )
    ),
    "codes": _by_key(
        (
            _part("codes", "legs", "Agents’ parts that have it."),
            Sum("share", "Share", "Share", "share", "Of all parts.", ("legs",), ("all_legs",)),
            _part("codes", "first_legs", "Of these, the first ones of their contacts."),
            _part("codes", "handed_on", "Of these, sent on to somebody else."),
            *_averages("legs"),
            Sum(
                "handle_average_ms",
                "Average handle time",
                "Handle, average",
                "ms",
                "Talk, hold and wrap-up, over the parts.",
                ("talk_ms", "hold_ms", "wrap_ms"),
                ("legs",),
            ),
        )
    ),
    "numbers": _by_key(
        (
            _part("numbers", "arrived", "Contacts that arrived on it."),
            _part("numbers", "person", "They spoke with or wrote to somebody."),
            _part("numbers", "hung_up", "The caller hung up before."),
            _part("numbers", "message", "They left a message."),
            _part("numbers", "callback", "They were promised a callback."),
            _part("numbers", "elsewhere", "They were sent to an outside number."),
            _part("numbers", "ended", "Their flow came to its end."),
            Sum(
                "average_ms",
                "Average length",
                "Lasted, average",
                "ms",
                "From the arrival to the end.",
                ("lasted_ms",),
                ("over",),
            ),
        )
    ),
}


class Term(NamedTuple):
    """A part of a sum, with its value in a row."""

    column: str
    name: str
    value: int
    sign: int = 1


def terms_of(subject: Subject, parts: Iterable[str], row: Mapping[str, int]) -> list[Term]:
    """Parts of a figure with a row's values, as a sum shows them."""
    return [Term(part, PARTS[subject][part], row[part]) for part in parts]


def figures_of(subject: Subject, row: Mapping[str, int]) -> dict[str, float | None]:
    """Every figure of a row of parts: counts, times in ms, shares from 0 to 1; None where there is
    nothing to divide by."""
    return {key: figure.value(row) for key, figure in SUMS[subject].items()}


def added(subject: Subject, rows: Iterable[Mapping[str, int]]) -> dict[str, int]:
    """The parts of several rows, added up."""
    found = dict.fromkeys(PARTS[subject], 0)
    for row in rows:
        for part in found:
            found[part] += row[part]
    return found
