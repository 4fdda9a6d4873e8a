"""What agents did: every state to the millisecond, their contacts by queue, rings missed, codes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Sequence
from typing import Any

from django.conf import settings
from django.db.models import Count, Q, QuerySet, Sum

from agents.services import agents
from callcore.events import Kind, facts
from callcore.measures.sums import STATES, SUMS, added, figures_of, terms_of
from callcore.measures.tallies import Counted
from exchange.live import journal
from queues.services import settings as queue_settings
from reports.behind import Behind, part_behind
from reports.models import AgentSpan, Leg
from reports.period import Period
from reports.tally_rows import tallies, within
from wrapup.services import code_names

_MISSED = ("missed", "declined", "desk_closed")


def clipped(spans: Iterable[tuple[int, int]], stretches: Sequence[tuple[int, int]]) -> int:
    """How much (ms) of some spans lies within some stretches."""
    return sum(
        max(0, min(until, ends) - max(begins, since)) for since, until in spans for begins, ends in stretches
    )


def _spans(who: Collection[str], period: Period, now_ms: int) -> list[tuple[str, str, str, int, int]]:
    """States that lie within a period at least in part: agent, status, reason, from, until."""
    rows = AgentSpan.objects.filter(
        Q(until_ms__gt=period.begin_ms) | Q(until_ms__isnull=True),
        site=settings.EXCHANGE_SITE,
        agent__in=who,
        from_ms__lt=min(period.end_ms, now_ms),
    ).exclude(status="out")
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
        _row(
            agent,
            people[agent].name,
            people[agent].team,
            states[agent],
            legs[agent],
            missed.get(agent, (0, 0)),
        )
        for agent in there & people.keys()
    ]
    rows.sort(key=lambda row: (row["team"], row["name"]))
    return {
        "begin_ms": period.begin_ms,
        "end_ms": period.end_ms,
        "rows": rows,
        "total": total_of(rows),
        "sentence": _sentence(rows),
    }


_OF_LEGS = ("legs", "talk_ms", "hold_ms", "wrap_ms", "handed_on", "coded")


def _row(
    agent: str, name: str, team: str, states: dict[str, int], legs: dict[str, int], missed: tuple[int, int]
) -> dict[str, Any]:
    parts = {
        **{f"{state}_ms": states.get(state, 0) for state in STATES},
        **{key: legs.get(key, 0) for key in _OF_LEGS},
        "missed": missed[0],
        "rang": missed[1],
    }
    return {"agent": agent, "name": name, "team": team, **parts, **figures_of("agents", parts)}


def total_of(rows: Sequence[dict[str, Any]]) -> dict[str, Any]:
    """Several agents together: parts add up, the rest is worked out anew from them."""
    whole = added("agents", rows)
    return {"agent": "", "name": "", "team": "", **whole, **figures_of("agents", whole)}


def sum_behind(who: Collection[str], period: Period, now_ms: int, key: str) -> dict[str, Any]:
    """How a figure of some agents together comes about; see `FigureSumSerializer`."""
    figure = SUMS["agents"][key]
    row = report(who, period, now_ms)["total"]
    over, under = (terms_of("agents", parts, row) for parts in (figure.over, figure.under))
    return {
        "key": key,
        "name": figure.name,
        "sentence": figure.sentence,
        "unit": figure.unit,
        "formula": figure.formula("agents"),
        "adds": figure.adds,
        "value": figure.value(row),
        "over": [term._asdict() for term in over],
        "over_sum": sum(term.value for term in over),
        "under": [term._asdict() for term in under],
        "under_sum": sum(term.value for term in under) if under else None,
        "limits": [],
        "levels": [],
        "parts": {},
    }


#: Which of their parts of contacts a figure is of.
_LEGS = {"legs": Q(), "handed_on": Q(by="transferred"), "coded": ~Q(code="")}


def _parts(who: Collection[str], stretches: Sequence[tuple[int, int]]) -> QuerySet[Leg]:
    legs = Leg.objects.filter(site=settings.EXCHANGE_SITE, agent__in=who)
    return legs.filter(within("answered_ms", stretches)).exclude(how="consult")


def behind(
    part: str, who: Collection[str], period: Period, first: int, most: int
) -> tuple[int, list[Behind]]:
    """How many contacts stand behind a part of agents' figures, and some of them, newest first.
    Missed rings are listed of one agent only."""
    stretches = period.stretches(period.begin_ms, period.end_ms)
    if part == "missed":
        return _behind_missed(who, period, first, most) if len(who) == 1 else (0, [])
    legs = _parts(who, stretches).filter(_LEGS[part]).order_by("-answered_ms", "-pk")
    return legs.count(), [part_behind(leg) for leg in legs[first : first + most]]


def _behind_missed(who: Collection[str], period: Period, first: int, most: int) -> tuple[int, list[Behind]]:
    kinds = (str(Kind.RING_STOPPED),)
    rings = [
        Behind(event.contact, event.at_ms, 0, event.fact.why, False, event.fact.queue, event.agent)
        for agent in who
        for event in journal.of_agent(
            settings.EXCHANGE_SITE, agent, kinds, period.begin_ms, period.end_ms, _MOST_RINGS
        )
        if isinstance(event.fact, facts.RingStopped)
        and event.fact.why in _MISSED
        and period.counts(event.at_ms)
    ]
    return len(rings), rings[::-1][first : first + most]


def _legs(who: Collection[str], stretches: Sequence[tuple[int, int]]) -> defaultdict[str, dict[str, int]]:
    rows = (
        _parts(who, stretches)
        .values("agent")
        .annotate(
            legs=Count("pk"),
            talk=Sum("talk_ms"),
            hold=Sum("hold_ms"),
            wrap=Sum("wrap_ms"),
            handed_on=Count("pk", filter=_LEGS["handed_on"]),
            coded=Count("pk", filter=_LEGS["coded"]),
        )
    )
    found: defaultdict[str, dict[str, int]] = defaultdict(dict)
    for row in rows:
        found[row["agent"]] = {
            "legs": row["legs"],
            "talk_ms": row["talk"],
            "hold_ms": row["hold"],
            "wrap_ms": row["wrap"],
            "handed_on": row["handed_on"],
            "coded": row["coded"],
        }
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
    legs = _parts([agent], stretches)
    queues = {q.id: q.name for q in queue_settings()}
    codes = code_names()
    by_queue = legs.values("queue").annotate(
        legs=Count("pk"), talk=Sum("talk_ms"), hold=Sum("hold_ms"), wrap=Sum("wrap_ms")
    )
    return {
        "told": _told(agent, period, queues),
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
            {
                "name": queues.get(row["queue"], "Outside of queues"),
                "legs": row["legs"],
                "talk_ms": row["talk"],
                "hold_ms": row["hold"],
                "wrap_ms": row["wrap"],
            }
            for row in by_queue.order_by("-legs")
        ],
        "codes": [
            {
                "name": codes.get(row["code"], "A code that is gone") if row["code"] else "No code",
                "legs": row["legs"],
            }
            for row in legs.values("code").annotate(legs=Count("pk")).order_by("-legs")
        ],
    }


def _told(agent: str, period: Period, queues: dict[str, str]) -> list[dict[str, Any]]:
    """What supervisors had an agent do, and what they wrote to each other."""
    kinds = (str(Kind.STEERED), str(Kind.SAID))
    found = journal.of_agent(settings.EXCHANGE_SITE, agent, kinds, period.begin_ms, period.end_ms, _MOST_TOLD)
    rows: list[dict[str, Any]] = []
    for event in found:
        fact = event.fact
        if isinstance(fact, facts.Said):
            rows.append({"at_ms": event.at_ms, "by": fact.by, "act": "say", "about": fact.words})
        elif isinstance(fact, facts.Steered):
            served = [queues.get(queue, "a queue that is gone") for queue in fact.queues]
            about = fact.reason or ", ".join(served)
            rows.append({"at_ms": event.at_ms, "by": fact.by, "act": fact.act, "about": about})
    return rows


#: So much of an agent's time is told of supervisors.
_MOST_TOLD = 500
#: So many of an agent's rings are looked at for those that were missed.
_MOST_RINGS = 20_000
#: What lasted shorter is nothing that somebody was away for.
_SEEN_MS = 1_000
#: A time line shows a few days at the most.
_MOST_SPANS = 2_000
