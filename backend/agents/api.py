"""Agents and handling rules."""

from __future__ import annotations

import uuid
from typing import Any, get_args

from django.db.models import Count
from django.http import Http404
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import LIST_PARAMETERS, ItemSerializer, ItemViewSet, csv_of
from accounts.services import supervisors
from accounts.things import must
from agents import files, services
from agents.limits_api import limit_field
from agents.models import Agent, HandlingRules, Skill, Team
from callcore.handling.rules import BY_NAME, LAYERS, SETTINGS, Layer, SettingKind, resolve, wrong
from callcore.lookups.table import NotATable
from callcore.measures.looks import LAST
from changelog import config_store
from changelog.kinds import exists
from phone_numbers.fields import ExtensionField
from phone_numbers.plan import NotANumber, read
from web.base import Form, View
from web.errors import Stale
from web.problems import bad_request


class AgentSerializer(ItemSerializer):
    """An agent; `username` and `password` make or change the sign-in."""

    extension = ExtensionField("agent")
    username = serializers.RegexField(
        r"^[\w.@+-]{2,60}$",
        required=False,
        allow_blank=True,
        error_messages={"invalid": "A sign-in name is 2 to 60 letters, digits, or . @ + - _"},
    )
    password = serializers.CharField(
        write_only=True, required=False, allow_blank=True, max_length=200, trim_whitespace=False
    )

    languages = serializers.ListField(
        child=serializers.ChoiceField(["en", "cy"]), required=False, max_length=10
    )
    skills = serializers.DictField(child=serializers.IntegerField(min_value=1, max_value=10), required=False)
    team_name = serializers.CharField(source="team.name", default="", read_only=True)
    outside_number = serializers.CharField(max_length=40, required=False, allow_blank=True)
    staff_number = serializers.CharField(max_length=20, required=False, allow_blank=True)

    class Meta:
        model = Agent
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "extension",
            "staff_number",
            "team",
            "team_name",
            "site",
            "languages",
            "skills",
            "outside_number",
            "username",
            "password",
        ]

    def validate_outside_number(self, typed: str) -> str:
        try:
            return read(typed) if typed else ""
        except NotANumber as error:
            raise serializers.ValidationError(str(error)) from None

    def validate_staff_number(self, typed: str) -> str:
        others = Agent.objects.filter(staff_number=typed).exclude(pk=getattr(self.instance, "pk", None))
        if typed and others.exists():
            raise serializers.ValidationError(f"{typed} is {others[0].name} already.")
        return typed

    def validate_skills(self, skills: dict[str, int]) -> dict[str, int]:
        unknown = set(skills) - services.skills().keys()
        if unknown:
            raise serializers.ValidationError("A skill of these does not exist (any more).")
        return skills

    def to_representation(self, agent: Agent) -> dict[str, Any]:
        agent.username = agent.user.username if agent.user else ""  # type: ignore[attr-defined]
        return super().to_representation(agent)


class AgentsFileSerializer(Form):
    file = serializers.FileField()

    def validate_file(self, file: Any) -> Any:
        if file.size > LARGEST_FILE:
            raise serializers.ValidationError("The file is larger than 2 MB.")
        return file


class BadAgentLineSerializer(Form):
    line = serializers.IntegerField()
    column = serializers.CharField(allow_blank=True)
    words = serializers.CharField()


class FileSerializer(Form):
    """What a file of agents does. `bad_count` 0: it can be taken in."""

    new = serializers.IntegerField()
    changed = serializers.IntegerField()
    same = serializers.IntegerField()
    bad = BadAgentLineSerializer(many=True)
    bad_count = serializers.IntegerField()


def _told_of(found: files.Found) -> dict[str, Any]:
    new = sum(line.agent is None for line in found.lines)
    return {
        "new": new,
        "changed": len(found.lines) - new,
        "same": found.same,
        "bad": [line._asdict() for line in found.bad[: files.MOST_NAMED]],
        "bad_count": len(found.bad),
    }


class BulkSerializer(Form):
    """What several agents get alike; what is not named stays. A level of None takes a skill."""

    ids = serializers.ListField(child=serializers.UUIDField(), min_length=1, max_length=2000)
    team = serializers.PrimaryKeyRelatedField(queryset=Team.objects.all(), required=False, allow_null=True)
    site = serializers.CharField(max_length=60, required=False, allow_blank=True)
    languages = serializers.ListField(
        child=serializers.ChoiceField(["en", "cy"]), required=False, max_length=10
    )
    levels = serializers.DictField(
        child=serializers.IntegerField(min_value=1, max_value=10, allow_null=True), required=False
    )

    def validate_levels(self, levels: dict[str, int | None]) -> dict[str, int | None]:
        if set(levels) - services.skills().keys():
            raise serializers.ValidationError("A skill of these does not exist (any more).")
        return levels

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if set(attrs) == {"ids"}:
            raise serializers.ValidationError("Say what is to change.")
        return attrs


