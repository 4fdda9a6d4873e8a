"""One site's live state, and the few things that every handler does with it.

Pure: commands and the clock go in, events pile up in `pending` until whoever drives it has written
them down. Ids, moments and what is outside of the centre are given in, so that the same commands
at the same times give the same events, and two sites can run beside one another.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import deque
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from callcore.centre import registry
from callcore.centre.alarms import Alarms
from callcore.centre.contact import Contact
from callcore.centre.floor_memory import FloorMemory
from callcore.centre.offers import offer_plans
from callcore.centre.parts import EVERYTHING, KEPT_OVER, AgentLines, Devices, Keeps, Surviving, Trouble
from callcore.centre.registry import Occasion
from callcore.centre.setup import Invalid, RunnableFlow, Setup
from callcore.centre.spans import Spans
from callcore.centre.timers import Timers
from callcore.errors import EventRefused
from callcore.events import Fact, Happening, facts
from callcore.flow import runner
from callcore.flow.state import Environment
from callcore.measures.acquaintances import Acquaintances
from callcore.measures.activity import Activity
from callcore.measures.callers import Callers
from callcore.measures.figures import Figures
from callcore.routing import events as e
from callcore.routing.router import Router
from callcore.waiting.estimate import Waits

_STATES = frozenset(e.Status)
#: Who takes in a kind of fact: those who count it where it is of callers, and what a site remembers
#: of it besides.
_Takers = tuple[tuple[Callable[[Happening, Any], None], ...], tuple[Callable[..., None], ...]]
_NOBODY: _Takers = ((), ())
#: How often alerts are looked at.
LOOKS_MS = 2_000


class Site(ABC):
    """State, and what is done with it everywhere: emit, feed, carry out.

    Args:
        setup: what to run.
        now_ms: milliseconds since the epoch.
        devices: what is outside of the centre.
        keeps: what is kept for people to look at.
    """

    def __init__(self, setup: Setup, now_ms: int, devices: Devices, keeps: Keeps = EVERYTHING) -> None:
        self.setup = setup
        self.devices = devices
        self.now_ms = now_ms
        self.keeps = keeps
        self.router = Router(explain=keeps.explained)
        self.timers = Timers()
        self.contacts: dict[str, Contact] = {}
        self.over: dict[str, Contact] = {}
        self.pending: list[Happening] = []
        #: Contacts and agents that stand otherwise than was written down.
        self.touched: set[str] = set()
        #: How many contacts there have been.
        self.count = 0
        #: Live topics that have changed.
        self.dirty: set[str] = {"floor", "strip"}
        self.figures = Figures()
        self.activity = Activity()
        self.waits = Waits()
        self.acquaintances = Acquaintances()
        self.alarms = Alarms()
        self.floor = FloorMemory()
        self._callers = Callers()
        self._takers = self._table()
        self.spans = Spans()
        #: Flows of waiting plans by key; contacts under way keep the version they began with.
        self.plans: dict[str, RunnableFlow] = offer_plans(setup)
        #: Messages that nobody has heard yet, by mailbox.
        self.unheard = {box.id: box.new for box in setup.mailboxes.values()}
        #: Look-ups that wait for an answer: contact, table, key.
        self.asked: list[tuple[str, str, str]] = []
        #: What went wrong in our own code, newest last.
        self.troubles: deque[Trouble] = deque(maxlen=50)
        #: Agents whose work stand-ins do.
        self.stood_in: set[str] = set()
        #: The callback whose caller each agent did not reach last.
        self.unreached: dict[str, Happening] = {}
        #: Whom each ring group rang first the last time, by its id.
        self.turns: dict[str, str] = {}
        self.lines = AgentLines()
        #: The browsers in which each agent's desk is open.
        self.desks: dict[str, set[str]] = {}
        #: The browsers in which each supervisor is there, by the user's id.
        self.supervisors: dict[str, set[str]] = {}
        self._looks_ms = 0
        #: Whether simulated callers may be fax machines.
        self.faxes = True
        self.new_day(now_ms)

    @abstractmethod
    def environment(self, contact: str) -> Environment:
        """What a machine that runs for a contact asks."""

    @abstractmethod
    def broke(self, contact: str, what: str, error: Exception, now_ms: int) -> None:
        """A fault of our own: write it down, and end the contact that met it."""

    # Events

    def emit(self, fact: Fact, at_ms: int, *, contact: str = "", agent: str = "") -> None:
        """Something has happened."""
        event = Happening(at_ms, contact, agent, fact)
        self.pending.append(event)
        self.absorb(event)
        if contact:
            self.touched.add(contact)
        if agent:
            self.touched.add(agent)

    def absorb(self, event: Happening) -> None:
        """Count an event: a new one, or one read back from the journal."""
        fact = event.fact
        counting, recalling = self._takers.get(type(fact), _NOBODY)
        if self._callers.counts(event):
            for count in counting:
                count(event, fact)
        for recall in recalling:
            recall(self, event, fact)
        if self.keeps.shown:
            self.floor.apply(event)
            contact = self.contacts.get(event.contact) or self.over.get(event.contact)
            if contact is not None:
                contact.log.append(event)

    def _table(self) -> dict[type, _Takers]:
        """Who takes an event in, by the kind of fact: nobody is asked in vain."""
        shown = (self.activity,) if self.keeps.shown else ()
        found: dict[type, _Takers] = {kind: ((), recalls) for kind, recalls in _RECALLS.items()}
        for one in (self.figures, self.waits, self.acquaintances, *shown):
            for kind, count in one.handlers.items():
                counting, recalling = found.get(kind, _NOBODY)
                found[kind] = ((*counting, count), recalling)
        return found

    def recall_unreached(self, event: Happening, fact: facts.NotReached) -> None:
        self.unreached[event.agent] = event

    def recall_turn(self, event: Happening, fact: facts.RingsPerson) -> None:
        if fact.group:
            self.turns[fact.group.partition(":")[2]] = fact.people[0]

    def recall_state(self, event: Happening, fact: facts.AgentChanged) -> None:
        """An agent's state, on the line of their last hour."""
        if not self.keeps.shown or fact.status not in _STATES:  # of a later version
            return
        known = self.setup.agents.get(event.agent)
        team_id = known.team_id if known else ""
        self.spans.add(event.agent, team_id, event.at_ms, e.Status(fact.status))

    def recall_alarm(self, event: Happening, fact: Fact) -> None:
        self.alarms.apply(event)

    def topics(self) -> set[str]:
        """The live topics that have changed since the last time; asked before `standing.changed`,
        which forgets what was touched."""
        changed, self.dirty = self.dirty, set()
        for name in self.touched:
            if name in self.router.agents:
                changed |= {f"desk.{name}", f"person.{name}"}
            elif (contact := self.find(name)) is not None:
                changed |= {f"call.{name}", f"flow.{contact.flow.flow_id}", f"queue.{contact.home}"}
                changed |= {f"supervisor.{user}" for user in contact.attended}
        if self.touched or "floor" in changed:
            changed |= {"floor", "strip", "lines"}
        return changed

    def new_day(self, now_ms: int) -> None:
        """Figures of "today" begin at the centre's midnight."""
        zone = ZoneInfo(self.setup.time_zone)
        today = datetime.fromtimestamp(now_ms / 1000, zone)
        midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
        self.day_begins_ms = round(midnight.timestamp() * 1000)
        self.day_ends_ms = round((midnight + timedelta(days=1)).timestamp() * 1000)
        self.figures.begin_day(self.day_begins_ms)
        self.acquaintances.forget(now_ms)
        self.touched |= self.router.handled.keys()
        self.router.handled.clear()
        self.floor.begin_day(self.day_begins_ms)
        self.dirty |= {"floor", "strip"}

    # Faults

    def surviving(self, contact: str, what: str, now_ms: int) -> Surviving:
        """Let a fault of our own end one contact, not the centre; refusals pass.

        Args:
            what: what is done then, in words for the log.
        """
        return Surviving(self, contact, what, now_ms)

    def about(self, identity: str) -> str:
        """The contact that a timer or command is about: its own, or the one in an agent's hand."""
        name = identity.partition(" ")[0]
        agent = self.router.agents.get(name)
        return agent.contact if agent is not None else name

    def find(self, contact: str) -> Contact | None:
        """A contact under way, or over a short while ago."""
        return self.contacts.get(contact) or self.over.get(contact)

    def add(self, contact: Contact) -> None:
        """A contact is under way."""
        self.count += 1
        contact.ordinal = self.count
        self.contacts[contact.id] = contact
        self.touched.add(contact.id)

    def stand_in(self, agent: str, on: bool) -> None:
        """Whether an agent's work is done by a stand-in from now on."""
        (self.stood_in.add if on else self.stood_in.discard)(agent)
        self.touched.add(agent)

    # The flows of contacts

    def start(self, contact: Contact, now_ms: int, flows: int = 0, rush: int = 0) -> None:
        """Let a contact begin in its flow. See `Machine.start` for `flows` and `rush`."""
        values = {**contact.values, **contact.state.values}
        machine = contact.flow.machine.asking(self.environment(contact.id))
        with self.surviving(contact.id, "the beginning of a flow", now_ms):
            contact.state, effects = machine.start(now_ms, values, flows, rush=rush)
            if flows:
                self.went_on(contact, now_ms)
            self.perform(contact, effects, now_ms)

    def begin(self, contact: Contact, now_ms: int) -> None:
        """Run a contact from its arrival on."""
        self.add(contact)
        self.arrived(contact, now_ms)
        self.start(contact, now_ms)

    def feed(self, contact: Contact, event: runner.Event, now_ms: int) -> None:
        """Let something happen to a contact in its flow."""
        machine = contact.flow.machine.asking(self.environment(contact.id))
        try:
            contact.state, effects = machine.resume(contact.state, event, now_ms)
            self.perform(contact, effects, now_ms)
        except EventRefused:
            raise
        except Exception as error:  # noqa: BLE001  as in `surviving`, on the hottest path
            self.broke(contact.id, f"in a flow, {type(event).__name__}", error, now_ms)

    def perform(self, contact: Contact, effects: tuple[runner.Effect, ...], now_ms: int) -> None:
        """Carry out what a flow wants, in its order, and look after what is due next."""
        self.touched.add(contact.id)
        self.timers.set(contact.state.due_ms, "contact", contact.id)
        state = contact.state
        for wanted in effects:
            if contact.state is not state:
                # An effect led on at once (a queue that is gone): the rest is overtaken.
                return
            registry.effect[type(wanted)](self, contact, wanted, now_ms)

    def go_on(self, contact: Contact, flow: RunnableFlow, now_ms: int) -> None:
        """Let a contact go on in another flow, with its values."""
        self.dirty.add(f"flow.{contact.flow.flow_id}")
        contact.goes_on_in(flow)
        rush = runner.rushed(contact.state, now_ms)
        self.start(contact, now_ms, contact.state.flows + 1, rush)

    def arrived(self, contact: Contact, now_ms: int) -> None:
        """Write down that a contact is there, and in which flow it begins."""
        flow, asked = contact.flow, contact.consultation
        fact = facts.Arrived(
            contact.number,
            contact.caller,
            flow.flow_id,
            flow.flow_name,
            flow.number,
            flow.version_id,
            contact.trial,
            contact.values,
            flow.ad_hoc_definition(),
            flow.blocks,
            contact.begun,
            contact.placed_by,
            *(asked[:3] if asked else ()),
        )
        self.emit(fact, now_ms, contact=contact.id)

    def went_on(self, contact: Contact, now_ms: int) -> None:
        """Write down in which flow a contact is now."""
        flow = contact.flow
        fact = facts.WentOn(
            flow.flow_id, flow.flow_name, flow.number, flow.version_id, flow.blocks, flow.ad_hoc_definition()
        )
        self.emit(fact, now_ms, contact=contact.id)

    def close(self, contact: Contact) -> None:
        """A contact is under way no more; it can still be looked at for a while."""
        contact.playing = None
        self.contacts.pop(contact.id, None)
        self.over[contact.id] = contact
        self.timers.drop(contact.id)
        while len(self.over) > KEPT_OVER:
            self.forget(next(iter(self.over)))

    def forget(self, contact: str) -> None:
        """A contact that is over is known no more."""
        self.over.pop(contact, None)
        self.timers.drop(contact)
        self.touched.add(contact)

    def hang_up(self, contact: Contact, now_ms: int) -> None:
        """Whoever called, or was called back, hangs up."""
        self.leave_queue(contact, "hung_up", now_ms)
        if contact.state.phase != "ended":
            self.feed(contact, runner.HungUp(), now_ms)

    # The router

    def route(self, event: e.Event, now_ms: int) -> None:
        """Tell the router of something, and carry out what it decides.

        Raises:
            EventRefused: it does not fit.
        """
        self.carry_out(self.router.apply(event, now_ms), now_ms)

    def carry_out(self, decisions: list[e.Decision], now_ms: int) -> None:
        """Carry out what the router has decided, in its order."""
        for decided in decisions:
            about = "" if isinstance(decided, e.AgentChanged) else decided.contact
            if about:
                self.touched.add(about)
            if not isinstance(decided, e.LeftQueue):
                self.touched.add(decided.agent)
            try:
                registry.decision[type(decided)](self, decided, now_ms)
            except EventRefused:
                raise
            except Exception as error:  # noqa: BLE001  as in `surviving`, on the hottest path
                self.broke(about, f"the decision {type(decided).__name__}", error, now_ms)

    def leave_queue(self, contact: Contact, why: str, now_ms: int) -> None:
        """Out of the router's hands, if it is in them."""
        if contact.id in self.router.contacts:
            self.route(e.Leave(contact.id, why), now_ms)

    def watch_wait(self, contact: Contact) -> None:
        """Look after what is next due for a contact in a queue."""
        waiting = self.router.contacts.get(contact.id)
        if waiting is not None:
            self.timers.set(self.router.due_ms(waiting, self.now_ms), "wait", contact.id)

    def tell(self, occasion: Occasion, *about: Any) -> None:
        """Let whom it concerns know; the last of `about` is the moment."""
        registry.on[occasion](self, *about)

    # Configuration and time

    def configure(self, setup: Setup, now_ms: int) -> None:
        """Run on another setup from now on; contacts under way keep the versions of their flows."""
        self.setup = setup
        self.plans |= offer_plans(setup)
        self.unheard = {box.id: box.new for box in setup.mailboxes.values()}
        decisions = self.router.configure(
            setup.queue_rules(),
            setup.members(),
            setup.handling,
            now_ms,
            {agent.id: agent.skills for agent in setup.agents.values()},
            setup.handling_of,
        )
        for contact in list(self.contacts.values()):
            self.watch_wait(contact)
        self.carry_out(decisions, now_ms)
        for notice in setup.notices:
            self.timers.set(notice.until_ms, "notice", notice.id)
        for diversion in setup.diversions:
            for moment in (diversion.rule.begins, diversion.rule.until):
                if moment is not None and moment.timestamp() * 1000 > now_ms:
                    at_ms = round(moment.timestamp() * 1000)
                    self.timers.set(at_ms, "diversion", diversion.rule.id)
        self.dirty |= {f"desk.{agent}" for agent in (*self.router.agents, *setup.agents)}
        self.dirty |= {"floor", "strip"}

    def at_revision(self, revision: int) -> None:
        """Something was changed that no contact depends on."""
        self.setup = replace(self.setup, revision=max(self.setup.revision, revision))

    def looked_at(self, invalid_in_force: tuple[Invalid, ...]) -> None:
        """Which versions in force could not be published any more."""
        self.setup = replace(self.setup, invalid_in_force=invalid_in_force)
        self.dirty.add("strip")

    def messages(self, unheard: dict[str, int]) -> None:
        """How many messages nobody has heard yet, by mailbox; none where it is not named."""
        self.unheard = {box: unheard.get(box, 0) for box in self.setup.mailboxes}
        self.dirty.add("strip")

    def advance(self, now_ms: int) -> None:
        """Let everything happen that is due by now."""
        self.now_ms = now_ms
        if now_ms >= self.day_ends_ms:
            self.new_day(now_ms)
        while (due := self.timers.pop(now_ms)) is not None:
            kind, identity = due
            about = self.about(identity)
            try:
                registry.timer[kind](self, kind, identity, now_ms)
            except EventRefused:
                """What is refused by then is not due any more."""
            except Exception as error:  # noqa: BLE001  as in `surviving`, on the hottest path
                self.broke(about, f"the timer {kind}", error, now_ms)
        if self.keeps.shown and (self.setup.alerts or self.floor.alerts) and now_ms >= self._looks_ms:
            self._looks_ms = now_ms + LOOKS_MS
            with self.surviving("", "the alerts", now_ms):
                self.tell(Occasion.LOOK, now_ms)

    def next_due_ms(self) -> int:
        """When `advance` must be called at the latest."""
        return min(self.timers.next_ms(self.day_ends_ms), self.day_ends_ms)

    def command(self, kind: str, body: dict[str, Any], now_ms: int) -> dict[str, Any]:
        """Do what was asked, and answer.

        Raises:
            EventRefused: it cannot be done, said in words.
        """
        self.advance(now_ms)
        handler = registry.command.get(kind)
        if handler is None:
            raise EventRefused("unknown-command", f"The exchange knows no command {kind!r}.")
        about = str(body.get("contact") or "") or self.about(str(body.get("agent", "")))
        try:
            return handler(self, body, now_ms) or {}
        except EventRefused:
            raise
        except Exception as error:  # noqa: BLE001  as in `surviving`, on the hottest path
            self.broke(about, f"the command {kind}", error, now_ms)
        raise EventRefused("failed", "Something went wrong on our side; the contact was ended.")

    def looked_up(
        self, contact_id: str, row: dict[str, Any] | None, now_ms: int, *, failed: bool = False
    ) -> None:
        """The answer to a look-up; one that comes too late says nothing any more."""
        contact = self.contacts.get(contact_id)
        if contact is not None and contact.state.phase == "asking":
            contact.looks_up = None
            self.feed(contact, runner.Looked(row, failed), now_ms)


#: What a site remembers of events besides figures, by the kind of fact.
_RECALLS: dict[type, tuple[Callable[[Site, Happening, Any], None], ...]] = {
    facts.NotReached: (Site.recall_unreached,),
    facts.RingsPerson: (Site.recall_turn,),
    facts.AgentChanged: (Site.recall_state,),
    facts.Emergency: (Site.recall_alarm,),
    facts.EmergencyTaken: (Site.recall_alarm,),
}
