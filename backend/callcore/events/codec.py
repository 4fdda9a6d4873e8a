"""The kinds of events, and their one way to JSON and back."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import Any

from callcore.events import facts
from callcore.events.facts import Fact


class Kind(StrEnum):
    """What can happen, as the journal names it."""

    ARRIVED = "contact.arrived"
    MOVED = "contact.moved"
    HEARD = "contact.heard"
    LISTENS = "contact.listens"
    KEYED = "contact.keyed"
    SPOKEN = "contact.spoken"
    TEXTED = "contact.texted"
    QUEUED = "contact.queued"
    WAIT_TOLD = "contact.wait_told"
    LEFT_QUEUE = "contact.left_queue"
    DIVERTED = "contact.diverted"
    WENT_ON = "contact.went_on"
    RINGS_OUT = "contact.rings_out"
    RANG_OUT = "contact.rang_out"
    RINGS_PERSON = "contact.rings_person"
    MUSIC = "contact.music"
    LOOKS_UP = "contact.looks_up"
    LABELLED = "contact.labelled"
    RECORDS = "contact.records"
    MESSAGE_LEFT = "contact.message_left"
    BOOKED = "callback.booked"
    CALLS_BACK = "callback.calls"
    NOT_REACHED = "callback.not_reached"
    ENDED = "contact.ended"
    RANG = "leg.rang"
    RING_STOPPED = "leg.ring_stopped"
    ANSWERED = "leg.answered"
    HELD = "talk.held"
    CONSULTS = "talk.consults"
    JOINED = "talk.joined"
    CONSULT_OVER = "talk.consult_over"
    RECORDS_TALK = "talk.recording"
    TRANSFERRED = "talk.transferred"
    EMERGENCY = "talk.emergency"
    EMERGENCY_TAKEN = "talk.emergency_taken"
    ATTENDS = "talk.attended"
    TAKEN_OVER = "talk.taken_over"
    GIVEN_BACK = "talk.given_back"
    STEERED = "floor.steered"
    SAID = "floor.said"
    ALERT = "floor.alert"
    LINE = "agent.line"
    LEG_ENDED = "leg.ended"
    CODED = "leg.coded"
    AGENT = "agent.changed"

    @classmethod
    def _missing_(cls, value: object) -> Kind | None:
        return cls.CONSULT_OVER if value == "talk.side_over" else None


FACTS: dict[Kind, type[Fact]] = {
    Kind.ARRIVED: facts.Arrived,
    Kind.MOVED: facts.Moved,
    Kind.HEARD: facts.Heard,
    Kind.LISTENS: facts.Listens,
    Kind.KEYED: facts.Keyed,
    Kind.SPOKEN: facts.Spoken,
    Kind.TEXTED: facts.Texted,
    Kind.QUEUED: facts.Queued,
    Kind.WAIT_TOLD: facts.WaitTold,
    Kind.LEFT_QUEUE: facts.LeftQueue,
    Kind.DIVERTED: facts.Diverted,
    Kind.WENT_ON: facts.WentOn,
    Kind.RINGS_OUT: facts.RingsOut,
    Kind.RANG_OUT: facts.RangOut,
    Kind.RINGS_PERSON: facts.RingsPerson,
    Kind.MUSIC: facts.Music,
    Kind.LOOKS_UP: facts.LooksUp,
    Kind.LABELLED: facts.Labelled,
    Kind.RECORDS: facts.Records,
    Kind.MESSAGE_LEFT: facts.MessageLeft,
    Kind.BOOKED: facts.Booked,
    Kind.CALLS_BACK: facts.CallsBack,
    Kind.NOT_REACHED: facts.NotReached,
    Kind.ENDED: facts.Ended,
    Kind.RANG: facts.Rang,
    Kind.RING_STOPPED: facts.RingStopped,
    Kind.ANSWERED: facts.Answered,
    Kind.HELD: facts.Held,
    Kind.CONSULTS: facts.Consults,
    Kind.JOINED: facts.Joined,
    Kind.CONSULT_OVER: facts.ConsultOver,
    Kind.RECORDS_TALK: facts.RecordsTalk,
    Kind.TRANSFERRED: facts.Transferred,
    Kind.EMERGENCY: facts.Emergency,
    Kind.EMERGENCY_TAKEN: facts.EmergencyTaken,
    Kind.ATTENDS: facts.Attends,
    Kind.TAKEN_OVER: facts.TakenOver,
    Kind.GIVEN_BACK: facts.GivenBack,
    Kind.STEERED: facts.Steered,
    Kind.SAID: facts.Said,
    Kind.ALERT: facts.Alert,
    Kind.LINE: facts.Line,
    Kind.LEG_ENDED: facts.LegEnded,
    Kind.CODED: facts.Coded,
    Kind.AGENT: facts.AgentChanged,
}
KINDS: dict[type[Fact], Kind] = {fact: kind for kind, fact in FACTS.items()}
#: Kinds whose fields do not mean any more what they meant at first.
VERSIONS: dict[Kind, int] = {}
_VERSION = "v"
#: Until November 2026 words stood in the events; where nothing else tells what they told, they are
#: kept as what they were about.
_WORDS_WERE: dict[Kind, str] = {
    Kind.MOVED: "told",
    Kind.HEARD: "text",
    Kind.DIVERTED: "reason",
    Kind.CONSULTS: "to",
    Kind.JOINED: "to",
    Kind.CONSULT_OVER: "to",
    Kind.EMERGENCY: "to",
    Kind.EMERGENCY_TAKEN: "by",
}
#: What fields were called until December 2026.
_NAMES_WERE: dict[Kind, tuple[str, str]] = {
    Kind.ARRIVED: ("aside", "consult_of"),
    Kind.CONSULTS: ("side", "consult"),
    Kind.TRANSFERRED: ("side", "consult"),
}


#: What most fields hold: whether it is a mapping of some make need not be asked.
_AS_THEY_ARE = frozenset({str, int, bool, tuple, type(None)})


class Unreadable(Exception):
    """An event of a kind, or of a version, that this program does not know."""


def encode(fact: Fact) -> dict[str, Any]:
    """A fact as JSON; what is as where nothing is said is left out."""
    defaults = fact._field_defaults
    body = {
        name: value if type(value) in _AS_THEY_ARE or not isinstance(value, Mapping) else dict(value)
        for name, value in zip(fact._fields, fact, strict=True)
        if value != defaults[name]
    }
    version = VERSIONS.get(KINDS[type(fact)])
    return {**body, _VERSION: version} if version else body


def decode(kind: str, body: Mapping[str, Any]) -> Fact:
    """The fact that `encode` wrote, now or in an earlier version.

    Raises:
        Unreadable: a later version wrote it.
    """
    try:
        known = Kind(kind)
    except ValueError:
        raise Unreadable(f"there is no event {kind!r}") from None
    if body.get(_VERSION, 1) > VERSIONS.get(known, 1):
        raise Unreadable(f"{kind} is of version {body[_VERSION]}")
    fact = FACTS[known]
    values = {name: _frozen(body[name]) for name in fact._fields if name in body}
    was, name = _NAMES_WERE.get(known, ("", ""))
    if was in body and name not in values:
        values[name] = body[was]
    told = _WORDS_WERE.get(known)
    if told and "words" in body and told not in values:
        values[told] = body["words"]
    return fact(**values)


def _frozen(value: Any) -> Any:
    """JSON's lists as the tuples that they were."""
    return tuple(map(_frozen, value)) if isinstance(value, list) else value