class BulkDoneSerializer(Form):
    changed = serializers.IntegerField()


LARGEST_FILE = 2 * 1024 * 1024
#: Which column of the file a value comes from.
_COLUMN_OF = {
    "extension": "Extension",
    "name": "Name",
    "site": "Site",
    "languages": "Languages",
    "skills": "Skills",
    "outside_number": "Outside number",
    "username": "Signs in as",
}


class AgentViewSet(ItemViewSet):
    area = "agents"
    asks = {"list": ("as", "ids", "teams")}
    queryset = Agent.objects.select_related("user", "team")
    serializer_class = AgentSerializer
    search_fields = ["name", "extension", "team__name", "site"]
    ordering_fields = ["name", "extension", "team__name", "site"]

    def filter_queryset(self, queryset: Any) -> Any:
        rows = super().filter_queryset(queryset)
        teams = self.ids_asked("teams")
        return rows if teams is None else rows.filter(team__in=teams)

    @extend_schema(
        parameters=[
            *LIST_PARAMETERS,
            OpenApiParameter("teams", str, description="Only of these, separated by commas."),
        ]
    )
    def list(self, request: Request, *args: Any, **kwargs: Any) -> Any:
        if request.query_params.get("as") == "csv":
            return csv_of("agents", files.rows(), files.NAMES)
        return super().list(request, *args, **kwargs)

    @extend_schema(request={"multipart/form-data": AgentsFileSerializer}, responses=FileSerializer)
    @action(detail=False, methods=["post"], parser_classes=[MultiPartParser])
    def preview(self, request: Request) -> Response:
        """What a CSV file of agents would do; nothing is changed."""
        return Response(_told_of(self._look(request)))

    @extend_schema(request={"multipart/form-data": AgentsFileSerializer}, responses=FileSerializer)
    @action(detail=False, methods=["post"], parser_classes=[MultiPartParser], url_path="import")
    def import_file(self, request: Request) -> Response:
        """Make and change the agents of a CSV file, all or none; who is not in it stays."""
        found = self._look(request)
        files.import_file(request.user, found)
        return Response(_told_of(found))

    def _look(self, request: Request) -> files.Found:
        form = AgentsFileSerializer(data=request.data)
        form.is_valid(raise_exception=True)

        def validate(agent: Agent | None, values: dict[str, Any]) -> dict[str, Any]:
            revision = {"revision": agent.revision} if agent else {}
            line = AgentSerializer(agent, data={**values, **revision}, partial=agent is not None)
            if not line.is_valid():
                name, (words, *_) = next(iter(line.errors.items()))
                raise ValueError(f"{_COLUMN_OF.get(name, '')}: {words}")
            kept_values = dict(line.validated_data)
            kept_values.pop("revision", None)
            return kept_values

        try:
            return files.look(request.user, form.validated_data["file"].read(), validate)
        except NotATable as error:
            raise bad_request(str(error), file=[str(error)]) from None

    @extend_schema(request=BulkSerializer, responses=BulkDoneSerializer)
    @action(detail=False, methods=["post"])
    def bulk(self, request: Request) -> Response:
        """Change several agents alike, all or none."""
        form = BulkSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = dict(form.validated_data)
        found = list(Agent.objects.filter(pk__in=values.pop("ids")))
        levels = values.pop("levels", {})
        return Response({"changed": services.change_many(request.user, found, values, levels)})

    def make(self, values: dict[str, Any]) -> Agent:
        return services.make_agent(self.request.user, **values)

    def keep(self, instance: Agent, revision: int, values: dict[str, Any]) -> None:
        services.change_agent(self.request.user, instance, revision, **values)


class TeamSerializer(ItemSerializer):
    """A team; agents name the one that they work in, and supervisors reach those of theirs."""

    agent_count = serializers.IntegerField(read_only=True)
    supervisors = serializers.PrimaryKeyRelatedField(
        many=True, queryset=supervisors(), pk_field=serializers.CharField(), required=False
    )
    supervisor_names = serializers.SerializerMethodField()
    talk_limit_s = limit_field("How long somebody talks before that (s); 0: never.")
    wrap_limit_s = limit_field("How long somebody wraps up before that (s); 0: never.")
    away_limit_s = limit_field("How long somebody is away before that (s); 0: never.")
    missed_limit = serializers.IntegerField(
        min_value=0,
        max_value=LAST,
        required=False,
        help_text="How many of the last five rings are missed before that; 0: never.",
    )

    class Meta:
        model = Team
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "supervisors",
            "supervisor_names",
            "talk_limit_s",
            "wrap_limit_s",
            "away_limit_s",
            "missed_limit",
            "agent_count",
        ]

    def get_supervisor_names(self, team: Team) -> list[str]:
        return [person.full_name for person in team.supervisors.all()]


