"""A busy day through the real runner, router and measures, against the same model written for
simpy: a greeting and a menu of six keys, six queues, 120 agents who serve one to three of them,
patience, talk and wrap-up. The figures also go to `var/bench.json`."""

from __future__ import annotations

import json
import random
import time
from collections import deque
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import simpy

from callcore.centre.facts import AgentFacts, NumberFacts, QueueSettings
from callcore.centre.setup import RunnableFlow, Setup
from callcore.flow.catalogue import Catalogue, QueueFacts
from callcore.flow.definition import End, Flow, Menu, MenuArm, Say, SpokenText, WaitInQueue
from callcore.flow.runner import Machine
from callcore.people.distributions import Exponential, Fixed
from callcore.people.profile import always
from callcore.people.traits import AgentTraits, CallerTraits, Traits
from callcore.routing.events import HandlingRule
from callcore.simulation.run import Plan, run

QUEUES, AGENTS = 6, 120
#: Contacts an hour of a day of 100,000, and what they do, in seconds.
RATE, GREETING, TALK, WRAP, PATIENCE = 100_000 / 24, 4.0, 75.0, 20.0, 90.0
#: Of the day only this much is run: the pace is the same all day long.
HOURS = 1.0
NOON = 1_795_435_200_000
NUMBER, MENU = "+442079460210", "Which desk"
FIGURES = Path(__file__).resolve().parents[2] / "var" / "bench.json"


def serves(agent: int) -> list[int]:
    """The queues that an agent serves: one to three."""
    return [(agent + step) % QUEUES for step in range(1 + agent % 3)]


def _setup() -> Setup:
    words = SpokenText(text="Press a key from 1 to 6.")
    names = [str(number) for number in range(QUEUES)]
    flow = Flow(
        start="hello",
        steps=(
            Say(id="hello", prompt=words, next="menu"),
            Menu(
                id="menu",
                name=MENU,
                prompt=words,
                no_key="end",
                arms=tuple(MenuArm(key=str(int(name) + 1), next=f"queue-{name}") for name in names),
            ),
            *(WaitInQueue(id=f"queue-{name}", queue=f"queue:{name}", waited="end") for name in names),
            End(id="end"),
        ),
    )
    world = Catalogue(queues={f"queue:{name}": QueueFacts(name, True, 3) for name in names})
    line = RunnableFlow("f", "Line", 1, 1, Machine(flow, lambda _: 2_000), world, {})
    members: dict[int, list[str]] = {number: [] for number in range(QUEUES)}
    for agent in range(AGENTS):
        for queue in serves(agent):
            members[queue].append(f"a{agent}")
    return Setup(
        numbers={NUMBER: NumberFacts("n", NUMBER, "Line", "f")},
        flows={"f": line},
        queues={
            name: QueueSettings(
                name, name, True, "#4A6B66", tuple(members[int(name)]), 5, 3600, 20, 80, 5, "A", "", ""
            )
            for name in names
        },
        agents={f"a{n}": AgentFacts(f"a{n}", f"a{n}", "", "") for n in range(AGENTS)},
        handling=HandlingRule(ring_ms=20_000, longest_wrap_ms=0),
    )


def _traits() -> Traits:
    callers = CallerTraits(
        patience=Exponential(PATIENCE),
        least_patience_s=0.0,
        talk=Exponential(TALK),
        shares={MENU: {str(key): 1.0 for key in range(1, QUEUES + 1)}},
        reacts=Fixed(0.0),
        robots=0,
        silent=0,
        miskeyed=0,
        leaves=0,
        called_back=0,
        speaks=0,
    )
    for_ever = Fixed(1e6)
    agents = AgentTraits(
        answers=Fixed(0.0),
        missed=0,
        wraps=Exponential(WRAP),
        coded=0,
        held=0,
        sent_on=0,
        asks=0,
        works=for_ever,
        rests=Fixed(1.0),
        shift=for_ever,
        off=Fixed(1.0),
    )
    return Traits(always(RATE), callers, agents)


def ours(seed: int) -> tuple[int, float, float]:
    """Contacts, seconds, and the share answered."""
    plan = Plan(NOON, HOURS / 24, _traits(), seed=seed)
    began = time.perf_counter()
    figures = run(_setup(), plan)
    took = time.perf_counter() - began
    row = figures.centre_total()
    return figures.arrived, took, row.answered / row.offered


class _Day:
    """The same day as processes of simpy."""

    def __init__(self, seed: int) -> None:
        self.env, self.chance = simpy.Environment(), random.Random(seed)
        self.idle: list[deque[int]] = [deque() for _ in range(QUEUES)]
        self.free = set(range(AGENTS))
        self.waiting: list[deque[Any]] = [deque() for _ in range(QUEUES)]
        self.arrived = self.offered = self.answered = 0
        for agent in range(AGENTS):
            for queue in serves(agent):
                self.idle[queue].append(agent)

    def arrivals(self) -> Iterator[Any]:
        while True:
            yield self.env.timeout(self.chance.expovariate(RATE / 3600))
            self.arrived += 1
            self.env.process(self.contact())

    def contact(self) -> Iterator[Any]:
        yield self.env.timeout(GREETING)
        queue = self.chance.randrange(QUEUES)
        self.offered += 1
        agent = self._longest_idle(queue)
        if agent is None:
            turn = self.env.event()
            self.waiting[queue].append((self.env.now, turn))
            yield turn | self.env.timeout(self.chance.expovariate(1 / PATIENCE))
            if not turn.triggered:
                turn.succeed()  # so that nobody takes it out of the line any more
                return
            agent = turn.value
        self.answered += 1
        yield self.env.timeout(self.chance.expovariate(1 / TALK))
        yield self.env.timeout(self.chance.expovariate(1 / WRAP))
        self._release(agent)

    def _longest_idle(self, queue: int) -> int | None:
        line = self.idle[queue]
        while line:
            agent = line.popleft()
            if agent in self.free:
                self.free.discard(agent)
                return agent
        return None

    def _release(self, agent: int) -> None:
        """Whoever has waited longest in one of the agent's queues is next."""
        best: deque[Any] | None = None
        for queue in serves(agent):
            line = self.waiting[queue]
            while line and line[0][1].triggered:
                line.popleft()
            if line and (best is None or line[0][0] < best[0][0]):
                best = line
        if best is not None:
            best.popleft()[1].succeed(agent)
            return
        self.free.add(agent)
        for queue in serves(agent):
            self.idle[queue].append(agent)


def in_simpy(seed: int) -> tuple[int, float, float]:
    """Contacts, seconds, and the share answered."""
    day = _Day(seed)
    day.env.process(day.arrivals())
    began = time.perf_counter()
    day.env.run(until=HOURS * 3600)
    return day.arrived, time.perf_counter() - began, day.answered / day.offered


def compare() -> None:
    """Both, one after the other, three times; the middle ratio counts."""
    ratios, shares = [], []
    for seed in (1, 2, 3):
        (n, took, answered), (m, theirs, share) = ours(seed), in_simpy(seed)
        ratios.append((n / took) / (m / theirs))
        shares.append((answered, share))
        print(
            f"a day of 100,000, an hour of it: {n / took:,.0f} contacts a second, "
            f"simpy {m / theirs:,.0f}; answered {answered:.1%} and {share:.1%}"
        )
    ratio = sorted(ratios)[1]
    print(f"simulation to simpy: {ratio:.3f}")
    FIGURES.parent.mkdir(exist_ok=True)
    FIGURES.write_text(json.dumps({"simulation_to_simpy": round(ratio, 4)}) + "\n")


if __name__ == "__main__":
    compare()
