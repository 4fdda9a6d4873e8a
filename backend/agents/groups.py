"""Ring groups: people and teams in an order, who are rung together or one after another."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from django.db.models import Q

from agents.models import Agent, RingGroup, Team
from agents.services import members_of_teams
from callcore.centre.facts import RingGroupSettings
from callcore.flow.catalogue import GroupFacts
from changelog import config_store
from changelog.reading import Unreadable, readable
from phone_numbers.numbering import Held
from web.errors import Use


def settings(left_out: list[Unreadable] | None = None) -> list[RingGroupSettings]:
    """Every ring group; those that cannot be read are named."""
    rows = list(RingGroup.objects.all())
    teams = any(member.startswith("team:") for row in rows for member in row.members)
    of_team = members_of_teams() if teams else {}
    return readable(rows, lambda group: _settings(group, of_team), left_out)


def _settings(group: RingGroup, of_team: Mapping[str, tuple[str, ...]]) -> RingGroupSettings:
    return RingGroupSettings(
        str(group.pk),
        group.name,
        people_of(group.members, of_team),
        group.way,
        group.ring_s,
        group.when_busy,
        f"mailbox:{group.mailbox_id}" if group.mailbox_id else "",
        group.language,
    )


def people_of(members: Iterable[str], of_team: Mapping[str, tuple[str, ...]]) -> tuple[str, ...]:
    """Agents' ids in the order of a group's members, each once; a team's by name."""
    found: dict[str, None] = {}
    for member in members:
        kind, _, identity = member.partition(":")
        found |= dict.fromkeys(of_team.get(identity, ()) if kind == "team" else (identity,))
    return tuple(found)


def facts() -> dict[str, GroupFacts]:
    """Ring groups as flows see them, by reference."""
    return {
        f"group:{g.id}": GroupFacts(g.name, len(g.people), g.ring_s * max(1, len(g.rule().rounds)), g.mailbox)
        for g in settings()
    }


def choices() -> list[tuple[str, str, str]]:
    """Id, name and extension of every group, by name."""
    return [(str(pk), n, e) for pk, n, e in RingGroup.objects.values_list("pk", "name", "extension")]


def there(members: Iterable[str]) -> list[str]:
    """Those of a list of members who are there (still), in its order."""
    wanted = list(members)
    found: set[str] = set()
    for kind, model in (("agent", Agent), ("team", Team)):
        ids = [m.partition(":")[2] for m in wanted if m.startswith(f"{kind}:")]
        found |= {f"{kind}:{pk}" for pk in model.objects.filter(pk__in=ids).values_list("pk", flat=True)}
    return [member for member in wanted if member in found]


def with_member(kind: str, identity: str) -> list[Use]:
    """The groups that a person or a team is in."""
    found = RingGroup.objects.filter(members__contains=[f"{kind}:{identity}"])
    return [Use("group", str(g.pk), g.name, "is rung in it") for g in found]


def to_mailbox(identity: str) -> list[Use]:
    """The groups whose callers a mailbox takes."""
    found = RingGroup.objects.filter(mailbox=identity)
    return [Use("group", str(g.pk), g.name, "takes whom nobody answers") for g in found]


def extensions() -> list[Held]:
    """The extensions of groups."""
    rows = RingGroup.objects.exclude(extension="").values_list("extension", "pk", "name")
    return [Held(extension, "group", str(pk), name) for extension, pk, name in rows]


def take_out(user: Any, agent: Agent) -> None:
    """Take somebody out of every group."""
    member = f"agent:{agent.pk}"
    for group in RingGroup.objects.filter(members__contains=[member]):
        members = [other for other in group.members if other != member]
        config_store.change(user, group, None, members=members)


def prune(values: dict[str, Any]) -> list[str]:
    """Take members who are gone out of an older state of a group."""
    stay = there(values.get("members", ()))
    lost = len(values.get("members", ())) - len(stay)
    values["members"] = stay
    return [f"{lost} of the members, gone by now"] if lost else []


def search(text: str) -> list[Use]:
    """Groups whose name or extension holds a text."""
    found = RingGroup.objects.filter(Q(name__icontains=text) | Q(extension__startswith=text))[:5]
    return [Use("group", str(g.pk), g.name, "ring group") for g in found]
