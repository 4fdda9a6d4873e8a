"""Agents and handling rules."""

from __future__ import annotations

import uuid
from typing import Any

from django.db.models import Count
from django.http import Http404
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from agents import services
from agents.models import Agent, Skill, Team
from callcore.handling.rules import LAYERS, SETTINGS, Layer, resolve, wrong
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

    languages = serializers.ListField(
        child=serializers.ChoiceField(["en", "cy"]), required=False, max_length=10
    )
    skills = serializers.DictField(
        child=serializers.IntegerField(min_value=1, max_value=10), required=False
    )
    team_name = serializers.CharField(source="team.name", default="", read_only=True)

    class Meta:
        model = Agent
        fields = [
            "id", "revision", "updated_at", "name", "extension", "team", "team_name", "site",
            "languages", "skills", "username", "password",
        ]  # fmt: skip

    def validate_skills(self, skills: dict[str, int]) -> dict[str, int]:
        unknown = set(skills) - services.skills().keys()
        if unknown:
            raise serializers.ValidationError("A skill of these does not exist (any more).")
        return skills

    def to_representation(self, agent: Agent) -> dict[str, Any]:
        agent.username = agent.user.username if agent.user else ""  # type: ignore[attr-defined]
        return super().to_representation(agent)


class AgentViewSet(KeptViewSet):
    area = "agents"
    queryset = Agent.objects.select_related("user", "team")
    serializer_class = AgentSerializer
    search_fields = ["name", "extension", "team__name", "site"]
    ordering_fields = ["name", "extension", "team__name", "site"]

    def make(self, values: dict[str, Any]) -> Agent:
        return services.make_agent(self.request.user, **values)

    def keep(self, instance: Agent, revision: int, values: dict[str, Any]) -> None:
        services.change_agent(self.request.user, instance, revision, **values)


class TeamSerializer(KeptSerializer):
    """A team; agents name the one that they work in."""

    agent_count = serializers.IntegerField(read_only=True)

    class Meta:
        model = Team
        fields = ["id", "revision", "updated_at", "name", "agent_count"]


class TeamViewSet(KeptViewSet):
    area = "agents"
    queryset = Team.objects.annotate(agent_count=Count("agents"))
    serializer_class = TeamSerializer
    search_fields = ["name"]
    ordering_fields = ["name", "agent_count"]


class SkillSerializer(KeptSerializer):
    """A skill; agents have it at a level from 1 to 10."""

    class Meta:
        model = Skill
        fields = ["id", "revision", "updated_at", "name"]


class SkillViewSet(KeptViewSet):
    area = "agents"
    queryset = Skill.objects.all()
    serializer_class = SkillSerializer
    search_fields = ["name"]
    ordering_fields = ["name"]


class CountedSerializer(serializers.Serializer):
    """The value that counts, and the layer that it comes from."""

    value = serializers.JSONField()
    layer = serializers.ChoiceField(list(LAYERS))


class SettingSerializer(serializers.Serializer):
    """A rule: what it may be, what each layer sets, and what counts."""

    name = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())
    least = serializers.IntegerField()
    most = serializers.IntegerField()
    unit = serializers.CharField()
    centre = serializers.JSONField(allow_null=True)
    team = serializers.JSONField(allow_null=True)
    agent = serializers.JSONField(allow_null=True)
    counts = CountedSerializer()


class LayerRevisionsSerializer(serializers.Serializer):
    """The revision of each layer; None where it sets nothing yet."""

    centre = serializers.IntegerField()
    team = serializers.IntegerField(allow_null=True)
    agent = serializers.IntegerField(allow_null=True)


class HandlingRulesSerializer(serializers.Serializer):
    """The rules of the centre, a team or an agent: layer by layer."""

    team = serializers.CharField(allow_blank=True)
    agent = serializers.CharField(allow_blank=True)
    settings = SettingSerializer(many=True)
    revisions = LayerRevisionsSerializer()
    away_reasons = serializers.ListField(child=serializers.CharField())


