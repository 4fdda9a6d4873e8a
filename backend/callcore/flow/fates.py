"""Where callers can still end up, from every stop of a flow.

The flow is read as an absorbing Markov chain: stops are transient states,
endings absorb. With Q the one-step shares between stops and R those into
endings, the fates are B = (I - Q)⁻¹ R (Kemeny & Snell, Finite Markov Chains,
1960, theorem 3.3.7).
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from callcore.flow.definition import AnyStep, Flow, Ring, exits

FATES = ("ended", "person", "callback", "message", "elsewhere")

#: Share of callers that an author who has said nothing is taken to expect on an
#: exit that stands for trouble (silence, too long a wait).
TROUBLE_SHARE = 0.05
_NEVER = 1e-9
#: A hair of leakage keeps the matrix regular where a loop has no way out.
_LEAKS = 1 - 1e-12


#: The ending that each kind of step can itself be, and the arm that stands for it where the
#: step has other ways out too. Going on in another flow is elsewhere on this flow's map.
_OWN_FATES = {
    "end": "ended",
    "queue": "person",
    "callback": "callback",
    "message": "message",
    "ring": "elsewhere",
    "go": "elsewhere",
    "directory": "person",
    "extension": "person",
}
OWN_ARMS = {
    "queue": "answered",
    "callback": "booked",
    "message": "left",
    "ring": "answered",
    "go": "went_on",
    "directory": "answered",
    "extension": "answered",
}


def own_fate(step: AnyStep) -> str | None:
    """The ending that a step can itself be: for whoever is rung, a person of ours or elsewhere."""
    if isinstance(step, Ring) and (step.people or step.group):
        return "person"
    return _OWN_FATES.get(step.kind)


def arm_shares(flow: Flow, counts: Mapping[tuple[str, str], int]) -> dict[tuple[str, str], float]:
    """Share of the callers of each stop that take each exit; they sum to 1 at a stop.

    `counts` are recorded callers by step and exit (`answered` for the person who
    takes a queued call). A stop that nobody has left yet is estimated: trouble
    exits get `TROUBLE_SHARE` each, the rest is shared evenly.
    """
    shares: dict[tuple[str, str], float] = {}
    for step in flow.steps:
        ways = [(e.name, e.failure) for e in exits(step)]
        if step.kind in OWN_ARMS:
            ways.append((OWN_ARMS[step.kind], False))
        recorded = [counts.get((step.id, name), 0) for name, _ in ways]
        total = sum(recorded)
        trouble = sum(failure for _, failure in ways)
        plain = len(ways) - trouble
        for (name, failure), count in zip(ways, recorded, strict=True):
            if total:
                share = count / total
            elif not plain:
                share = 1 / trouble
            else:
                share = TROUBLE_SHARE if failure else (1 - TROUBLE_SHARE * trouble) / plain
            shares[(step.id, name)] = share
    return shares


class Fates(NamedTuple):
    """What the chain says of every step.

    `ends`: the share (0..1) of a step's callers that meets each ending; an ending
    that can be reached but was not is there with 0. `reach`: how often a caller
    comes to the step on average (0 where nobody does, above 1 in loops).
    """

    ends: dict[str, dict[str, float]]
    reach: dict[str, float]


def fates(flow: Flow, counts: Mapping[tuple[str, str], int] | None = None) -> Fates:
    """Where the callers of each step end up, by recorded counts where there are some.

    An exit that leads nowhere counts as `ended`. Where callers can go round
    without end, the part that never leaves is missing from the sum.
    """
    index = {step.id: i for i, step in enumerate(flow.steps)}
    if not index:
        return Fates({}, {})
    chain, absorbed = _chain(flow, index, arm_shares(flow, counts or {}))
    solved = chain.solve(absorbed)
    possible = solved
    if counts:
        at_all, absorbed_at_all = _chain(flow, index, arm_shares(flow, {}))
        possible = at_all.solve(absorbed_at_all)
    start: NDArray[np.float64] = np.zeros(len(index))
    if flow.start in index:
        start[index[flow.start]] = 1.0
    reach = chain.solve(start, trans="T")
    ends = {
        step_id: {
            fate: round(float(solved[i, j]), 9) for j, fate in enumerate(FATES) if possible[i, j] > _NEVER
        }
        for step_id, i in index.items()
    }
    return Fates(ends, {step_id: round(float(reach[i]), 9) for step_id, i in index.items()})


def _chain(
    flow: Flow, index: Mapping[str, int], shares: Mapping[tuple[str, str], float]
) -> tuple[Any, NDArray[np.float64]]:
    """I - Q as sparse factors (each stop leads to a few others only), and the shares into endings (R)."""
    # Loaded where it is needed: processes that draw no map do without.
    from scipy.sparse import csc_array
    from scipy.sparse.linalg import splu

    moves: dict[tuple[int, int], float] = {(row, row): 1.0 for row in index.values()}
    absorbed: NDArray[np.float64] = np.zeros((len(index), len(FATES)))
    for step in flow.steps:
        row = index[step.id]
        fate = own_fate(step)
        if fate == "ended":
            absorbed[row, FATES.index(fate)] = 1.0
            continue
        if fate is not None:
            absorbed[row, FATES.index(fate)] = shares[(step.id, OWN_ARMS[step.kind])]
        for way in exits(step):
            share = shares[(step.id, way.name)]
            if way.to is not None and way.to in index:
                to = (row, index[way.to])
                moves[to] = moves.get(to, 0.0) - share * _LEAKS
            else:
                absorbed[row, FATES.index("ended")] += share
    rows, columns = zip(*moves, strict=True)
    size = len(index)
    return splu(csc_array((list(moves.values()), (rows, columns)), shape=(size, size))), absorbed
