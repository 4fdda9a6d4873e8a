"""What happens now beside the queues: in flows, at numbers, and what the last hour was about."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.cache import cache
from django.db.models import Count
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from exchange.services import site_clock_ms
from exchange.snapshots import snapshot
from flows.services import in_force_names
from reports import usage_report
from reports.asking import today
from reports.growing import freshen
from reports.models import Leg
from reports.period import Period
from reports.queue_rows import share_of
from web.base import Form, View
from wrapup.services import code_names

#: The figures are read anew after so long (s), however many look.
_FRESH_S = 3
_HOUR_MS = 3_600_000


class FlowNowSerializer(Form):
    """A flow in force: callers in it now, by stop, and how those of today ended."""

    id = serializers.CharField()
    name = serializers.CharField()
    now = serializers.IntegerField()
    over = serializers.IntegerField()
    hung_up = serializers.IntegerField()
    failed = serializers.IntegerField()
    hung_up_share = serializers.FloatField(allow_null=True)


class NumberNowSerializer(Form):
    """A number today."""

    number = serializers.CharField()
    label = serializers.CharField()
    arrived = serializers.IntegerField()
    hung_up = serializers.IntegerField()
    person = serializers.IntegerField()
    hung_up_share = serializers.FloatField(allow_null=True)
    person_share = serializers.FloatField(allow_null=True)


class CodeNowSerializer(Form):
    """How many parts of contacts that ended in the last hour were labelled so."""

    name = serializers.CharField()
    legs = serializers.IntegerField()
    share = serializers.FloatField(allow_null=True)


class NowSerializer(Form):
    """Flows, numbers, and codes of the last hour, most first."""

    flows = FlowNowSerializer(many=True)
    numbers = NumberNowSerializer(many=True)
    codes = CodeNowSerializer(many=True)


class NowView(View):
    """What happens now beside the queues."""

    area = "floor"

    @extend_schema(responses=NowSerializer)
    def get(self, request: Request) -> Response:
        return Response(NowSerializer(cache.get_or_set("floor-now", _now, _FRESH_S)).data)


def _now() -> dict[str, Any]:
    freshen(settings.EXCHANGE_SITE)
    day = Period(today(), today(), settings.CENTRE_TIME_ZONE)
    return {"flows": _flows(), "numbers": _numbers(day), "codes": _codes()}


def _numbers(day: Period) -> list[dict[str, Any]]:
    return [
        {**row, **{f"{how}_share": share_of(row[how], row["arrived"]) for how in ("hung_up", "person")}}
        for row in usage_report.numbers(day)
        if row["arrived"]
    ]


def in_flows_now() -> dict[str, int]:
    """How many callers are in each flow that is in force."""
    return {flow: _inside(_kept(flow)) for flow in in_force_names()}


def _kept(flow: str) -> dict[str, Any]:
    data: dict[str, Any] = (snapshot(f"flow.{flow}") or {}).get("data", {})
    return data


def _inside(kept: dict[str, Any]) -> int:
    return sum(kept.get("here", {}).values())


def _flows() -> list[dict[str, Any]]:
    rows = []
    for flow, name in in_force_names().items():
        kept = _kept(flow)
        endings = kept.get("endings", {})
        over = sum(endings.values())
        rows.append(
            {
                "id": flow,
                "name": name,
                "now": _inside(kept),
                "over": over,
                "hung_up": endings.get("hung_up", 0),
                "failed": endings.get("failed", 0),
                "hung_up_share": share_of(endings.get("hung_up", 0), over),
            }
        )
    return sorted(rows, key=lambda row: (-row["now"], -row["over"], row["name"]))


def _codes() -> list[dict[str, Any]]:
    now_ms = site_clock_ms()
    names = code_names()
    rows = list(
        Leg.objects.filter(site=settings.EXCHANGE_SITE, coded=True)
        .filter(offered_ms__gte=now_ms - 3 * _HOUR_MS, ended_ms__gte=now_ms - _HOUR_MS)
        .values("code")
        .annotate(legs=Count("pk"))
        .order_by("-legs")
    )
    gone, legs = "A code that is gone", sum(row["legs"] for row in rows)
    return [
        {
            "name": names.get(row["code"], gone) if row["code"] else "No code",
            "legs": row["legs"],
            "share": share_of(row["legs"], legs),
        }
        for row in rows
    ]
