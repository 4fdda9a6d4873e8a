"""What the router keeps of queues, agents and contacts, and the looks into it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import (
    NO_SKILLS,
    Agent,
    Waiting,
    effective,
    next_change_ms,
    open_to_all,
    ruled_out,
)
from callcore.routing.events import Decision, HandlingRule, QueueRule, Status

DIRECT_PRIORITY = 99
#: States in which an agent takes nothing, whatever comes.
_NOT_AT_WORK = (Status.OUT, Status.AWAY)
#: Answers to so many questions of who could come are kept.
_MOST_KEPT = 1_000
#: What is an agent's own, and not the configuration's.
_OF_AGENT = (
    "status",
    "reason",
    "since_ms",
    "contact",
    "queue",
    "due_ms",
    "next_status",
    "others",
    "to_wrap",
    "idle_rank",
    "room_rank",
    "extra",
)


def _tupled(value: Any) -> Any:
    """JSON's lists as the tuples that they were."""
    return tuple(map(_tupled, value)) if isinstance(value, list | tuple) else value


def _waiting_of(state: dict[str, Any]) -> Waiting:
    known = {name: _tupled(state[name]) for name in Waiting.__slots__ if name in state}
    return Waiting(**{**known, "passed": frozenset(state.get("passed", ()))})


class _Staff(NamedTuple):
    """Agents who are signed in, and how many of them are not away."""

    signed_in: tuple[Agent, ...]
    at_work: int


