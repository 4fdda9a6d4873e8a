"""What other apps may ask of queues."""

from __future__ import annotations

from typing import NamedTuple

from django.db.models import Count

from callcore.flow.world import QueueFacts
from changelog.errors import Use
from numbers_app.numbering import Held
from queues.models import Queue


class QueueSettings(NamedTuple):
    """A queue as the exchange runs it. Times in seconds as they are set."""

    id: str
    name: str
    finished: bool
    colour: str
    members: tuple[str, ...]
    priority: int
    longest_wait_s: int | None
    threshold_s: int
    goal_percent: int
    short_abandon_s: int
    formula: str
    code_set: str
    note: str
    plan: str = ""


def facts() -> dict[str, QueueFacts]:
    """Every queue as a flow sees it, by reference."""
    rows = Queue.objects.annotate(size=Count("members")).values_list(
        "pk", "name", "finished", "size", "longest_wait_s", "plan"
    )
    return {
        f"queue:{pk}": QueueFacts(*facts, f"flow:{plan}" if plan else "")
        for pk, *facts, plan in rows
    }


def settings() -> list[QueueSettings]:
    """Every queue in full."""
    return [
        QueueSettings(
            str(q.pk), q.name, q.finished, q.colour,
            tuple(str(agent.pk) for agent in q.members.all()), q.priority,
            q.longest_wait_s, q.threshold_s, q.goal_percent, q.short_abandon_s, q.formula,
            str(q.code_set_id or ""), q.note, str(q.plan_id or ""),
        )
        for q in Queue.objects.prefetch_related("members")
    ]  # fmt: skip


def extensions() -> list[Held]:
    """The extensions of queues."""
    rows = Queue.objects.exclude(extension="").values_list("extension", "pk", "name")
    return [Held(extension, "queue", str(pk), name) for extension, pk, name in rows]


def queues_of_agent(agent_id: str) -> list[Use]:
    """The queues that an agent is a member of."""
    found = Queue.objects.filter(members=agent_id)
    return [Use("queue", str(q.pk), q.name, "member of the queue") for q in found]


def queues_with_set(set_id: str) -> list[Use]:
    """The queues that use a code set."""
    found = Queue.objects.filter(code_set=set_id)
    return [Use("queue", str(q.pk), q.name, "queue") for q in found]


def queues_with_plan(flow_id: str) -> list[Use]:
    """The queues whose callers wait by a waiting plan."""
    found = Queue.objects.filter(plan=flow_id)
    return [Use("queue", str(q.pk), q.name, "waiting plan of the queue") for q in found]


def search(text: str) -> list[Use]:
    """Queues whose name holds a text."""
    found = Queue.objects.filter(name__icontains=text)[:5]
    return [Use("queue", str(q.pk), q.name, "queue") for q in found]
