"""One agent who is stood in for: signs in, answers, talks, wraps up, takes breaks, goes home."""

from __future__ import annotations

import random
import zlib
from collections.abc import Callable
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from callcore.centre.contact import Contact
from callcore.centre.facts import CodeFacts
from callcore.centre.handlers.agent_session import away_reasons, codes_of
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.people.diary import Diary, Task
from callcore.people.traits import AgentTraits
from callcore.routing.events import Status
from callcore.routing.router import Agent

SECOND = 1000
#: How long a contact takes whose caller is nobody's.
_TALK_S = 170.0
_REPLY = "Thank you for writing. I have looked into it for you."
#: The way home, action by action; and more contacts than any agent has at once.
_HOME = ("agent.decline", "agent.end_consult", "agent.end", "agent.wrap_up", "agent.sign_out")
_MOST_CONTACTS = 20
_AGAIN_MS = 5 * SECOND
_DAY_MS = 86_400_000
#: Of those who have sent a contact on, who label it as just that.
_SAYS_SO = 0.7
#: Everybody works at some time.
_MOST_OFF = 0.9

#: How long the caller of a contact wants to talk (s); None where nobody knows.
TalkOf = Callable[[str], float | None]


class Worker:
    """Reacts when the agent's state has changed, and to nothing else. Who looks does nothing at
    once: it is written into the diary, be it for this very moment."""

    __slots__ = ("_diary", "_ends_ms", "_rests_ms", "_rng", "_seen", "_site", "_talk_of", "_traits", "id")

    def __init__(
        self, agent: str, site: Site, diary: Diary, rng: random.Random, traits: AgentTraits, talk_of: TalkOf
    ) -> None:
        self.id = agent
        self._site, self._diary, self._rng, self._traits = site, diary, rng, traits
        self._talk_of = talk_of
        self._seen: tuple[Status, int] = (Status.OUT, 0)
        self._ends_ms = 0
        #: When they next want a break, once they have nothing in hand.
        self._rests_ms = 0

    def comes(self, now_ms: int, within_ms: int) -> None:
        """To work for the first time: at once if their shift has begun, or if they have none."""
        after_ms = round(self._rng.uniform(0, within_ms))
        begun = not self._traits.shifts or self._begun_before(now_ms)
        self._diary.at(now_ms + after_ms if begun else self._next_shift_ms(now_ms), self.begins)

    def _begun_before(self, now_ms: int) -> bool:
        """Whether a usual shift of today goes on at a moment, which then ends when it would."""
        began_ms = self._shift_on(now_ms)
        ends_ms = began_ms + self._drawn_ms(self._traits.shift.draw(self._rng))
        if not began_ms <= now_ms < ends_ms or self._rng.random() < self._traits.days_off:
            return False
        self._ends_ms = ends_ms
        return True

    def _shift_on(self, at_ms: int) -> int:
        """When their shift begins on the day of a moment (ms): the same hour every day."""
        local = datetime.fromtimestamp(at_ms / 1000, ZoneInfo(self._site.setup.time_zone))
        hour = self._traits.shifts[zlib.crc32(self.id.encode()) % len(self._traits.shifts)]
        at = local.replace(hour=int(hour), minute=round(hour % 1 * 60), second=0, microsecond=0)
        return round(at.timestamp() * SECOND)

    def _next_shift_ms(self, now_ms: int) -> int:
        """When they come the next time: not on their days off, and not to the minute."""
        late_ms = round(self._rng.uniform(-300, 240) * SECOND)
        begins_ms = self._shift_on(now_ms) + late_ms
        while begins_ms <= now_ms or self._rng.random() < min(self._traits.days_off, _MOST_OFF):
            begins_ms = self._shift_on(begins_ms + _DAY_MS) + late_ms
        return begins_ms

    def begins(self, now_ms: int) -> None:
        """A shift begins, unless it has, or nobody stands in for them any more."""
        agent = self._site.router.agents.get(self.id)
        if self.id not in self._site.stood_in or not (agent is None or agent.status is Status.OUT):
            return
        self._rests_ms = 0
        if self._ends_ms <= now_ms:
            self._ends_ms = now_ms + self._drawn_ms(self._traits.shift.draw(self._rng))
        self._command("agent.sign_in", now_ms)
        self._command("agent.available", now_ms)

    def goes_on(self, now_ms: int) -> None:
        """Somewhere in a shift that began before."""
        self._ends_ms = now_ms + self._drawn_ms(self._traits.shift.draw(self._rng) * self._rng.random())

    def look(self, now_ms: int) -> None:
        """Take in how the agent stands now."""
        agent = self._site.router.agents.get(self.id)
        if agent is None or self._seen == (agent.status, agent.since_ms):
            return
        self._seen = (agent.status, agent.since_ms)
        match agent.status:
            case Status.RINGING:
                if self._rng.random() >= self._traits.missed:
                    self._soon(now_ms, self._traits.answers.draw(self._rng), "agent.answer")
            case Status.ON_CONTACT:
                self._serve(agent, now_ms)
            case Status.WRAPPING:
                self._wraps_up(agent, now_ms)
            case Status.AVAILABLE:
                self._waits(now_ms)
            case Status.AWAY:
                self._rests_ms = 0
                self._soon(now_ms, self._traits.rests.draw(self._rng), "agent.available")
            case Status.OUT:
                off_ms = self._drawn_ms(self._traits.off.draw(self._rng))
                shifts = bool(self._traits.shifts)
                back_ms = self._next_shift_ms(now_ms) if shifts else now_ms + off_ms
                self._diary.at(back_ms, self.begins)

    def _serve(self, agent: Agent, now_ms: int) -> None:
        """Talk or write; sometimes hold the caller, ask a colleague, or send them on."""
        contact = self._site.contacts.get(agent.contact)
        if contact is not None and contact.text:
            self._writes(now_ms)
            return
        talk_s = self._talk_of(agent.contact)
        talk_s = talk_s if talk_s is not None else self._rng.expovariate(1 / _TALK_S)
        if agent.since_ms < now_ms:
            # At it since before they were looked at: all that is left is the end of it.
            self._soon(now_ms, max(0.0, talk_s - (now_ms - agent.since_ms) / SECOND), "agent.end")
            return
        rng, traits = self._rng, self._traits
        if rng.random() < traits.held:
            begins = rng.uniform(0.1, 0.5) * talk_s
            self._soon(now_ms, begins, "agent.hold")
            self._soon(now_ms, begins + rng.uniform(0.1, 0.3) * talk_s, "agent.resume")
        if rng.random() < traits.sent_on and (to := self._elsewhere(contact)):
            self._soon(now_ms, rng.uniform(0.3, 0.9) * talk_s, "agent.transfer", to=to)
        elif rng.random() < traits.asks and (to := self._elsewhere(contact)):
            self._soon(now_ms, 0.5 * talk_s, "agent.consult", to=to)
            self._soon(now_ms, 0.5 * talk_s + rng.uniform(30, 90), "agent.end_consult")
            self._soon(now_ms, 0.5 * talk_s + 91, "agent.resume")
            talk_s += 95
        self._soon(now_ms, talk_s, "agent.end")

    def _elsewhere(self, contact: Contact | None) -> str:
        """Another queue than the contact's own; empty where there is none."""
        own = contact.queue if contact else ""
        others = sorted(queue for queue in self._site.setup.queues if queue != own)
        return f"queue:{self._rng.choice(others)}" if others else ""

    def _writes(self, now_ms: int) -> None:
        after_s = self._traits.writes.draw(self._rng)
        self._soon(now_ms, after_s, "agent.text", text=_REPLY)
        self._soon(now_ms, after_s + self._rng.uniform(20, 200), "agent.end")

    def _wraps_up(self, agent: Agent, now_ms: int) -> None:
        codes = codes_of(self._site, agent)
        coded = bool(codes) and self._rng.random() < self._traits.coded
        code = self._code(codes, agent) if coded else ""
        self._soon(now_ms, self._traits.wraps.draw(self._rng), "agent.wrap_up", code=code)

    def _code(self, codes: list[CodeFacts], agent: Agent) -> str:
        """What they think it was about."""
        contact = self._site.find(agent.contact)
        passed = self._traits.passes_as if contact is not None and contact.sent_on else ""
        passed = passed if self._rng.random() < _SAYS_SO else ""
        for code in codes:
            if passed and code.name == passed:
                return code.id
        weights = [self._traits.codes.get(code.name, 1.0) for code in codes]
        return self._rng.choices(codes, weights)[0].id if sum(weights) > 0 else ""

    def _waits(self, now_ms: int) -> None:
        if self._ends_ms and now_ms >= self._ends_ms:
            self._soon(now_ms, 0, "agent.sign_out")
            return
        reasons = away_reasons(self._site, self.id)
        if not reasons:
            return
        if not self._rests_ms:
            self._rests_ms = now_ms + self._drawn_ms(self._traits.works.draw(self._rng))
        left_s = max(0, self._rests_ms - now_ms) / SECOND
        self._soon(now_ms, left_s, "agent.away", reason=self._rng.choice(reasons))

    def goes_home(self, now_ms: int) -> None:
        """The end of work: contact by contact, and again later where one cannot end yet."""
        if self.id not in self._site.stood_in:
            return
        for _ in range(_MOST_CONTACTS):
            agent = self._site.router.agents.get(self.id)
            if agent is None or agent.status is Status.OUT:
                self._site.stand_in(self.id, False)
                return
            code = next((code.id for code in codes_of(self._site, agent)), "")
            for action in _HOME:
                self._command(action, now_ms, code=code)
        self._diary.at(now_ms + _AGAIN_MS, self.goes_home)

    @staticmethod
    def _drawn_ms(seconds: float) -> int:
        return round(seconds * SECOND)

    def _soon(self, now_ms: int, after_s: float, kind: str, **body: Any) -> None:
        """An action, if the agent is still stood in for, and in the state that led to it."""
        self._diary.at(now_ms + self._drawn_ms(after_s), self._still(self._seen, kind, body))

    def _still(self, seen: tuple[Status, int], kind: str, body: dict[str, Any]) -> Task:
        def action(now_ms: int) -> None:
            agent = self._site.router.agents.get(self.id)
            stands = agent is not None and (agent.status, agent.since_ms) == seen
            if stands and self.id in self._site.stood_in:
                self._command(kind, now_ms, **body)

        return action

    def _command(self, kind: str, now_ms: int, **body: Any) -> None:
        """Do it; what is refused is let be."""
        try:
            self._site.command(kind, {"agent": self.id, **body}, now_ms)
        except EventRefused:
            return
