"""The router: who gets which contact.

`apply(event, now)` changes the plain data it keeps and returns its decisions,
in the order in which they became true. The same events give the same
decisions: every tie is broken by the order of arrival.

Who may take a contact, and who of them is chosen, stands in `callcore.routing.choosing`.
Idle agents stand in an insertion-ordered dict for each queue, so the first is
the one who has been idle longest; a waiting contact keeps its place in its
queue's dict while it rings, so the caller loses nothing by a missed ring.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import (
    NO_SKILLS,
    Agent,
    Waiting,
    choose,
    considered,
    effective,
    next_change_ms,
    ruled_out,
)
from callcore.routing.events import Decision, HandlingRule, QueueRule, Status

__all__ = ["DIRECT", "Agent", "Router", "Waiting"]

#: The line of a contact that rings one person begins with this.
DIRECT = "agent:"
DIRECT_PRIORITY = 99


class Router:
    """Queues and agents of one site.

    Args:
        explain: keep with each ring who was considered and what ruled them out.
    """

    def __init__(self, *, explain: bool = False) -> None:
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
        self._members: dict[str, tuple[str, ...]] = {}
        #: Contacts that wait with a priority of their own, by queue.
        self._own_priority: dict[str, set[str]] = {}
        self._explain = explain
        self._sequence = 0
        self._handlers: dict[type, Callable[[Any, int], list[Decision]]] = {
            e.SignIn: self._sign_in,
            e.SignOut: self._sign_out,
            e.GoAvailable: self._go_available,
            e.GoAway: self._go_away,
            e.Join: self._join,
            e.NotReached: self._not_reached,
            e.Leave: self._leave,
            e.Answer: self._answer,
            e.Decline: self._decline,
            e.EndContact: self._end_contact,
            e.FinishWrapUp: self._finish_wrap_up,
            e.AgentDue: self._agent_due,
            e.ContactDue: self._contact_due,
        }

    def configure(
        self,
        queues: Iterable[QueueRule],
        members: Mapping[str, Iterable[str]],
        handling: HandlingRule,
        now_ms: int,
        skills: Mapping[str, Mapping[str, int]] | None = None,
        handling_of: Mapping[str, HandlingRule] | None = None,
    ) -> list[Decision]:
        """Take a new configuration; what goes on goes on.

        Args:
            members: agents by queue id, in the order of the queue's list.
            skills: levels by agent and skill.
            handling_of: rules of agents who have their own.

        Contacts of a queue that is gone leave it with the reason `queue_gone`;
        an agent who is gone is signed out once their contact is over. New
        members are offered what waits; who waits for nobody may have to leave.
        """
        self._rules = {rule.id: rule for rule in queues}
        self._rules |= {
            contact.queue: self.direct_rules[contact.queue]
            for contact in self.contacts.values()
            if contact.queue in self.direct_rules
        }
        self.direct_rules = {q: r for q, r in self.direct_rules.items() if q in self._rules}
        self._handling, self._handling_of = handling, handling_of or {}
        self._members = {q: tuple(members.get(q, ())) for q in self._rules}
        self._members |= {q: self._direct_members[q] for q in self.direct_rules}
        self._take_members(skills or {})
        self._waiting = {q: self._waiting.get(q, {}) for q in self._rules}
        decisions: list[Decision] = []
        for contact in list(self.contacts.values()):
            if contact.queue not in self._rules and not contact.connected:
                decisions += self._leave(e.Leave(contact.id, "queue_gone"), now_ms)
        self._rebuild_idle()
        for waiting in self._waiting.values():
            for contact in list(waiting.values()):
                if not contact.agent:
                    decisions += self._offer(contact, now_ms)
        return [*decisions, *self._let_go(self._rules, now_ms)]

    def _take_members(self, skills: Mapping[str, Mapping[str, int]]) -> None:
        """Which queues each agent serves, those that widen to them included."""
        serves: dict[str, dict[str, bool]] = {}
        for queue, agents in self._members.items():
            for member in agents:
                serves.setdefault(member, {})[queue] = queue not in self.direct_rules
            for step in self._rules[queue].widening:
                for extra in step.agents:
                    serves.setdefault(extra, {}).setdefault(queue, False)
        for agent_id in serves:
            self.agents.setdefault(agent_id, Agent(agent_id))
        for agent in self.agents.values():
            lines = serves.get(agent.id, {})
            agent.lines = tuple(lines)
            agent.queues = tuple(queue for queue, member in lines.items() if member)
            agent.skills = skills.get(agent.id, NO_SKILLS)

    def _rule_of(self, agent: Agent) -> HandlingRule:
        return self._handling_of.get(agent.id, self._handling)

    def apply(self, event: e.Event, now_ms: int) -> list[Decision]:
        """What `event` leads to.

        Raises:
            EventRefused: the event does not fit (no such agent, nothing rings …).
        """
        return self._handlers[type(event)](event, now_ms)

    def restore_agent(self, state: e.AgentChanged) -> None:
        """Take up an agent's state from the journal, before any event is fed."""
        agent = self.agents.setdefault(state.agent, Agent(state.agent))
        agent.status, agent.reason = state.status, state.reason
        agent.since_ms, agent.due_ms = state.since_ms, state.due_ms
        agent.contact, agent.queue = state.contact, state.queue
        self._rebuild_idle()

    def restore_connected(self, contact: str, queue: str, agent: str, entered_ms: int) -> None:
        """Take up a contact that is with an agent, before any event is fed."""
        self._sequence += 1
        self.contacts[contact] = Waiting(
            contact, queue, entered_ms, self._sequence, agent=agent, connected=True
        )

    def ring_directly(
        self, contact: str, agents: tuple[str, ...], longest_ms: int, now_ms: int
    ) -> list[Decision] | None:
        """Ring agents for a contact, all at once, in a line of its own; None where none is free.

        The contact leaves it as `waited_out` after `longest_ms`, as out of any queue.
        """
        known = [self.agents[a] for a in agents if a in self.agents]
        free = [agent for agent in known if agent.status is Status.AVAILABLE]
        if not free:
            return None
        line = DIRECT + (agents[0] if len(agents) == 1 else contact)
        self.direct_rules[line] = self._rules[line] = QueueRule(
            line, DIRECT_PRIORITY, longest_ms, chooses="all"
        )
        self._members[line] = self._direct_members[line] = agents
        self._waiting.setdefault(line, {})
        idle = self._idle.setdefault(line, {})
        for agent in known:
            if line not in agent.lines:
                agent.lines = (*agent.lines, line)
        for agent in free:
            idle[agent.id] = agent
        return self._join(e.Join(contact, line, now_ms), now_ms)

    def waiting(self, queue: str) -> list[Waiting]:
        """The contacts that wait in a queue, in their order, ringing ones included."""
        waiting = list(self._waiting.get(queue, {}).values())
        if not self._own_priority.get(queue):
            return waiting
        return sorted(waiting, key=lambda contact: self._rank(contact, contact.entered_ms))

    # Agents

    def _agent(self, agent_id: str) -> Agent:
        agent = self.agents.get(agent_id)
        if agent is None or agent.status is Status.OUT:
            raise EventRefused("not-signed-in", "You are not signed in to take contacts.")
        return agent

    def _sign_in(self, event: e.SignIn, now_ms: int) -> list[Decision]:
        agent = self.agents.setdefault(event.agent, Agent(event.agent))
        if agent.status is not Status.OUT:
            return []
        return [self._set(agent, Status.AWAY, now_ms, reason="Just signed in")]

    def _sign_out(self, event: e.SignOut, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is Status.ON_CONTACT:
            raise EventRefused("on-contact", "End the contact before you sign out.")
        return self._step_away(agent, Status.OUT, "", now_ms)

    def _go_available(self, event: e.GoAvailable, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is Status.ON_CONTACT:
            agent.next_status = None
            return []
        if agent.status in (Status.AVAILABLE, Status.RINGING):
            return []
        if agent.status is Status.WRAPPING:
            return self._finish_wrap_up(e.FinishWrapUp(agent.id, ""), now_ms)
        return self._free(agent, now_ms)

    def _go_away(self, event: e.GoAway, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status in (Status.ON_CONTACT, Status.WRAPPING):
            agent.next_status = (Status.AWAY, event.reason)
            return []
        return self._step_away(agent, Status.AWAY, event.reason, now_ms)

    def _step_away(self, agent: Agent, status: Status, reason: str, now_ms: int) -> list[Decision]:
        """Leave the line; a contact that rings goes to the next, a wrap-up ends uncoded."""
        decisions: list[Decision] = []
        ringing = self.contacts.get(agent.contact) if agent.status is Status.RINGING else None
        if agent.status is Status.WRAPPING:
            decisions.append(e.Coded(agent.contact, agent.queue, agent.id, ""))
        if ringing is not None:
            decisions.append(self._stop_ring(ringing, agent, "declined"))
        decisions.append(self._set(agent, status, now_ms, reason=reason))
        if ringing is not None and not ringing.agent:
            decisions += self._offer(ringing, now_ms)
        if status is Status.OUT:
            decisions += self._let_go(agent.lines, now_ms)
        return decisions

    def _deserted(self, queue: str) -> bool:
        """Whether a queue that keeps nobody waiting in vain has nobody who may come."""
        if self._rules[queue].keeps:
            return False
        return all(a.status is Status.OUT or queue not in a.lines for a in self.agents.values())

    def _let_go(self, queues: Iterable[str], now_ms: int) -> list[Decision]:
        """Callers leave the queues that nobody serves any more, where their rule says so."""
        decisions: list[Decision] = []
        for queue in filter(self._deserted, queues):
            for contact in list(self._waiting[queue].values()):
                if not contact.callback:
                    decisions += self._leave(e.Leave(contact.id, "nobody_there"), now_ms)
        return decisions

    def _free(self, agent: Agent, now_ms: int) -> list[Decision]:
        """The agent can take a contact: the one who waits first in line gets them."""
        wanted, agent.next_status = agent.next_status, None
        if wanted is not None:
            return [self._set(agent, wanted[0], now_ms, reason=wanted[1])]
        changed = self._set(agent, Status.AVAILABLE, now_ms)
        contact = self._best_contact(agent, now_ms)
        if contact is None:
            return [changed]
        return [changed, *self._ring(contact, agent, "longest_wait", now_ms)]

    def _best_contact(self, agent: Agent, now_ms: int) -> Waiting | None:
        best: Waiting | None = None
        best_key: tuple[float, int, int] | None = None
        for queue in agent.lines:
            rule = self._rules[queue]
            for contact in self._waiting[queue].values():
                if contact.connected or (contact.agent and rule.chooses != "all"):
                    continue
                if ruled_out(agent, contact, rule, now_ms):
                    continue
                key = self._rank(contact, now_ms)
                if best_key is None or key < best_key:
                    best, best_key = contact, key
                # In order of entry the first is the best, unless some have a priority of their own.
                if not self._own_priority.get(queue):
                    break
        return best

    def _rank(self, contact: Waiting, now_ms: int) -> tuple[float, int, int]:
        priority = effective(contact, self._rules[contact.queue], now_ms)
        return (-priority, contact.entered_ms, contact.sequence)

    # Contacts

    def _contact(self, contact_id: str) -> Waiting:
        contact = self.contacts.get(contact_id)
        if contact is None:
            raise EventRefused("not-in-queue", "This contact is not in a queue.")
        return contact

    def _join(self, event: e.Join, now_ms: int) -> list[Decision]:
        if event.queue not in self._rules:
            return [e.LeftQueue(event.contact, event.queue, event.entered_ms, "queue_gone")]
        if not event.callback and self._deserted(event.queue):
            return [e.LeftQueue(event.contact, event.queue, event.entered_ms, "nobody_there")]
        self._sequence += 1
        contact = Waiting(event.contact, event.queue, event.entered_ms, self._sequence)
        contact.priority, contact.callback = event.priority, event.callback
        contact.asks, contact.preferred = event.asks, event.preferred
        if event.priority is not None:
            self._own_priority.setdefault(event.queue, set()).add(event.contact)
        self.contacts[contact.id] = contact
        line = self._waiting[contact.queue]
        earlier = line and contact.entered_ms < next(reversed(line.values())).entered_ms
        line[contact.id] = contact
        if earlier:
            # A place that was kept: the line stays in order of entry.
            ordered = sorted(line.values(), key=lambda w: (w.entered_ms, w.sequence))
            self._waiting[contact.queue] = {w.id: w for w in ordered}
        return self._offer(contact, now_ms)

    def due_ms(self, contact: Waiting, now_ms: int) -> int | None:
        """When `ContactDue` must be fed for a waiting contact: it leaves, or its queue widens."""
        rule = self._rules.get(contact.queue)
        if rule is None or contact.connected:
            return None
        changes = next_change_ms(contact, rule, now_ms)
        leaves = self._leaves_ms(contact)
        return min((at for at in (changes, leaves) if at is not None), default=None)

    def _leaves_ms(self, contact: Waiting) -> int | None:
        longest_ms = self._rules[contact.queue].longest_wait_ms
        if longest_ms is None or contact.callback:
            return None
        return contact.entered_ms + longest_ms

    def _offer(self, contact: Waiting, now_ms: int) -> list[Decision]:
        """Ring whom the queue's rule takes, not the last one tried if there is another."""
        rule = self._rules[contact.queue]
        idle = self._idle[contact.queue].values()
        eligible = [agent for agent in idle if not ruled_out(agent, contact, rule, now_ms)]
        if not eligible:
            return []
        if rule.chooses == "all":
            decisions: list[Decision] = []
            for agent in eligible:
                decisions += self._ring(contact, agent, "all", now_ms)
            return decisions
        others = [agent for agent in eligible if agent.id != contact.last_tried]
        members = self._members[contact.queue]
        last = self._last_chosen.get(contact.queue, "")
        chosen = choose(others or eligible, contact, rule, self.handled, members, last)
        return self._ring(contact, chosen, rule.chooses, now_ms)

    def _ring(self, contact: Waiting, agent: Agent, rule: str, now_ms: int) -> list[Decision]:
        considered = self._considered(contact, agent, now_ms) if self._explain else ()
        contact.ringing = (*contact.ringing, agent.id)
        contact.agent = contact.ringing[0]
        contact.last_tried = self._last_chosen[contact.queue] = agent.id
        until_ms = now_ms + self._rule_of(agent).ring_ms
        changed = self._set(
            agent, Status.RINGING, now_ms, contact=contact.id, queue=contact.queue, due_ms=until_ms
        )
        ring = e.Ring(contact.id, contact.queue, agent.id, until_ms, rule, considered)
        return [ring, changed]

    def _considered(self, contact: Waiting, chosen: Agent, now_ms: int) -> tuple[e.Considered, ...]:
        rule = self._rules[contact.queue]
        extras = (a for step in rule.widening for a in step.agents)
        names = dict.fromkeys((*self._members[contact.queue], *extras))
        return tuple(
            e.Considered(name, considered(self.agents[name], chosen, contact, rule, now_ms))
            for name in names
        )

    def _leave(self, event: e.Leave, now_ms: int) -> list[Decision]:
        contact = self._contact(event.contact)
        del self.contacts[contact.id]
        self._out_of_line(contact)
        if contact.connected:
            return self._end_leg(contact, self.agents[contact.agent], "caller", now_ms)
        left = e.LeftQueue(contact.id, contact.queue, contact.entered_ms, event.why)
        ringing = [self.agents[agent] for agent in contact.ringing]
        stopped = [self._stop_ring(contact, agent, "caller_left") for agent in ringing]
        decisions = [*stopped, left]
        for agent in ringing:
            decisions += self._free(agent, now_ms)
        return decisions

    def _out_of_line(self, contact: Waiting) -> None:
        """The contact waits no more; a line that was its own goes with it."""
        self._waiting.get(contact.queue, {}).pop(contact.id, None)
        self._own_priority.get(contact.queue, set()).discard(contact.id)
        line = contact.queue
        if line in self.direct_rules and not self._waiting.get(line):
            del self.direct_rules[line], self._rules[line], self._members[line]
            del self._direct_members[line]
            self._waiting.pop(line, None)
            self._idle.pop(line, None)
            for agent in self.agents.values():
                if line in agent.lines:
                    agent.lines = tuple(other for other in agent.lines if other != line)

    def _not_reached(self, event: e.NotReached, now_ms: int) -> list[Decision]:
        contact = self._contact(event.contact)
        if not contact.connected:
            raise EventRefused("not-connected", "Nobody has taken this callback.")
        del self.contacts[contact.id]
        return self._free(self.agents[contact.agent], now_ms)

    @staticmethod
    def _stop_ring(contact: Waiting, agent: Agent, why: str) -> Decision:
        contact.ringing = tuple(other for other in contact.ringing if other != agent.id)
        contact.agent = contact.ringing[0] if contact.ringing else ""
        return e.RingStopped(contact.id, contact.queue, agent.id, why)

    # Legs

    def _answer(self, event: e.Answer, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is not Status.RINGING:
            raise EventRefused("nothing-rings", "Nothing is ringing any more.")
        contact = self.contacts[agent.contact]
        others = [self.agents[other] for other in contact.ringing if other != agent.id]
        decisions = [self._stop_ring(contact, other, "other") for other in others]
        contact.connected, contact.agent, contact.ringing = True, agent.id, ()
        self._out_of_line(contact)
        self.handled[agent.id] = self.handled.get(agent.id, 0) + 1
        decisions.append(e.Connected(contact.id, contact.queue, agent.id, contact.entered_ms))
        decisions.append(
            self._set(agent, Status.ON_CONTACT, now_ms, contact=contact.id, queue=contact.queue)
        )
        for other in others:
            decisions += self._free(other, now_ms)
        return decisions

    def _decline(self, event: e.Decline, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is not Status.RINGING:
            raise EventRefused("nothing-rings", "Nothing is ringing any more.")
        return self._not_answered(agent, "declined", now_ms)

    def _not_answered(self, agent: Agent, why: str, now_ms: int) -> list[Decision]:
        """The agent goes to the end of the idle line, the contact to the next agent."""
        contact = self.contacts[agent.contact]
        stopped = self._stop_ring(contact, agent, why)
        away = self._rule_of(agent).missed_away if why == "missed" else ""
        if away:
            changed = self._set(agent, Status.AWAY, now_ms, reason=away)
        else:
            changed = self._set(agent, Status.AVAILABLE, now_ms)
        decisions = [stopped, changed]
        if not contact.agent:
            decisions += self._offer(contact, now_ms)
        if agent.status is Status.AVAILABLE:
            other = self._best_contact(agent, now_ms)
            if other is not None and other is not contact:
                decisions += self._ring(other, agent, "longest_wait", now_ms)
        return decisions

    def _end_contact(self, event: e.EndContact, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is not Status.ON_CONTACT:
            raise EventRefused("no-contact", "You have no contact to end.")
        contact = self.contacts.pop(agent.contact)
        return self._end_leg(contact, agent, "agent", now_ms)

    def _end_leg(self, contact: Waiting, agent: Agent, by: str, now_ms: int) -> list[Decision]:
        ended = e.LegEnded(contact.id, contact.queue, agent.id, by)
        rule = self._rule_of(agent)
        if rule.wrap_up == "none":
            return [ended, *self._free(agent, now_ms)]
        changed = self._set(
            agent,
            Status.WRAPPING,
            now_ms,
            contact=contact.id,
            queue=contact.queue,
            due_ms=now_ms + rule.longest_wrap_ms,
        )
        return [ended, changed]

    def _finish_wrap_up(self, event: e.FinishWrapUp, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is not Status.WRAPPING:
            raise EventRefused("not-wrapping-up", "There is nothing to wrap up any more.")
        if self._rule_of(agent).wrap_up == "required" and not event.code:
            raise EventRefused("code-required", "Choose a wrap-up code first.")
        return self._wrapped(agent, event.code, now_ms)

    def _wrapped(self, agent: Agent, code: str, now_ms: int) -> list[Decision]:
        coded = e.Coded(agent.contact, agent.queue, agent.id, code)
        return [coded, *self._free(agent, now_ms)]

    # Time

    def _agent_due(self, event: e.AgentDue, now_ms: int) -> list[Decision]:
        agent = self.agents.get(event.agent)
        if agent is None or agent.due_ms is None or now_ms < agent.due_ms:
            return []
        if agent.status is Status.RINGING:
            return self._not_answered(agent, "missed", now_ms)
        return self._wrapped(agent, "", now_ms)

    def _contact_due(self, event: e.ContactDue, now_ms: int) -> list[Decision]:
        contact = self.contacts.get(event.contact)
        if contact is None or contact.connected:
            return []
        leaves_ms = self._leaves_ms(contact)
        if leaves_ms is not None and now_ms >= leaves_ms:
            return self._leave(e.Leave(event.contact, "waited_out"), now_ms)
        return [] if contact.agent else self._offer(contact, now_ms)

    # Bookkeeping

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
        agent.status, agent.reason, agent.since_ms = status, reason, now_ms
        agent.contact, agent.queue, agent.due_ms = contact, queue, due_ms
        if status is Status.OUT:
            agent.next_status = None
        if status is Status.AVAILABLE:
            for line in agent.lines:
                self._idle[line][agent.id] = agent
        return e.AgentChanged(agent.id, status, reason, contact, queue, now_ms, due_ms)

    def _rebuild_idle(self) -> None:
        self._idle = {queue: {} for queue in self._rules}
        idle = [a for a in self.agents.values() if a.status is Status.AVAILABLE]
        for agent in sorted(idle, key=lambda a: a.since_ms):
            for queue in agent.lines:
                self._idle[queue][agent.id] = agent
