"""What other apps may ask of queues."""

from __future__ import annotations

import uuid
from collections.abc import Iterable
from typing import Any

from django.db.models import Count, Q

from agents.services import agents, members_of_teams
from callcore.centre.facts import QueueSettings
from callcore.flow.catalogue import QueueFacts
from callcore.measures.alerts import AlertRule
from callcore.talk.recording import RecordingRule
from changelog import config_store
from changelog.kinds import RecordedKind, exists
from changelog.reading import Unreadable, readable
from phone_numbers.numbering import Held
from queues import models
from queues.models import Queue
from queues.rows import ASKS, CHANNELS, RANKS, WIDENING
from web.errors import Use

#: Where an agent stands in the list who was given no place: after all who were.
LAST_PLACE = 10_000


#: The fields of a queue that say where it sends those whom it lets go.
OVERFLOWS = ("overflow", "overflow_nobody", "overflow_closed")


def facts() -> dict[str, QueueFacts]:
    """Every queue as a flow sees it, by reference."""
    able = _able()
    size = Count("members", distinct=True) + Count("teams__agents", distinct=True)
    rows = Queue.objects.annotate(size=size).values(
        "pk",
        "name",
        "finished",
        "size",
        "longest_wait_s",
        "plan",
        "when_nobody",
        "channels",
        "when_closed",
        "hours",
        *OVERFLOWS,
    )
    return {
        f"queue:{row['pk']}": QueueFacts(
            row["name"],
            row["finished"],
            row["size"],
            row["longest_wait_s"],
            plan=f"flow:{row['plan']}" if row["plan"] else "",
            able=able.get(str(row["pk"])),
            lets_go=row["when_nobody"] == "leave",
            channels=tuple(row["channels"]),
            closes=row["when_closed"] == "leave" and row["hours"] is not None,
            **{name: row[name] for name in OVERFLOWS},
        )
        for row in rows
    }


def alert_rules() -> tuple[AlertRule, ...]:
    """Every rule of an alert, as the exchange runs it."""
    rows = models.AlertRule.objects.prefetch_related("teams")
    return tuple(
        AlertRule(
            str(row.pk),
            row.name,
            row.figure,
            str(row.queue_id or ""),
            row.above,
            row.value,
            row.for_s * 1000,
            tuple(row.weekdays),
            row.from_min,
            row.until_min,
            tuple(sorted(str(team.pk) for team in row.teams.all())),
        )
        for row in rows
    )


def alerts_telling(team: str) -> list[Use]:
    """The alerts that tell a team's supervisors."""
    found = models.AlertRule.objects.filter(teams=team).values_list("pk", "name")
    return [Use("alert", str(pk), name, "whom it tells") for pk, name in found]


def alerts_of(queue: str) -> list[Use]:
    """The alerts about a queue."""
    found = models.AlertRule.objects.filter(queue=queue).values_list("pk", "name")
    return [Use("alert", str(pk), name, "alert about it") for pk, name in found]


def able_in_hand(values: dict[str, Any]) -> int | None:
    """How many agents could take the callers of a queue with these settings at last; None where
    it asks for no skills."""
    asks = ASKS.validate_python(values["required_skills"])
    if not asks:
        return None
    of_team = members_of_teams()
    teams = (*values["teams"], *(team for row in values["widening"] for team in row["teams"]))
    who = {*values["members"], *(agent for team in teams for agent in of_team.get(str(team), ()))}
    less = sum(row["lower"] for row in values["widening"])
    return _count_able({str(agent) for agent in who}, [(row.skill, row.least) for row in asks], less)


def _count_able(who: Iterable[str], asks: Iterable[tuple[str, int]], less: int) -> int:
    known = agents()
    asks = list(asks)
    return sum(
        all(known[agent].skills.get(skill, 0) >= max(1, least - less) for skill, least in asks)
        for agent in who
        if agent in known
    )


