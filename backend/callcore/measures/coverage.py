"""How many agents are there at each hour of the day, and what is left when one of them goes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from typing import NamedTuple
from zoneinfo import ZoneInfo

from callcore.events import Happening, Kind
from callcore.events.facts import AgentChanged
from callcore.routing.events import Status

HOURS = 24
_HOUR_MS = 3_600_000


class Coverage(NamedTuple):
    """Agents there at each hour of the day, on average: with everybody, and without one."""

    before: tuple[float, ...]
    after: tuple[float, ...]

    @property
    def bare(self) -> tuple[int, ...]:
        """The hours that somebody covered, and hardly anybody would any more."""
        pairs = enumerate(zip(self.before, self.after, strict=True))
        return tuple(hour for hour, (with_, without) in pairs if with_ >= 0.5 > without)


def presence(
    events: Iterable[Happening], begin_ms: int, end_ms: int, zone: ZoneInfo
) -> dict[str, tuple[float, ...]]:
    """The share of each hour of the day in which each agent was signed in, over whole days.

    Args:
        events: the stream, or only its events of agents; those before `begin_ms` say how things
            stood.
    """
    since: dict[str, int] = {}
    there: dict[str, list[int]] = {}
    for event in events:
        if event.kind is not Kind.AGENT or event.at_ms >= end_ms:
            continue
        out = isinstance(event.fact, AgentChanged) and event.fact.status == Status.OUT
        if out and event.agent in since:
            _add(there, event.agent, since.pop(event.agent), event.at_ms, begin_ms, zone)
        elif not out:
            since.setdefault(event.agent, event.at_ms)
    for agent, from_ms in since.items():
        _add(there, agent, from_ms, end_ms, begin_ms, zone)
    days = max(1, round((end_ms - begin_ms) / (HOURS * _HOUR_MS)))
    return {a: tuple(ms / _HOUR_MS / days for ms in hours) for a, hours in there.items()}


def _add(
    there: dict[str, list[int]], agent: str, from_ms: int, to_ms: int, begin_ms: int, zone: ZoneInfo
) -> None:
    """Cut a stretch at the edges of the local hours."""
    hours = there.setdefault(agent, [0] * HOURS)
    at_ms = max(from_ms, begin_ms)
    while at_ms < to_ms:
        local = datetime.fromtimestamp(at_ms / 1000, zone)
        edge = local.replace(minute=0, second=0, microsecond=0) + timedelta(hours=1)
        next_ms = min(to_ms, max(at_ms + 1, round(edge.timestamp() * 1000)))
        hours[local.hour] += next_ms - at_ms
        at_ms = next_ms


def coverage(present: Mapping[str, tuple[float, ...]], agents: Iterable[str], leaver: str) -> Coverage:
    """What a group of agents covers, with `leaver` and without."""
    known = [(agent, present[agent]) for agent in agents if agent in present]
    before = [sum(hours[h] for _, hours in known) for h in range(HOURS)]
    after = [sum(hours[h] for agent, hours in known if agent != leaver) for h in range(HOURS)]
    return Coverage(tuple(before), tuple(after))
