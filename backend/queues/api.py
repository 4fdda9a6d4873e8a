"""Queues."""

from __future__ import annotations

from typing import Any

from django.db.models import Count
from rest_framework import serializers

from agents.services import skills
from callcore.measures.rows import FORMULAS
from callcore.routing.choosing import WAYS
from changelog.kinds import exists
from flows.services import flow_choices
from hazeridge.api.views import KeptSerializer, KeptViewSet
from numbers_app.fields import ExtensionField
from queues.models import Queue


class AskSerializer(serializers.Serializer):
    """A skill that callers of the queue need, and the least level."""

    skill = serializers.CharField(max_length=40)
    least = serializers.IntegerField(min_value=1, max_value=10)

    def validate_skill(self, skill: str) -> str:
        if skill not in skills():
            raise serializers.ValidationError("This skill does not exist (any more).")
        return skill


class WidenSerializer(serializers.Serializer):
    """After a time skills may be lower by some levels, and other teams may take the contact."""

    after_s = serializers.IntegerField(min_value=1, max_value=24 * 3600)
    lower = serializers.IntegerField(min_value=0, max_value=10, default=0)
    teams = serializers.ListField(child=serializers.UUIDField(), default=list, max_length=50)

    def validate_teams(self, teams: list[Any]) -> list[str]:
        found = [str(team) for team in teams]
        if not all(exists(f"team:{team}") for team in found):
            raise serializers.ValidationError("A team of these does not exist (any more).")
        return found


class QueueSerializer(KeptSerializer):
    """A queue. Created with a name alone it stays unfinished until it is changed once."""

    member_count = serializers.IntegerField(read_only=True)
    extension = ExtensionField("queue", allow_blank=True, required=False)
    colour = serializers.RegexField(r"^#[0-9A-Fa-f]{6}$", required=False)
    priority = serializers.IntegerField(min_value=1, max_value=99, required=False)
    longest_wait_s = serializers.IntegerField(
        min_value=10, max_value=24 * 3600, required=False, allow_null=True
    )
    threshold_s = serializers.IntegerField(min_value=1, max_value=3600, required=False)
    goal_percent = serializers.IntegerField(min_value=1, max_value=100, required=False)
    short_abandon_s = serializers.IntegerField(min_value=0, max_value=120, required=False)
    formula = serializers.ChoiceField(
        [(f, f"{f}: {w}") for f, w in FORMULAS.items()], required=False
    )

    growth = serializers.FloatField(min_value=0, max_value=20, required=False)
    chooses = serializers.ChoiceField(list(WAYS.items()), required=False)
    asks = AskSerializer(many=True, required=False)
    widening = WidenSerializer(many=True, required=False)
    ranks = serializers.DictField(
        child=serializers.IntegerField(min_value=1, max_value=9), required=False
    )
    prefer_s = serializers.IntegerField(min_value=0, max_value=3600, required=False)
    when_closed = serializers.ChoiceField(["wait", "leave"], required=False)
    when_nobody = serializers.ChoiceField(["wait", "leave"], required=False)

    class Meta:
        model = Queue
        fields = [
            "id", "revision", "updated_at", "name", "extension", "finished", "colour", "members",
            "teams", "ranks",
            "member_count", "growth", "chooses", "asks", "widening", "prefer_s", "hours",
            "when_closed", "when_nobody", "priority",
            "longest_wait_s", "threshold_s", "goal_percent",
            "short_abandon_s", "formula", "code_set", "plan", "note",
        ]  # fmt: skip
        read_only_fields = ["finished"]

    def validate_plan(self, flow: Any) -> Any:
        if flow is not None and flow_choices([str(flow.pk)])[str(flow.pk)].purpose != "plan":
            raise serializers.ValidationError(f"“{flow.name}” is no waiting plan.")
        return flow

    def validate_widening(self, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        moments = [row["after_s"] for row in rows]
        if len(set(moments)) < len(moments):
            raise serializers.ValidationError("Two steps of widening come at the same time.")
        return sorted(rows, key=lambda row: int(row["after_s"]))

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        if self.instance is not None or set(attrs) - {"name", "revision"}:
            attrs["finished"] = True
        return attrs


class QueueViewSet(KeptViewSet):
    area = "queues"
    queryset = Queue.objects.annotate(
        member_count=Count("members", distinct=True) + Count("teams__agents", distinct=True)
    ).prefetch_related("members", "teams")
    serializer_class = QueueSerializer
    search_fields = ["name", "extension"]
    ordering_fields = ["name", "extension", "member_count", "priority", "threshold_s"]
