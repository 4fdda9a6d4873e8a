"""What agents did: every state to the millisecond, their contacts by queue, rings missed, codes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Sequence
from typing import Any

from django.conf import settings
from django.db.models import Count, Q, Sum

from agents.services import agents
from callcore.measures.tallies import Counted
from queues.services import settings as queue_settings
from reports.models import AgentSpan, Leg
from reports.period import Period
from reports.queue_rows import share_of
from reports.tally_rows import tallies, within
from wrapup.services import code_names

#: States in which somebody is signed in; they add up to the time signed in.
STATES = ("available", "ringing", "on_contact", "wrapping", "away")
#: What is work on contacts, and what is readiness for them: occupancy is the first of both.
_HANDLES, _READY = ("on_contact", "wrapping"), ("available", "ringing")
_MISSED = ("missed", "declined", "desk_closed")


def clipped(spans: Iterable[tuple[int, int]], stretches: Sequence[tuple[int, int]]) -> int:
    """How much (ms) of some spans lies within some stretches."""
    return sum(
        max(0, min(until, ends) - max(begins, since))
        for since, until in spans
        for begins, ends in stretches
    )


def _spans(
    who: Collection[str], period: Period, now_ms: int
) -> list[tuple[str, str, str, int, int]]:
    """States that lie within a period at least in part: agent, status, reason, from, until."""
    rows = AgentSpan.objects.filter(
        Q(until_ms__gt=period.begin_ms) | Q(until_ms__isnull=True),
        site=settings.EXCHANGE_SITE, agent__in=who, from_ms__lt=min(period.end_ms, now_ms),
    ).exclude(status="out")  # fmt: skip
    columns = ("agent", "status", "reason", "from_ms", "until_ms")
    ends = min(period.end_ms, now_ms)
    return [
        (agent, status, reason, max(since, period.begin_ms), min(until or ends, ends))
        for agent, status, reason, since, until in rows.values_list(*columns).order_by("from_ms")
    ]


def report(who: Collection[str], period: Period, now_ms: int) -> dict[str, Any]:
    """A row an agent who was there, and all of them together; see `AgentsReportSerializer`."""
    stretches = period.stretches(period.begin_ms, period.end_ms)
    states: defaultdict[str, defaultdict[str, int]] = defaultdict(lambda: defaultdict(int))
    for agent, status, _, since, until in _spans(who, period, now_ms):
        states[agent][status] += clipped([(since, until)], stretches)
    legs, missed, people = _legs(who, stretches), _missed(who, period), agents()
    there = {agent for agent, own in states.items() if sum(own.values())} | legs.keys()
    rows = [
        _row(agent, people[agent].name, people[agent].team, states[agent], legs[agent],
             missed.get(agent, 0))
        for agent in there & people.keys()
    ]  # fmt: skip
    rows.sort(key=lambda row: (row["team"], row["name"]))
    return {"begin_ms": period.begin_ms, "end_ms": period.end_ms, "rows": rows,
            "total": _total(rows), "sentence": _sentence(rows)}  # fmt: skip


_SUMMED = ("signed_in_ms", *(f"{state}_ms" for state in STATES), "legs", "talk_ms", "hold_ms",
           "wrap_ms", "handed_on", "coded", "missed", "rang")  # fmt: skip


def _row(
    agent: str, name: str, team: str, states: dict[str, int], legs: dict[str, int], missed: Any
) -> dict[str, Any]:
    row: dict[str, Any] = {
        "agent": agent, "name": name, "team": team,
        "signed_in_ms": sum(states.get(state, 0) for state in STATES),
        **{f"{state}_ms": states.get(state, 0) for state in STATES},
        **{key: legs.get(key, 0) for key in ("legs", "talk_ms", "hold_ms", "wrap_ms", "handed_on",
                                             "coded")},
        "missed": missed[0] if missed else 0, "rang": missed[1] if missed else 0,
    }  # fmt: skip
    return {**row, **_derived(row)}


def _total(rows: Sequence[dict[str, Any]]) -> dict[str, Any]:
    whole: dict[str, Any] = {key: sum(row[key] for row in rows) for key in _SUMMED}
    return {"agent": "", "name": "", "team": "", **whole, **_derived(whole)}


def _derived(row: dict[str, Any]) -> dict[str, Any]:
    """Figures that are made of a row's own parts."""
    handled = sum(row[f"{state}_ms"] for state in _HANDLES)
    ready = sum(row[f"{state}_ms"] for state in _READY)
    times = row["talk_ms"] + row["hold_ms"] + row["wrap_ms"]
    return {
        "occupancy": share_of(handled, handled + ready),
        "handle_average_ms": share_of(times, row["legs"]),
        "coded_share": share_of(row["coded"], row["legs"]),
        "missed_share": share_of(row["missed"], row["rang"]),
    }


