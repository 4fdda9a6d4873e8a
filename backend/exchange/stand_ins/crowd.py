"""Callers and agents who behave: a day's traffic for trying a set-up, beside real participants.

They use the exchange as everybody does: calls and texts arrive, keys are pressed, agents answer.
Whoever works at a simulated agent's desk takes the agent over, and nobody who works themself is
taken over by the crowd: which agents are stood in for stands in the journal with their states. The
crowd keeps nothing: after a restart it takes up the contacts that are its own by their ids.
"""

from __future__ import annotations

import contextlib
import heapq
import random
import uuid
from collections.abc import Callable
from datetime import datetime
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from callcore.centre.contact import Contact
from callcore.centre.handlers.agent_session import codes_of
from callcore.centre.handlers.messaging import arrives
from callcore.centre.handlers.telephone import place_call
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.flow.runner import RunState
from callcore.flow.steps import Callback, Digits, Directory, Extension, Menu
from callcore.routing.events import Status
from callcore.speech.recogniser import KEY_WORDS, Grammar

SECOND = 1000
#: Arrivals an hour by hour of the day, at a load of 1; Sundays have half of them.
PROFILE = (
    4, 2, 2, 2, 4, 10, 40, 90, 170, 220, 240, 230, 200, 190, 200, 210, 200, 170, 120, 80, 50, 30,
    16, 8,
)  # fmt: skip
SUNDAY = 0.5
PATIENCE_S, TALK_S, WRITE_S = 150.0, 170.0, 12.0
#: Shares of callers: robots that never press a key, those who want to be called back.
ROBOTS, CALLED_BACK, MISSED, MISKEYED = 0.02, 0.35, 0.04, 0.04
#: Shares of calls that an agent puts on hold, and sends on to another queue.
HELD, SENT_ON = 0.12, 0.04
#: How long a shift lasts, and the time until the next one, in seconds.
SHIFT_S, OFF_S = (4 * 3600.0, 9 * 3600.0), (1800.0, 7200.0)
#: Contacts of the crowd are known by how their ids begin.
OWN = "51a05100-"
#: More contacts than any agent has at once; and an agent's way home, action by action.
MOST_CONTACTS = 20
_HOME = ("agent.decline", "agent.end_side", "agent.end", "agent.wrap_up", "agent.sign_out")
#: Share of callers who say what they want where a stop listens; what nobody understands.
SPEAKERS = 0.6
MUMBLED = ("er", "can you say that again", "hello?", "what was that")
TEXTS = ("Are you sailing today?", "booking", "lost property", "Hello, a question", "no thanks")


class CrowdSettings(NamedTuple):
    """Whether there is a crowd, how many call (1: the usual day), how many agents work, and how
    well callers are understood."""

    on: bool = False
    load: float = 1.0
    agents: int = 0
    seed: int = 1
    fax: bool = True
    #: How many of a hundred things that callers say are not understood.
    misheard: int = 10


class _Caller:
    """One simulated caller."""

    __slots__ = ("patience_ms", "robot", "seen", "waits_since_ms")

    def __init__(self, patience_ms: int, robot: bool) -> None:
        self.patience_ms, self.robot = patience_ms, robot
        self.waits_since_ms = 0
        self.seen: RunState | None = None


