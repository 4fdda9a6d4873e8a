"""Reports: how queues did, with every figure open down to its contacts."""

from __future__ import annotations

from typing import Any

from django.core.cache import cache
from django.http import Http404, HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response

from agents.services import agents
from callcore.measures.catalogue import QUEUE_MEASURES
from callcore.measures.sums import SUMS
from exchange.services import site_clock_ms
from queues.services import settings as queue_settings
from reports import agents_report, behind, in_use, queue_report
from reports.asking import (
    BY_PARAMETER,
    PERIOD,
    PERIOD_PARAMETERS,
    asked_by,
    asked_count,
    asked_ids,
    asked_moment,
    asked_period,
    today,
)
from reports.files import KINDS as FILES
from reports.files import file_response
from reports.models import counted_to_ms
from reports.reach import callers, reached_agents
from reports.tables import KINDS, Reader, table_of
from web.base import Form, View
from web.problems import bad_request

#: The contacts of a figure that are listed at once.
_PAGE, _MOST = 20, 500
#: No page of theirs begins later.
_DEEPEST = 1_000_000
#: For so long what is used stays as it was counted.
_FRESH_S = 60
_QUEUES = OpenApiParameter("queues", str, description="Ids of queues by commas; all without it.")


class QueueLimitsSerializer(Form):
    """What counted as late and as a short abandon (ms), and the formula of the service level."""

    threshold_ms = serializers.IntegerField()
    short_abandon_ms = serializers.IntegerField()
    formula = serializers.ChoiceField(["A", "B", "C", "D"])


class ReportedSerializer(Form):
    """A thing and its name."""

    id = serializers.CharField()
    name = serializers.CharField()


class FigureRowSerializer(Form):
    """Figures from a moment to the next (ms). A figure that cannot be had is null."""

    begin_ms = serializers.IntegerField()
    end_ms = serializers.IntegerField()
    running = serializers.BooleanField(help_text="It is not over yet.")
    figures = serializers.DictField(child=serializers.FloatField(allow_null=True))
    below_goal = serializers.BooleanField(help_text="The level misses the goal of the one queue.")


class QueueReportSerializer(Form):
    """A queue, several, or (none named) all, over a period. `before`: the period before it, of the
    same length. `limits`: those that counted; several where they were changed meanwhile."""

    queues = ReportedSerializer(many=True)
    begin_ms = serializers.IntegerField()
    end_ms = serializers.IntegerField()
    counted_to_ms = serializers.IntegerField(help_text="Up to when everything is counted.")
    goal = serializers.FloatField(allow_null=True)
    limits = QueueLimitsSerializer(many=True)
    rows = FigureRowSerializer(many=True)
    total = FigureRowSerializer()
    before = FigureRowSerializer()
    sentence = serializers.CharField()


class MeasureSerializer(Form):
    """A measure: what it is, how it adds up, and what it is of."""

    of = serializers.ChoiceField(["queues", "agents", "codes", "numbers"])

    key = serializers.CharField()
    name = serializers.CharField()
    short = serializers.CharField()
    unit = serializers.ChoiceField(["count", "ms", "share"])
    adds = serializers.ChoiceField(["sum", "longest", "parts"])
    sentence = serializers.CharField()
    formula = serializers.CharField()


class SumTermSerializer(Form):
    """A part of a sum, added (1) or taken off (-1)."""

    column = serializers.CharField()
    name = serializers.CharField()
    sign = serializers.ChoiceField([1, -1])
    value = serializers.IntegerField()


class LevelByFormulaSerializer(Form):
    """The service level by one of the formulas."""

    formula = serializers.CharField()
    words = serializers.CharField()
    value = serializers.FloatField(allow_null=True)


class ContactBehindSerializer(Form):
    """A contact behind a figure."""

    contact = serializers.CharField()
    at_ms = serializers.IntegerField()
    caller = serializers.CharField()
    wait_ms = serializers.IntegerField()
    outcome = serializers.CharField()
    late = serializers.BooleanField()
    queue_name = serializers.CharField()
    agent_name = serializers.CharField()


