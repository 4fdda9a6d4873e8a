"""`./run verify theory`: the simulation against the closed forms of waiting.

Each case is 30 runs or more, each an observation; every figure of the closed form must lie inside
the 99 % interval across them. Prints the tables of docs/simulation.md.
"""

from __future__ import annotations

import multiprocessing
import os
import sys
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from typing import NamedTuple

from callcore.centre.setup import Setup
from callcore.simulation.intervals import Estimate, estimate
from callcore.simulation.run import DAY_MS, Plan
from callcore.tests import textbook
from callcore.waiting.theory import Expected, two_priorities, with_patience

SERVICE_S = 180.0
RUNS = 30
#: Callers that a run of a case has after its beginning, about; and what is not counted of it.
CALLERS, BEGINNING_S = 1_000, 20 * SERVICE_S
#: Servers, load (of all servers), mean patience (s; None waits for ever; 2 s is nearly loss).
CASES = (
    (1, 0.5, None),
    (1, 0.8, 120.0),
    (2, 1.5, 60.0),
    (5, 0.7, None),
    (5, 1.0, 120.0),
    (5, 1.2, 2.0),
    (20, 0.85, None),
    (20, 1.0, 90.0),
    (20, 1.5, 240.0),
    (50, 0.9, 120.0),
    (50, 1.1, 2.0),
    (100, 1.0, 60.0),
    (200, 0.9, 120.0),
    (200, 1.0, 120.0),
    (200, 1.5, 120.0),
)
#: Servers, and what of them callers of the first priority and the others keep busy.
PRIORITIES = ((3, 0.3, 0.45), (10, 0.4, 0.45))


class Case(NamedTuple):
    """A set-up with its plan, and what the closed form expects of each queue."""

    name: str
    setup: Setup
    plan: Plan
    expected: dict[str, dict[str, float]]


def _erlang(servers: int, load: float, patience_s: float | None) -> Case:
    rate = load * servers / SERVICE_S
    kind = "waits for ever" if patience_s is None else f"patience {patience_s:g} s"
    found = with_patience(servers, rate, SERVICE_S, patience_s)
    expected = found._asdict() if patience_s else {"waits": found.waits, "wait_s": found.wait_s}
    return Case(
        f"{servers} agents, load {load}, {kind}",
        textbook.setup([(5, range(servers))]),
        _plan([rate], patience_s),
        {"q0": expected},
    )


def _priorities(servers: int, high: float, low: float) -> Case:
    rates = [share * servers / SERVICE_S for share in (high, low)]
    waits = two_priorities(servers, *rates, SERVICE_S)
    return Case(
        f"{servers} agents, two priorities, loads {high} and {low}",
        textbook.setup([(9, range(servers)), (1, range(servers))]),
        _plan(rates, None),
        {f"q{n}": {"wait_s": wait_s} for n, wait_s in enumerate(waits)},
    )


def _plan(rates: list[float], patience_s: float | None) -> Plan:
    # Few servers forget slowly: their runs are longer in services.
    length_s = BEGINNING_S + max(CALLERS / sum(rates), 30 * SERVICE_S)
    return Plan(
        textbook.BEGINS_MS,
        length_s * 1000 / DAY_MS,
        textbook.traits(rates, SERVICE_S, patience_s),
        warm_up_ms=round(BEGINNING_S * 1000),
        all_in_s=0,
    )


def _cases() -> list[Case]:
    return [*(_erlang(*case) for case in CASES), *(_priorities(*case) for case in PRIORITIES)]


def _run(job: tuple[int, int]) -> dict[str, Expected]:
    number, seed = job
    case = _cases()[number]
    return textbook.observed(case.setup, case.plan._replace(seed=seed))


def _rows(case: Case, runs: list[dict[str, Expected]]) -> Iterator[tuple[str, float, Estimate]]:
    for queue, figures in case.expected.items():
        for figure, value in figures.items():
            observed = [getattr(run[queue], figure) for run in runs]
            yield f"{queue} {figure}", value, estimate(observed, 0.99)


def main() -> int:
    """Every case; how many figures lie outside."""
    outside = 0
    print("| case | figure | closed form | simulated, 99 % | |")
    print("|---|---|---|---|---|")
    with ProcessPoolExecutor(os.cpu_count(), multiprocessing.get_context("fork")) as pool:
        for number, case in enumerate(_cases()):
            runs = list(pool.map(_run, [(number, seed) for seed in range(1, RUNS + 1)]))
            for figure, value, said in _rows(case, runs):
                holds = said.holds(value)
                outside += not holds
                told = f"{said.mean:.4f} ± {said.half:.4f}"
                verdict = "inside" if holds else "**outside**"
                print(f"| {case.name} | {figure} | {value:.4f} | {told} | {verdict} |", flush=True)
    return outside


if __name__ == "__main__":
    sys.exit(1 if main() else 0)
