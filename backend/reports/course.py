"""One contact told: a sentence, its lanes with names, what it gathered, and where it is counted."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings

from callcore.events import Happening, facts
from callcore.measures.account import How, Leg, Outcome, Stay
from callcore.measures.course import Course, Piece, course_of
from callcore.measures.rows import INTERVAL_MS
from exchange.services import ContactBrief, callbacks_of, contacts_of_caller
from reports.finding import Names

Name = Callable[[str, str], str]
_LEFT: dict[Outcome, str] = {
    Outcome.MESSAGE: "left a message",
    Outcome.CALLBACK: "was promised a callback",
    Outcome.ELSEWHERE: "was sent elsewhere",
    Outcome.ENDED: "left the queue",
    Outcome.UNDER_WAY: "waits",
}
_ENDS = {
    "hung_up": "hung up",
    "message": "left a message",
    "elsewhere": "was put through elsewhere",
    "callback": "was promised a callback",
    "failed": "was cut off by a failure",
    "not_reached": "was not reached",
    "cancelled": "was cancelled",
}
#: How far back contacts of the same caller are counted.
_DAYS = 28


def clock(ms: int) -> str:
    """A time as m:ss, or h:mm:ss."""
    minutes, seconds = divmod(max(0, ms) // 1000, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02}:{seconds:02}" if hours else f"{minutes}:{seconds:02}"


def told(identity: str, events: list[Happening], now_ms: int, line: ContactBrief) -> dict[str, Any]:
    """What there is to tell; see `CourseSerializer` for its shape."""
    course, names = course_of(events, now_ms), Names()
    begins = course.begins_ms or line.arrived_ms
    return {
        "begins_ms": begins,
        "ends_ms": max(course.ends_ms, begins + 1),
        "over": course.over,
        "sentence": _sentence(course, names.of, line),
        "where": [_piece(piece, names.of) for piece in course.where],
        "hears": [_piece(piece, names.of) for piece in course.hears],
        "keys": [press._asdict() for press in course.keys],
        "rings": [_piece(piece, names.of) for piece in course.rings],
        "holds": [_piece(piece, names.of) for piece in course.holds],
        "recorded": [_piece(piece, names.of) for piece in course.recorded],
        "texts": [_piece(piece, names.of) for piece in course.texts],
        "waits": [_wait(stay, course, names.of) for stay in course.stays],
        "legs": [_leg(leg, course, names.of) for leg in course.legs],
        "gathered": _gathered(events),
        "linked": _linked(identity, events),
        "same_caller": contacts_of_caller(line.caller, line.arrived_ms, _DAYS),
        "counted": _counted(course, names.of),
    }


def _piece(piece: Piece, name: Name) -> dict[str, Any]:
    kinds = {"queue": "queue", "person": "agent", "ring": "agent", "hold": "agent", "flow": "flow"}
    label = name(kinds[piece.kind], piece.of) if piece.kind in kinds else ""
    return {"kind": piece.kind, "label": label, "from_ms": piece.from_ms, "until_ms": piece.until_ms}


def _wait(stay: Stay, course: Course, name: Name) -> dict[str, Any]:
    until = stay.left_ms or course.ends_ms
    threshold = stay.entered_ms + stay.limits.threshold_ms
    return {
        "queue_name": name("queue", stay.queue),
        "from_ms": stay.entered_ms,
        "until_ms": until,
        "late_from_ms": threshold if threshold < until else None,
        "outcome": str(stay.outcome),
    }


def _leg(leg: Leg, course: Course, name: Name) -> dict[str, Any]:
    wrap_until = leg.wrapping_ms + leg.wrap_ms if leg.wrap_ms else None
    return {
        "agent_name": name("agent", leg.agent),
        "from_ms": leg.answered_ms,
        "until_ms": leg.ended_ms or course.ends_ms,
        "talk_ms": leg.talk_ms,
        "hold_ms": leg.held_ms,
        "how": str(leg.how),
        "by": leg.by,
        "wrap_from_ms": leg.wrapping_ms or None,
        "wrap_until_ms": wrap_until,
        "code_name": name("code", leg.code) if leg.code else "",
    }


def _sentence(course: Course, name: Name, line: ContactBrief) -> str:
    """The contact in one sentence."""
    moments = [(stay.entered_ms, _waited(stay, course, name)) for stay in course.stays]
    moments += [(leg.answered_ms, _spoke(leg, name)) for leg in course.legs]
    parts = [words for _, words in sorted(moments)]
    last = course.stays[-1] if course.stays else None
    told_by_stay = last is not None and last.outcome in (Outcome.ABANDONED, Outcome.MESSAGE, Outcome.CALLBACK)
    ending = _ENDS.get(line.ending, "")
    if ending and not told_by_stay and not (course.legs and line.ending == "hung_up"):
        parts.append(ending)
    if not parts:
        lasted = clock((line.ended_ms or course.ends_ms) - line.arrived_ms)
        parts = [f"was in the flow for {lasted}"]
    words = ", ".join(parts)
    return words[:1].upper() + words[1:] + "."


def _waited(stay: Stay, course: Course, name: Name) -> str:
    waited = clock(stay.wait_ms or course.ends_ms - stay.entered_ms)
    words = f"waited {waited} in {name('queue', stay.queue)}"
    if stay.outcome is Outcome.ABANDONED:
        return f"{words} and hung up while waiting"
    return words if stay.outcome is Outcome.ANSWERED else f"{words} and {_LEFT[stay.outcome]}"


def _spoke(leg: Leg, name: Name) -> str:
    who = name("agent", leg.agent)
    if leg.how is How.CONSULT:
        return f"asked {who}"
    if not leg.ended_ms:
        return f"is with {who}"
    spoke = f"spoke {clock(leg.talk_ms)} with {who}"
    return f"{spoke}, was passed on" if leg.by == "transferred" else spoke


def _gathered(events: Iterable[Happening]) -> list[dict[str, str]]:
    """Values and labels that it had at last."""
    values: dict[str, str] = {}
    for event in events:
        fact = event.fact
        if isinstance(fact, facts.Arrived):
            values |= {
                str(name): str(value)
                for name, value in fact.values.items()
                if name not in ("caller", "dialled", "message")
            }
        elif isinstance(fact, facts.Labelled):
            values |= {"label": fact.label} if fact.label else {}
            values |= {"priority": str(fact.priority)} if fact.priority is not None else {}
    return [{"name": name, "value": value[:200]} for name, value in values.items() if value]


def _linked(identity: str, events: Iterable[Happening]) -> list[dict[str, Any]]:
    """Contacts that belong to it: a callback and its call, and what colleagues were asked."""
    found = [
        {"contact": contact, "kind": kind, "at_ms": at_ms} for contact, kind, at_ms in callbacks_of(identity)
    ]
    for event in events:
        fact = event.fact
        if isinstance(fact, facts.Consults) and fact.consult:
            found.append({"contact": fact.consult, "kind": "consult", "at_ms": event.at_ms})
        elif isinstance(fact, facts.Arrived) and fact.consult_of:
            found.append({"contact": fact.consult_of, "kind": "about", "at_ms": event.at_ms})
    return found


def _counted(course: Course, name: Name) -> list[str]:
    """The rows of reports that it is counted in, in words."""
    zone = ZoneInfo(settings.CENTRE_TIME_ZONE)

    def row(at_ms: int) -> str:
        return f"{datetime.fromtimestamp(at_ms // INTERVAL_MS * INTERVAL_MS / 1000, zone):%H:%M}"

    words = {
        Outcome.MESSAGE: "message left",
        Outcome.CALLBACK: "callback",
        Outcome.ELSEWHERE: "sent elsewhere",
        Outcome.ENDED: "ended by flow",
        Outcome.UNDER_WAY: "under way",
    }
    found = [
        f"{name('queue', stay.queue)} {row(stay.entered_ms)}: "
        f"{words.get(stay.outcome, str(stay.outcome))}{', late' if stay.late else ''}"
        for stay in course.stays
    ]
    return found + [
        f"{name('agent', leg.agent)}: a part"
        + (f" of {name('queue', leg.queue)} {row(leg.home.entered_ms)}" if leg.home else "")
        for leg in course.legs
        if leg.how is not How.CONSULT
    ]
