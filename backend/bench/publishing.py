"""What telling the floor costs the exchange: 200 agents on 20 queues, somebody always waiting.

The hand-over to Redis is left out: what is measured is the exchange's own time.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from itertools import count

from callcore.centre.centre import Centre
from callcore.centre.facts import AgentFacts, QueueSettings
from callcore.centre.parts import Devices
from callcore.centre.setup import Setup
from callcore.centre.views import view
from callcore.devices.outside_line import SimulatedLine
from callcore.routing import events as e
from callcore.speech.recogniser import TypedSpeech
from exchange.live.publisher import SHORTEST_GAP_MS, View, difference
from exchange.snapshots import head_and_items

AGENTS, QUEUES = 200, 20
#: How many agents' states change between two tellings: four a second, at 1,200 contacts an hour.
CHANGES = 2


def floor(now_ms: int) -> Centre:
    """A centre at work, in which every agent has had forty states in the last hour."""
    queues = {
        str(q): QueueSettings(
            str(q),
            f"Desk {q}",
            True,
            "#4A6B66",
            tuple(str(a) for a in range(q, AGENTS, QUEUES)),
            5,
            900,
            60,
            80,
            5,
            "A",
            "",
            "",
        )
        for q in range(QUEUES)
    }
    agents = {
        str(a): AgentFacts(str(a), f"Agent {a}", f"{4000 + a}", f"Team {a % 10}", str(a % 10))
        for a in range(AGENTS)
    }
    numbers = count(1)
    devices = Devices(lambda: str(next(numbers)), SimulatedLine(), TypedSpeech(), lambda _caller: None)
    centre = Centre(Setup(queues=queues, agents=agents, away_reasons=("Break",)), now_ms, devices)
    for agent in agents:
        centre.command("agent.sign_in", {"agent": agent}, now_ms)
        for minute in range(40):
            at_ms = now_ms + (minute - 40) * 90_000
            centre.spans.add(agent, agents[agent].team_id, at_ms, e.Status.ON_CONTACT)
    return centre


def publishing(now_ms: int) -> Callable[[], int]:
    """Work: a round's telling of the floor and the strip, and of the desks that changed."""
    centre, rng, told = floor(now_ms), random.Random(7), {}
    turn = count(1)

    def work() -> int:
        rounds = 40
        for _ in range(rounds):
            now = now_ms + next(turn) * SHORTEST_GAP_MS
            changed = rng.sample(list(centre.setup.agents), CHANGES)
            for agent in changed:
                free = centre.router.agents[agent].status is e.Status.AWAY
                kind = "agent.available" if free else "agent.away"
                centre.command(kind, {"agent": agent, "reason": "Break"}, now)
            for topic in ("floor", "strip", *(f"desk.{agent}" for agent in changed)):
                _tell(centre, topic, now, told)
            centre.pending.clear()
            centre.touched.clear()
        return rounds

    return work


def _tell(centre: Centre, topic: str, now_ms: int, told: dict[str, View]) -> None:
    shown = view(centre, topic, now_ms)
    change = difference(told.get(topic, {}), shown)
    head_and_items({"topic": topic}, change.set, change.gone)
    told[topic] = shown
