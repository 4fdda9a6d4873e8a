"""The exchange without its input and output: contacts, router and figures, driven by time.

Synchronous and free of the database, so that the rules can be tested by hand:
commands and the clock go in, events pile up in `pending` until the shell has
written them into the journal.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from callcore.errors import EventRefused
from callcore.events import Happening, Kind
from callcore.flow import describe, runner
from callcore.flow.definition import KEYS
from callcore.measures.fold import Fold
from callcore.measures.ridge import Ridge
from callcore.routing import events as e
from callcore.routing.router import Router
from exchange.live.configuration import Configuration, Script

#: How much of an agent's past the floor shows.
_HOUR_MS = 3_600_000
#: How many contacts that are over can still be looked at, newest last.
KEPT_OVER = 500


@dataclass(slots=True)
class Live:
    """A contact under way."""

    id: str
    number: str
    caller: str
    trial: bool
    script: Script
    state: runner.RunState
    arrived_ms: int
    queue: str = ""
    entered_ms: int = 0
    agent: str = ""
    playing: dict[str, Any] | None = None
    log: list[dict[str, Any]] = field(default_factory=list)


def log_line(event: Happening) -> dict[str, Any]:
    """An event as the log of its contact shows it."""
    shown = {k: v for k, v in event.body.items() if k not in ("run", "definition")}
    return {"at_ms": event.at_ms, "kind": str(event.kind), "agent": event.agent, **shown}


class Engine:
    """One site's live state.

    Args:
        config: what to run.
        now_ms: milliseconds since the epoch.
    """

    def __init__(self, config: Configuration, now_ms: int) -> None:
        self.config = config
        self.router = Router(explain=True)
        self.contacts: dict[str, Live] = {}
        self.over: dict[str, Live] = {}
        self.pending: list[Happening] = []
        self.dirty: set[str] = {"floor", "strip"}
        self.fold = Fold(config.limits())
        self.ridge = Ridge()
        self.hours: dict[str, list[tuple[int, str]]] = {}
        self.day_ends_ms = 0
        self._timers: list[tuple[int, int, str, str]] = []
        self._timer_number = 0
        self._new_day(now_ms)
        self.configure(config, now_ms)

    # Configuration and time

    def configure(self, config: Configuration, now_ms: int) -> None:
        """Run on another configuration from now on; contacts under way keep their version."""
        self.config = config
        self.fold.limits = config.limits()
        decisions = self.router.configure(
            config.queue_rules(), config.members(), config.handling, now_ms
        )
        for script in config.scripts.values():
            script.machine.open_at = config.open_at
        for contact in list(self.contacts.values()):
            contact.script.machine.open_at = config.open_at
            self._watch_wait(contact)
        self._carry_out(decisions, now_ms)
        self.dirty |= {"floor", "strip"}

    def advance(self, now_ms: int) -> None:
        """Let everything happen that is due by now."""
        if now_ms >= self.day_ends_ms:
            self._new_day(now_ms)
        while self._timers and self._timers[0][0] <= now_ms:
            _, _, kind, identity = heapq.heappop(self._timers)
            if kind == "contact":
                self._contact_due(identity, now_ms)
            elif kind == "wait" and identity in self.router.contacts:
                self._carry_out(self.router.apply(e.ContactDue(identity), now_ms), now_ms)
            elif kind == "agent":
                self._carry_out(self.router.apply(e.AgentDue(identity), now_ms), now_ms)

    def next_due_ms(self) -> int:
        """When `advance` must be called at the latest."""
        return min(self._timers[0][0], self.day_ends_ms) if self._timers else self.day_ends_ms

    def _new_day(self, now_ms: int) -> None:
        """Figures of "today" begin at the centre's midnight."""
        zone = ZoneInfo(self.config.time_zone)
        today = datetime.fromtimestamp(now_ms / 1000, zone)
        midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
        self.day_begins_ms = round(midnight.timestamp() * 1000)
        self.day_ends_ms = round((midnight + timedelta(days=1)).timestamp() * 1000)
        self.fold = Fold(self.config.limits())
        self.dirty |= {"floor", "strip"}

    def _set_timer(self, due_ms: int | None, kind: str, identity: str) -> None:
        if due_ms is not None:
            self._timer_number += 1
            heapq.heappush(self._timers, (due_ms, self._timer_number, kind, identity))

    # Commands

    def command(self, kind: str, body: dict[str, Any], now_ms: int) -> dict[str, Any]:
        """Do what was asked, and answer.

        Raises:
            EventRefused: it cannot be done, said in words.
        """
        self.advance(now_ms)
        handler = _COMMANDS.get(kind)
        if handler is None:
            raise EventRefused("unknown-command", f"The exchange knows no command {kind!r}.")
        return handler(self, body, now_ms) or {}

    def _agent_event(self, event: e.Event, now_ms: int) -> None:
        self._carry_out(self.router.apply(event, now_ms), now_ms)

    def place_call(
        self, contact_id: str, number: str, caller: str, script: Script | None, now_ms: int
    ) -> dict[str, Any]:
        """A call arrives at a number; with `script` it is a trial of a draft."""
        trial = script is not None
        if script is None:
            facts = self.config.numbers.get(number)
            if facts is None:
                raise EventRefused("no-such-number", "There is no such number.")
            script = self.config.scripts.get(facts.flow_at(now_ms))
            if script is None:
                message = "Nothing answers this number: it has no flow in force."
                raise EventRefused("not-in-force", message)
        script.machine.open_at = self.config.open_at
        state, effects = script.machine.start(now_ms)
        contact = Live(contact_id, number, caller, trial, script, state, now_ms)
        self.contacts[contact_id] = contact
        definition = script.machine.flow.model_dump(mode="json") if trial else None
        body = {
            "number": number, "caller": caller, "flow": script.flow_id,
            "flow_name": script.flow_name, "version": script.number,
            "version_id": script.version_id, "trial": trial, "definition": definition,
        }  # fmt: skip
        self._emit(Kind.ARRIVED, now_ms, contact=contact_id, **body)
        self._perform(contact, effects, now_ms)
        return {"contact": contact_id}

    def _key(self, body: dict[str, Any], now_ms: int) -> None:
        contact = self._contact(body["contact"])
        key = str(body["key"])
        if len(key) != 1 or key not in KEYS:
            raise EventRefused("no-such-key", "A telephone has no such key.")
        self._emit(Kind.KEYED, now_ms, contact=contact.id, step=contact.state.step, key=key)
        self._feed(contact, runner.Key(key), now_ms)

    def _hang_up(self, body: dict[str, Any], now_ms: int) -> None:
        contact = self._contact(body["contact"])
        if contact.id in self.router.contacts:
            self._carry_out(self.router.apply(e.Leave(contact.id, "hung_up"), now_ms), now_ms)
        if contact.state.phase != "ended":
            self._feed(contact, runner.HungUp(), now_ms)

    def _wrap_up(self, body: dict[str, Any], now_ms: int) -> None:
        agent = self.router.agents.get(body["agent"])
        code = str(body.get("code") or "")
        known = {c.id for c in self.config.codes_of(agent.queue)} if agent else set()
        if code and code not in known:
            raise EventRefused("no-such-code", "This wrap-up code is not used by the queue.")
        self._agent_event(e.FinishWrapUp(body["agent"], code), now_ms)

    def _sign_in(self, body: dict[str, Any], now_ms: int) -> None:
        if body["agent"] not in self.config.agents:
            raise EventRefused("no-such-agent", "You are not set up as an agent.")
        self._agent_event(e.SignIn(body["agent"]), now_ms)

    def _go_away(self, body: dict[str, Any], now_ms: int) -> None:
        reason = str(body["reason"])
        if reason not in self.config.away_reasons:
            raise EventRefused("no-such-reason", "This reason is not one of the centre's.")
        self._agent_event(e.GoAway(body["agent"], reason), now_ms)

    def _contact(self, contact_id: str) -> Live:
        contact = self.contacts.get(contact_id)
        if contact is None:
            raise EventRefused("contact-ended", "This call is over.")
        return contact

    # The runner's side

    def _contact_due(self, contact_id: str, now_ms: int) -> None:
        contact = self.contacts.get(contact_id)
        due_ms = contact.state.due_ms if contact else None
        if contact is not None and due_ms is not None and due_ms <= now_ms:
            self._feed(contact, runner.Due(), now_ms)

    def _feed(self, contact: Live, event: runner.Event, now_ms: int) -> None:
        contact.state, effects = contact.script.machine.resume(contact.state, event, now_ms)
        self._perform(contact, effects, now_ms)

    def _perform(self, contact: Live, effects: tuple[runner.Effect, ...], now_ms: int) -> None:
        self._set_timer(contact.state.due_ms, "contact", contact.id)
        for effect in effects:
            if isinstance(effect, runner.Moved):
                self._moved(contact, effect, now_ms)
            elif isinstance(effect, runner.Play):
                self._play(contact, effect, now_ms)
            elif isinstance(effect, runner.Listen):
                contact.playing = None
                self._emit(
                    Kind.LISTENS, now_ms, contact=contact.id, step=effect.step,
                    until_ms=effect.until_ms, run=runner.to_data(contact.state),
                )  # fmt: skip
            elif isinstance(effect, runner.JoinQueue):
                self._join(contact, effect, now_ms)
            else:
                self._finish(contact, effect, now_ms)

    def _moved(self, contact: Live, moved: runner.Moved, now_ms: int) -> None:
        words = describe.why(moved, contact.script.machine.flow)
        step = contact.script.machine.steps.get(moved.to or "")
        name = describe.stop(step, contact.script.world) if step else None
        self._emit(
            Kind.MOVED, now_ms, contact=contact.id, step=moved.step, exit=moved.exit, to=moved.to,
            why=moved.why, words=words, title=name.title if name else "",
            sentence=name.sentence if name else "", run=runner.to_data(contact.state),
        )  # fmt: skip

    def _play(self, contact: Live, play: runner.Play, now_ms: int) -> None:
        take = contact.script.takes.get(play.prompt)
        words = describe.prompt_words(play.prompt, contact.script.world)
        contact.playing = {
            "take": take, "since_ms": now_ms, "length_ms": play.length_ms, "step": play.step,
        }  # fmt: skip
        self._emit(
            Kind.HEARD, now_ms, contact=contact.id, step=play.step, role=play.role, take=take,
            length_ms=play.length_ms, words=words, run=runner.to_data(contact.state),
        )  # fmt: skip

    def _join(self, contact: Live, join: runner.JoinQueue, now_ms: int) -> None:
        contact.playing = None
        contact.queue, contact.entered_ms = join.queue.partition(":")[2], now_ms
        self._emit(Kind.QUEUED, now_ms, contact=contact.id, queue=contact.queue, step=join.step)
        self._carry_out(
            self.router.apply(e.Join(contact.id, contact.queue, now_ms), now_ms), now_ms
        )
        self._watch_wait(contact)

    def _watch_wait(self, contact: Live) -> None:
        waiting = self.router.contacts.get(contact.id)
        if waiting is not None:
            self._set_timer(self.router.due_ms(waiting), "wait", contact.id)

    def _finish(self, contact: Live, finish: runner.Finish, now_ms: int) -> None:
        contact.playing = None
        self.contacts.pop(contact.id, None)
        self.over[contact.id] = contact
        while len(self.over) > KEPT_OVER:
            self.over.pop(next(iter(self.over)))
        self._emit(Kind.ENDED, now_ms, contact=contact.id, step=finish.step, ending=finish.ending)

    # Taking up what was, for recovery

    def rejoin(self, contact: Live, now_ms: int) -> None:
        """Put a contact back into its queue, at the place its entry gives it."""
        join = e.Join(contact.id, contact.queue, contact.entered_ms)
        self._carry_out(self.router.apply(join, now_ms), now_ms)
        self._watch_wait(contact)

    def watch(self, contact: Live) -> None:
        """Look after what is due for a contact inside its flow."""
        self._set_timer(contact.state.due_ms, "contact", contact.id)

    def restored(self, agent_id: str, now_ms: int) -> None:
        """Look after what is due for an agent; tell where the journal had another state."""
        agent = self.router.agents[agent_id]
        self._set_timer(agent.due_ms, "agent", agent_id)
        line = self.hours.get(agent_id)
        if line is None or line[-1][1] != str(agent.status):
            self._agent_changed(
                e.AgentChanged(
                    agent_id, agent.status, agent.reason, agent.contact, agent.queue,
                    agent.since_ms, agent.due_ms,
                ),
                now_ms,
            )  # fmt: skip

    # The router's side

    def _carry_out(self, decisions: list[e.Decision], now_ms: int) -> None:
        for decision in decisions:
            _DECISIONS[type(decision)](self, decision, now_ms)

    def _rang(self, ring: e.Ring, now_ms: int) -> None:
        self._emit(
            Kind.RANG, now_ms, contact=ring.contact, agent=ring.agent, queue=ring.queue,
            until_ms=ring.until_ms, rule=ring.rule,
            considered=[list(c) for c in ring.considered],
        )  # fmt: skip

    def _ring_stopped(self, stopped: e.RingStopped, now_ms: int) -> None:
        self._emit(
            Kind.RING_STOPPED, now_ms, contact=stopped.contact, agent=stopped.agent,
            queue=stopped.queue, why=stopped.why,
        )  # fmt: skip

    def _connected(self, connected: e.Connected, now_ms: int) -> None:
        self._emit(
            Kind.ANSWERED, now_ms, contact=connected.contact, agent=connected.agent,
            queue=connected.queue, entered_ms=connected.entered_ms,
        )  # fmt: skip
        contact = self.contacts[connected.contact]
        contact.agent = connected.agent
        self._feed(contact, runner.Taken(), now_ms)

    def _leg_ended(self, ended: e.LegEnded, now_ms: int) -> None:
        self._emit(
            Kind.LEG_ENDED, now_ms, contact=ended.contact, agent=ended.agent, queue=ended.queue,
            by=ended.by,
        )  # fmt: skip
        contact = self.contacts.get(ended.contact)
        if contact is not None:
            self._feed(contact, runner.PersonDone(), now_ms)

    def _coded(self, coded: e.Coded, now_ms: int) -> None:
        names = {c.id: c.name for c in self.config.codes_of(coded.queue)}
        self._emit(
            Kind.CODED, now_ms, contact=coded.contact, agent=coded.agent, queue=coded.queue,
            code=coded.code, name=names.get(coded.code, ""),
        )  # fmt: skip

    def _left_queue(self, left: e.LeftQueue, now_ms: int) -> None:
        self._emit(
            Kind.LEFT_QUEUE, now_ms, contact=left.contact, queue=left.queue,
            entered_ms=left.entered_ms, why=left.why,
        )  # fmt: skip
        contact = self.contacts.get(left.contact)
        if contact is not None:
            contact.queue = ""
            if left.why != "hung_up":
                self._feed(contact, runner.WaitedOut(left.why), now_ms)

    def _agent_changed(self, changed: e.AgentChanged, now_ms: int) -> None:
        self._set_timer(changed.due_ms, "agent", changed.agent)
        self._emit(
            Kind.AGENT, now_ms, contact=changed.contact, agent=changed.agent,
            status=str(changed.status), reason=changed.reason, queue=changed.queue,
            since_ms=changed.since_ms, due_ms=changed.due_ms,
        )  # fmt: skip

    # Events

    def _emit(
        self, kind: Kind, at_ms: int, *, contact: str = "", agent: str = "", **body: Any
    ) -> None:
        event = Happening(at_ms, kind, contact, agent, body)
        self.pending.append(event)
        self.absorb(event)
        if contact:
            self.dirty.add(f"call.{contact}")
        if agent:
            self.dirty |= {f"desk.{agent}", "floor"}

    def absorb(self, event: Happening) -> None:
        """Count an event: a new one, or one read back from the journal."""
        if event.at_ms >= self.day_begins_ms:
            self.fold.apply(event)
        self.ridge.apply(event)
        live = self.contacts.get(event.contact) or self.over.get(event.contact)
        if live is not None:
            live.log.append(log_line(event))
            self.dirty.add(f"flow.{live.script.flow_id}")
        if event.kind is Kind.AGENT:
            line = self.hours.setdefault(event.agent, [])
            line.append((event.at_ms, event.body["status"]))
            while len(line) > 1 and line[1][0] < event.at_ms - _HOUR_MS:
                line.pop(0)
        self.dirty |= {"floor", "strip"}


