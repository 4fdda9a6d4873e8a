"""Closing hours by hand and opening them again, for who runs the floor."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import saying_what_stands
from callcore.hours.answer import answer, in_words
from callcore.hours.plan import dump, load
from changelog import config_store
from opening_hours.models import Hours
from web.base import Form, View
from web.clock import site_now


class ByHandSerializer(Form):
    """How hours stand now; who asks them is at their `uses`."""

    id = serializers.CharField()
    revision = serializers.IntegerField()
    name = serializers.CharField()
    open = serializers.BooleanField()
    now = serializers.CharField(help_text="In words, with the next change.")
    closed = serializers.BooleanField(help_text="By hand.")
    reason = serializers.CharField(allow_blank=True)
    until = serializers.DateTimeField(allow_null=True, help_text="None: until it is lifted.")


class CloseSerializer(Form):
    revision = serializers.IntegerField()
    closed = serializers.BooleanField()
    reason = serializers.CharField(max_length=120, allow_blank=True, default="")
    until = serializers.DateTimeField(allow_null=True, default=None)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if attrs["closed"] and attrs["until"] is not None and attrs["until"] <= site_now():
            raise serializers.ValidationError({"until": ["This moment has passed already."]})
        return attrs


def _told(hours: Hours, now: datetime) -> dict[str, Any]:
    plan = load(hours.plan())
    found, closure = answer(plan, now), plan.closure
    stands = closure is not None and (closure.until is None or closure.until > now)
    return {
        "id": hours.pk,
        "revision": hours.revision,
        "name": hours.name,
        "open": found.open,
        "now": in_words(found, plan, now),
        "closed": stands,
        "reason": closure.reason if closure and stands else "",
        "until": closure.until if closure and stands else None,
    }


def _shown(hours: Hours) -> dict[str, Any]:
    return dict(ByHandSerializer(_told(hours, site_now())).data)


class ClosuresView(View):
    """All hours, as they stand now."""

    area = "closures"

    @extend_schema(responses=ByHandSerializer(many=True))
    def get(self, request: Request) -> Response:
        now = site_now()
        told = [_told(hours, now) for hours in Hours.objects.order_by("name")]
        return Response(ByHandSerializer(told, many=True).data)


class ClosureView(View):
    """One of them."""

    area = "closures"

    @extend_schema(request=CloseSerializer, responses=ByHandSerializer)
    def post(self, request: Request, hours: uuid.UUID) -> Response:
        """Close them by hand, or lift that."""
        found = get_object_or_404(Hours, pk=hours)
        form = CloseSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        asked = form.validated_data
        until = asked["until"].isoformat() if asked["until"] else None
        closure = {"reason": asked["reason"], "until": until} if asked["closed"] else None
        plan = dump(load({**found.plan(), "closure": closure}))
        with saying_what_stands(lambda: _shown(get_object_or_404(Hours, pk=hours))):
            changed = config_store.change(request.user, found, asked["revision"], closure=plan["closure"])
        return Response(_shown(changed))