class FigureSumSerializer(Form):
    """How a figure comes about: `over` divided by `under`, in words and with its numbers."""

    key = serializers.CharField()
    name = serializers.CharField()
    sentence = serializers.CharField()
    formula = serializers.CharField()
    unit = serializers.ChoiceField(["count", "ms", "share"])
    adds = serializers.ChoiceField(["sum", "longest", "parts"])
    value = serializers.FloatField(allow_null=True)
    over = SumTermSerializer(many=True)
    under = SumTermSerializer(many=True)
    over_sum = serializers.IntegerField()
    under_sum = serializers.IntegerField(allow_null=True)
    limits = QueueLimitsSerializer(many=True)
    levels = LevelByFormulaSerializer(many=True)
    parts = serializers.DictField(child=serializers.IntegerField())
    count = serializers.IntegerField(help_text="How many contacts stand behind it.")
    contacts = ContactBehindSerializer(many=True)


class MeasuresView(View):
    """Every measure of queues, agents, codes and numbers, with its sentence and formula."""

    area = "reports"

    @extend_schema(responses=MeasureSerializer(many=True))
    def get(self, request: Request) -> Response:
        told = [{**m._asdict(), "of": "queues", "adds": m.adds} for m in QUEUE_MEASURES.values()]
        told += [
            {**one._asdict(), "of": of, "formula": one.formula(of), "adds": one.adds}
            for of, figures in SUMS.items()
            for one in figures.values()
        ]
        return Response(MeasureSerializer(told, many=True).data)


class QueueReportView(View):
    """How queues did."""

    area = "reports"
    asks = {"get": ("queues", "by", *PERIOD)}

    @extend_schema(parameters=[_QUEUES, BY_PARAMETER, *PERIOD_PARAMETERS], responses=QueueReportSerializer)
    def get(self, request: Request) -> Response:
        by = asked_by(request.query_params)
        told = queue_report.report(
            asked_ids(request.query_params, "queues"),
            asked_period(request.query_params, by),
            by,
            counted_to_ms(),
        )
        return Response(QueueReportSerializer(told).data)


class SheetView(View):
    """Any report as a file: CSV, XLSX with real numbers and times and the definitions, or PDF. It
    is asked with what the report itself is asked with."""

    area = "reports"
    asks = {"get": ("queues", "by", "as", "team", "flow", "rows", "columns", *PERIOD)}

    @extend_schema(
        parameters=[
            _QUEUES,
            BY_PARAMETER,
            *PERIOD_PARAMETERS,
            OpenApiParameter("team", str),
            OpenApiParameter("flow", str),
            OpenApiParameter("rows", str),
            OpenApiParameter("columns", str),
            OpenApiParameter("as", str, enum=[*FILES]),
        ],
        responses={(200, "text/csv"): OpenApiTypes.STR},
    )
    def get(self, request: Request, report: str) -> HttpResponse:
        if report not in KINDS:
            raise Http404
        asked = request.query_params.dict()
        reader = Reader(reached_agents(request.user, asked.get("team", "")))
        return file_response(table_of(report, asked, reader), asked.get("as", "csv"))


