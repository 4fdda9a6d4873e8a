"""Whose a contact is to look at: a supervisor's, where it was in a queue that they supervise, or an
agent of their teams had it, or it came to neither."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from agents.services import agents, reached
from callcore.events import Happening, facts
from queues.policy import supervised
from web.errors import Refused


class Scope(NamedTuple):
    """Ids of the queues and agents whose contacts somebody may look at."""

    queues: frozenset[str]
    agents: frozenset[str]

    def holds(self, queues: Iterable[str], people: Iterable[str]) -> bool:
        """Whether a contact is within it that was in some queues, and with some agents."""
        queues, people = set(queues), set(people)
        nobodys = not queues and not people
        return nobodys or bool(self.queues & queues) or bool(self.agents & people)


def scope_of(user: Any) -> Scope | None:
    """Whose contacts a person may look at; None for all."""
    teams = reached(user)
    if teams is None:
        return None
    own = frozenset(agent.id for agent in agents().values() if agent.team_id in teams)
    return Scope(frozenset(supervised(user) or ()), own)


def must_see(user: Any, events: Iterable[Happening]) -> None:
    """Let pass whoever may look at a contact, by what was written of it.

    Raises:
        Refused: `not-yours` (403), in words.
    """
    scope = scope_of(user)
    if scope is None:
        return
    queues, people = set(), set()
    for event in events:
        if isinstance(event.fact, facts.Queued | facts.Answered) and event.fact.queue:
            queues.add(event.fact.queue)
        if isinstance(event.fact, facts.Answered):
            people.add(event.agent)
    if not scope.holds(queues, people):
        words = "This contact was in no queue that you supervise, and with no agent of your teams."
        raise Refused("not-yours", words, status=403)
