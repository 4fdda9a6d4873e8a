"""Agents and handling rules."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from agents import services
from agents.models import Agent, HandlingRules
from changelog import kept
from changelog.errors import Stale
from hazeridge.api.views import KeptSerializer, KeptViewSet
from numbers_app.fields import ExtensionField


class AgentSerializer(KeptSerializer):
    """An agent; `username` and `password` make or change the sign-in."""

    extension = ExtensionField("agent")
    username = serializers.RegexField(
        r"^[\w.@+-]{2,60}$",
        required=False,
        allow_blank=True,
        error_messages={"invalid": "A sign-in name is 2 to 60 letters, figures, or . @ + - _"},
    )
    password = serializers.CharField(
        write_only=True, required=False, allow_blank=True, max_length=200, trim_whitespace=False
    )

    class Meta:
        model = Agent
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "extension",
            "team",
            "username",
            "password",
        ]

    def to_representation(self, agent: Agent) -> dict[str, Any]:
        agent.username = agent.user.username if agent.user else ""  # type: ignore[attr-defined]
        return super().to_representation(agent)


class AgentViewSet(KeptViewSet):
    area = "agents"
    queryset = Agent.objects.select_related("user")
    serializer_class = AgentSerializer
    search_fields = ["name", "extension", "team"]
    ordering_fields = ["name", "extension", "team"]

    def make(self, values: dict[str, Any]) -> Agent:
        return services.make_agent(self.request.user, **values)

    def keep(self, instance: Agent, revision: int, values: dict[str, Any]) -> None:
        services.change_agent(self.request.user, instance, revision, **values)


class HandlingRulesSerializer(KeptSerializer):
    ring_s = serializers.IntegerField(min_value=5, max_value=120)
    longest_wrap_s = serializers.IntegerField(min_value=5, max_value=3600)
    away_reasons = serializers.ListField(
        child=serializers.CharField(max_length=40), min_length=1, max_length=20
    )

    class Meta:
        model = HandlingRules
        fields = [
            "id",
            "revision",
            "updated_at",
            "ring_s",
            "wrap_up",
            "longest_wrap_s",
            "away_reasons",
        ]


class HandlingRulesView(APIView):
    """How agents of the whole centre work."""

    area = "agents"

    @extend_schema(responses=HandlingRulesSerializer)
    def get(self, request: Request) -> Response:
        return Response(HandlingRulesSerializer(services.rules()).data)

    @extend_schema(request=HandlingRulesSerializer(partial=True), responses=HandlingRulesSerializer)
    def patch(self, request: Request) -> Response:
        rules = services.rules()
        serializer = HandlingRulesSerializer(rules, data=request.data, partial=True)
        serializer.is_valid(raise_exception=True)
        values = dict(serializer.validated_data)
        try:
            changed = kept.change(request.user, rules, values.pop("revision"), **values)
        except Stale as stale:
            stale.current = HandlingRulesSerializer(services.rules()).data
            raise
        return Response(HandlingRulesSerializer(changed).data)
