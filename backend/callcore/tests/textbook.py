"""Set-ups that closed forms know: queues that a number leads to at once, agents who never err."""

from __future__ import annotations

from collections.abc import Iterable

from callcore.centre.facts import AgentFacts, NumberFacts, QueueSettings
from callcore.centre.setup import RunnableFlow, Setup
from callcore.events import facts
from callcore.flow.catalogue import Catalogue, QueueFacts
from callcore.flow.definition import Flow
from callcore.flow.runner import Machine
from callcore.flow.steps import End, WaitInQueue
from callcore.people.distributions import Exponential
from callcore.people.profile import always
from callcore.people.traits import Traits, textbook
from callcore.routing.events import HandlingRule
from callcore.simulation.run import DAY_MS, Plan, Run
from callcore.waiting.theory import Expected

#: A moment in a week in which no clock is set.
BEGINS_MS = 1_795_392_000_000


def address(queue: int) -> str:
    """The number that leads to a queue."""
    return f"+44207946{queue:04}"


def setup(queues: Iterable[tuple[int, Iterable[int]]]) -> Setup:
    """A number and a flow for each queue.

    Args:
        queues: priority, and the agents by number.
    """
    known = [(priority, tuple(f"a{n:04}" for n in agents)) for priority, agents in queues]
    names = {f"queue:q{n}": QueueFacts(f"q{n}", True, 1) for n in range(len(known))}
    catalogue = Catalogue(queues=names)
    flows, numbers, settings = {}, {}, {}
    for n, (priority, members) in enumerate(known):
        steps = (WaitInQueue(id="queue", queue=f"queue:q{n}", waited="end"), End(id="end"))
        machine = Machine(Flow(start="queue", steps=steps), lambda _: 0)
        flows[f"f{n}"] = RunnableFlow(f"f{n}", f"Line {n}", 1, n, machine, catalogue, {})
        numbers[address(n)] = NumberFacts(f"n{n}", address(n), "", f"f{n}")
        settings[f"q{n}"] = QueueSettings(
            f"q{n}", f"q{n}", True, "", members, priority, None, 20, 80, 0, "A", "", ""
        )
    everybody = {agent for _, members in known for agent in members}
    return Setup(
        numbers=numbers,
        flows=flows,
        queues=settings,
        agents={name: AgentFacts(name, name, "", "") for name in everybody},
        handling=HandlingRule(wrap_up="none"),
    )


def traits(rates_s: Iterable[float], service_s: float, patience_s: float | None) -> Traits:
    """Callers of each queue by their rate (a second), exponential talks and patience (mean, s)."""
    rates = list(rates_s)
    patience = Exponential(patience_s) if patience_s else None
    people = textbook(always(sum(rates) * 3600), Exponential(service_s), patience)
    return people._replace(numbers={address(n): rate for n, rate in enumerate(rates)})


def observed(setup: Setup, plan: Plan) -> dict[str, Expected]:
    """What came of a run, queue by queue: as the closed forms have it, of all who arrived after
    the beginning and whose wait was over before the end."""
    entered: dict[str, tuple[str, int]] = {}
    waits: dict[str, list[int]] = {queue: [] for queue in setup.queues}
    gone = dict.fromkeys(setup.queues, 0)
    since_ms = plan.begins_ms + plan.warm_up_ms
    for events in Run(setup, plan).until(plan.begins_ms + round(plan.days * DAY_MS)):
        for event in events:
            fact = event.fact
            if isinstance(fact, facts.Queued):
                entered[event.contact] = (fact.queue, event.at_ms)
            elif isinstance(fact, facts.Answered | facts.LeftQueue):
                queue, begun_ms = entered.pop(event.contact, ("", 0))
                if begun_ms >= since_ms:
                    waits[queue].append(event.at_ms - begun_ms)
                    gone[queue] += isinstance(fact, facts.LeftQueue)
    return {
        queue: Expected(
            sum(wait > 0 for wait in found) / len(found),
            gone[queue] / len(found),
            sum(found) / len(found) / 1000,
        )
        for queue, found in waits.items()
    }
