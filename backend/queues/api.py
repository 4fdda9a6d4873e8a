"""Queues."""

from __future__ import annotations

from typing import Any

from django.db.models import Count
from rest_framework import serializers

from callcore.measures.rows import FORMULAS
from flows.services import flow_choices
from hazeridge.api.views import KeptSerializer, KeptViewSet
from numbers_app.fields import ExtensionField
from queues.models import Queue


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

    class Meta:
        model = Queue
        fields = [
            "id", "revision", "updated_at", "name", "extension", "finished", "colour", "members",
            "member_count", "priority", "longest_wait_s", "threshold_s", "goal_percent",
            "short_abandon_s", "formula", "code_set", "plan", "note",
        ]  # fmt: skip
        read_only_fields = ["finished"]

    def validate_plan(self, flow: Any) -> Any:
        if flow is not None and flow_choices([str(flow.pk)])[str(flow.pk)].purpose != "plan":
            raise serializers.ValidationError(f"“{flow.name}” is no waiting plan.")
        return flow

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        if self.instance is not None or set(attrs) - {"name", "revision"}:
            attrs["finished"] = True
        return attrs


class QueueViewSet(KeptViewSet):
    area = "queues"
    queryset = Queue.objects.annotate(member_count=Count("members")).prefetch_related("members")
    serializer_class = QueueSerializer
    search_fields = ["name", "extension"]
    ordering_fields = ["name", "extension", "member_count", "priority", "threshold_s"]
