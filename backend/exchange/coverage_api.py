"""What a centre's queues and skills lose when a person leaves, by the hours of the day."""

from __future__ import annotations

import uuid
from datetime import timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.http import Http404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from agents.services import agents, skills
from callcore.centre.facts import AgentFacts
from callcore.measures.coverage import coverage, presence
from exchange.live.journal import agent_states
from exchange.site_clock import wall_ms
from queues.services import settings as queue_settings
from web.base import Form, View

#: How far back sign-ins are looked at.
_DAYS = 14


class CoveredSerializer(Form):
    """Agents there at each hour (24 of them), with the person and without."""

    kind = serializers.ChoiceField(["queue", "skill"])
    id = serializers.CharField()
    name = serializers.CharField()
    others = serializers.IntegerField()
    before = serializers.ListField(child=serializers.FloatField())
    after = serializers.ListField(child=serializers.FloatField())
    bare = serializers.ListField(child=serializers.IntegerField())


class CoverageSerializer(Form):
    """`days`: whole days of sign-ins that were looked at; 0 where there are none yet."""

    days = serializers.IntegerField()
    covered = CoveredSerializer(many=True)


class CoverageView(View):
    """What changes for queues and skills when an agent leaves."""

    area = "agents"

    @extend_schema(responses=CoverageSerializer)
    def get(self, request: Request, pk: uuid.UUID) -> Response:
        known, leaver = agents(), str(pk)
        if leaver not in known:
            raise Http404
        now = wall_ms()
        begin = now - _DAYS * 86_400_000
        events = list(agent_states(settings.EXCHANGE_SITE, begin))
        if events:
            begin = max(begin, events[0].at_ms)
        there = presence(events, begin, now, ZoneInfo(settings.CENTRE_TIME_ZONE))
        days = timedelta(milliseconds=now - begin).days + 1 if events else 0
        found = [_covered(group, there, leaver) for group in _groups(known, leaver)]
        return Response(CoverageSerializer({"days": days, "covered": found}).data)


Group = tuple[str, str, str, list[str]]


def _groups(known: dict[str, AgentFacts], leaver: str) -> list[Group]:
    """The queues and skills that the person is part of, with everybody who is."""
    queues: list[Group] = [
        ("queue", q.id, q.name, [a for a in q.members if a in known])
        for q in queue_settings()
        if leaver in q.members
    ]
    named = skills()
    of_skills: list[Group] = [
        ("skill", skill, named[skill], [a.id for a in known.values() if skill in a.skills])
        for skill in known[leaver].skills
        if skill in named
    ]
    return queues + of_skills


def _covered(group: Group, there: dict[str, tuple[float, ...]], leaver: str) -> dict[str, Any]:
    kind, identity, name, members = group
    found = coverage(there, members, leaver)
    return {
        "kind": kind,
        "id": identity,
        "name": name,
        "others": len(set(members) - {leaver}),
        "before": [round(n, 2) for n in found.before],
        "after": [round(n, 2) for n in found.after],
        "bare": list(found.bare),
    }
