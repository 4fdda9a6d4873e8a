"""What contacts were about: codes by leg, by hour, and how one leg's code leads to the next's."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models import Q, QuerySet

from agents.services import agents
from callcore.measures.sums import figures_of
from reports.models import Leg
from reports.period import Period
from web.problems import bad_request
from wrapup.services import code_names

#: More legs than a page can be made of in a moment: the period is to be narrowed then.
MOST_LEGS = 400_000
#: What stands for a next leg that never came about: the caller gave up, or nobody was there.
NOBODY = "nobody"
#: A hand-over is worth a sentence from so many, and from such a share on.
_TOLD_FROM, _TOLD_SHARE = 5, 0.12


class Part(NamedTuple):
    """One leg, as far as codes are concerned."""

    contact: str
    number: int
    agent: str
    offered_ms: int
    answered_ms: int
    wait_ms: int
    talk_ms: int
    hold_ms: int
    wrap_ms: int
    code: str
    by: str


def _rows(queues: Sequence[str], period: Period) -> QuerySet[Leg]:
    rows = Leg.objects.filter(
        site=settings.EXCHANGE_SITE, offered_ms__gte=period.begin_ms, offered_ms__lt=period.end_ms
    ).exclude(Q(how="consult") | Q(ended_ms__isnull=True))
    return rows.filter(queue__in=queues) if queues else rows


def parts_of(queues: Sequence[str], period: Period) -> list[Part]:
    """The legs of a period.

    Raises:
        Problem: there are more than can be looked at in one go.
    """
    found = _rows(queues, period).order_by("contact", "number").values_list(*Part._fields)
    parts = [Part(*row) for row in found[: MOST_LEGS + 1]]
    if len(parts) > MOST_LEGS:
        words = "These are more contacts than can be looked at in one go: choose fewer days, or a queue."
        raise bad_request(words, last=[words])
    return [part for part in parts if period.counts(part.offered_ms)]


def next_parts(parts: Sequence[Part]) -> dict[tuple[str, int], Part]:
    """The leg that follows each of some legs which were handed on, also in other queues."""
    contacts = list({part.contact for part in parts if part.by == "transferred"})
    if not contacts:
        return {}
    rows = Leg.objects.filter(contact__in=contacts).exclude(how="consult")
    legs = [Part(*row) for row in rows.order_by("contact", "number").values_list(*Part._fields)]
    following: dict[tuple[str, int], Part] = {}
    for one, after in itertools.pairwise(legs):
        if one.contact == after.contact:
            following[(one.contact, one.number)] = after
    return following


def report(queues: Sequence[str], period: Period) -> dict[str, Any]:
    """The report; see `CodesReportSerializer` for its shape."""
    parts = parts_of(queues, period)
    names = code_names()
    following = next_parts(parts)
    handed = [
        (part, following.get((part.contact, part.number))) for part in parts if part.by == "transferred"
    ]
    codes = _codes(parts, names)
    total = _counted(parts, len(parts))
    matrix = _matrix(handed)
    return {
        "begin_ms": period.begin_ms,
        "end_ms": period.end_ms,
        "legs": len(parts),
        "contacts": len({part.contact for part in parts}),
        "coded": sum(bool(part.code) for part in parts),
        "codes": codes,
        "total": {"code": "", "name": "All", **total, **figures_of("codes", total)},
        "hours": _hours(parts, period.zone),
        "handed_on": len(handed),
        "matrix": [{"first": a, "second": b, "count": n} for (a, b), n in sorted(matrix.items())],
        "names": {
            code: names.get(code, "A code that is gone")
            for code in {*(part.code for part in parts), *(b for _, b in matrix)}
            if code not in ("", NOBODY)
        },
        "sentence": _sentence(parts, handed, names),
    }


def _codes(parts: Sequence[Part], names: dict[str, str]) -> list[dict[str, Any]]:
    by_code: defaultdict[str, list[Part]] = defaultdict(list)
    for part in parts:
        by_code[part.code].append(part)
    return [
        {
            "code": code,
            "name": names.get(code, "A code that is gone") if code else "No code",
            **counted,
            **figures_of("codes", counted),
        }
        for code, own in sorted(by_code.items(), key=lambda found: (not found[0], -len(found[1])))
        for counted in [_counted(own, len(parts))]
    ]


def _counted(own: Sequence[Part], all_legs: int) -> dict[str, int]:
    return {
        "legs": len(own),
        "all_legs": all_legs,
        "first_legs": sum(part.number == 0 for part in own),
        "handed_on": sum(part.by == "transferred" for part in own),
        "talk_ms": sum(part.talk_ms for part in own),
        "hold_ms": sum(part.hold_ms for part in own),
        "wrap_ms": sum(part.wrap_ms for part in own),
    }


def _hours(parts: Sequence[Part], zone: str) -> list[dict[str, Any]]:
    """Legs by code and hour of the day."""
    local = ZoneInfo(zone)
    hours: defaultdict[str, list[int]] = defaultdict(lambda: [0] * 24)
    for part in parts:
        hours[part.code][datetime.fromtimestamp(part.answered_ms / 1000, local).hour] += 1
    return [{"code": code, "counts": counts} for code, counts in hours.items()]


Handed = tuple[Part, "Part | None"]


def _matrix(handed: Sequence[Handed]) -> dict[tuple[str, str], int]:
    found: defaultdict[tuple[str, str], int] = defaultdict(int)
    for first, second in handed:
        found[(first.code, second.code if second is not None else NOBODY)] += 1
    return found


def _sentence(parts: Sequence[Part], handed: Sequence[Handed], names: dict[str, str]) -> str:
    """Says which code is given mostly to what somebody else had before and labelled otherwise."""
    firsts: defaultdict[tuple[str, str], int] = defaultdict(int)
    for first, second in handed:
        if second is not None and second.code and first.code and first.code != second.code:
            firsts[(first.code, second.code)] += 1
    ends: defaultdict[str, int] = defaultdict(int)
    for part in parts:
        ends[part.code] += 1
    told = [
        (count / ends[second], count, first, second)
        for (first, second), count in firsts.items()
        if count >= _TOLD_FROM and ends[second]
    ]
    share, count, first_code, second_code = max(told, default=(0.0, 0, "", ""))
    if share < _TOLD_SHARE:
        return ""
    return (
        f"{count:,} of {ends[second_code]:,} parts that ended as “{names.get(second_code)}” began "
        f"with an agent who only said “{names.get(first_code)}”."
    )


def behind(
    queues: Sequence[str],
    period: Period,
    asked: dict[str, str],
    first: int,
    most: int,
    callers: Callable[[Iterable[str]], Mapping[str, str]],
) -> dict[str, Any]:
    """The contacts of a code, of one of its hours, or of a hand-over, with both legs and what the
    second one cost.

    Args:
        callers: who called, by contact, as far as the reader may know.
    """
    parts = parts_of(queues, period)
    following = next_parts(parts)
    chosen = [
        (part, following.get((part.contact, part.number)))
        for part in parts
        if _fits(part, following, asked, period.zone)
    ]
    shown = chosen[first : first + most]
    known, people = callers(part.contact for part, _ in shown), agents()

    def leg(part: Part | None) -> dict[str, Any] | None:
        if part is None:
            return None
        name = people[part.agent].name if part.agent in people else "Somebody who is gone"
        return {
            "agent_name": name,
            "at_ms": part.answered_ms,
            "wait_ms": part.wait_ms,
            "talk_ms": part.talk_ms,
        }

    again = [second for _, second in chosen if second is not None]
    return {
        "count": len(chosen),
        "first_talk_ms": sum(part.talk_ms + part.wrap_ms for part, _ in chosen),
        "second_wait_ms": sum(second.wait_ms for second in again),
        "contacts": [
            {
                "contact": part.contact,
                "at_ms": part.answered_ms,
                "caller": known.get(part.contact, ""),
                "first": leg(part),
                "second": leg(second),
            }
            for part, second in shown
        ],
    }


def _fits(part: Part, following: dict[tuple[str, int], Part], asked: dict[str, str], zone: str) -> bool:
    if "code" in asked and part.code != asked["code"]:
        return False
    if asked.get("hour"):
        local = datetime.fromtimestamp(part.answered_ms / 1000, ZoneInfo(zone))
        if local.hour != int(asked["hour"]):
            return False
    if asked.get("passed_on") and part.by != "transferred":
        return False
    if "second" in asked:
        after = following.get((part.contact, part.number))
        next_code = after.code if after is not None else NOBODY
        return part.by == "transferred" and next_code == asked["second"]
    return True
