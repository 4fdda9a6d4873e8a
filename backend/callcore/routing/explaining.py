"""Why an agent is rung, as it can be said afterwards: who could have come, who could not, and what
decided. Of the largest queues the first are named, and the others counted."""

from __future__ import annotations

from collections import Counter

from callcore.routing.choosing import Agent, Compare, Waiting, comparing, considered, ruled_out
from callcore.routing.events import Considered, Explained, Status
from callcore.routing.state import RoutingState

#: So many agents are named with a ring: each is written with every contact.
MOST_NAMED = 40
_COULD = ("chosen", "eligible")


class Explaining(RoutingState):
    """Explanations of one site's router."""

    def _compare(self, contact: Waiting) -> Compare:
        """What the rule of a contact's queue compares now."""
        queue = contact.queue
        last = self._last_chosen.get(queue, "")
        return comparing(contact, self._rules[queue], self.handled, self._members[queue], last)

    def _explained(self, contact: Waiting, chosen: Agent, by: str, now_ms: int) -> Explained:
        """Why `chosen` is rung by a rule, looked at before anything is changed."""
        rule = self._rules[contact.queue]
        found = [(a, considered(a, chosen, contact, rule, now_ms)) for a in self._asked(contact)]
        able = [agent for agent, why in found if why in _COULD]
        compare = self._compare(contact)
        by_rule = by == rule.distribution
        if by_rule:
            able.sort(key=compare)
        able.sort(key=lambda agent: agent is not chosen)
        whys = {agent.id: why for agent, why in found}
        others = [agent for agent, why in found if why not in _COULD]
        named, unnamed = _first([Considered(agent.id, whys[agent.id]) for agent in (*able, *others)])
        weighed = [(agent.id, compare(agent)) for agent in able[:MOST_NAMED]] if by_rule else ()
        came_free = by == "longest_wait"
        return Explained(
            named,
            tuple(weighed),
            unnamed,
            self._waiting_for(chosen) if came_free else 0,
            self.priority(contact, now_ms) if came_free else 0.0,
        )

    def why_waits(self, contact_id: str, now_ms: int) -> Explained:
        """How everybody stands whom a waiting contact might reach. Whoever could not take it is told
        by that, whatever they do; the others by their state; those who are signed out are counted.

        Raises:
            EventRefused: it does not wait.
        """
        contact = self._contact(contact_id)
        rule, asked = self._rules[contact.queue], self._asked(contact)
        here = [agent for agent in asked if agent.status is not Status.OUT]
        whys = {agent.id: ruled_out(agent, contact, rule, now_ms) or str(agent.status) for agent in here}
        named, unnamed = _first([Considered(agent, why) for agent, why in whys.items()])
        out = len(asked) - len(here)
        return Explained(considered=named, unnamed=(*unnamed, (str(Status.OUT), out)) if out else unnamed)

    def _asked(self, contact: Waiting) -> list[Agent]:
        """Everybody whom a contact might reach, in the order of its queue's list."""
        rule = self._rules[contact.queue]
        extras = (agent for step in rule.widening for agent in step.agents)
        asked_in = (agent.id for agent in self.agents.values() if contact.queue in agent.extra)
        names = dict.fromkeys((*self._members[contact.queue], *extras, *asked_in))
        return [self.agents.get(name) or Agent(name) for name in names]

    def _waiting_for(self, agent: Agent) -> int:
        """How many wait in an agent's lines whom nobody is rung for."""
        lines = (self._waiting[line].values() for line in agent.lines)
        return sum(not contact.agent for line in lines for contact in line)


def _first(found: list[Considered]) -> tuple[tuple[Considered, ...], tuple[tuple[str, int], ...]]:
    """Those who are named, and how many of the others there are by what was made of them."""
    rest = Counter(one.why for one in found[MOST_NAMED:])
    return tuple(found[:MOST_NAMED]), tuple(sorted(rest.items()))
