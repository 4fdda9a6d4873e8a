"""How listed things stand at this moment, for the lists: whether it is well, is it used, has it
changed? Everything of a kind at once, by id."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection
from datetime import datetime
from typing import Any, NamedTuple

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from agents.services import agents
from callcore.hours.answer import answer, in_words
from callcore.measures.tallies import Counted
from flows import services as flows
from flows.models import Flow
from opening_hours import services as hours
from phone_numbers import services as numbers
from phone_numbers.plan import national
from queues.services import settings as queue_settings
from reports.asking import today
from reports.now_api import in_flows_now
from reports.period import Period
from reports.tally_rows import tallies
from web.base import Form, View
from web.clock import site_now


class HoursNowSerializer(Form):
    """Hours at this moment, in words: “Open, closes 18:00”."""

    name = serializers.CharField()
    open = serializers.BooleanField()
    words = serializers.CharField()


class NumberGlanceSerializer(Form):
    """A number: the first hours that its callers meet (null: none), and contacts today."""

    id = serializers.CharField()
    hours = HoursNowSerializer(allow_null=True)
    today = serializers.IntegerField()


class FlowGlanceSerializer(Form):
    """A flow: whether its draft is another than what is in force (null: nothing is), which numbers
    lead to it, callers inside, and callers today."""

    id = serializers.CharField()
    differs = serializers.BooleanField(allow_null=True)
    numbers = serializers.ListField(child=serializers.CharField())
    now = serializers.IntegerField()
    today = serializers.IntegerField()


class QueueGlanceSerializer(Form):
    """A queue: its hours (null: it has none)."""

    id = serializers.CharField()
    hours = HoursNowSerializer(allow_null=True)


class AgentGlanceSerializer(Form):
    """An agent: the queues that they are a member of."""

    id = serializers.CharField()
    queues = serializers.ListField(child=serializers.CharField())


class HoursNow(NamedTuple):
    """See `HoursNowSerializer`."""

    name: str
    open: bool
    words: str


def _hours_now(now: datetime, wanted: Collection[str]) -> dict[str, HoursNow]:
    """Some hours at a moment, by reference."""
    names = {reference: facts.name for reference, facts in hours.facts().items()}
    found = {}
    for reference, plan in hours.plans().items():
        if reference not in wanted:
            continue
        answered = answer(plan, now)
        words = in_words(answered, plan, now)
        found[reference] = HoursNow(names.get(reference, ""), answered.open, words)
    return found


def _today(what: Counted, detail: str) -> dict[str, int]:
    """How often each thing was met today by a detail."""
    day = Period(today(), today(), settings.CENTRE_TIME_ZONE)
    return {told.thing: told.count for told in tallies(what, day) if told.detail == detail}


def of_numbers() -> list[dict[str, Any]]:
    """Every number at a glance."""
    now = site_now()
    now_ms = round(now.timestamp() * 1000)
    known = numbers.numbers()
    applied = {name: facts.applies_at(now_ms) for name, facts in known.items()}
    met = flows.first_hours_of({name: (one.flow, one.values) for name, one in applied.items()})
    open_now, arrived = _hours_now(now, set(met.values())), _today(Counted.NUMBER, "arrived")
    return [
        {"id": name, "hours": open_now.get(met.get(name, "")), "today": arrived.get(facts.address, 0)}
        for name, facts in known.items()
    ]


def of_flows() -> list[dict[str, Any]]:
    """Every flow at a glance."""
    now_ms = round(site_now().timestamp() * 1000)
    leading: defaultdict[str, list[str]] = defaultdict(list)
    for facts in numbers.numbers().values():
        leading[facts.applies_at(now_ms).flow].append(facts.label or national(facts.address))
    inside, begun = in_flows_now(), _today(Counted.ARM, " start")
    rows = Flow.objects.values_list("pk", "in_force").annotate(same=flows.DRAFT_IS_IN_FORCE)
    return [
        {
            "id": str(pk),
            "differs": None if version is None else not same,
            "numbers": sorted(leading[str(pk)]),
            "now": inside.get(str(pk), 0),
            "today": begun.get(str(pk), 0),
        }
        for pk, version, same in rows
    ]


def of_queues() -> list[dict[str, Any]]:
    """Every queue at a glance."""
    asked = {queue.id: f"hours:{queue.hours}" for queue in queue_settings()}
    open_now = _hours_now(site_now(), set(asked.values()))
    return [{"id": queue, "hours": open_now.get(own)} for queue, own in asked.items()]


def of_agents() -> list[dict[str, Any]]:
    """Every agent at a glance."""
    serves: dict[str, list[str]] = {agent: [] for agent in agents()}
    for queue in queue_settings():
        for agent in queue.members:
            serves.setdefault(agent, []).append(queue.name)
    return [{"id": agent, "queues": sorted(names)} for agent, names in serves.items()]


class _Glance(View):
    """Everything of a kind that somebody may see."""

    verb = "see"


class NumbersGlance(_Glance):
    area = "numbers"

    @extend_schema(responses=NumberGlanceSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(NumberGlanceSerializer(of_numbers(), many=True).data)


class FlowsGlance(_Glance):
    area = "flows"

    @extend_schema(responses=FlowGlanceSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(FlowGlanceSerializer(of_flows(), many=True).data)


class QueuesGlance(_Glance):
    area = "queues"

    @extend_schema(responses=QueueGlanceSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(QueueGlanceSerializer(of_queues(), many=True).data)


class AgentsGlance(_Glance):
    area = "agents"

    @extend_schema(responses=AgentGlanceSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(AgentGlanceSerializer(of_agents(), many=True).data)