def queue_with(identity: str) -> Queue | None:
    """The queue with an id; None where it is gone."""
    try:
        return Queue.objects.filter(pk=uuid.UUID(identity)).first()
    except ValueError:
        return None


def choices() -> list[tuple[str, str, str]]:
    """The queues that contacts can be sent to: id, name, extension."""
    rows = Queue.objects.filter(finished=True).values_list("pk", "name", "extension")
    return [(str(pk), name, extension) for pk, name, extension in rows]


def _able() -> dict[str, int]:
    """How many agents could take a queue's callers at last, for queues that ask for skills."""
    if not Queue.objects.exclude(required_skills=[]).exists():
        return {}
    found = {}
    for queue in settings():
        if queue.required_skills:
            less = sum(step.lower for step in queue.widening)
            extras = (agent for step in queue.widening for agent in step.agents)
            found[queue.id] = _count_able({*queue.members, *extras}, queue.required_skills, less)
    return found


def settings(left_out: list[Unreadable] | None = None) -> list[QueueSettings]:
    """Every queue in full; those that cannot be read are named in `left_out`."""
    of_team = members_of_teams()
    rows = Queue.objects.select_related("text_number").prefetch_related("members", "teams")
    return readable(rows, lambda q: _settings_of(q, of_team), left_out)


def _settings_of(q: Queue, of_team: dict[str, tuple[str, ...]]) -> QueueSettings:
    asks = ASKS.validate_python(q.required_skills)
    return QueueSettings(
        str(q.pk),
        q.name,
        q.finished,
        q.colour,
        _members(q, of_team),
        q.priority,
        q.longest_wait_s,
        q.threshold_s,
        q.goal_percent,
        q.short_abandon_s,
        q.formula,
        str(q.code_set_id or ""),
        q.note,
        str(q.plan_id or ""),
        q.priority_growth,
        q.distribution,
        tuple((row.skill, row.least) for row in asks),
        tuple(row.step(of_team) for row in WIDENING.validate_python(q.widening)),
        q.last_agent_s,
        str(q.hours_id or ""),
        q.when_closed,
        q.when_nobody,
        q.link,
        tuple(CHANNELS.validate_python(q.channels)),
        q.overflow,
        RecordingRule(q.recording, q.recording_percent, q.recording_told, q.recording_notice, q.transcribed),
        str(q.survey_id or ""),
        q.text_number.address if q.text_number else "",
        q.overflow_nobody,
        q.overflow_closed,
        f"sound:{q.music_id}" if q.music_id else "",
        q.group,
    )


def _members(queue: Queue, of_team: dict[str, tuple[str, ...]]) -> tuple[str, ...]:
    """The agents of a queue in the order of its list: by place, then as they are named."""
    found = [str(agent.pk) for agent in queue.members.all()]
    for team in queue.teams.all():
        found += of_team.get(str(team.pk), ())
    ranks = RANKS.validate_python(queue.ranks)
    return tuple(sorted(dict.fromkeys(found), key=lambda a: ranks.get(a, LAST_PLACE)))


def prune(values: dict[str, Any]) -> list[str]:
    """Take agents, skills, teams and ways that are gone out of an older state of a queue."""
    gone = []
    if "ranks" in values:
        values["ranks"] = {a: r for a, r in values["ranks"].items() if exists(f"agent:{a}")}
    asks = values.get("required_skills", [])
    stay = [row for row in asks if exists(f"skill:{row['skill']}")]
    if len(stay) < len(asks):
        gone.append("skills that it asked for, gone by now")
        values["required_skills"] = stay
    for row in values.get("widening", ()):
        teams = [team for team in row.get("teams", ()) if exists(f"team:{team}")]
        if len(teams) < len(row.get("teams", ())):
            gone.append("teams that it widened to, gone by now")
            row["teams"] = teams
    for name in OVERFLOWS:
        if values.get(name) and not exists(values[name]):
            gone.append("where it sent callers, gone by now")
            values[name] = ""
    return gone


