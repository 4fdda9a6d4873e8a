"""From when on the floor points somebody of a team out: those who supervise it say."""

from __future__ import annotations

import uuid

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import saying_what_stands
from agents import services
from agents.models import Team
from callcore.measures.looks import LAST
from changelog import config_store
from web.base import View
from web.errors import Refused


def limit_field(words: str) -> serializers.IntegerField:
    """A time in seconds; 0 for never."""
    return serializers.IntegerField(min_value=0, max_value=86_400, required=False, help_text=words)


class LimitsSerializer(serializers.ModelSerializer):
    """From when on the floor points somebody of a team out."""

    talk_limit_s = limit_field("Talking (s); 0: never.")
    wrap_limit_s = limit_field("Wrapping up (s); 0: never.")
    away_limit_s = limit_field("Away (s); 0: never.")
    missed_limit = serializers.IntegerField(min_value=0, max_value=LAST, required=False)
    revision = serializers.IntegerField()

    class Meta:
        model = Team
        fields = ["revision", "talk_limit_s", "wrap_limit_s", "away_limit_s", "missed_limit"]


class LimitsView(View):
    """A team's limits: those who supervise it set them."""

    area, verb = "floor", "use"

    @extend_schema(responses=LimitsSerializer)
    def get(self, request: Request, team: uuid.UUID) -> Response:
        """What counts."""
        return Response(LimitsSerializer(_supervised(request, team)).data)

    @extend_schema(request=LimitsSerializer, responses=LimitsSerializer)
    def patch(self, request: Request, team: uuid.UUID) -> Response:
        """Set some of them."""
        found = _supervised(request, team)
        form = LimitsSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = dict(form.validated_data)
        with saying_what_stands(lambda: LimitsSerializer(_supervised(request, team)).data):
            changed = config_store.change(request.user, found, values.pop("revision"), **values)
        return Response(LimitsSerializer(changed).data)


def _supervised(request: Request, team: uuid.UUID) -> Team:
    found = get_object_or_404(Team, pk=team)
    teams = services.reached(request.user)
    if teams is not None and str(found.pk) not in teams:
        raise Refused("not-yours", f"You do not supervise the team “{found.name}”.", status=403)
    return found
