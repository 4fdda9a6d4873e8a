"""`./run boards`: fifty boards open at once, over real WebSockets, some of which never read.

A floor of 500 agents on 100 queues, at work at sixty times the speed. What is measured is from an
agent's act, as the exchange answers it, to the change on every board that reads; how often a board
is told; how long the exchange takes to answer with and without the boards; and what the floor
costs a real browser.
"""

from __future__ import annotations

from bench.centre import do, may, notes, until

# isort: split
# The line above sets Django up.

import asyncio
import json
import sys
import time
from statistics import median
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.test import Client
from websockets.asyncio.client import ClientConnection, connect

from accounts.models import User
from agents.models import Agent
from agents.services import agents, make_agent
from bench.in_browser import cost_of
from browser_tests.person import Person
from changelog import config_store
from exchange.models import StandIns
from exchange.snapshots import snapshot
from queues.models import Queue

AGENTS, QUEUES, SPEED = 500, 100, 60
BOARDS, DEAF, ACTS = 50, 10, 40
#: A message's beginning names its topic, run and version.
_HEAD = 120
#: The latest that a change may be on a board after the exchange has answered, in seconds.
LATEST_S = 0.5
#: The most changes a second that a board is told.
MOST_A_SECOND = 4.5
#: What a page with the floor is wanted to take of a core at the most.
WANTED_OF_A_CORE = 0.3