def follow_people(by: Any, kind: RecordedKind, thing: Any, before: Any, after: Any) -> None:
    """Who supervises no more has no queues."""
    if kind.name == "user" and after and thing.role != "supervisor":
        for queue in Queue.objects.filter(supervisors=thing.pk):
            stay = queue.supervisors.exclude(pk=thing.pk)
            config_store.change(by, queue, None, supervisors=list(stay))


def queues_with_team(team_id: str) -> list[Use]:
    """The queues that a team serves, or that widen to it."""
    found = {q.pk: q for q in Queue.objects.filter(teams=team_id)}
    later = Queue.objects.filter(widening__icontains=team_id).exclude(pk__in=found)
    return [Use("queue", str(q.pk), q.name, "queue that it serves") for q in found.values()] + [
        Use("queue", str(q.pk), q.name, "queue that widens to it") for q in later
    ]


def queues_with_skill(skill_id: str) -> list[Use]:
    """The queues that ask for a skill."""
    found = Queue.objects.filter(required_skills__icontains=skill_id)
    return [Use("queue", str(q.pk), q.name, "queue that asks for it") for q in found]


def queues_with_hours(hours_id: str) -> list[Use]:
    """The queues that have these hours."""
    found = Queue.objects.filter(hours=hours_id)
    return [Use("queue", str(q.pk), q.name, "hours of the queue") for q in found]


def extensions() -> list[Held]:
    """The extensions of queues."""
    rows = Queue.objects.exclude(extension="").values_list("extension", "pk", "name")
    return [Held(extension, "queue", str(pk), name) for extension, pk, name in rows]


def queues_of_agent(agent_id: str) -> list[Use]:
    """The queues that an agent is a member of."""
    serves = Q(members=agent_id) | Q(teams__agents=agent_id)
    found = Queue.objects.filter(serves).distinct()
    return [Use("queue", str(q.pk), q.name, "member of the queue") for q in found]


def queues_with_set(set_id: str) -> list[Use]:
    """The queues that use a code set."""
    found = Queue.objects.filter(code_set=set_id)
    return [Use("queue", str(q.pk), q.name, "queue") for q in found]


def queues_with_flow(flow_id: str) -> list[Use]:
    """The queues whose callers wait by a plan, answer a survey, or go on in a flow."""
    ways = {
        "waiting plan of the queue": Q(plan=flow_id),
        "survey of the queue": Q(survey=flow_id),
        _THEN: _sending_to(f"flow:{flow_id}"),
    }
    return [
        Use("queue", str(q.pk), q.name, how)
        for how, holds in ways.items()
        for q in Queue.objects.filter(holds)
    ]


def _sending_to(reference: str) -> Q:
    return Q(overflow=reference) | Q(overflow_nobody=reference) | Q(overflow_closed=reference)


_THEN = "where the queue sends callers whom it lets go"


def queues_leading_to(kind: str, identity: str) -> list[Use]:
    """The queues that send callers whom they let go to a mailbox or another queue."""
    found = Queue.objects.filter(_sending_to(f"{kind}:{identity}"))
    return [Use("queue", str(q.pk), q.name, _THEN) for q in found]


def queues_with_number(number_id: str) -> list[Use]:
    """The queues whose agents write from a number."""
    found = Queue.objects.filter(text_number=number_id)
    return [Use("queue", str(q.pk), q.name, "number for going on in writing") for q in found]


def search(text: str) -> list[Use]:
    """Queues whose name holds a text."""
    found = Queue.objects.filter(name__icontains=text)[:5]
    return [Use("queue", str(q.pk), q.name, "queue") for q in found]


def playing(identity: str) -> list[Use]:
    """The queues whose callers hear a sound while they wait."""
    found = Queue.objects.filter(music=identity)
    return [Use("queue", str(q.pk), q.name, "hold music") for q in found]
