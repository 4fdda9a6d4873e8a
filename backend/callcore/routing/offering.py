"""Whom a contact is offered to: who is rung for it, and who gets one more text beside their own."""

from __future__ import annotations

from callcore.routing import events as e
from callcore.routing.choosing import Agent, Waiting, choose, open_to_all, ruled_out
from callcore.routing.events import Decision, Status
from callcore.routing.explaining import Explaining


class Offering(Explaining):
    """What the router does with a contact and those who may take it."""

    def _fill(self, agent: Agent, now_ms: int) -> list[Decision]:
        """Give an agent who writes as many of the waiting texts as they may have at once."""
        decisions: list[Decision] = []
        while agent.room:
            contact = self._best_contact(agent, now_ms, texts=True)
            if contact is None:
                break
            decisions += self._give(contact, agent, now_ms)
        return decisions

    def _give(self, contact: Waiting, agent: Agent, now_ms: int) -> list[Decision]:
        """One more text for an agent who writes already: nothing rings."""
        why = self._explained(contact, agent, "room", now_ms) if self._explain else e.UNEXPLAINED
        ring = e.Ring(contact.id, contact.queue, agent.id, now_ms, "room", why)
        self._last_chosen[contact.queue] = agent.id
        agent.others = (*agent.others, (contact.id, contact.queue))
        connected = self._connect(contact, agent)
        self._index(agent)
        return [ring, connected, self.told(agent)]

    def _connect(self, contact: Waiting, agent: Agent) -> Decision:
        contact.connected, contact.agent, contact.ringing = True, agent.id, ()
        self._out_of_line(contact)
        if not contact.inner:
            self.handled[agent.id] = self.handled.get(agent.id, 0) + 1
        return e.Connected(contact.id, contact.queue, agent.id, contact.entered_ms)

    def _offer(self, contact: Waiting, now_ms: int) -> list[Decision]:
        """Ring whom the queue's rule takes, not the last one tried if there is another."""
        rule = self._rules[contact.queue]
        eligible = list(self._idle[contact.queue].values())
        if not open_to_all(contact, rule):
            eligible = [agent for agent in eligible if not ruled_out(agent, contact, rule, now_ms)]
        if not eligible:
            return self._offer_beside(contact, now_ms) if contact.text else []
        if rule.distribution == "all":
            decisions: list[Decision] = []
            for agent in eligible:
                decisions += self._ring(contact, agent, "all", now_ms)
            return decisions
        tried = contact.last_tried
        others = [agent for agent in eligible if agent.id != tried] if tried else eligible
        chosen = choose(others or eligible, rule, self._compare(contact))
        return self._ring(contact, chosen, rule.distribution, now_ms)

    def _offer_beside(self, contact: Waiting, now_ms: int) -> list[Decision]:
        """Give a text to whoever of those with room has the fewest."""
        rule = self._rules[contact.queue]
        room = self._room.get(contact.queue, {}).values()
        able = [agent for agent in room if not ruled_out(agent, contact, rule, now_ms)]
        if not able:
            return []
        return self._give(contact, min(able, key=lambda agent: len(agent.others)), now_ms)

    def _ring(self, contact: Waiting, agent: Agent, rule: str, now_ms: int) -> list[Decision]:
        why = self._explained(contact, agent, rule, now_ms) if self._explain else e.UNEXPLAINED
        contact.ringing = (*contact.ringing, agent.id)
        contact.agent = contact.ringing[0]
        contact.last_tried = self._last_chosen[contact.queue] = agent.id
        own_ms = self._leaves_ms(contact) if contact.queue in self.direct_rules else None
        until_ms = own_ms or now_ms + self._rule_of(agent).ring_ms
        changed = self._set(
            agent, Status.RINGING, now_ms, contact=contact.id, queue=contact.queue, due_ms=until_ms
        )
        ring = e.Ring(contact.id, contact.queue, agent.id, until_ms, rule, why)
        return [ring, changed]
