"""What exists around every flow, by reference: for the editor, for trials, and for the exchange."""

from __future__ import annotations

from collections.abc import Mapping

from agents import groups
from agents import services as agent_services
from callcore.flow.catalogue import Catalogue, FlowFacts
from flows.rules import rules
from lookups import services as lookup_services
from mailboxes import services as mailbox_services
from opening_hours import services as hours_services
from queues import services as queue_services
from sounds import services as sound_services


def catalogue_of(flows: Mapping[str, FlowFacts]) -> Catalogue:
    """Everything that flows can refer to; `flows` are the flows themselves, by reference."""
    return Catalogue(
        queues=queue_services.facts(),
        sounds=sound_services.facts(),
        hours=hours_services.facts(),
        mailboxes=mailbox_services.facts(),
        flows=flows,
        tables=lookup_services.facts(),
        agents={f"agent:{a.id}": a.name for a in agent_services.agents().values()},
        groups=groups.facts(),
        silence_ends=rules().silence_ends,
        skills={f"skill:{pk}": name for pk, name in agent_services.skills().items()},
    )
