"""Routes: every distinct way through a flow, with its share, its ending and its time.

A route is a way without rounds: where a caller goes round a loop and then on, the round is
cut out. Its share is the chance that the loop-erased walk of a caller is that route. For a
walk on an absorbing chain with one-step shares p that is

    the product over the route's stops of  G(v | stops before v cut out) · p(v, next)

with G the mean number of visits (Lawler, Intersections of Random Walks, 1991, section 7.2),
so the shares of all routes sum to one wherever callers leave at all.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from callcore.flow import describe
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyStep, Flow
from callcore.flow.fates import OWN_ARMS, arm_shares, own_fate
from callcore.flow.times import seconds

#: More routes than this are not listed one by one: those with a small share stand together.
MOST_LISTED = 300
#: The search for routes ends after so many; what is left is told as a share.
MOST_WALKED = 20_000


class Turn(NamedTuple):
    """One stop of a route and the exit that is taken there."""

    step: str
    exit: str
    label: str
    choice: bool


class Route(NamedTuple):
    """One way: its turns, how it ends and where, its share, shortest and longest time (s).

    `longest_s` None: nothing but a hang-up ends it (a queue without a longest wait).
    """

    turns: tuple[Turn, ...]
    fate: str
    place: str
    share: float
    shortest_s: float
    longest_s: float | None


class Routes(NamedTuple):
    """The listed routes, most callers first; how many there are; the share of those not listed."""

    listed: list[Route]
    total: int
    complete: bool
    rest: float


class _Arm(NamedTuple):
    name: str
    to: str | None
    share: float


def routes(flow: Flow, catalogue: Catalogue, counts: Mapping[tuple[str, str], int] | None = None) -> Routes:
    """Every route of a flow, by recorded counts where there are some, else by estimate."""
    steps = {step.id: step for step in flow.steps}
    if flow.start not in steps:
        return Routes([], 0, True, 0.0)
    arms = _arms(flow, counts or {})
    visits = _Visits(arms)
    found: list[tuple[float, list[tuple[str, str]], str]] = []
    complete = True
    for share, way in _walks(flow.start, arms, visits):
        found.append((share, way, way[-1][0]))
        if len(found) >= MOST_WALKED:
            complete = False
            break
    found.sort(key=lambda item: -item[0])
    listed = [_route(way, share, steps, catalogue) for share, way, _ in found[:MOST_LISTED]]
    return Routes(listed, len(found), complete, max(0.0, 1.0 - sum(r.share for r in listed)))


def _arms(flow: Flow, counts: Mapping[tuple[str, str], int]) -> dict[str, list[_Arm]]:
    """Every exit of every step with its share; one that ends the call leads to None."""
    shares = arm_shares(flow, counts)
    known = {step.id for step in flow.steps}
    result: dict[str, list[_Arm]] = {}
    for step in flow.steps:
        ways = [
            _Arm(e.name, e.to if e.to in known else None, shares[(step.id, e.name)]) for e in step.exits()
        ]
        own = OWN_ARMS.get(step.kind)
        if own is not None:
            ways.insert(0, _Arm(own, None, shares[(step.id, own)]))
        result[step.id] = ways or [_Arm("", None, 1.0)]
    return result


class _Visits:
    """How often a caller comes to a stop on average, with other stops cut out."""

    def __init__(self, arms: Mapping[str, list[_Arm]]) -> None:
        self._arms = arms
        self._loops = _loops(arms)
        self._known: dict[tuple[str, frozenset[str]], float] = {}

    def mean(self, at: str, gone: frozenset[str]) -> float:
        """1 where no loop leads back."""
        loop = self._loops[at]
        if len(loop) == 1 and not any(arm.to == at for arm in self._arms[at]):
            return 1.0
        key = (at, gone & loop)
        if key not in self._known:
            self._known[key] = self._solved(at, [s for s in loop if s not in gone])
        return self._known[key]

    def _solved(self, at: str, stops: list[str]) -> float:
        index = {stop: i for i, stop in enumerate(stops)}
        moves: NDArray[np.float64] = np.zeros((len(stops), len(stops)))
        for stop in stops:
            for arm in self._arms[stop]:
                if arm.to in index:
                    moves[index[stop], index[arm.to]] += arm.share
        # A hair of leakage keeps the matrix regular where a loop has no way out.
        inverse = np.linalg.inv(np.eye(len(stops)) - moves * (1 - 1e-12))
        return float(inverse[index[at], index[at]])


def _loops(arms: Mapping[str, list[_Arm]]) -> dict[str, frozenset[str]]:
    """For each stop, the stops it shares loops with, itself included (Tarjan, 1972)."""
    number: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    result: dict[str, frozenset[str]] = {}
    for root in arms:
        if root in number:
            continue
        work: list[tuple[str, Iterator[_Arm]]] = [(root, iter(arms[root]))]
        number[root] = low[root] = len(number)
        stack.append(root)
        while work:
            at, ways = work[-1]
            for arm in ways:
                if arm.to is None:
                    continue
                if arm.to not in number:
                    number[arm.to] = low[arm.to] = len(number)
                    stack.append(arm.to)
                    work.append((arm.to, iter(arms[arm.to])))
                    break
                if arm.to not in result:
                    low[at] = min(low[at], number[arm.to])
            else:
                _close(at, work, stack, number, low, result)
    return result


def _close(
    at: str,
    work: list[tuple[str, Iterator[_Arm]]],
    stack: list[str],
    number: dict[str, int],
    low: dict[str, int],
    result: dict[str, frozenset[str]],
) -> None:
    work.pop()
    if work:
        before = work[-1][0]
        low[before] = min(low[before], low[at])
    if low[at] == number[at]:
        members = []
        while True:
            members.append(stack.pop())
            if members[-1] == at:
                break
        loop = frozenset(members)
        result |= dict.fromkeys(members, loop)


def _walks(
    start: str, arms: Mapping[str, list[_Arm]], visits: _Visits
) -> Iterator[tuple[float, list[tuple[str, str]]]]:
    """Every way without rounds from the start to an end, with its share; likely arms first."""
    ways: list[tuple[str, str]] = []
    gone: list[str] = [start]
    share = visits.mean(start, frozenset())
    work: list[tuple[float, Iterator[_Arm]]] = [(share, iter(_likely(arms[start])))]
    while work:
        share, left = work[-1]
        arm = next(left, None)
        if arm is None:
            work.pop()
            gone.pop()
            if ways:
                ways.pop()
            continue
        if arm.to is None:
            yield share * arm.share, [*ways, (gone[-1], arm.name)]
        elif arm.to not in gone:
            ways.append((gone[-1], arm.name))
            onward = share * arm.share * visits.mean(arm.to, frozenset(gone))
            gone.append(arm.to)
            work.append((onward, iter(_likely(arms[arm.to]))))


def _likely(arms: list[_Arm]) -> list[_Arm]:
    return sorted(arms, key=lambda arm: -arm.share)


#: Exits that are what simply comes next.
_NO_CHOICE = ("next", "answered", "left", "went_on", "")


def _route(
    way: list[tuple[str, str]], share: float, steps: Mapping[str, AnyStep], catalogue: Catalogue
) -> Route:
    turns = []
    shortest = 0.0
    longest: float | None = 0.0
    for step_id, exit_name in way:
        step = steps[step_id]
        label = describe.exit_label(step, exit_name, catalogue.channel) if exit_name else ""
        key = exit_name.removeprefix("key:") if exit_name.startswith("key:") else ""
        said = f"{key} {label}" if key and not label.startswith("key") else label
        turns.append(Turn(step_id, exit_name, said, exit_name not in _NO_CHOICE))
        least, most = seconds(step, exit_name, catalogue)
        shortest += least
        longest = None if longest is None or most is None else longest + most
    last = steps[way[-1][0]]
    ends = way[-1][1] in ("", OWN_ARMS.get(last.kind))
    fate = (own_fate(last) or "ended") if ends else "ended"
    place = describe.stop(last, catalogue).name if ends else "the failure rule"
    return Route(
        tuple(turns), fate, place, share, round(shortest, 1), None if longest is None else round(longest, 1)
    )