def _crowd() -> list[str]:
    """A floor of that size, at work; some agents whose work nobody else does."""
    admin = User.objects.filter(role="administrator").first()
    for number in range(AGENTS - Agent.objects.count()):
        make_agent(admin, name=f"Agent {number}", extension=f"{60000 + number}")
    everybody = list(Agent.objects.all())
    for number in range(QUEUES - Queue.objects.count()):
        config_store.create(
            admin, Queue, name=f"Desk {number}", finished=True, members=everybody[number::QUEUES]
        )
    crowd = StandIns.objects.get(site=settings.EXCHANGE_SITE)
    crowd.on, crowd.agents, crowd.load, crowd.speed = True, AGENTS, 6.0, SPEED
    crowd.people = {}
    crowd.save()
    do("reload")
    until("the floor is at work", lambda: len(_shown()) > AGENTS // 2, 180)
    return [agent for agent in agents() if agent in _shown()][:ACTS]


def _shown() -> dict[str, Any]:
    kept = snapshot("floor")
    return dict(kept["data"]["agents"]) if kept else {}


def _arrived() -> int:
    kept = snapshot("strip")
    return int(kept["data"]["figures"]["arrived"]) if kept else 0


class Board:
    """A browser that watches the floor; a deaf one never reads what it is sent."""

    def __init__(self, line: ClientConnection, understood: dict[str, Any]) -> None:
        self.line = line
        self._understood = understood
        self.told = 0
        #: When each agent was seen with each reason.
        self.seen: dict[tuple[str, str], float] = {}

    async def read(self) -> None:
        async for words in self.line:
            message = self._message(words)
            if message.get("topic") != "floor":
                continue
            self.told += 1
            view = message.get("set") or message.get("data") or {}
            for agent, shown in view.get("agents", {}).items():
                self.seen.setdefault((agent, shown["reason"]), time.monotonic())

    def _message(self, words: str) -> dict[str, Any]:
        """What is said. Fifty browsers would each read it on a machine of their own: here what all
        are told alike is read once."""
        head = words[:_HEAD]
        if head not in self._understood:
            self._understood[head] = json.loads(words)
        return self._understood[head]


def _cookies() -> dict[str, str]:
    client = Client()
    client.force_login(User.objects.get(username="tamsin"))
    return {name: held.value for name, held in client.cookies.items()}


def _in_a_browser(address: str, cookies: dict[str, str]) -> None:
    """One real browser that shows the floor, for a while."""
    person = Person(f"http://{address}")
    try:
        person.come_in(cookies)
        person.come_to("/learn/floor")
        person.sees("signed in", "Service level today")
        time.sleep(5)
        cost = cost_of(person, 30)
    finally:
        person.browser.quit()
    print(
        f"  the floor in a browser takes {cost.page * 100:.0f} % of a core, drawn without a "
        f"graphics card ({WANTED_OF_A_CORE * 100:.0f} % is wanted); "
        f"its main thread is busy {cost.busy * 100:.0f} %"
    )


async def _open(address: str, cookie: str, understood: dict[str, Any]) -> Board:
    line = await connect(
        f"ws://{address}/ws/live",
        origin=f"http://{address}",  # type: ignore[arg-type]
        additional_headers={"Cookie": cookie},
        max_size=None,
    )
    await line.send(json.dumps({"watch": "floor"}))
    return Board(line, understood)


async def _acts(who: list[str], word: str) -> tuple[list[float], list[tuple[str, str, float]]]:
    """Set agents away one after another: how long each answer took, and what to look for since."""
    took, done = [], []
    for number, agent in enumerate(who):
        reason = ("Break", "Lunch", "Training")[number % 3]
        await sync_to_async(may)("agent.available", agent=agent)
        await asyncio.sleep(0.5)  # told before they are away again, or nothing has changed
        began = time.monotonic()
        if await sync_to_async(may)("agent.away", agent=agent, reason=reason):
            took.append(time.monotonic() - began)
            done.append((agent, reason, time.monotonic()))
        await asyncio.sleep(0.25)
    print(f"  {word}: an act is answered within {max(took):.2f} s, {median(took):.3f} s usually")
    return took, done


def _latest(boards: list[Board], done: list[tuple[str, str, float]]) -> list[float]:
    """How long after the answer each act was on each board that reads; what never came is late."""
    return [
        max(0.0, board.seen.get((agent, reason), float("inf")) - at)
        for board in boards
        for agent, reason, at in done
    ]


async def _tried(address: str, cookie: str, who: list[str]) -> bool:
    free = [agent for agent in who if _shown().get(agent, {}).get("status") != "on_contact"]
    for agent in free:
        await sync_to_async(may)("agent.sign_out", agent=agent)
        await sync_to_async(may)("agent.sign_in", agent=agent)
    alone, _ = await _acts(free[::2], "without boards")
    understood: dict[str, Any] = {}
    boards = [await _open(address, cookie, understood) for _ in range(BOARDS)]
    reading = boards[: BOARDS - DEAF]
    tasks = [asyncio.create_task(board.read()) for board in reading]
    await asyncio.sleep(3)
    for board in reading:
        board.seen.clear()
        board.told = 0
    began, arrived = time.monotonic(), _arrived()
    beside, done = await _acts(free[1::2], f"beside {BOARDS} boards, {DEAF} of them deaf")
    await asyncio.sleep(2)
    passed = time.monotonic() - began
    pace = (_arrived() - arrived) / passed
    late = sorted(_latest(reading, done))
    often = max(board.told for board in reading) / passed
    for task in tasks:
        task.cancel()
    p99 = late[len(late) * 99 // 100]
    print(
        f"  {len(late)} changes on {len(reading)} boards: 99 % within {p99:.2f} s of the answer, "
        f"the latest {late[-1]:.2f} s"
    )
    print(f"  a board is told at most {often:.1f} times a second, of {pace:.0f} contacts a second")
    return p99 <= LATEST_S and often <= MOST_A_SECOND and max(beside) < max(1.0, 4 * max(alone))


def main() -> int:
    """Run it, and say what came of it."""
    who = _crowd()
    print(f"{AGENTS} agents, {QUEUES} queues, clock at {SPEED}x, {len(_shown())} at work")
    address, cookies = f"127.0.0.1:{notes()['port']}", _cookies()
    line = "; ".join(f"{name}={value}" for name, value in cookies.items())
    good = asyncio.run(_tried(address, line, who))
    _in_a_browser(address, cookies)
    print("  every board keeps up" if good else "  NOT GOOD ENOUGH")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
