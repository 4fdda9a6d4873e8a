"""What numbers, queues and diversions ask of flows, which stand above and say who answers."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import NamedTuple

from callcore.flow.definition import Input


class FlowChoice(NamedTuple):
    """A flow as a number sees it: its channel, and every input that it takes."""

    name: str
    channel: str
    inputs: tuple[Input, ...]
    purpose: str = "flow"

    def unfit(self, channel: str) -> str:
        """Why it cannot answer contacts of a channel, in words; empty where it can."""
        if self.purpose != "flow":
            return f"“{self.name}” is a shared block or a waiting plan: it answers no number."
        if self.channel != channel:
            kind = {"voice": "calls", "text": "text messages"}[self.channel]
            return f"{self.name} answers {kind} only."
        return ""


class Flows(NamedTuple):
    """Who knows the flows: those that exist, by id, and the names of them."""

    choices: Callable[[Iterable[str]], dict[str, FlowChoice]]
    names: Callable[[Iterable[str]], dict[str, str]]


_flows: Flows | None = None


def known_by(flows: Flows) -> None:
    """Let whoever knows the flows say so, once."""
    global _flows
    _flows = flows


def flow_choices(identities: Iterable[str]) -> dict[str, FlowChoice]:
    """Those of the flows that exist, by id, as a number sees them."""
    return _flows.choices(identities) if _flows else {}


def flow_names(identities: Iterable[str]) -> dict[str, str]:
    """The names of flows, by id."""
    return _flows.names(identities) if _flows else {}
