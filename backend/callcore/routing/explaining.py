"""Why an agent is rung, as it can be said afterwards: who could have come, who could not, and what
decided. Of the largest queues the first are named, and the others counted."""

from __future__ import annotations

from collections import Counter

from callcore.routing.choosing import Agent, Compare, Waiting, comparing, considered
from callcore.routing.events import Considered, Explained
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
        known = [self.agents.get(name) or Agent(name) for name in self._asked(contact)]
        found = [(agent, considered(agent, chosen, contact, rule, now_ms)) for agent in known]
        able = [agent for agent, why in found if why in _COULD]
        compare = self._compare(contact)
        by_rule = by == rule.distribution
        if by_rule:
            able.sort(key=compare)
        able.sort(key=lambda agent: agent is not chosen)
        whys = {agent.id: why for agent, why in found}
        others = [agent for agent, why in found if why not in _COULD]
        named, rest = [*able, *others][:MOST_NAMED], [*able, *others][MOST_NAMED:]
        came_free = by == "longest_wait"
        return Explained(
            tuple(Considered(agent.id, whys[agent.id]) for agent in named),
            tuple((agent.id, compare(agent)) for agent in named if by_rule and whys[agent.id] in _COULD),
            tuple(sorted(Counter(whys[agent.id] for agent in rest).items())),
            self._waiting_for(chosen) if came_free else 0,
            self.priority(contact, now_ms) if came_free else 0.0,
        )

    def _asked(self, contact: Waiting) -> dict[str, None]:
        """Everybody whom a contact might reach, in the order of its queue's list."""
        rule = self._rules[contact.queue]
        extras = (agent for step in rule.widening for agent in step.agents)
        asked_in = (agent.id for agent in self.agents.values() if contact.queue in agent.extra)
        return dict.fromkeys((*self._members[contact.queue], *extras, *asked_in))

    def _waiting_for(self, agent: Agent) -> int:
        """How many wait in an agent's lines whom nobody is rung for."""
        lines = (self._waiting[line].values() for line in agent.lines)
        return sum(not contact.agent for line in lines for contact in line)
