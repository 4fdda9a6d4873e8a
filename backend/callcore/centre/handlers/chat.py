"""The chat between an agent and their supervisors, kept with the agent's day."""

from __future__ import annotations

from typing import Any

from callcore.centre.handlers.supervision import reached
from callcore.centre.registry import command
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.events import facts

Body = dict[str, Any]
#: So long a line may be, in characters.
MOST_WORDS = 500


def _words(body: Body) -> str:
    words = str(body["text"]).strip()
    if not words:
        raise EventRefused("not-now", "Write something first.")
    if len(words) > MOST_WORDS:
        raise EventRefused("not-now", f"A line has {MOST_WORDS} characters at most.")
    return words


@command("supervise.say")
def supervisor_says(site: Site, body: Body, now_ms: int) -> None:
    """A supervisor writes to an agent."""
    agent = reached(site, body, str(body["agent"]))
    fact = facts.Said(str(body["user"]), str(body["by"]), _words(body))
    site.emit(fact, now_ms, agent=agent.id)


@command("agent.say")
def agent_says(site: Site, body: Body, now_ms: int) -> None:
    """An agent writes to whoever supervises them."""
    known, agent = site.setup.agents.get(body["agent"]), site.router.agents.get(body["agent"])
    if known is None or agent is None or not site.router.signed_in(agent.id):
        raise EventRefused("not-signed-in", "Start work first.")
    site.emit(facts.Said("", known.name, _words(body)), now_ms, agent=agent.id)
