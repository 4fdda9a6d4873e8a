"""The exchange without its input and output: contacts, router and figures, driven by time.

Synchronous and free of the database, so that the rules can be tested by hand:
commands and the clock go in, events pile up in `pending` until the shell has
written them into the journal.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from callcore.errors import EventRefused
from callcore.events import Happening, Kind
from callcore.flow import runner
from callcore.flow.definition import Queue as QueueStop
from callcore.measures.acquaintances import Acquaintances
from callcore.measures.fold import Fold
from callcore.measures.ridge import Ridge
from callcore.routing import events as e
from callcore.routing.events import Status
from callcore.routing.router import DIRECT, Router
from callcore.speech.recogniser import Recogniser, TypedSpeech
from callcore.waiting.estimate import Waits
from exchange.live import alarms, breakage, callbacks, talking, telephone, texting, working
from exchange.live.alarms import Alarm
from exchange.live.asking import around
from exchange.live.breakage import Trouble
from exchange.live.configuration import OTHER_CHANNEL, Answer, Configuration, Script
from exchange.live.contact import Live, log_line
from exchange.live.lines import Lines
from exchange.live.performing import outside_due, perform, went_on
from exchange.live.timers import Timers
from exchange.stand_ins.outside_line import OutsideLine, SimulatedLine

#: How much of an agent's past the floor shows.
_HOUR_MS = 3_600_000
#: An agent whose rules answer at once hears it ring this long.
AT_ONCE_MS = 800


class Engine:
    """One site's live state.

    Args:
        config: what to run.
        now_ms: milliseconds since the epoch.
        outside: rings outside numbers; the simulated line by default.
        recogniser: understands what callers say; by default what was typed is what was said.
    """

    def __init__(
        self, config: Configuration, now_ms: int, outside: OutsideLine | None = None,
        recogniser: Recogniser | None = None,
    ) -> None:  # fmt: skip
        self.config = config
        self.outside: OutsideLine = outside or SimulatedLine()
        self.recogniser: Recogniser = recogniser or TypedSpeech()
        self.router = Router(explain=True)
        self.contacts: dict[str, Live] = {}
        self.over: dict[str, Live] = {}
        self.pending: list[Happening] = []
        self.dirty: set[str] = {"floor", "strip"}
        self.fold = Fold(config.limits())
        self.ridge = Ridge()
        self.hours: dict[str, list[tuple[int, str]]] = {}
        self.waits = Waits()
        #: Scripts of waiting plans by key; contacts under way keep the version they began with.
        self.plans: dict[str, Script] = {}
        #: The contact that is being run: what machines ask is asked for it.
        self.serving = ""
        self.day_ends_ms = 0
        self.now_ms = now_ms
        #: Look-ups that wait for an answer: contact, table, key.
        self.asked: list[tuple[str, str, str]] = []
        self.acquaintances = Acquaintances()
        #: What went wrong in our own code, newest last.
        self.troubles: deque[Trouble] = deque(maxlen=50)
        #: Agents whose work stand-ins do.
        self.stood_in: set[str] = set()
        #: Emergencies that nobody has taken, by contact.
        self.alarms: dict[str, Alarm] = {}
        #: The callback whose caller each agent did not reach last.
        self.unreached: dict[str, Happening] = {}
        #: Whom each ring group rang first the last time, by its id.
        self.turns: dict[str, str] = {}
        self.lines = Lines(self)
        #: The browsers in which each agent's desk is open.
        self.desks: dict[str, set[str]] = {}
        #: Whether simulated callers may be fax machines.
        self.faxes = True
        self.timers = Timers()
        self._new_day(now_ms)
        self.configure(config, now_ms)

    # Configuration and time

    def configure(self, config: Configuration, now_ms: int) -> None:
        """Run on another configuration from now on; contacts under way keep their version."""
        self.config = config
        self.fold.limits = config.limits()
        decisions = self.router.configure(
            config.queue_rules(),
            config.members(),
            config.handling,
            now_ms,
            {agent.id: agent.skills for agent in config.agents.values()},
            config.handling_of,
        )
        for script in (*config.scripts.values(), *self.plans.values()):
            script.machine.around = around(self)
        for contact in list(self.contacts.values()):
            contact.script.machine.around = around(self)
            self.watch_wait(contact)
        self.carry_out(decisions, now_ms)
        self.dirty |= {f"desk.{agent}" for agent in self.router.agents}
        for notice in config.notices:
            self.timers.set(notice.until_ms, "notice", notice.id)
        for diversion in config.diversions:
            for moment in (diversion.rule.begins, diversion.rule.until):
                if moment is not None and moment.timestamp() * 1000 > now_ms:
                    at_ms = round(moment.timestamp() * 1000)
                    self.timers.set(at_ms, "diversion", diversion.rule.id)
        self.dirty |= {"floor", "strip"}

    def unheard(self, counts: dict[str, int]) -> None:
        """How many messages nobody has heard yet, by mailbox; none where it is not named."""
        self.config.mailboxes = {
            name: box._replace(new=counts.get(name, 0))
            for name, box in self.config.mailboxes.items()
        }
        self.dirty.add("strip")

    def advance(self, now_ms: int) -> None:
        """Let everything happen that is due by now."""
        self.now_ms = now_ms
        if now_ms >= self.day_ends_ms:
            self._new_day(now_ms)
        while (due := self.timers.pop(now_ms)) is not None:
            kind, identity = due
            what = f"the timer {kind} of {identity}"
            # What is refused by then is not due any more.
            with suppress(EventRefused), self.surviving(self._about(identity), what, now_ms):
                _TIMERS[kind](self, kind, identity, now_ms)

    @contextmanager
    def surviving(self, contact_id: str, what: str, now_ms: int) -> Iterator[None]:
        """Let a fault of our own end one contact, not the exchange; refusals pass."""
        try:
            yield
        except EventRefused:
            raise
        except Exception as error:  # noqa: BLE001  whatever it is: it stays with this contact
            breakage.broke(self, contact_id, what, error, now_ms)

    def lose(self, contact_id: str, error: Exception, now_ms: int) -> None:
        """What a contact did cannot be written: it ends, and only that is told of it."""
        written = len(self.pending)
        breakage.broke(self, contact_id, "writing what happened", error, now_ms)
        after = self.pending[written:]
        own = (Kind.ENDED,)
        self.pending[written:] = [e for e in after if e.contact != contact_id or e.kind in own]

    def _about(self, identity: str) -> str:
        """The contact that a timer is about: its own, or the one in an agent's hand."""
        name = identity.partition(" ")[0]
        agent = self.router.agents.get(name)
        return agent.contact if agent is not None else name

    def _wait_due(self, identity: str, now_ms: int) -> None:
        if identity in self.router.contacts:
            self.carry_out(self.router.apply(e.ContactDue(identity), now_ms), now_ms)
        if identity in self.contacts:
            self.watch_wait(self.contacts[identity])

    def _fax_heard(self, identity: str, now_ms: int) -> None:
        if identity in self.contacts:
            self.feed(self.contacts[identity], runner.FaxTone(), now_ms)

    def next_due_ms(self) -> int:
        """When `advance` must be called at the latest."""
        return min(self.timers.next_ms(self.day_ends_ms), self.day_ends_ms)

    def _new_day(self, now_ms: int) -> None:
        """Figures of "today" begin at the centre's midnight."""
        zone = ZoneInfo(self.config.time_zone)
        today = datetime.fromtimestamp(now_ms / 1000, zone)
        midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
        self.day_begins_ms = round(midnight.timestamp() * 1000)
        self.day_ends_ms = round((midnight + timedelta(days=1)).timestamp() * 1000)
        self.fold.begin_day(self.day_begins_ms)
        self.acquaintances.forget(now_ms)
        self.router.handled.clear()
        self.dirty |= {"floor", "strip"}

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
        about = str(body.get("contact") or "") or self._about(str(body.get("agent", "")))
        with self.surviving(about, f"the command {kind}", now_ms):
            return handler(self, body, now_ms) or {}
        raise EventRefused("failed", "Something went wrong on our side; the contact was ended.")

    def agent_event(self, event: e.Event, now_ms: int) -> None:
        self.carry_out(self.router.apply(event, now_ms), now_ms)

    def place_call(
        self, contact_id: str, number: str, caller: str, script: Script | None, now_ms: int,
        message: str | None = None, placed_by: str = "",
    ) -> dict[str, Any]:  # fmt: skip
        """A call arrives at a number; with `script` it is a trial of a draft.

        Args:
            message: the text message that it is instead of a call.
            placed_by: the person at whose telephone it was placed; empty for all other calls.
        """
        facts = self.config.numbers.get(number)
        answer = Answer(script, dict(facts.values) if facts else {}, None) if script else None
        if answer is None:
            answer = self.config.answers(facts, "voice" if message is None else "text", now_ms)
        if (answer.script.machine.flow.channel == "text") is (message is None):
            raise EventRefused("other-channel", OTHER_CHANNEL[message is None])
        values = {**answer.values, "caller": caller, "dialled": number, "message": message or ""}
        trial = script is not None
        contact = Live(
            contact_id, number, caller, trial, answer.script, runner.arriving(now_ms), now_ms,
            values, placed_by=placed_by,
        )  # fmt: skip
        self.contacts[contact_id] = contact
        self.emit_arrival(contact, now_ms)
        if answer.diversion is not None:
            to = self.config.diversion_words(answer.diversion)
            self.emit(
                Kind.DIVERTED, now_ms, contact=contact_id, diversion=answer.diversion.id, words=to
            )
        if message is not None:
            self.emit(Kind.TEXTED, now_ms, contact=contact_id, by="caller", words=message)
        self.start(contact, now_ms)
        return {"contact": contact_id}

    def start(self, contact: Live, now_ms: int, flows: int = 0, rush: int = 0) -> None:
        """Let a contact begin in its script. See `Machine.start` for `flows` and `rush`."""
        contact.script.machine.around = around(self)
        self.serving = contact.id
        values = {**contact.values, **contact.state.values}
        with self.surviving(contact.id, "the beginning of a flow", now_ms):
            contact.state, effects = contact.script.machine.start(now_ms, values, flows, rush=rush)
            if flows:
                went_on(self, contact, now_ms)
            perform(self, contact, effects, now_ms)

    def emit_arrival(self, contact: Live, now_ms: int) -> None:
        script = contact.script
        aside = contact.aside
        more: dict[str, Any] = {"begun": contact.begun} if contact.begun else {}
        if contact.placed_by:
            more["placed_by"] = contact.placed_by
        if aside is not None:
            more = {"aside": aside.of, "by": aside.agent, "purpose": aside.purpose}
        self.emit(
            Kind.ARRIVED, now_ms, contact=contact.id, number=contact.number,
            caller=contact.caller, flow=script.flow_id, flow_name=script.flow_name,
            version=script.number, version_id=script.version_id, trial=contact.trial,
            values=contact.values, definition=script.loose_definition(), blocks=script.blocks,
            **more,
        )  # fmt: skip

    def hang_up(self, contact: Live, now_ms: int) -> None:
        """Whoever called, or was called back, hangs up."""
        if contact.id in self.router.contacts:
            self.carry_out(self.router.apply(e.Leave(contact.id, "hung_up"), now_ms), now_ms)
        if contact.state.phase != "ended":
            self.feed(contact, runner.HungUp(), now_ms)

    # The runner's side

    def _contact_due(self, contact_id: str, now_ms: int) -> None:
        contact = self.contacts.get(contact_id)
        due_ms = contact.state.due_ms if contact else None
        if contact is not None and due_ms is not None and due_ms <= now_ms:
            self.feed(contact, runner.Due(), now_ms)

    def feed(self, contact: Live, event: runner.Event, now_ms: int) -> None:
        self.serving = contact.id
        with self.surviving(contact.id, f"{type(event).__name__} in a flow", now_ms):
            contact.state, effects = contact.script.machine.resume(contact.state, event, now_ms)
            perform(self, contact, effects, now_ms)

    def watch_wait(self, contact: Live) -> None:
        waiting = self.router.contacts.get(contact.id)
        if waiting is not None:
            self.timers.set(self.router.due_ms(waiting, self.now_ms), "wait", contact.id)

    def looked(
        self, contact_id: str, row: dict[str, Any] | None, now_ms: int, *, failed: bool = False
    ) -> None:
        """The answer to a look-up; one that comes too late says nothing any more."""
        contact = self.contacts.get(contact_id)
        if contact is not None and contact.state.phase == "asking":
            self.feed(contact, runner.Looked(row, failed), now_ms)

    def begin(self, contact: Live, now_ms: int) -> None:
        """Run a contact that an agent began."""
        self.contacts[contact.id] = contact
        self.emit_arrival(contact, now_ms)
        self.start(contact, now_ms)

    def is_over(self, contact: Live, now_ms: int) -> None:
        """A contact has ended."""
        talking.over(self, contact, now_ms)

    def is_answered(self, contact: Live, now_ms: int) -> None:
        """An outside number has answered."""
        talking.side_answered(self, contact, now_ms)

    def is_taken(self, contact: Live, now_ms: int) -> None:
        """An agent and the caller speak."""
        talking.answered(self, contact, now_ms)

    # Taking up what was, for recovery

    def rejoin(self, contact: Live, now_ms: int) -> None:
        """Put a contact back into its queue, at the place its entry gives it."""
        if contact.back is not None and not contact.served:
            callbacks.taken_up(self, contact, now_ms)
            return
        join = self.joining(contact, contact.entered_ms)
        self.carry_out(self.router.apply(join, now_ms), now_ms)
        self.watch_wait(contact)

    def joining(self, contact: Live, entered_ms: int) -> e.Join:
        """A contact as it enters a queue; who spoke with the caller before may be preferred."""
        queue = self.config.queues.get(contact.queue)
        prefers = queue is not None and bool(queue.prefer_s)
        known = self.acquaintances.of(contact.caller) if prefers else None
        step = contact.script.machine.steps.get(contact.state.step)
        own_s = step.longest_wait_s if isinstance(step, QueueStop) else None
        return e.Join(
            contact.id, contact.queue, entered_ms, contact.priority, asks=contact.asks,
            preferred=(known,) if known else (), text=contact.text,
            inner=contact.aside is not None, longest_ms=own_s * 1000 if own_s else None,
        )  # fmt: skip

    def watch(self, contact: Live) -> None:
        """Look after what is due for a contact inside its flow, or talking outside."""
        self.timers.set(contact.state.due_ms, "contact", contact.id)

    def restored(self, agent_id: str, now_ms: int) -> None:
        """Look after what is due for an agent; tell where the journal had another state."""
        agent = self.router.agents[agent_id]
        self.timers.set(agent.due_ms, "agent", agent_id)
        line = self.hours.get(agent_id)
        if line is None or line[-1][1] != str(agent.status):
            self._agent_changed(self.router.told(agent), now_ms)

    # The router's side

    def carry_out(self, decisions: list[e.Decision], now_ms: int) -> None:
        for decision in decisions:
            about = "" if isinstance(decision, e.AgentChanged) else decision.contact
            with self.surviving(about, f"the decision {type(decision).__name__}", now_ms):
                _DECISIONS[type(decision)](self, decision, now_ms)

    def _rang(self, ring: e.Ring, now_ms: int) -> None:
        self.emit(
            Kind.RANG, now_ms, contact=ring.contact, agent=ring.agent, queue=ring.queue,
            until_ms=ring.until_ms, rule=ring.rule,
            considered=[list(c) for c in ring.considered],
        )  # fmt: skip

        self.lines.rang(ring, now_ms)
        if self.config.rule_of(ring.agent).answers == "at_once":
            self.timers.set(now_ms + AT_ONCE_MS, "at_once", ring.agent)

    def _answers_at_once(self, agent_id: str, now_ms: int) -> None:
        agent = self.router.agents.get(agent_id)
        if agent is not None and agent.status is Status.RINGING:
            self.carry_out(self.router.apply(e.Answer(agent_id), now_ms), now_ms)

    def _ring_stopped(self, stopped: e.RingStopped, now_ms: int) -> None:
        self.emit(
            Kind.RING_STOPPED, now_ms, contact=stopped.contact, agent=stopped.agent,
            queue=stopped.queue, why=stopped.why,
        )  # fmt: skip

    def _connected(self, connected: e.Connected, now_ms: int) -> None:
        back = self.contacts[connected.contact]
        if back.back is not None and not back.served:
            callbacks.call(self, back, connected.agent, now_ms)
            return
        self.emit(
            Kind.ANSWERED, now_ms, contact=connected.contact, agent=connected.agent,
            queue=connected.queue, entered_ms=connected.entered_ms,
        )  # fmt: skip
        contact = self.contacts[connected.contact]
        contact.taken_by(connected.agent)
        self.feed(contact, runner.Taken(), now_ms)
        talking.answered(self, contact, now_ms)

    def _took_over(self, took: e.TookOver, now_ms: int) -> None:
        contact = self.contacts[took.contact]
        contact.taken_by(took.agent)
        self.emit(
            Kind.ANSWERED, now_ms, contact=took.contact, agent=took.agent, queue=took.queue,
            entered_ms=contact.entered_ms, transferred=True,
        )  # fmt: skip

    def _leg_ended(self, ended: e.LegEnded, now_ms: int) -> None:
        self.emit(
            Kind.LEG_ENDED, now_ms, contact=ended.contact, agent=ended.agent, queue=ended.queue,
            by=ended.by,
        )  # fmt: skip
        contact = self.contacts.get(ended.contact)
        if contact is not None:
            talking.leg_ended(self, contact, ended.by, now_ms)

    def _coded(self, coded: e.Coded, now_ms: int) -> None:
        contact = self.contacts.get(coded.contact) or self.over.get(coded.contact)
        queue = contact.homes.get(coded.agent) if contact else ""
        queue = queue or coded.queue
        names = {c.id: c.name for c in self.config.codes_of(queue)}
        self.emit(
            Kind.CODED, now_ms, contact=coded.contact, agent=coded.agent, queue=coded.queue,
            code=coded.code, name=names.get(coded.code, ""),
        )  # fmt: skip

    def _left_queue(self, left: e.LeftQueue, now_ms: int) -> None:
        """Out of a queue without an answer; out of one person's line nothing is told or counted."""
        contact = self.contacts.get(left.contact)
        if contact is not None and contact.back is not None and not contact.served:
            if left.why == "queue_gone":
                callbacks.finish(self, contact, "not_reached", now_ms)
            return
        if contact is not None:
            contact.queue = ""
        if left.queue.startswith(DIRECT):
            if contact is not None and left.why == "passed_on":
                self.feed(contact, runner.Rung("no_answer"), now_ms)
            return
        self.emit(
            Kind.LEFT_QUEUE, now_ms, contact=left.contact, queue=left.queue,
            entered_ms=left.entered_ms, why=left.why,
        )  # fmt: skip
        waits = contact is not None and contact.state.phase == "queued"
        if contact is not None and waits and left.why not in ("hung_up", breakage.BROKEN):
            self.feed(contact, runner.WaitedOut(left.why), now_ms)

    def _agent_changed(self, changed: e.AgentChanged, now_ms: int) -> None:
        self.timers.set(changed.due_ms, "agent", changed.agent)
        self.emit(
            Kind.AGENT, now_ms, contact=changed.contact, agent=changed.agent,
            status=str(changed.status), reason=changed.reason, queue=changed.queue,
            since_ms=changed.since_ms, due_ms=changed.due_ms,
            others=[list(other) for other in changed.others],
            next=list(changed.next) if changed.next else None, handled=changed.handled,
            to_wrap=[list(other) for other in changed.to_wrap],
            stand_in=changed.agent in self.stood_in,
        )  # fmt: skip

    # Events

    def emit(
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
        self.fold.apply(event)
        self.waits.apply(event)
        self.ridge.apply(event)
        self.acquaintances.apply(event)
        live = self.contacts.get(event.contact) or self.over.get(event.contact)
        if live is not None:
            live.log.append(log_line(event))
            if live.home:
                self.dirty.add(f"queue.{live.home}")
            self.dirty.add(f"flow.{live.script.flow_id}")
        alarms.told(self, event)
        if event.kind is Kind.NOT_REACHED:
            self.unreached[event.agent] = event
        elif event.kind is Kind.RINGS_PERSON and event.body.get("group"):
            self.turns[event.body["group"].partition(":")[2]] = event.body["people"][0]
        elif event.kind is Kind.AGENT:
            line = self.hours.setdefault(event.agent, [])
            line.append((event.at_ms, event.body["status"]))
            while len(line) > 1 and line[1][0] < event.at_ms - _HOUR_MS:
                line.pop(0)
        self.dirty |= {"floor", "strip"}


_Command = Callable[[Engine, dict[str, Any], int], dict[str, Any] | None]


#: What a timer does, by its kind.
_TIMERS: dict[str, Callable[[Engine, str, str, int], None]] = {
    "contact": lambda s, _, who, now: s._contact_due(who, now),
    "wait": lambda s, _, who, now: s._wait_due(who, now),
    "callback": lambda s, _, who, now: callbacks.its_turn(s, who, now),
    "at_once": lambda s, _, who, now: s._answers_at_once(who, now),
    "fax": lambda s, _, who, now: s._fax_heard(who, now),
    "diversion": lambda s, _kind, _who, _now: s.dirty.add("strip"),
    "notice": lambda s, _kind, _who, _now: s.dirty.update(f"desk.{a}" for a in s.router.agents),
    "desk": lambda s, _, who, now: working.desk_gone(s, who, now),
    "reply": lambda s, _, who, now: texting.reply_due(s, who, now),
    "records": lambda s, _, who, now: talking.notice_heard(s, who, now),
    "line": lambda s, _, who, now: s.lines.due(who, now),
    "agent": lambda s, _, who, now: s.carry_out(s.router.apply(e.AgentDue(who), now), now),
    **dict.fromkeys(("answered", "busy", "failed", "no_answer", "done"), outside_due),
}

_COMMANDS: dict[str, _Command] = {
    "alarm.take": alarms.take,
    "callback.cancel": callbacks.called_off,
    "desk.opened": working.desk_opened,
    "desk.closed": working.desk_closed,
    "call.key": telephone.pressed,
    "call.say": telephone.said,
    "text.say": texting.said,
    "agent.text": texting.agent_writes,
    "call.hang_up": telephone.hung_up,
    "agent.answer": lambda s, b, now: s.agent_event(e.Answer(b["agent"]), now),
    "agent.decline": lambda s, b, now: s.agent_event(e.Decline(b["agent"]), now),
    **{f"agent.{deed}": done for deed, done in working.DEEDS.items()},
    **{f"agent.{deed}": done for deed, done in talking.DEEDS.items()},
}

_DECISIONS: dict[type, Callable[[Engine, Any, int], None]] = {
    e.Ring: Engine._rang,
    e.RingStopped: Engine._ring_stopped,
    e.Connected: Engine._connected,
    e.TookOver: Engine._took_over,
    e.LegEnded: Engine._leg_ended,
    e.Coded: Engine._coded,
    e.LeftQueue: Engine._left_queue,
    e.AgentChanged: Engine._agent_changed,
}
