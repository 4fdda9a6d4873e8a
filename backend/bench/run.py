"""`./run bench`: how fast the core is. Prints figures and ratios; keeps none as a pass mark.

A ratio is against the same machine's plain Python, so that two machines can be
compared: the time of one budgeted piece of work in units of `REFERENCE` (a
million additions in a loop).
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable

from callcore.flow.checks import check
from callcore.flow.definition import End, Flow, Menu, MenuArm, Queue, Say, SpokenText
from callcore.flow.fates import fates
from callcore.flow.runner import Due, Key, Machine
from callcore.flow.world import QueueFacts, World
from callcore.routing import events as e
from callcore.routing.events import HandlingRule, QueueRule, Status
from callcore.routing.router import Router

QUEUE = "queue:1"
WORLD = World(queues={QUEUE: QueueFacts("Desk", True, 3)})


def best_of(rounds: int, work: Callable[[], int]) -> float:
    """Seconds for one unit of `work`, which returns how many units it did; the best round."""
    best = float("inf")
    for _ in range(rounds):
        began = time.perf_counter()
        units = work()
        best = min(best, (time.perf_counter() - began) / units)
    return best


def reference() -> int:
    """A million additions: the machine's own pace."""
    total = 0
    for i in range(1_000_000):
        total += i
    return 1


def long_flow(size: int) -> Flow:
    """Menus of three keys, each to a greeting that leads to the next menu; a queue at the end."""
    words = SpokenText(text="For bookings, press 1. For sailings, press 2. For freight, press 3.")
    steps: list[Say | Menu | Queue | End] = [Queue(id="queue", queue=QUEUE, waited="end")]
    steps.append(End(id="end"))
    following = "queue"
    for i in range((size - 2) // 2):
        say = Say(id=f"say-{i}", prompt=SpokenText(text="One moment."), next=following)
        arms = (
            MenuArm(key="1", label="Bookings", next=say.id),
            MenuArm(key="2", label="Sailings", next="queue"),
            MenuArm(key="3", label="Freight", next=following),
        )
        steps += [say, Menu(id=f"menu-{i}", prompt=words, arms=arms, no_key="end")]
        following = f"menu-{i}"
    return Flow(start=following, steps=tuple(steps))


def running() -> Callable[[], int]:
    """Work: one call through a thousand menus: a key, the prompt's end, and so on."""
    machine = Machine(long_flow(2_000), lambda _: 1000)

    def work() -> int:
        state, _ = machine.start(0)
        steps = 0
        while state.phase != "queued":
            steps += 1
            if state.step.startswith("menu"):
                state, _ = machine.resume(state, Key("1"), state.entered_ms)
            else:
                state, _ = machine.resume(state, Due(), state.due_ms or 0)
            # The stay limit would end so long a call: it is put off, not switched off.
            state = state._replace(began_ms=state.entered_ms)
        return steps

    return work


def answered(router: Router, decisions: list[e.Decision], now: int) -> None:
    """Whoever rings answers at once."""
    for decision in decisions:
        if isinstance(decision, e.Ring):
            router.apply(e.Answer(decision.agent), now)


def full_floor(rng: random.Random, queues: list[str]) -> Router:
    """1,000 agents on contacts, 60 of them in each queue; some 500 contacts waiting."""
    agents = [f"a{i}" for i in range(1000)]
    members = {queue: rng.sample(agents, 60) for queue in queues}
    router = Router()
    router.configure([QueueRule(q) for q in queues], members, HandlingRule(wrap_up="none"), 0)
    for now, agent in enumerate(agents):
        router.apply(e.SignIn(agent), now)
        router.apply(e.GoAvailable(agent), now)
    for i in range(1500):
        now = 1000 + i
        answered(router, router.apply(e.Join(f"c{i}", rng.choice(queues), now), now), now)
    return router


def routing() -> Callable[[], int]:
    """Work: an agent ends a contact and gets the next one waiting, a new contact arrives."""
    rng = random.Random(7)
    queues = [f"q{i}" for i in range(50)]
    router = full_floor(rng, queues)
    names = list(router.agents)
    number = 0

    def work() -> int:
        nonlocal number
        for _ in range(5_000):
            number += 1
            now = 100_000 + number
            agent = rng.choice(names)
            if router.agents[agent].status is Status.ON_CONTACT:
                answered(router, router.apply(e.EndContact(agent), now), now)
            joined = router.apply(e.Join(f"n{number}", rng.choice(queues), now), now)
            answered(router, joined, now)
        return 10_000

    return work


def main() -> None:
    pace = best_of(3, reference)
    flow = long_flow(1_000)
    rows = [
        ("checks of a flow of 1,000 steps", best_of(3, lambda: bool(check(flow, WORLD)) or 1), 0.1),
        ("fates of a flow of 1,000 steps", best_of(3, lambda: len(fates(flow)) and 1), None),
        ("a step of the runner", best_of(5, running()), 10e-6),
        (
            "a routing decision, 1,000 agents, 50 queues, 500 waiting",
            best_of(3, routing()),
            50e-6,
        ),
    ]
    print(f"{'what':58} {'time':>12} {'budget':>10} {'of budget':>10} {'of reference':>13}")
    for name, seconds, budget in rows:
        share = f"{seconds / budget:9.2f}x" if budget else ""
        allowed = f"{budget * 1e6:,.0f} µs" if budget else ""
        print(
            f"{name:58} {seconds * 1e6:9,.1f} µs {allowed:>10} {share:>10} {seconds / pace:12.6f}x"
        )
    print(f"reference: a million additions, {pace * 1e3:.1f} ms")


if __name__ == "__main__":
    main()