class QueueSumView(View):
    """The sum behind a figure, and its contacts."""

    area = "reports"
    asks = {"get": ("queues", "figure", "begin_ms", "end_ms", "offset", "limit", *PERIOD)}

    @extend_schema(
        parameters=[
            _QUEUES,
            *PERIOD_PARAMETERS,
            OpenApiParameter("figure", str, required=True, description="The key of a measure."),
            OpenApiParameter("begin_ms", int, description="The row that it stands in."),
            OpenApiParameter("end_ms", int),
            OpenApiParameter("offset", int),
            OpenApiParameter("limit", int),
        ],
        responses=FigureSumSerializer,
    )
    def get(self, request: Request) -> Response:
        queues, period = (asked_ids(request.query_params, "queues"), asked_period(request.query_params))
        figure = request.query_params.get("figure", "")
        if figure != queue_report.LEVEL and figure not in QUEUE_MEASURES:
            words = "There is no measure of this name."
            raise bad_request(words, figure=[words])
        begin = asked_moment(request.query_params, "begin_ms", period)
        end = asked_moment(request.query_params, "end_ms", period)
        told = queue_report.sum_behind(queues, period, begin, end, figure)
        column = QUEUE_MEASURES[figure].contacts if figure in QUEUE_MEASURES else "offered"
        first = asked_count(request.query_params, "offset", 0, _DEEPEST)
        most = asked_count(request.query_params, "limit", _PAGE, _MOST)
        count, found = behind.contacts(column, queues, period, begin, end, first, most)
        told |= {"count": count, "contacts": lines(request.user, found)}
        return Response(FigureSumSerializer(told).data)


class AgentsSumView(View):
    """The sum behind a figure of an agent, of a team, or of all, and its contacts."""

    area = "reports"
    asks = {"get": ("figure", "agent", "team", "offset", "limit", *PERIOD)}

    @extend_schema(
        parameters=[
            *PERIOD_PARAMETERS,
            OpenApiParameter("figure", str, required=True, description="The key of a measure."),
            OpenApiParameter("agent", str),
            OpenApiParameter("team", str),
            OpenApiParameter("offset", int),
            OpenApiParameter("limit", int),
        ],
        responses=FigureSumSerializer,
    )
    def get(self, request: Request) -> Response:
        query = request.query_params
        period, figure = asked_period(query), SUMS["agents"].get(query.get("figure", ""))
        if figure is None:
            words = "There is no measure of this name."
            raise bad_request(words, figure=[words])
        who = reached_agents(request.user, query.get("team", ""))
        if agent := query.get("agent"):
            if agent not in who:
                raise PermissionDenied("This is nobody of a team that you supervise.")
            who = [agent]
        first = asked_count(query, "offset", 0, _DEEPEST)
        most = asked_count(query, "limit", _PAGE, _MOST)
        told = agents_report.sum_behind(who, period, site_clock_ms(), figure.key)
        count, found = 0, list[behind.Behind]()
        if figure.contacts:
            count, found = agents_report.behind(figure.contacts, who, period, first, most)
        told |= {"count": count, "contacts": lines(request.user, found)}
        return Response(FigureSumSerializer(told).data)


class InUseSerializer(Form):
    """How often a thing (a reference; a number by its address) was used on each of the last days,
    up to yesterday; of a queue how well."""

    thing = serializers.CharField()
    count = serializers.IntegerField()
    days = serializers.ListField(child=serializers.IntegerField())
    level = serializers.FloatField(allow_null=True)
    wait_average_ms = serializers.FloatField(allow_null=True)


class InUseView(View):
    """What of everything was used in the last 28 days; counted anew each minute."""

    area = "reports"

    @extend_schema(responses=InUseSerializer(many=True))
    def get(self, request: Request) -> Response:
        told = cache.get_or_set(f"in-use-{today()}", self._in_use, _FRESH_S)
        return Response(InUseSerializer(told, many=True).data)

    @staticmethod
    def _in_use() -> list[dict[str, Any]]:
        return [use.told() for use in in_use.everything()]


def lines(user: Any, found: list[behind.Behind]) -> list[dict[str, Any]]:
    """Contacts behind a figure, with their names; who called only where that is the person's."""
    known = callers(user, (one.contact for one in found))
    people, queues = agents(), {q.id: q.name for q in queue_settings()}
    return [
        {
            **one._asdict(),
            "caller": known.get(one.contact, ""),
            "queue_name": queues.get(one.queue, ""),
            "agent_name": people[one.agent].name if one.agent in people else "",
        }
        for one in found
    ]