class SetRulesSerializer(serializers.Serializer):
    """Rules that one layer sets; None clears. Away reasons are the centre's only."""

    layer = serializers.ChoiceField(list(LAYERS))
    team = serializers.UUIDField(required=False, allow_null=True, default=None)
    agent = serializers.UUIDField(required=False, allow_null=True, default=None)
    revision = serializers.IntegerField(required=False, allow_null=True, default=None, min_value=1)
    values = serializers.DictField(child=serializers.JSONField(allow_null=True), required=False)
    away_reasons = serializers.ListField(
        child=serializers.CharField(max_length=40), min_length=1, max_length=20, required=False
    )

    def validate_values(self, values: dict[str, Any]) -> dict[str, Any]:
        problems = {n: [w] for n, v in values.items() if (w := wrong(n, v))}
        if problems:
            raise serializers.ValidationError(problems)
        return values

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        layer = attrs["layer"]
        if layer != "centre" and attrs[layer] is None:
            raise serializers.ValidationError({layer: [f"Say which {layer}."]})
        if layer != "centre" and "away_reasons" in attrs:
            message = "Away reasons are set for the whole centre."
            raise serializers.ValidationError({"away_reasons": [message]})
        return attrs


class HandlingRulesView(APIView):
    """How agents work, in three layers."""

    area = "agents"

    @extend_schema(
        responses=HandlingRulesSerializer,
        parameters=[OpenApiParameter("team", str), OpenApiParameter("agent", str)],
    )
    def get(self, request: Request) -> Response:
        """What counts for the centre, a team, or an agent, and where it comes from."""
        team, agent = _whose(request.query_params)
        return Response(_told(team, agent))

    @extend_schema(request=SetRulesSerializer, responses=HandlingRulesSerializer)
    def patch(self, request: Request) -> Response:
        """Set or clear rules of one layer."""
        form = SetRulesSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        asked = form.validated_data
        ids = {name: str(asked[name]) for name in ("team", "agent") if asked[name]}
        team, agent = _whose(ids)
        try:
            _set(request.user, asked, team, agent)
        except Stale as stale:
            stale.current = _told(team, agent)
            raise
        return Response(_told(team, agent))


def _whose(asked: Any) -> tuple[Team | None, Agent | None]:
    """The team and the agent that are asked for; an agent's team comes with them."""
    found = {}
    for name, model in (("team", Team), ("agent", Agent)):
        identity = asked.get(name)
        try:
            found[name] = get_object_or_404(model, pk=uuid.UUID(identity)) if identity else None
        except ValueError:
            raise Http404 from None
    agent = found["agent"]
    return (agent.team if agent else found["team"]), agent


def _set(user: Any, asked: dict[str, Any], team: Team | None, agent: Agent | None) -> None:
    changed = asked.get("values", {})
    if asked["layer"] == "centre":
        rules = services.rules()
        values = {**rules.values, **changed}
        more = {"away_reasons": asked["away_reasons"]} if "away_reasons" in asked else {}
        values = {name: value for name, value in values.items() if value is not None}
        kept.change(user, rules, asked["revision"], values=values, **more)
        return
    of = {"team": str(team.pk)} if asked["layer"] == "team" and team else {"agent": str(agent.pk)}  # type: ignore[union-attr]
    services.set_layer(user, services.layer_of(**of), asked["revision"], changed, **of)


def _told(team: Team | None, agent: Agent | None) -> dict[str, Any]:
    centre = services.rules()
    of_team = services.layer_of(team=str(team.pk)) if team else None
    of_agent = services.layer_of(agent=str(agent.pk)) if agent else None
    layers: dict[Layer, dict[str, Any]] = {
        "centre": centre.values,
        "team": of_team.values if of_team else {},
        "agent": of_agent.values if of_agent else {},
    }
    counted = resolve(layers)
    rows = [
        {
            "name": s.name, "choices": list(s.choices), "least": s.least, "most": s.most,
            "unit": s.unit, "counts": counted[s.name]._asdict(),
            "centre": layers["centre"].get(s.name, s.default),
            "team": layers["team"].get(s.name), "agent": layers["agent"].get(s.name),
        }
        for s in SETTINGS
    ]  # fmt: skip
    revisions = {
        "centre": centre.revision,
        "team": of_team.revision if of_team else None,
        "agent": of_agent.revision if of_agent else None,
    }
    told = {
        "team": team.name if team else "", "agent": agent.name if agent else "",
        "settings": rows, "revisions": revisions, "away_reasons": centre.away_reasons,
    }  # fmt: skip
    return dict(HandlingRulesSerializer(told).data)