class TeamViewSet(ItemViewSet):
    area = "teams"
    queryset = Team.objects.annotate(agent_count=Count("agents")).prefetch_related("supervisors")
    serializer_class = TeamSerializer
    search_fields = ["name"]
    ordering_fields = ["name", "agent_count"]


class SkillSerializer(ItemSerializer):
    """A skill; agents have it at a level from 1 to 10."""

    class Meta:
        model = Skill
        fields = ["id", "revision", "updated_at", "name"]


class SkillViewSet(ItemViewSet):
    area = "teams"
    queryset = Skill.objects.all()
    serializer_class = SkillSerializer
    search_fields = ["name"]
    ordering_fields = ["name"]


class CountedSerializer(Form):
    """The value that counts, and the layer that it comes from."""

    value = serializers.JSONField()
    layer = serializers.ChoiceField(list(LAYERS))


class SettingSerializer(Form):
    """A rule: what it may be, what each layer sets, and what counts."""

    name = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())
    least = serializers.IntegerField()
    most = serializers.IntegerField()
    unit = serializers.CharField()
    kind = serializers.ChoiceField(get_args(SettingKind))
    centre = serializers.JSONField(allow_null=True)
    team = serializers.JSONField(allow_null=True)
    agent = serializers.JSONField(allow_null=True)
    counts = CountedSerializer()


class LayerRevisionsSerializer(Form):
    """The revision of each layer; None where it sets nothing yet."""

    centre = serializers.IntegerField()
    team = serializers.IntegerField(allow_null=True)
    agent = serializers.IntegerField(allow_null=True)


class HandlingRulesSerializer(Form):
    """The rules of the centre, a team or an agent: layer by layer."""

    team = serializers.CharField(allow_blank=True)
    agent = serializers.CharField(allow_blank=True)
    settings = SettingSerializer(many=True)
    revisions = LayerRevisionsSerializer()
    away_reasons = serializers.ListField(child=serializers.CharField())


class SetRulesSerializer(Form):
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
        values = {name: _as_rung(name, value) for name, value in values.items()}
        problems = {n: [w] for n, v in values.items() if (w := wrong(n, v) or _gone(v))}
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


def _gone(value: Any) -> str | None:
    known = not isinstance(value, str) or exists(value)
    return None if known else "This does not exist (any more)."


def _as_rung(name: str, value: Any) -> Any:
    """A number that was typed as a target, as it can be rung; all else as it is."""
    setting = BY_NAME.get(name)
    typed = setting is not None and setting.kind == "target" and isinstance(value, str)
    if not typed or not value or ":" in value:
        return value
    try:
        return read(value)
    except NotANumber:
        return value


class HandlingRulesView(View):
    """How agents work, in three layers."""

    area = "agents"
    asks = {"get": ("team", "agent")}

    @extend_schema(
        responses=HandlingRulesSerializer,
        parameters=[OpenApiParameter("team", str), OpenApiParameter("agent", str)],
    )
    def get(self, request: Request) -> Response:
        """What counts for the centre, a team, or an agent, and where it comes from."""
        team, agent = _whose(request.query_params)
        return Response(_rules_told(team, agent))

    @extend_schema(request=SetRulesSerializer, responses=HandlingRulesSerializer)
    def patch(self, request: Request) -> Response:
        """Set or clear rules of one layer."""
        form = SetRulesSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        asked = form.validated_data
        ids = {name: str(asked[name]) for name in ("team", "agent") if asked[name]}
        team, agent = _whose(ids)
        whose = {"centre": {}, "team": {"team": team}, "agent": {"agent": agent}}
        must(request.user, "change", HandlingRules, whose[asked["layer"]])
        try:
            _set(request.user, asked, team, agent)
        except Stale as stale:
            stale.current = _rules_told(team, agent)
            raise
        return Response(_rules_told(team, agent))


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
        config_store.change(user, rules, asked["revision"], values=values, **more)
        return
    of = {"team": str(team.pk)} if asked["layer"] == "team" and team else {"agent": str(agent.pk)}  # type: ignore[union-attr]
    services.set_layer(user, services.layer_of(**of), asked["revision"], changed, **of)


def _rules_told(team: Team | None, agent: Agent | None) -> dict[str, Any]:
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
            "name": s.name,
            "choices": list(s.choices),
            "least": s.least,
            "most": s.most,
            "unit": s.unit,
            "kind": s.kind,
            "counts": counted[s.name]._asdict(),
            "centre": layers["centre"].get(s.name, s.default),
            "team": layers["team"].get(s.name),
            "agent": layers["agent"].get(s.name),
        }
        for s in SETTINGS
    ]
    revisions = {
        "centre": centre.revision,
        "team": of_team.revision if of_team else None,
        "agent": of_agent.revision if of_agent else None,
    }
    told = {
        "team": team.name if team else "",
        "agent": agent.name if agent else "",
        "settings": rows,
        "revisions": revisions,
        "away_reasons": centre.away_reasons,
    }
    return dict(HandlingRulesSerializer(told).data)
