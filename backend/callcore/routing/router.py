"""The router: who gets which contact.

`apply(event, now)` changes the plain data it keeps and returns its decisions,
in the order in which they became true. The same events give the same
decisions: every tie is broken by the order of arrival.

Who may take a contact, and who of them is chosen, stands in `callcore.routing.choosing`, whom it is
offered to in `callcore.routing.offering`.
A waiting contact keeps its place in its queue's dict while it rings, so the caller
loses nothing by a missed ring. An agent may have several texts at once: one of them is in hand
(`Agent.contact`), the others wait beside it and come into the hand when it is wrapped up.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import Agent, Waiting
from callcore.routing.events import Decision, HandlingRule, QueueRule, Status
from callcore.routing.offering import Offering

__all__ = ["DIRECT", "Agent", "Router", "Waiting"]

#: The line of a contact that rings one person begins with this.
DIRECT = "agent:"


class Router(Offering):
    """Queues and agents of one site.

    Args:
        explain: keep with each ring who was considered and what ruled them out.
    """

    def __init__(self, *, explain: bool = False) -> None:
        super().__init__(explain=explain)
        self._handlers: dict[type, Callable[[Any, int], list[Decision]]] = {
            e.SignIn: self._sign_in,
            e.SignOut: self._sign_out,
            e.GoAvailable: self._go_available,
            e.StayOn: self._stay_on,
            e.GoAway: self._go_away,
            e.Serve: self._serve,
            e.Rank: self._rank_anew,
            e.Join: self._join,
            e.NotReached: self._not_reached,
            e.Leave: self._leave,
            e.Answer: self._answer,
            e.Decline: self._decline,
            e.EndContact: self._end_contact,
            e.TakeOver: self._take_over,
            e.Begin: self._begin,
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
        self._skills = skills or {}
        self._take_members()
        self._waiting = {q: self._waiting.get(q, {}) for q in self._rules}
        self._rebuild_idle()
        decisions: list[Decision] = []
        for contact in list(self.contacts.values()):
            if contact.queue not in self._rules and not contact.connected:
                decisions += self._leave(e.Leave(contact.id, "queue_gone"), now_ms)
        # Over all queues by who comes first, as an agent who frees up would take them.
        waiting = [c for line in self._waiting.values() for c in line.values() if not c.agent]
        for contact in sorted(waiting, key=lambda c: self._rank(c, now_ms)):
            decisions += self._offer(contact, now_ms)
        return [*decisions, *self._let_go(self._rules, now_ms)]

    def apply(self, event: e.Event, now_ms: int) -> list[Decision]:
        """What `event` leads to.

        Raises:
            EventRefused: the event does not fit (no such agent, nothing rings …).
        """
        return self._handlers[type(event)](event, now_ms)

    def ring_directly(
        self,
        contact: str,
        agents: tuple[str, ...],
        longest_ms: int,
        now_ms: int,
        *,
        text: bool = False,
        inner: bool = False,
    ) -> list[Decision] | None:
        """Ring agents for a contact, all at once, in a line of its own; None where none is free.

        They ring for `longest_ms`; the contact leaves it as `waited_out` after that, as out of any
        queue, or as `passed_on` once all of them let it pass: nobody is rung for it twice.
        """
        known = [self.agents[a] for a in agents if a in self.agents]
        free = [agent for agent in known if agent.status is Status.AVAILABLE]
        if not free:
            return None
        line = DIRECT + (agents[0] if len(agents) == 1 else contact)
        self._open_line(line, agents, longest_ms)
        for agent in free:
            self._idle[line][agent.id] = agent
        return self._join(e.Join(contact, line, now_ms, text=text, inner=inner), now_ms)

    def ring_anew(self, now_ms: int) -> list[Decision]:
        """After a standstill: what rang until a moment that is past rings once more."""
        rings = [a for a in self.agents.values() if a.status is Status.RINGING]
        decisions: list[Decision] = []
        for agent in rings:
            if agent.due_ms is not None and agent.due_ms <= now_ms:
                agent.due_ms = now_ms + self._rule_of(agent).ring_ms
                decisions.append(self.told(agent))
        return decisions

    # Agents

    def _sign_in(self, event: e.SignIn, now_ms: int) -> list[Decision]:
        agent = self.agents.setdefault(event.agent, Agent(event.agent))
        if agent.status is not Status.OUT:
            return []
        return [self._set(agent, Status.AWAY, now_ms, reason="Just signed in")]

    def _sign_out(self, event: e.SignOut, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        busy = agent.status in (Status.ON_CONTACT, Status.WRAPPING) or bool(agent.others)
        if event.after and busy:
            return self._afterwards(agent, Status.OUT, event.reason)
        if agent.status is Status.ON_CONTACT or agent.others:
            raise EventRefused("on-contact", "End your contacts before you sign out.")
        return self._step_away(agent, Status.OUT, event.reason, now_ms)

    def _go_available(self, event: e.GoAvailable, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is Status.ON_CONTACT:
            return self._stay_on(e.StayOn(agent.id), now_ms)
        if agent.status in (Status.AVAILABLE, Status.RINGING):
            return []
        if agent.status is Status.WRAPPING:
            return self._finish_wrap_up(e.FinishWrapUp(agent.id, ""), now_ms)
        return self._free(agent, now_ms)

    def _stay_on(self, event: e.StayOn, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        agent.next_status = None
        self._index(agent)
        return [self.told(agent), *self._fill(agent, now_ms)]

    def _go_away(self, event: e.GoAway, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status in (Status.ON_CONTACT, Status.WRAPPING):
            return self._afterwards(agent, Status.AWAY, event.reason)
        return self._step_away(agent, Status.AWAY, event.reason, now_ms, event.why)

    def _afterwards(self, agent: Agent, status: Status, reason: str) -> list[Decision]:
        """What comes once the contacts in hand, and their wrap-up, are over."""
        agent.next_status = (status, reason)
        self._index(agent)
        return [self.told(agent)]

    def _serve(self, event: e.Serve, now_ms: int) -> list[Decision]:
        """Take part in other queues; who waits there may ring at once, or wait for nobody."""
        agent = self._agent(event.agent)
        unknown = [queue for queue in event.queues if queue not in self._rules]
        if unknown:
            raise EventRefused("no-such-target", "There is no such queue (any more).")
        left = set(agent.extra) - set(event.queues)
        agent.extra = tuple(dict.fromkeys(event.queues))
        self._take_members()
        self._rebuild_idle()
        decisions = [self.told(agent), *self._let_go(sorted(left - set(agent.lines)), now_ms)]
        if agent.status is not Status.AVAILABLE:
            return decisions + self._fill(agent, now_ms)
        contact = self._best_contact(agent, now_ms)
        return decisions + (self._ring(contact, agent, "longest_wait", now_ms) if contact is not None else [])

    def _rank_anew(self, event: e.Rank, _now_ms: int) -> list[Decision]:
        contact = self._contact(event.contact)
        if contact.connected:
            raise EventRefused("not-now", "An agent has this contact by now.")
        contact.priority = event.priority
        self._own_priority.setdefault(contact.queue, set()).add(contact.id)
        return []

    def _step_away(
        self, agent: Agent, status: Status, reason: str, now_ms: int, why: str = "declined"
    ) -> list[Decision]:
        """Leave the line; a contact that rings goes to the next, a wrap-up ends uncoded."""
        decisions: list[Decision] = []
        ringing = self.contacts.get(agent.contact) if agent.status is Status.RINGING else None
        if agent.status is Status.WRAPPING:
            left = ((agent.contact, agent.queue), *agent.to_wrap)
            decisions += [e.Coded(contact, queue, agent.id, "") for contact, queue in left]
            agent.to_wrap = ()
        if ringing is not None:
            decisions.append(self._stop_ring(ringing, agent, why))
        decisions.append(self._set(agent, status, now_ms, reason=reason))
        if ringing is not None:
            decisions += self._rings_no_more(ringing, now_ms)
        if status is Status.OUT:
            decisions += self._let_go(agent.lines, now_ms)
        return decisions

    def _let_go(self, queues: Iterable[str], now_ms: int) -> list[Decision]:
        """Callers leave the queues that nobody serves any more, where their rule says so."""
        decisions: list[Decision] = []
        for queue in queues:
            for contact in list(self._waiting[queue].values()):
                if not contact.callback and self._deserted(queue, contact.asks):
                    decisions += self._leave(e.Leave(contact.id, "nobody_there"), now_ms)
        return decisions

    def _free(self, agent: Agent, now_ms: int) -> list[Decision]:
        """The agent wraps up what ended meanwhile, goes on with their other texts, or gets who
        waits first in line."""
        if agent.to_wrap:
            (ended, queue), agent.to_wrap = agent.to_wrap[0], agent.to_wrap[1:]
            return [self._wrap_up(agent, ended, queue, now_ms)]
        if agent.others:
            (other, queue), agent.others = agent.others[0], agent.others[1:]
            changed = self._set(agent, Status.ON_CONTACT, now_ms, contact=other, queue=queue)
            return [changed, *self._fill(agent, now_ms)]
        wanted, agent.next_status = agent.next_status, None
        if wanted is not None:
            lines = agent.lines if wanted[0] is Status.OUT else ()
            changed = self._set(agent, wanted[0], now_ms, reason=wanted[1])
            return [changed, *self._let_go(lines, now_ms)]
        changed = self._set(agent, Status.AVAILABLE, now_ms)
        contact = self._best_contact(agent, now_ms)
        if contact is None:
            return [changed]
        return [changed, *self._ring(contact, agent, "longest_wait", now_ms)]

    # Contacts

    def _join(self, event: e.Join, now_ms: int) -> list[Decision]:
        if event.queue not in self._rules:
            return [e.LeftQueue(event.contact, event.queue, event.entered_ms, "queue_gone")]
        if not event.callback and self._deserted(event.queue, event.asks):
            return [e.LeftQueue(event.contact, event.queue, event.entered_ms, "nobody_there")]
        self._sequence += 1
        contact = Waiting(event.contact, event.queue, event.entered_ms, self._sequence)
        contact.priority, contact.callback = event.priority, event.callback
        contact.asks, contact.preferred = event.asks, event.preferred
        contact.text, contact.inner = event.text, event.inner
        contact.longest_ms = event.longest_ms
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

    def _leave(self, event: e.Leave, now_ms: int) -> list[Decision]:
        contact = self._contact(event.contact)
        direct = contact.queue in self.direct_rules
        del self.contacts[contact.id]
        self._out_of_line(contact)
        if contact.connected:
            return self._end_leg(contact, self.agents[contact.agent], "caller", now_ms)
        left = e.LeftQueue(contact.id, contact.queue, contact.entered_ms, event.why)
        ringing = [self.agents[agent] for agent in contact.ringing]
        why = "missed" if direct and event.why == "waited_out" else "caller_left"
        stopped = [self._stop_ring(contact, agent, why) for agent in ringing]
        decisions = [*stopped, left]
        for agent in ringing:
            decisions += self._free(agent, now_ms)
        return decisions

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
        decisions.append(self._connect(contact, agent))
        decisions.append(self._set(agent, Status.ON_CONTACT, now_ms, contact=contact.id, queue=contact.queue))
        for other in others:
            decisions += self._free(other, now_ms)
        return decisions + self._fill(agent, now_ms)

    def _decline(self, event: e.Decline, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is not Status.RINGING:
            raise EventRefused("nothing-rings", "Nothing is ringing any more.")
        return self._not_answered(agent, "declined", now_ms)

    def _not_answered(self, agent: Agent, why: str, now_ms: int) -> list[Decision]:
        """The agent goes to the end of the idle line, the contact to the next agent."""
        contact = self.contacts[agent.contact]
        stopped = self._stop_ring(contact, agent, why)
        if contact.queue in self.direct_rules:
            contact.passed |= {agent.id}
        # Whoever knows the caller and lets them pass does not keep the others from them.
        contact.preferred = tuple(known for known in contact.preferred if known != agent.id)
        away = self._rule_of(agent).missed_away if why == "missed" else ""
        if away:
            changed = self._set(agent, Status.AWAY, now_ms, reason=away)
        else:
            changed = self._set(agent, Status.AVAILABLE, now_ms)
        decisions = [stopped, changed, *self._rings_no_more(contact, now_ms)]
        if agent.status is Status.AVAILABLE:
            # The contact may ring others still: whoever let it pass takes what else waits.
            other = self._best_contact(agent, now_ms, besides=contact)
            if other is not None:
                decisions += self._ring(other, agent, "longest_wait", now_ms)
        return decisions

    def _rings_no_more(self, contact: Waiting, now_ms: int) -> list[Decision]:
        """The last one who rang let it pass: the next agent, or out if its time is over by now."""
        if contact.agent:
            return []
        leaves_ms = self._leaves_ms(contact)
        if leaves_ms is not None and now_ms >= leaves_ms:
            return self._leave(e.Leave(contact.id, "waited_out"), now_ms)
        decisions = self._offer(contact, now_ms)
        if not contact.agent and contact.queue in self.direct_rules:
            return [*decisions, *self._leave(e.Leave(contact.id, "passed_on"), now_ms)]
        return decisions

    def _end_contact(self, event: e.EndContact, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        contact = self.contacts.get(event.contact or agent.contact)
        if contact is None or not contact.connected or contact.agent != agent.id:
            raise EventRefused("no-contact", "You have no contact to end.")
        if agent.status is Status.WRAPPING and event.by == "agent":
            raise EventRefused("wrapping-up", "Finish the wrap-up first.")
        del self.contacts[contact.id]
        return self._end_leg(contact, agent, event.by, now_ms)

    def _take_over(self, event: e.TakeOver, now_ms: int) -> list[Decision]:
        whole, side = self._contact(event.contact), self._contact(event.side)
        if not (whole.connected and side.connected):
            raise EventRefused("not-connected", "Nobody has answered yet.")
        giver, taker = self.agents[whole.agent], self.agents[side.agent]
        del self.contacts[side.id]
        decisions: list[Decision] = [e.LegEnded(side.id, side.queue, taker.id, "joined")]
        decisions += self._end_leg(whole, giver, "transferred", now_ms)
        whole.agent, whole.inner = taker.id, False
        taker.contact, taker.queue = whole.id, whole.queue
        self.handled[taker.id] = self.handled.get(taker.id, 0) + 1
        return [*decisions, e.TookOver(whole.id, whole.queue, taker.id), self.told(taker)]

    def _begin(self, event: e.Begin, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is not Status.ON_CONTACT:
            raise EventRefused("no-contact", "You have no contact to go on with.")
        self._sequence += 1
        self.contacts[event.contact] = Waiting(
            event.contact, event.queue, now_ms, self._sequence, agent=agent.id, connected=True, text=True
        )
        agent.others = (*agent.others, (event.contact, event.queue))
        return [self.told(agent)]

    def _end_leg(self, contact: Waiting, agent: Agent, by: str, now_ms: int) -> list[Decision]:
        """The agent's part is over: it comes into their hand to be wrapped up, if they are free."""
        ended = e.LegEnded(contact.id, contact.queue, agent.id, by)
        if contact.id != agent.contact:
            agent.others = tuple(other for other in agent.others if other[0] != contact.id)
            if agent.status is Status.WRAPPING:
                agent.to_wrap = (*agent.to_wrap, (contact.id, contact.queue))
                return [ended, self.told(agent)]
            agent.others = ((agent.contact, agent.queue), *agent.others)
        rule = self._rule_of(agent)
        if contact.inner or rule.wrap_up == "none":
            return [ended, *self._free(agent, now_ms)]
        return [ended, self._wrap_up(agent, contact.id, contact.queue, now_ms)]

    def _wrap_up(self, agent: Agent, contact: str, queue: str, now_ms: int) -> Decision:
        longest_ms = self._rule_of(agent).longest_wrap_ms
        due_ms = now_ms + longest_ms if longest_ms else None
        return self._set(agent, Status.WRAPPING, now_ms, contact=contact, queue=queue, due_ms=due_ms)

    def _finish_wrap_up(self, event: e.FinishWrapUp, now_ms: int) -> list[Decision]:
        agent = self._agent(event.agent)
        if agent.status is not Status.WRAPPING:
            raise EventRefused("not-wrapping-up", "There is nothing to wrap up any more.")
        if self._rule_of(agent).wrap_up == "required" and not (event.code or event.late):
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
        over = leaves_ms is not None and now_ms >= leaves_ms
        if over and not self._rings_on(contact):
            return self._leave(e.Leave(event.contact, "waited_out"), now_ms)
        return [] if contact.agent else self._offer(contact, now_ms)
