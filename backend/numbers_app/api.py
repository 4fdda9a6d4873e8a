"""Numbers."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from rest_framework import serializers

from callcore.numbers.plan import applies
from flows.services import flow_names
from hazeridge.api.views import KeptSerializer, KeptViewSet
from numbers_app import services
from numbers_app.models import Number
from numbers_app.plan import NotANumber, fictional, national, read

MOST_PLANNED = 50


class PlannedSerializer(serializers.Serializer):
    """From `at` on, this flow answers; null answers nothing any more."""

    at = serializers.DateTimeField(default_timezone=UTC)
    flow = serializers.UUIDField(allow_null=True)


class NumberSerializer(KeptSerializer):
    """A number, typed in any usual way and answered in E.164."""

    e164 = serializers.CharField(max_length=40)
    national = serializers.SerializerMethodField()
    fictional = serializers.SerializerMethodField()
    planned = PlannedSerializer(many=True, required=False)
    flow_now = serializers.SerializerMethodField(help_text="What answers at this moment, by name.")

    class Meta:
        model = Number
        fields = [
            "id", "revision", "updated_at", "e164", "national", "fictional", "label", "flow",
            "planned", "flow_now",
        ]  # fmt: skip

    def validate_e164(self, typed: str) -> str:
        try:
            e164 = read(typed)
        except NotANumber as error:
            raise serializers.ValidationError(str(error)) from None
        taken = Number.objects.filter(e164=e164).exclude(pk=getattr(self.instance, "pk", None))
        other = taken.first()
        if other:
            raise serializers.ValidationError(f"{national(e164)} is {other.title} already.")
        return e164

    def validate_planned(self, planned: list[dict[str, Any]]) -> list[dict[str, Any]]:
        if len(planned) > MOST_PLANNED:
            raise serializers.ValidationError(f"At most {MOST_PLANNED} changes can be planned.")
        known = flow_names()
        rows = [
            {
                "at": p["at"].astimezone(UTC).replace(microsecond=0).isoformat(),
                "flow": str(p["flow"] or "") or None,
            }
            for p in planned
        ]
        if any(row["flow"] and row["flow"] not in known for row in rows):
            raise serializers.ValidationError("A planned flow does not exist (any more).")
        if len({row["at"] for row in rows}) < len(rows):
            raise serializers.ValidationError("Two changes are planned for the same moment.")
        return sorted(rows, key=lambda row: str(row["at"]))

    def get_flow_now(self, number: Number) -> str | None:
        planned = services.planned_of(number)
        found = applies(str(number.flow_id or ""), planned, datetime.now(UTC)).flow
        if "flow_names" not in self.context:
            self.context["flow_names"] = flow_names()
        return self.context["flow_names"].get(found)

    def get_national(self, number: Number) -> str:
        return national(number.e164)

    def get_fictional(self, number: Number) -> bool:
        return fictional(number.e164)


class NumberViewSet(KeptViewSet):
    area = "numbers"
    queryset = Number.objects.select_related("flow")
    serializer_class = NumberSerializer
    search_fields = ["e164", "label", "flow__name"]
    ordering_fields = ["e164", "label", "flow__name"]