class Crowd:
    """The simulated callers and agents of one site."""

    def __init__(self, centre: Site, settings: CrowdSettings, now_ms: int) -> None:
        self.centre = centre
        self.settings = settings
        self._rng = random.Random(settings.seed)  # noqa: S311  a crowd, no secret
        self._callers: dict[str, _Caller] = {}
        self._agents: dict[str, tuple[Status, int]] = {}
        #: When each agent's shift ends.
        self._ends: dict[str, int] = {}
        self._tasks: list[tuple[int, int, Callable[[int], None]]] = []
        self._number = 0
        if settings.on:
            self._begin(now_ms)
        # Whom an earlier crowd left behind.
        for agent in sorted(centre.stood_in - self._agents.keys()):
            self._send_home(agent)(now_ms)

    def let_go(self, agent: str) -> None:
        """Somebody works at this agent's desk themself."""
        self._agents.pop(agent, None)
        self.centre.stand_in(agent, False)

    def next_due_ms(self) -> int | None:
        """When `advance` must be called at the latest."""
        return self._tasks[0][0] if self._tasks else None

    def advance(self, now_ms: int) -> None:
        """Do what is due, and look at what has changed."""
        while self._tasks and self._tasks[0][0] <= now_ms:
            _, _, task = heapq.heappop(self._tasks)
            with contextlib.suppress(EventRefused), self._surviving("", now_ms):
                task(now_ms)
        for contact_id in list(self._callers):
            with contextlib.suppress(EventRefused), self._surviving(contact_id, now_ms):
                self._look_at_caller(contact_id, now_ms)
        for agent_id in list(self._agents):
            with contextlib.suppress(EventRefused), self._surviving("", now_ms):
                self._look_at_agent(agent_id, now_ms)

    def _surviving(self, contact_id: str, now_ms: int) -> contextlib.AbstractContextManager[None]:
        return self.centre.surviving(contact_id, "a stand-in", now_ms)

    def _later(self, due_ms: int, task: Callable[[int], None]) -> None:
        self._number += 1
        heapq.heappush(self._tasks, (due_ms, self._number, task))

    def _between(self, least_s: float, most_s: float) -> int:
        return round(self._rng.uniform(least_s, most_s) * SECOND)

    # Beginning and ending

    def _begin(self, now_ms: int) -> None:
        known = sorted(self.centre.setup.agents.values(), key=lambda a: (a.name, a.id))
        for chosen in self._rng.sample(known, min(self.settings.agents, len(known))):
            agent = chosen.id
            if self._works_themself(agent):
                continue
            self.centre.stand_in(agent, True)
            self._agents[agent] = (Status.OUT, 0)
            self._later(now_ms + self._between(0, 20), self._signing_in(agent))
        for contact_id in self.centre.contacts:
            if contact_id.startswith(OWN):
                self._callers[contact_id] = self._somebody()
        self._next_arrival(now_ms)

    def _works_themself(self, agent_id: str) -> bool:
        """Whether a person has signed in to work as an agent."""
        agent = self.centre.router.agents.get(agent_id)
        known = agent is not None and agent.status is not Status.OUT
        return known and agent_id not in self.centre.stood_in

    def go_home(self, now_ms: int) -> None:
        """Callers hang up and want no call back, agents end what they do and sign out."""
        self.settings = self.settings._replace(on=False)
        self._tasks.clear()
        self._callers.clear()
        for contact_id, contact in list(self.centre.contacts.items()):
            back = contact.callback
            if (back.origin if back else contact_id).startswith(OWN):
                leaving = "callback.cancel" if back else "call.hang_up"
                with contextlib.suppress(EventRefused):
                    self.centre.command(leaving, {"contact": contact_id}, now_ms)
        self._agents.clear()
        for agent in sorted(self.centre.stood_in):
            self._send_home(agent)(now_ms)

    def _send_home(self, agent_id: str) -> Callable[[int], None]:
        """An agent's end of work: contact by contact, and again later where one cannot end yet."""

        def go(now_ms: int) -> None:
            if agent_id not in self.centre.stood_in or agent_id in self._agents:
                return
            for _ in range(MOST_CONTACTS):
                agent = self.centre.router.agents.get(agent_id)
                if agent is None or agent.status is Status.OUT:
                    break
                for action in _HOME:
                    with contextlib.suppress(EventRefused):
                        code = next((c.id for c in codes_of(self.centre, agent)), "")
                        self._do(action, now_ms, agent=agent_id, code=code)
            else:
                self._later(now_ms + 5 * SECOND, self._send_home(agent_id))
                return
            self.centre.stand_in(agent_id, False)

        return go

    # Callers

    def _rate(self, now_ms: int) -> float:
        """Arrivals a second at a moment."""
        local = datetime.fromtimestamp(now_ms / 1000, ZoneInfo(self.centre.setup.time_zone))
        factor = SUNDAY if local.weekday() == 6 else 1.0
        return PROFILE[local.hour] * factor * self.settings.load / 3600

    def _next_arrival(self, now_ms: int) -> None:
        rate = self._rate(now_ms)
        if rate > 0:
            wait_s = min(self._rng.expovariate(rate), 600.0)
            self._later(now_ms + round(wait_s * SECOND), self._arrive)

    def _somebody(self) -> _Caller:
        patience_ms = round(self._rng.expovariate(1 / PATIENCE_S) * SECOND) + 5 * SECOND
        return _Caller(patience_ms, self._rng.random() < ROBOTS)

    def _arrive(self, now_ms: int) -> None:
        self._next_arrival(now_ms)
        numbers = [
            n for n in self.centre.setup.numbers.values()
            if n.address.startswith("+") and n.applies_at(now_ms).flow in self.centre.setup.flows
        ]  # fmt: skip
        if not numbers:
            return
        number = self._rng.choice(sorted(numbers, key=lambda n: n.address))
        # Not from the seed: the same seed a second time must not bring the same contacts.
        contact_id = OWN + str(uuid.uuid4())[9:]
        caller = f"+4477009{self._rng.randint(0, 999):05}"
        if number.channel == "text":
            body = {"contact": contact_id, "number": number.address, "caller": caller,
                    "text": self._rng.choice(TEXTS)}  # fmt: skip
            contact_id = arrives(self.centre, body, None, now_ms)["contact"]
        else:
            place_call(self.centre, contact_id, number.address, caller, None, now_ms)
        self._callers[contact_id] = self._somebody()

    def _look_at_caller(self, contact_id: str, now_ms: int) -> None:
        contact, caller = self.centre.contacts.get(contact_id), self._callers[contact_id]
        if contact is None:
            del self._callers[contact_id]
            return
        state = contact.state
        if state is caller.seen:
            return
        caller.seen = state
        if state.phase == "queued" and state.entered_ms != caller.waits_since_ms:
            caller.waits_since_ms = state.entered_ms
            self._later(now_ms + caller.patience_ms, self._giving_up(contact_id, state.entered_ms))
        self._react(contact, caller, now_ms)

    def _react(self, contact: Contact, caller: _Caller, now_ms: int) -> None:
        state = contact.state.inner or contact.state
        if state.phase == "recording":
            self._later(now_ms + self._between(6, 25), self._pressing(contact.id, "#"))
            return
        if state.phase != "listening" or caller.robot:
            return
        if contact.text:
            words = self._rng.choice(TEXTS)
            self._later(now_ms + self._between(5, 40), self._writing(contact.id, words))
            return
        plan = self.centre.plans.get(contact.state.plan) if contact.state.inner else None
        machine = plan.machine if plan else contact.flow.machine
        pressed = self._keys(machine.steps.get(state.step), state)
        grammar = contact.flow.machine.asking(self.centre.environment(contact.id)).grammar(
            contact.state
        )
        if grammar is not None and pressed and self._rng.random() < SPEAKERS:
            words = self._spoken(grammar, pressed)
            self._later(now_ms + self._between(1, 3), self._saying(contact.id, words))
            return
        for at, key in enumerate(pressed):
            self._later(now_ms + self._between(1, 3) + at * 400, self._pressing(contact.id, key))

    def _spoken(self, grammar: Grammar, keys: str) -> str:
        """How a caller says what would be pressed; some of them are not understood."""
        if self._rng.random() * 100 < self.settings.misheard:
            return self._rng.choice(MUMBLED)
        names = {key: word for word, key in KEY_WORDS[grammar.language].items()}
        phrases = dict(grammar.choices).get(keys)
        if phrases:
            return self._rng.choice(phrases)
        return " ".join(names[key] for key in keys if key in names)

    def _keys(self, step: Any, state: RunState) -> str:
        """What a caller presses at a stop."""
        rng = self._rng
        if isinstance(step, Menu) and step.arms:
            if rng.random() < MISKEYED:
                return rng.choice("0123456789")
            weights = [1 / (at + 1) for at in range(len(step.arms))]
            return rng.choices([arm.key for arm in step.arms], weights)[0]
        if isinstance(step, Digits):
            if state.role == "confirm":
                return "1"
            return "".join(rng.choice("0123456789") for _ in range(step.least)) + step.end_key
        if isinstance(step, Callback):
            if state.role == "other_number":
                return "#"
            return "1" if rng.random() < CALLED_BACK else ""
        if isinstance(step, Extension | Directory):
            known = sorted(self.centre.setup.extensions) or ["1"]
            return rng.choice(known)
        return ""

    def _pressing(self, contact: str, key: str) -> Callable[[int], None]:
        return lambda now: self._do("call.key", now, contact=contact, key=key)

    def _saying(self, contact: str, words: str) -> Callable[[int], None]:
        return lambda now: self._do("call.say", now, contact=contact, words=words)

    def _writing(self, contact: str, words: str) -> Callable[[int], None]:
        return lambda now: self._do("text.say", now, contact=contact, text=words)

    def _giving_up(self, contact_id: str, entered_ms: int) -> Callable[[int], None]:
        def give_up(now_ms: int) -> None:
            contact = self.centre.contacts.get(contact_id)
            waits = contact is not None and contact.state.phase == "queued"
            if contact is not None and waits and contact.state.entered_ms == entered_ms:
                self._do("call.hang_up", now_ms, contact=contact_id)

        return give_up

    # Agents

    def _signing_in(self, agent: str) -> Callable[[int], None]:
        def sign_in(now_ms: int) -> None:
            if agent in self._agents:
                self._ends[agent] = now_ms + self._between(*SHIFT_S)
                self._do("agent.sign_in", now_ms, agent=agent)
                self._do("agent.available", now_ms, agent=agent)

        return sign_in

    def _look_at_agent(self, agent_id: str, now_ms: int) -> None:
        agent = self.centre.router.agents.get(agent_id)
        if agent is None or self._agents[agent_id] == (agent.status, agent.since_ms):
            return
        self._agents[agent_id] = (agent.status, agent.since_ms)
        if agent.status is Status.RINGING and self._rng.random() >= MISSED:
            self._soon(agent_id, 2, 7, "agent.answer")
        elif agent.status is Status.ON_CONTACT:
            self._serve(agent_id, agent.contact)
        elif agent.status is Status.WRAPPING:
            codes = self.centre.setup.codes_of(agent.queue)
            code = self._rng.choice(codes).id if codes and self._rng.random() < 0.9 else ""
            self._soon(agent_id, 8, 40, "agent.wrap_up", code=code)
        elif agent.status is Status.AVAILABLE and self.centre.setup.away_reasons:
            reason = self._rng.choice(self.centre.setup.away_reasons)
            self._soon(agent_id, 1200, 5400, "agent.away", reason=reason)
            if now_ms >= self._ends.get(agent_id, now_ms + 1):
                self._do("agent.sign_out", now_ms, agent=agent_id)
                self._later(now_ms + self._between(*OFF_S), self._signing_in(agent_id))
        elif agent.status is Status.AWAY:
            self._soon(agent_id, 120, 600, "agent.available")

    def _serve(self, agent_id: str, contact_id: str) -> None:
        """Talk or write; sometimes hold the caller, or send them on."""
        talk_s = max(20.0, self._rng.lognormvariate(0, 0.6) * TALK_S)
        contact = self.centre.contacts.get(contact_id)
        text = contact is not None and contact.text
        if not text and self._rng.random() < HELD:
            self._soon(agent_id, 5, 0.5 * talk_s, "agent.hold")
            self._soon(agent_id, 0.5 * talk_s, 0.8 * talk_s, "agent.resume")
        if not text and self._rng.random() < SENT_ON and self.centre.setup.queues:
            queue = self._rng.choice(sorted(self.centre.setup.queues))
            self._soon(agent_id, 0.3 * talk_s, talk_s, "agent.transfer", to=f"queue:{queue}")
        self._soon(agent_id, talk_s, talk_s, "agent.end")
        if text:
            words = "Thank you for writing. I have looked into it for you."
            self._soon(agent_id, WRITE_S, 3 * WRITE_S, "agent.text", text=words)

    def _soon(self, agent: str, least_s: float, most_s: float, kind: str, **body: Any) -> None:
        """A action of an agent, if they are still in the state that led to it."""
        before = self._agents[agent]

        def action(now_ms: int) -> None:
            if self._agents.get(agent) == before:
                self._do(kind, now_ms, agent=agent, **body)

        self._later(self.centre.now_ms + self._between(least_s, most_s), action)

    def _do(self, kind: str, now_ms: int, **body: Any) -> None:
        self.centre.command(kind, body, now_ms)
