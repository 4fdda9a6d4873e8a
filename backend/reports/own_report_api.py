"""A report of one's own."""

from __future__ import annotations

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from reports import own_report
from reports.asking import PERIOD, PERIOD_PARAMETERS
from reports.reach import reached_agents
from reports.tables import Reader, own
from web.base import Form, View


class OwnColumnSerializer(Form):
    """A chosen figure."""

    key = serializers.CharField()
    name = serializers.CharField()
    short = serializers.CharField()
    unit = serializers.ChoiceField(["count", "ms", "share"])
    words = serializers.CharField()


class OwnRowSerializer(Form):
    """A row, with its figures by key: a count, a time (ms) or a share (0 to 1); null for none."""

    label = serializers.CharField()
    figures = serializers.DictField(child=serializers.FloatField(allow_null=True))


class OwnReportSerializer(Form):
    """Chosen figures of queues (by queue, weekday, hour of the day or stretch of time), of agents
    or their teams, of codes, or of numbers."""

    begin_ms = serializers.IntegerField()
    end_ms = serializers.IntegerField()
    columns = OwnColumnSerializer(many=True)
    rows = OwnRowSerializer(many=True)
    total = OwnRowSerializer()
    sentence = serializers.CharField(allow_blank=True)


class OwnReportView(View):
    """A report of one's own."""

    area = "reports"
    asks = {"get": ("rows", "columns", "queues", "team", *PERIOD)}

    @extend_schema(
        parameters=[
            OpenApiParameter("rows", str, enum=list(own_report.ROWS)),
            OpenApiParameter(
                "columns",
                str,
                description="Keys of figures, by commas, in their "
                "order: see `/reports/measures`; `level` is the service level of "
                "queues.",
            ),
            OpenApiParameter(
                "queues",
                str,
                description="Ids, by commas; all where none is named. "
                "Of agents and numbers they choose nothing.",
            ),
            OpenApiParameter("team", str, description="Only agents of this team."),
            *PERIOD_PARAMETERS,
        ],
        responses=OwnReportSerializer,
    )
    def get(self, request: Request) -> Response:
        asked = request.query_params.dict()
        reader = Reader(reached_agents(request.user, asked.get("team", "")))
        return Response(OwnReportSerializer(own(asked, reader)).data)
