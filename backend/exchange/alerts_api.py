"""The alerts of the floor: seen by somebody, and as a log."""

from __future__ import annotations

import uuid

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from callcore.events import Kind
from exchange.commands import ask
from exchange.models import Journal
from web.base import Form, View

#: So many of the last are listed.
_LAST = 200


class AlertLineSerializer(Form):
    """What became of an alert: it has arisen, was seen by somebody, or is over."""

    at_ms = serializers.IntegerField()
    rule = serializers.CharField()
    name = serializers.CharField()
    state = serializers.ChoiceField(["arisen", "seen", "over"])
    words = serializers.CharField(allow_blank=True)
    by = serializers.CharField(allow_blank=True)


class AlertLogView(View):
    """The last alerts, newest first."""

    area = "alerts"

    @extend_schema(responses=AlertLineSerializer(many=True))
    def get(self, request: Request) -> Response:
        rows = Journal.objects.filter(site=settings.EXCHANGE_SITE, kind=str(Kind.ALERT))
        named = ("rule", "name", "state", "words", "by")
        lines = [
            {"at_ms": at_ms, **{name: body.get(name, "") for name in named}}
            for at_ms, body in rows.order_by("-at_ms").values_list("at_ms", "body")[:_LAST]
        ]
        return Response(AlertLineSerializer(lines, many=True).data)


class SeeAlertView(View):
    """An alert that stands."""

    area, verb = "alerts", "use"

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, rule: uuid.UUID) -> Response:
        """Have seen it: it stands on no banner any more."""
        by = request.user.full_name or request.user.get_username()
        ask(request.user, "alert.see", {"rule": str(rule), "by": by})
        return Response(status=204)
