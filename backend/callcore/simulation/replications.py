"""Several runs of one plan, each with a seed of its own, on all cores."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Iterator
from typing import NamedTuple

from callcore.centre.setup import Setup
from callcore.measures.rows import QueueRow, total
from callcore.simulation.run import LookUp, Plan, refuse, run

#: More runs than anybody needs for an interval.
MOST_RUNS = 10_000


class Outcome(NamedTuple):
    """What one run came to: how many arrived and ended, and each queue's whole row."""

    seed: int
    arrived: int
    ended: int
    queues: dict[str, QueueRow]

    @property
    def centre(self) -> QueueRow:
        """All queues together."""
        return total(list(self.queues.values()))


#: What the processes of a pool run; they are forked from the one that set it.
_job: Callable[[int], Outcome] | None = None


def _work(seed: int) -> Outcome:
    assert _job is not None
    return _job(seed)


def outcome(setup: Setup, plan: Plan, look_up: LookUp | None = None) -> Outcome:
    """One run, summed up."""
    figures = run(setup, plan, look_up)
    rows = {queue: figures.queue_total(queue) for queue in setup.queues}
    return Outcome(plan.seed, figures.arrived, figures.ended, rows)


def replications(
    setup: Setup, plan: Plan, runs: int, look_up: LookUp | None = None, workers: int | None = None
) -> Iterator[Outcome]:
    """Runs with the seeds from the plan's own on, as each is ready.

    Raises:
        Impossible: the plan cannot be simulated.
    """
    refuse(setup, plan)
    global _job
    _job = lambda seed: outcome(setup, plan._replace(seed=seed), look_up)  # noqa: E731
    seeds = range(plan.seed, plan.seed + runs)
    workers = min(workers or os.cpu_count() or 1, runs)
    if workers == 1:
        yield from map(_work, seeds)
        return
    # Forked: a setup holds functions, which no pipe carries. Whoever stops listening ends them all.
    with multiprocessing.get_context("fork").Pool(workers) as pool:
        yield from pool.imap_unordered(_work, seeds)
