"""Where callers can still end up, from every stop of a flow.

The flow is read as an absorbing Markov chain: stops are transient states,
endings absorb. With Q the one-step shares between stops and R those into
endings, the fates are B = (I - Q)⁻¹ R (Kemeny & Snell, Finite Markov Chains,
1960, theorem 3.3.7).
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from callcore.flow.definition import End, Flow, Queue, exits

FATES = ("ended", "person", "message", "elsewhere")

#: Share of callers that an author who has said nothing is taken to expect on an
#: exit that stands for trouble (silence, too long a wait).
TROUBLE_SHARE = 0.05


def _own_fate(step: object) -> str | None:
    """The ending that a step can itself be."""
    return "ended" if isinstance(step, End) else "person" if isinstance(step, Queue) else None


def arm_shares(flow: Flow, counts: Mapping[tuple[str, str], int]) -> dict[tuple[str, str], float]:
    """Share of the callers of each stop that take each exit; they sum to 1 at a stop.

    `counts` are recorded callers by step and exit (`answered` for the person who
    takes a queued call). A stop that nobody has left yet is estimated: trouble
    exits get `TROUBLE_SHARE` each, the rest is shared evenly.
    """
    shares: dict[tuple[str, str], float] = {}
    for step in flow.steps:
        ways = [(e.name, e.failure) for e in exits(step)]
        if isinstance(step, Queue):
            ways.append(("answered", False))
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


def fates(
    flow: Flow, counts: Mapping[tuple[str, str], int] | None = None
) -> dict[str, dict[str, float]]:
    """For every step, the share (0..1) of its callers that meets each ending.

    An exit that leads nowhere counts as `ended`. Where callers can go round
    without end, the part that never leaves is missing from the sum.
    """
    shares = arm_shares(flow, counts or {})
    index = {step.id: i for i, step in enumerate(flow.steps)}
    size = len(index)
    moves: NDArray[np.float64] = np.zeros((size, size))
    absorbed: NDArray[np.float64] = np.zeros((size, len(FATES)))
    for step in flow.steps:
        row = index[step.id]
        fate = _own_fate(step)
        if fate == "ended":
            absorbed[row, FATES.index(fate)] = 1.0
            continue
        if fate is not None:
            absorbed[row, FATES.index(fate)] = shares[(step.id, "answered")]
        for way in exits(step):
            share = shares[(step.id, way.name)]
            if way.to in index:
                moves[row, index[way.to]] += share
            else:
                absorbed[row, FATES.index("ended")] += share
    # A hair of leakage keeps the matrix regular where a loop has no way out.
    solved = np.linalg.solve(np.eye(size) - moves * (1 - 1e-12), absorbed)
    return {
        step_id: {fate: float(solved[i, j]) for j, fate in enumerate(FATES) if solved[i, j] > 1e-9}
        for step_id, i in index.items()
    }