class RoutingState:
    """Plain data of one site; `callcore.routing.router` says what happens to it.

    Idle agents stand in an insertion-ordered dict for each queue, so the first is the one who has
    been idle longest; agents who write and have room for one more text stand in another.
    """

    def __init__(self, *, explain: bool) -> None:
        self.agents: dict[str, Agent] = {}
        self.contacts: dict[str, Waiting] = {}
        self._rules: dict[str, QueueRule] = {}
        #: Lines of one agent each, for contacts that are put through to a person.
        self.direct_rules: dict[str, QueueRule] = {}
        self._direct_members: dict[str, tuple[str, ...]] = {}
        self._handling = HandlingRule()
        self._handling_of: Mapping[str, HandlingRule] = {}
        #: Contacts answered today, by agent; the driver empties it at midnight.
        self.handled: dict[str, int] = {}
        self._last_chosen: dict[str, str] = {}
        self._waiting: dict[str, dict[str, Waiting]] = {}
        self._idle: dict[str, dict[str, Agent]] = {}
        self._room: dict[str, dict[str, Agent]] = {}
        self._members: dict[str, tuple[str, ...]] = {}
        #: The agents whose lines hold a queue, by queue: `Agent.lines` the other way round.
        self._reached: dict[str, dict[str, Agent]] = {}
        self._skills: Mapping[str, Mapping[str, int]] = {}
        #: Who is signed in and could take a contact at last, by queue and skills asked for: kept until
        #: somebody comes or goes, since each contact that joins a queue asks for it.
        self._could: dict[tuple[str, tuple[tuple[str, int], ...]], _Staff] = {}
        #: Contacts that wait with a priority of their own, by queue.
        self._own_priority: dict[str, set[str]] = {}
        self._explain = explain
        self._sequence = 0
        #: How often an agent became available, or had room: ties are broken by it.
        self._ranks = 0

    def _take_members(self) -> None:
        """Which queues each agent serves, those that widen to them, and those that a supervisor
        asked them into, included."""
        serves: dict[str, dict[str, bool]] = {}
        for queue, agents in self._members.items():
            for member in agents:
                serves.setdefault(member, {})[queue] = queue not in self.direct_rules
            for step in self._rules[queue].widening:
                for extra in step.agents:
                    serves.setdefault(extra, {}).setdefault(queue, False)
        for agent_id in serves:
            self.agents.setdefault(agent_id, Agent(agent_id))
        self._reached = {}
        for agent in self.agents.values():
            lines = serves.get(agent.id, {})
            agent.extra = tuple(q for q in agent.extra if q in self._rules and not lines.get(q))
            lines = {**lines, **dict.fromkeys(agent.extra, True)} if agent.extra else lines
            agent.lines = self._in_order(lines)
            for queue in agent.lines:
                self._reached.setdefault(queue, {})[agent.id] = agent
            agent.queues = tuple(queue for queue, member in lines.items() if member)
            agent.skills = self._skills.get(agent.id, NO_SKILLS)

    def _in_order(self, lines: Iterable[str]) -> tuple[str, ...]:
        """Queues as they come, then lines of one contact or person by name: the same whenever each of
        them was opened, before a restart or after it."""
        known = tuple(lines)
        direct = sorted(line for line in known if line in self.direct_rules)
        return (*(line for line in known if line not in self.direct_rules), *direct)

    def _rule_of(self, agent: Agent) -> HandlingRule:
        return self._handling_of.get(agent.id, self._handling)

    def restore_agent(self, state: e.AgentChanged) -> None:
        """Take up an agent's state from the journal, before any event is fed."""
        agent = self.agents.setdefault(state.agent, Agent(state.agent))
        agent.status, agent.reason = state.status, state.reason
        agent.since_ms, agent.due_ms = state.since_ms, state.due_ms
        agent.contact, agent.queue, agent.others = state.contact, state.queue, state.others
        agent.next_status, agent.to_wrap = state.next, state.to_wrap
        if state.handled:
            self.handled[agent.id] = state.handled
        self._rebuild_idle()

    def restore_connected(
        self, contact: str, queue: str, agent: str, entered_ms: int, *, text: bool, inner: bool
    ) -> None:
        """Take up a contact that is with an agent, before any event is fed."""
        self._sequence += 1
        self.contacts[contact] = Waiting(
            contact, queue, entered_ms, self._sequence, agent=agent, connected=True, text=text, inner=inner
        )
        self._index(self.agents[agent])

    # Taking up

    def agent_data(self, agent: Agent) -> dict[str, Any]:
        """An agent's state as JSON; lines, skills and room come from the configuration."""
        data = {name: getattr(agent, name) for name in _OF_AGENT}
        return {**data, "handled": self.handled.get(agent.id, 0)}

    def waiting_data(self, contact: Waiting) -> dict[str, Any]:
        """A contact's place as JSON, with its line where that is its own."""
        data = {name: getattr(contact, name) for name in Waiting.__slots__}
        data["passed"] = sorted(contact.passed)
        rule = self.direct_rules.get(contact.queue)
        if rule is not None:
            members = self._direct_members[contact.queue]
            data["own_line"] = {"longest_ms": rule.longest_wait_ms, "members": members}
        return data

    def own_data(self) -> dict[str, Any]:
        """What it keeps besides agents and contacts, as JSON."""
        return {"sequence": self._sequence, "ranks": self._ranks, "last_chosen": self._last_chosen}

    def take_up(
        self,
        agents: Mapping[str, dict[str, Any]],
        contacts: Mapping[str, dict[str, Any]],
        own: dict[str, Any],
    ) -> None:
        """Take up what `agent_data`, `waiting_data` and `own_data` gave, before any event is fed.
        What the configuration says counts as it is now."""
        for name, state in agents.items():
            self._take_up_agent(self.agents.setdefault(name, Agent(name)), state)
        if any(agent.extra for agent in self.agents.values()):
            self._take_members()
        taken = [_waiting_of(state) for state in contacts.values()]
        for contact in sorted(taken, key=lambda waiting: waiting.sequence):
            line = contacts[contact.id].get("own_line")
            if line is not None:
                self._open_line(contact.queue, tuple(line["members"]), line["longest_ms"])
            self.contacts[contact.id] = contact
            if contact.priority is not None and not contact.connected:
                self._own_priority.setdefault(contact.queue, set()).add(contact.id)
        self._sequence = own.get("sequence", 0)
        self._ranks = own.get("ranks", 0)
        self._last_chosen = dict(own.get("last_chosen", {}))
        waits = [c for c in self.contacts.values() if not c.connected]
        for contact in sorted(waits, key=lambda c: (c.entered_ms, c.sequence)):
            self._waiting.setdefault(contact.queue, {})[contact.id] = contact
        self._rebuild_idle()

    def _take_up_agent(self, agent: Agent, state: dict[str, Any]) -> None:
        for name in _OF_AGENT:
            if name in state:
                setattr(agent, name, _tupled(state[name]))
        agent.status = Status(agent.status)
        if agent.next_status is not None:
            agent.next_status = (Status(agent.next_status[0]), agent.next_status[1])
        if state["handled"]:
            self.handled[agent.id] = state["handled"]

    def _open_line(self, line: str, agents: tuple[str, ...], longest_ms: int | None) -> None:
        """A line of one contact, or one person's own."""
        self.direct_rules[line] = self._rules[line] = QueueRule(
            line, DIRECT_PRIORITY, longest_ms, distribution="all"
        )
        self._members[line] = self._direct_members[line] = agents
        self._waiting.setdefault(line, {})
        self._idle.setdefault(line, {})
        for name in agents:
            agent = self.agents.get(name)
            if agent is not None and line not in agent.lines:
                agent.lines = self._in_order((*agent.lines, line))
                self._reached.setdefault(line, {})[name] = agent

    def waiting(self, queue: str) -> list[Waiting]:
        """The contacts that wait in a queue, in their order, ringing ones included."""
        waiting = list(self._waiting.get(queue, {}).values())
        if not self._own_priority.get(queue):
            return waiting
        return sorted(waiting, key=lambda contact: self._rank(contact, contact.entered_ms))

    def _agent(self, agent_id: str) -> Agent:
        agent = self.agents.get(agent_id)
        if agent is None or agent.status is Status.OUT:
            raise EventRefused("not-signed-in", "You are not signed in to take contacts.")
        return agent

    def _deserted(self, queue: str, asks: tuple[tuple[str, int], ...]) -> bool:
        """Whether a queue that keeps nobody waiting in vain has nobody who may come."""
        return not self._rules[queue].keeps and not self._could_come(queue, asks).signed_in

    def _could_come(self, queue: str, asks: tuple[tuple[str, int], ...]) -> _Staff:
        """The agents signed in who could take a contact of a queue at last: by skill and other
        teams, as widened as it ever gets."""
        known = self._could.get((queue, asks))
        if known is None:
            if len(self._could) >= _MOST_KEPT:
                self._could.clear()
            signed_in = tuple(self._who_could_come(queue, asks))
            at_work = sum(agent.status is not Status.AWAY for agent in signed_in)
            known = self._could[queue, asks] = _Staff(signed_in, at_work)
        return known

    def _who_could_come(self, queue: str, asks: tuple[tuple[str, int], ...]) -> list[Agent]:
        rule = self._rules[queue]
        asked = Waiting("", queue, 0, 0, asks=asks)
        at_last_ms = max((step.after_ms for step in rule.widening), default=0)
        here = [a for a in self._reached.get(queue, {}).values() if a.status is not Status.OUT]
        if open_to_all(asked, rule):
            return here
        return [agent for agent in here if not ruled_out(agent, asked, rule, at_last_ms)]

    def signed_in(self, agent: str) -> bool:
        """Whether an agent is signed in, away or not."""
        known = self.agents.get(agent)
        return known is not None and known.status is not Status.OUT

    def signed_in_for(self, queue: str, asks: tuple[tuple[str, int], ...] = ()) -> tuple[Agent, ...]:
        """The agents signed in, away ones included, who could take a contact of a queue at last."""
        return self._could_come(queue, asks).signed_in if queue in self._rules else ()

    def at_work_for(self, queue: str, asks: tuple[tuple[str, int], ...] = ()) -> int:
        """How many of them are at work (not away)."""
        return self._could_come(queue, asks).at_work if queue in self._rules else 0

    def _best_contact(
        self, agent: Agent, now_ms: int, *, texts: bool = False, besides: Waiting | None = None
    ) -> Waiting | None:
        """Who waits first in line for an agent; with `texts`, among those who write."""
        best: Waiting | None = None
        best_key: tuple[float, int, int] | None = None
        for queue in agent.lines:
            rule = self._rules[queue]
            at_once = rule.distribution == "all" and not texts
            for contact in self._waiting[queue].values():
                if contact.connected or (contact.agent and not at_once) or contact is besides:
                    continue
                if (texts and not contact.text) or ruled_out(agent, contact, rule, now_ms):
                    continue
                key = self._rank(contact, now_ms)
                if best_key is None or key < best_key:
                    best, best_key = contact, key
                # In order of entry the first is the best, unless some have a priority of their own.
                if not self._own_priority.get(queue):
                    break
        return best

    def priority(self, contact: Waiting, now_ms: int) -> float:
        """The priority of a contact that waits, as it has grown by now."""
        return effective(contact, self._rules[contact.queue], now_ms)

    def _rank(self, contact: Waiting, now_ms: int) -> tuple[float, int, int]:
        priority = effective(contact, self._rules[contact.queue], now_ms)
        return (-priority, contact.entered_ms, contact.sequence)

    def _contact(self, contact_id: str) -> Waiting:
        contact = self.contacts.get(contact_id)
        if contact is None:
            raise EventRefused("not-in-queue", "This contact is not in a queue.")
        return contact

    def due_ms(self, contact: Waiting, now_ms: int) -> int | None:
        """When `ContactDue` must be fed for a waiting contact: it leaves, or its queue widens."""
        rule = self._rules.get(contact.queue)
        if rule is None or contact.connected:
            return None
        changes = next_change_ms(contact, rule, now_ms)
        leaves = self._leaves_ms(contact)
        if leaves is not None and leaves <= now_ms and self._rings_on(contact):
            # Whoever rings is left to answer: what comes of it decides when the contact leaves.
            leaves = None
        return min((at for at in (changes, leaves) if at is not None), default=None)

    def _rings_on(self, contact: Waiting) -> bool:
        """Whether agents of a queue ring for it, whom its longest wait does not cut off. In a line
        of its own the time is how long it rings."""
        return bool(contact.agent) and contact.queue not in self.direct_rules

    def _leaves_ms(self, contact: Waiting) -> int | None:
        longest_ms = contact.longest_ms or self._rules[contact.queue].longest_wait_ms
        if longest_ms is None or contact.callback:
            return None
        return contact.entered_ms + longest_ms

    def _out_of_line(self, contact: Waiting) -> None:
        """The contact waits no more; a line that was its own goes with it."""
        self._waiting.get(contact.queue, {}).pop(contact.id, None)
        line = contact.queue
        if line in self._own_priority:
            self._own_priority[line].discard(contact.id)
            if not self._own_priority[line]:
                # Each line of one's own would leave an empty set for ever.
                del self._own_priority[line]
        if line in self.direct_rules and not self._waiting.get(line):
            del self.direct_rules[line], self._rules[line], self._members[line]
            del self._direct_members[line]
            self._could.clear()
            self._waiting.pop(line, None)
            self._idle.pop(line, None)
            self._room.pop(line, None)
            for agent in self._reached.pop(line, {}).values():
                agent.lines = tuple(other for other in agent.lines if other != line)

    def _set(
        self,
        agent: Agent,
        status: Status,
        now_ms: int,
        *,
        reason: str = "",
        contact: str = "",
        queue: str = "",
        due_ms: int | None = None,
    ) -> Decision:
        """Give an agent a state, and keep the idle lines true to it."""
        if agent.status is Status.AVAILABLE:
            for line in agent.lines:
                self._idle[line].pop(agent.id, None)
        if agent.status in _NOT_AT_WORK or status in _NOT_AT_WORK:
            self._could.clear()
        agent.status, agent.reason, agent.since_ms = status, reason, now_ms
        agent.contact, agent.queue, agent.due_ms = contact, queue, due_ms
        if status is Status.OUT:
            agent.next_status = None
        if status is Status.AVAILABLE:
            agent.idle_rank = self._rank_next()
            for line in agent.lines:
                self._idle[line][agent.id] = agent
        self._index(agent)
        if status is Status.OUT and agent.extra:
            agent.extra = ()
            self._take_members()
        return self.told(agent)

    def told(self, agent: Agent) -> Decision:
        """An agent's state as it is."""
        return e.AgentChanged(
            agent.id,
            agent.status,
            agent.reason,
            agent.contact,
            agent.queue,
            agent.since_ms,
            agent.due_ms,
            agent.others,
            agent.next_status,
            self.handled.get(agent.id, 0),
            agent.to_wrap,
        )

    def _rank_next(self) -> int:
        self._ranks += 1
        return self._ranks

    def _index(self, agent: Agent) -> None:
        """Keep the lines of agents who have room for one more text true to an agent's state."""
        room = self._has_room(agent)
        if room == agent.room:
            return
        agent.room = room
        agent.room_rank = (agent.room_rank or self._rank_next()) if room else 0
        for line in agent.lines:
            if room:
                self._room.setdefault(line, {})[agent.id] = agent
            else:
                self._room.get(line, {}).pop(agent.id, None)

    def _has_room(self, agent: Agent) -> bool:
        """Whether an agent has texts in hand, and fewer of them than they may have."""
        if agent.status is not Status.ON_CONTACT or agent.next_status is not None:
            return False
        if 1 + len(agent.others) >= self._rule_of(agent).texts:
            return False
        held = (agent.contact, *(contact for contact, _ in agent.others))
        return all(name in self.contacts and self.contacts[name].text for name in held)

    def _rebuild_idle(self) -> None:
        self._room = {}
        self._could.clear()
        for agent in sorted(self.agents.values(), key=lambda a: a.room_rank):
            agent.room = False
            self._index(agent)
        self._idle = {queue: {} for queue in self._rules}
        idle = [a for a in self.agents.values() if a.status is Status.AVAILABLE]
        for agent in sorted(idle, key=lambda a: (a.since_ms, a.idle_rank)):
            for queue in agent.lines:
                self._idle[queue][agent.id] = agent
