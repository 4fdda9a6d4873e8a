"""What is usual at this moment, for the strip and a queue's page."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.core.cache import cache
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from exchange.services import site_clock_ms
from reports import past_progress, usual
from web.base import Form, View

_FRESH_S = 60


class UsualSerializer(Form):
    """The mean of `days` (up to four) same weekdays: contacts that had arrived by this time of day,
    and what happened at each stage of the journey in the hour before; none without days."""

    days = serializers.IntegerField()
    arrived = serializers.FloatField(allow_null=True)
    stages = serializers.DictField(child=serializers.FloatField())


class UsualView(View):
    """What is usual in the centre now; counted anew each minute."""

    area = "reports"

    @extend_schema(operation_id="reports_usual_of_centre", responses=UsualSerializer)
    def get(self, request: Request) -> Response:
        now_ms, zone = site_clock_ms(), settings.CENTRE_TIME_ZONE
        key = f"usual-{now_ms // 900_000}"
        told = cache.get_or_set(key, lambda: usual.of_centre(now_ms, zone), _FRESH_S)
        return Response(UsualSerializer(told).data)


class PastSerializer(Form):
    """Days before today that are written, of all that will be; zeros where none are being written."""

    written = serializers.IntegerField()
    of = serializers.IntegerField()


class PastView(View):
    """How far a past is that is being written."""

    area = "reports"

    @extend_schema(operation_id="reports_past", responses=PastSerializer)
    def get(self, request: Request) -> Response:
        written, of = past_progress.told() or (0, 0)
        return Response(PastSerializer({"written": written, "of": of}).data)


class UsualFiguresSerializer(Form):
    """Means of the days; the level (0 to 1) and the average wait (ms) of all their parts."""

    offered = serializers.FloatField()
    answered = serializers.FloatField()
    abandoned = serializers.FloatField()
    answered_late = serializers.FloatField()
    level = serializers.FloatField(allow_null=True)
    wait_average_ms = serializers.FloatField(allow_null=True)


class UsualOfQueueSerializer(Form):
    """A queue up to this time of day on the same weekday, the mean of `days`; and how many were
    offered in each hour of the whole day."""

    days = serializers.IntegerField()
    until_ms = serializers.IntegerField()
    figures = UsualFiguresSerializer(allow_null=True)
    hours = serializers.ListField(child=serializers.FloatField())


class UsualOfQueueView(View):
    """What is usual in a queue by now."""

    area = "reports"

    @extend_schema(responses=UsualOfQueueSerializer)
    def get(self, request: Request, queue: uuid.UUID) -> Response:
        told = usual.of_queues([str(queue)], site_clock_ms(), settings.CENTRE_TIME_ZONE)
        return Response(UsualOfQueueSerializer(told).data)