def _legs(
    who: Collection[str], stretches: Sequence[tuple[int, int]]
) -> defaultdict[str, dict[str, int]]:
    rows = (
        Leg.objects.filter(site=settings.EXCHANGE_SITE, agent__in=who)
        .filter(within("answered_ms", stretches))
        .exclude(how="consult")
        .values("agent")
        .annotate(
            legs=Count("pk"), talk=Sum("talk_ms"), hold=Sum("hold_ms"), wrap=Sum("wrap_ms"),
            handed_on=Count("pk", filter=Q(by="transferred")),
            coded=Count("pk", filter=~Q(code="")),
        )
    )  # fmt: skip
    found: defaultdict[str, dict[str, int]] = defaultdict(dict)
    for row in rows:
        found[row["agent"]] = {
            "legs": row["legs"], "talk_ms": row["talk"], "hold_ms": row["hold"],
            "wrap_ms": row["wrap"], "handed_on": row["handed_on"], "coded": row["coded"],
        }  # fmt: skip
    return found


def _missed(who: Collection[str], period: Period) -> dict[str, tuple[int, int]]:
    """Rings that passed unanswered, and all rings, by agent."""
    found: dict[str, tuple[int, int]] = {}
    for agent, detail, count, *_ in tallies(Counted.RING, period, who):
        missed, rang = found.get(agent, (0, 0))
        missed += count if detail in _MISSED else 0
        rang += count if detail == "rang" else 0
        found[agent] = (missed, rang)
    return found


def _sentence(rows: Sequence[dict[str, Any]]) -> str:
    """Names who misses rings far more often than the others."""
    rung = [row for row in rows if row["rang"] >= 20]
    if not rung:
        return ""
    worst = max(rung, key=lambda row: row["missed_share"])
    others = [row for row in rung if row is not worst]
    usual = sum(row["missed"] for row in others) / max(1, sum(row["rang"] for row in others))
    if worst["missed_share"] < 0.1 or worst["missed_share"] < 3 * usual:
        return ""
    return (
        f"{worst['name']} let {worst['missed']:,} of {worst['rang']:,} rings pass "
        f"({worst['missed_share'] * 100:.0f} %), the others {usual * 100:.0f} %."
    )


def day_of(agent: str, period: Period, now_ms: int) -> dict[str, Any]:
    """One agent: their states on a time line, contacts by queue, codes, and reasons for being
    away."""
    stretches = period.stretches(period.begin_ms, period.end_ms)
    spans = _spans([agent], period, now_ms)
    reasons: defaultdict[str, int] = defaultdict(int)
    for _, status, reason, since, until in spans:
        if status == "away":
            reasons[reason or "no reason"] += clipped([(since, until)], stretches)
    legs = (
        Leg.objects.filter(site=settings.EXCHANGE_SITE, agent=agent)
        .filter(within("answered_ms", stretches))
        .exclude(how="consult")
    )
    queues = {q.id: q.name for q in queue_settings()}
    codes = code_names()
    by_queue = legs.values("queue").annotate(
        legs=Count("pk"), talk=Sum("talk_ms"), hold=Sum("hold_ms"), wrap=Sum("wrap_ms")
    )
    return {
        "row": next(iter(report([agent], period, now_ms)["rows"]), None),
        "spans": [
            {"status": status, "reason": reason, "from_ms": since, "until_ms": until}
            for _, status, reason, since, until in spans[:_MOST_SPANS]
        ],
        "reasons": [
            {"reason": reason, "ms": ms}
            for reason, ms in sorted(reasons.items(), key=lambda found: -found[1])
            if ms >= _SEEN_MS
        ],
        "queues": [
            {"name": queues.get(row["queue"], "Outside of queues"), "legs": row["legs"],
             "talk_ms": row["talk"], "hold_ms": row["hold"], "wrap_ms": row["wrap"]}
            for row in by_queue.order_by("-legs")
        ],
        "codes": [
            {"name": codes.get(row["code"], "A code that is gone") if row["code"] else "No code",
             "legs": row["legs"]}
            for row in legs.values("code").annotate(legs=Count("pk")).order_by("-legs")
        ],
    }  # fmt: skip


#: What lasted shorter is nothing that somebody was away for.
_SEEN_MS = 1_000
#: A time line shows a few days at the most.
_MOST_SPANS = 2_000