_Command = Callable[[Engine, dict[str, Any], int], dict[str, Any] | None]

_COMMANDS: dict[str, _Command] = {
    "call.key": Engine._key,
    "call.hang_up": Engine._hang_up,
    "agent.sign_in": Engine._sign_in,
    "agent.sign_out": lambda s, b, now: s._agent_event(e.SignOut(b["agent"]), now),
    "agent.available": lambda s, b, now: s._agent_event(e.GoAvailable(b["agent"]), now),
    "agent.away": Engine._go_away,
    "agent.answer": lambda s, b, now: s._agent_event(e.Answer(b["agent"]), now),
    "agent.decline": lambda s, b, now: s._agent_event(e.Decline(b["agent"]), now),
    "agent.end": lambda s, b, now: s._agent_event(e.EndContact(b["agent"]), now),
    "agent.wrap_up": Engine._wrap_up,
}

_DECISIONS: dict[type, Callable[[Engine, Any, int], None]] = {
    e.Ring: Engine._rang,
    e.RingStopped: Engine._ring_stopped,
    e.Connected: Engine._connected,
    e.LegEnded: Engine._leg_ended,
    e.Coded: Engine._coded,
    e.LeftQueue: Engine._left_queue,
    e.AgentChanged: Engine._agent_changed,
}
