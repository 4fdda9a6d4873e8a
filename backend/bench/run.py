"""`./run bench`: how fast the core is. Prints figures and ratios; keeps none as a pass mark.

A ratio is against the same machine's plain Python, so that two machines can be
compared: the time of one budgeted piece of work in units of `REFERENCE` (a
million additions in a loop).
"""

from __future__ import annotations

import cProfile
import pstats
import random
import time
from collections import Counter
from collections.abc import Callable
from itertools import count

from bench.day import compare
from bench.publishing import publishing
from callcore.centre import standing
from callcore.centre.centre import Centre
from callcore.centre.facts import AgentFacts, CodeFacts, NumberFacts, QueueSettings
from callcore.centre.handlers.telephone import place_call
from callcore.centre.parts import Devices, Keeps
from callcore.centre.setup import RunnableFlow, Setup
from callcore.devices.outside_line import SimulatedLine
from callcore.flow.catalogue import Catalogue, QueueFacts
from callcore.flow.checks import check
from callcore.flow.definition import End, Flow, Menu, MenuArm, Say, SpokenText, WaitInQueue
from callcore.flow.fates import fates
from callcore.flow.runner import Due, Key, Machine
from callcore.routing import events as e
from callcore.routing.events import HandlingRule, QueueRule, Status
from callcore.routing.router import Router
from callcore.speech.recogniser import TypedSpeech

QUEUE = "queue:1"
NUMBER = "+442079460210"
#: Noon in London on an ordinary day.
NOON = 1_795_435_200_000
WORLD = Catalogue(queues={QUEUE: QueueFacts("Desk", True, 3)})


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
    steps: list[Say | Menu | WaitInQueue | End] = [WaitInQueue(id="queue", queue=QUEUE, waited="end")]
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


def a_centre() -> Centre:
    """A centre of two agents with one queue, without anything that is kept for show."""
    words = SpokenText(text="For bookings, press 1.")
    flow = Flow(
        start="hello",
        steps=(
            Say(id="hello", prompt=words, next="menu"),
            Menu(id="menu", prompt=words, arms=(MenuArm(key="1", next="queue"),), no_key="end"),
            WaitInQueue(id="queue", queue=QUEUE, waited="end"),
            End(id="end"),
        ),
    )
    runs = RunnableFlow("f", "Line", 1, 1, Machine(flow, lambda _: 2_000), WORLD, {})
    queue = QueueSettings("1", "Desk", True, "#4A6B66", ("ann", "bea"), 5, 900, 60, 80, 5, "A", "set", "")
    setup = Setup(
        numbers={NUMBER: NumberFacts("n", NUMBER, "Line", "f")},
        flows={"f": runs},
        queues={"1": queue},
        agents={n: AgentFacts(n, n, "", "") for n in ("ann", "bea")},
        codes={"set": [CodeFacts("code", "New booking", "11", "")]},
        handling=HandlingRule(),
    )
    numbers = count(1)
    devices = Devices(lambda: str(next(numbers)), SimulatedLine(), TypedSpeech(), lambda _caller: None)
    return Centre(setup, NOON, devices, Keeps(shown=False, explained=False))


def contacts() -> Callable[[], int]:
    """Work: a contact from its arrival through greeting, menu, queue and talk to its code."""
    centre = a_centre()
    now = NOON
    for agent in ("ann", "bea"):
        centre.command("agent.sign_in", {"agent": agent}, now)
        centre.command("agent.available", {"agent": agent}, now)
    number = 0

    def passes(ms: int) -> None:
        nonlocal now
        end = now + ms
        while centre.next_due_ms() <= end:
            now = max(now, centre.next_due_ms())
            centre.advance(now)
        now = end

    def work() -> int:
        nonlocal number
        for _ in range(300):
            number += 1
            contact = f"c{number}"
            place_call(centre, contact, NUMBER, "+447700900123", None, now)
            passes(2_500)
            centre.command("call.key", {"contact": contact, "key": "1"}, now)
            agent = centre.router.contacts[contact].agent
            centre.command("agent.answer", {"agent": agent}, now)
            passes(60_000)
            centre.command("agent.end", {"agent": agent}, now)
            centre.command("agent.wrap_up", {"agent": agent, "code": "code"}, now)
            centre.pending.clear()
            standing.changed(centre)
        return 300

    return work


def shares(work: Callable[[], int]) -> str:
    """Where the time of a contact goes, by part of the core (of what is spent in Python itself)."""
    profile = cProfile.Profile()
    profile.runcall(work)
    spent: Counter[str] = Counter()
    for (file, _, _), row in pstats.Stats(profile).stats.items():  # type: ignore[attr-defined]
        _, found, inside = file.partition("callcore/")
        spent[inside.partition("/")[0] if found else "Python"] += row[2]
    whole = sum(spent.values())
    return " · ".join(f"{part} {time / whole:.0%}" for part, time in spent.most_common(7))


def main() -> None:
    pace = best_of(3, reference)
    flow = long_flow(1_000)
    rows = [
        ("checks of a flow of 1,000 steps", best_of(3, lambda: bool(check(flow, WORLD)) or 1), 0.1),
        ("fates of a flow of 1,000 steps", best_of(3, lambda: len(fates(flow)) and 1), None),
        ("a step of the runner", best_of(5, running()), 10e-6),
        ("a routing decision, 1,000 agents, 50 queues, 500 waiting", best_of(3, routing()), 50e-6),
        ("a contact in the centre, with nothing kept for show", best_of(5, contacts()), None),
        ("telling a floor of 200 agents, 20 queues, a round", best_of(5, publishing(NOON)), 5e-3),
    ]
    print(f"{'what':58} {'time':>12} {'budget':>10} {'of budget':>10} {'of reference':>13}")
    for name, seconds, budget in rows:
        share = f"{seconds / budget:9.2f}x" if budget else ""
        allowed = f"{budget * 1e6:,.0f} µs" if budget else ""
        print(f"{name:58} {seconds * 1e6:9,.1f} µs {allowed:>10} {share:>10} {seconds / pace:12.6f}x")
    print(f"a contact in the centre, by part: {shares(contacts())}")
    print(f"reference: a million additions, {pace * 1e3:.1f} ms")
    compare()


if __name__ == "__main__":
    main()
