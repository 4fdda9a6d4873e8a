"""Numbers."""

from __future__ import annotations

from datetime import UTC
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import LIST_PARAMETERS, ItemSerializer, ItemViewSet
from callcore.flow.inputs import misfits
from changelog import kinds
from phone_numbers import services
from phone_numbers.answering import FlowChoice, flow_choices, flow_names
from phone_numbers.models import Channel, Number
from phone_numbers.numbering import NotFree, free
from phone_numbers.plan import NotANumber, fictional, national, read, read_any
from web.base import Form, View
from web.parts import PartSerializer
from web.problems import bad_request

MOST_PLANNED = 50


class PlannedSerializer(PartSerializer):
    """From `at` on, this flow answers with these values; null answers nothing any more."""

    at = serializers.DateTimeField(default_timezone=UTC)
    flow = serializers.UUIDField(allow_null=True)
    values = serializers.DictField(child=serializers.JSONField(), default=dict)


class NumberSerializer(ItemSerializer):
    """A number, typed in any usual way and answered in E.164; or an internal extension."""

    address = serializers.CharField(max_length=40)
    channel = serializers.ChoiceField(Channel.choices, required=False)
    national = serializers.SerializerMethodField()
    fictional = serializers.SerializerMethodField()
    internal = serializers.SerializerMethodField(help_text="An extension, not a public number.")
    values = serializers.DictField(child=serializers.JSONField(), required=False)
    planned = PlannedSerializer(many=True, required=False)
    flow_now = serializers.SerializerMethodField(help_text="What answers at this moment, by name.")

    class Meta:
        model = Number
        fields = [
            "id",
            "revision",
            "updated_at",
            "address",
            "channel",
            "national",
            "fictional",
            "internal",
            "label",
            "flow",
            "values",
            "planned",
            "flow_now",
        ]

    def validate_address(self, typed: str) -> str:
        identity = str(getattr(self.instance, "pk", ""))
        try:
            address = read_any(typed)
            if not address.startswith("+"):
                return free(address, "number", identity)
        except (NotANumber, NotFree) as error:
            raise serializers.ValidationError(str(error)) from None
        other = Number.objects.filter(address=address).exclude(pk=identity or None).first()
        if other:
            raise serializers.ValidationError(f"{national(address)} is {other.title} already.")
        return address

    def validate_planned(self, planned: list[dict[str, Any]]) -> list[dict[str, Any]]:
        if len(planned) > MOST_PLANNED:
            raise serializers.ValidationError(f"At most {MOST_PLANNED} changes can be planned.")
        rows = [
            {
                "at": p["at"].astimezone(UTC).replace(microsecond=0).isoformat(),
                "flow": str(p["flow"] or "") or None,
                "values": p.get("values", {}),
            }
            for p in planned
        ]
        if len({row["at"] for row in rows}) < len(rows):
            raise serializers.ValidationError("Two changes are planned for the same moment.")
        return sorted(rows, key=lambda row: str(row["at"]))

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)

        def of(name: str, default: Any) -> Any:
            return attrs.get(name, getattr(self.instance, name, default))

        flow, channel, planned = of("flow", None), of("channel", Channel.VOICE), of("planned", [])
        identities = {str(flow.pk)} if flow else set()
        known = flow_choices(identities | {row["flow"] for row in planned if row["flow"]})
        if flow:
            if "flow" in attrs or "values" in attrs or "channel" in attrs:
                _fit(known[str(flow.pk)], of("values", {}), channel, "flow", "values")
        elif attrs.get("values"):
            raise serializers.ValidationError({"values": ["Choose the flow that takes values."]})
        for row in attrs.get("planned", []):
            if row["flow"] and row["flow"] not in known:
                message = "A planned flow does not exist (any more)."
                raise serializers.ValidationError({"planned": [message]})
            if row["flow"]:
                _fit(known[row["flow"]], row["values"], channel, "planned", "planned")
        return attrs

    def get_flow_now(self, number: Number) -> str | None:
        if "flow_names" not in self.context:
            shown = self.shown(number)
            planned = {row["flow"] for one in shown for row in one.planned if row["flow"]}
            self.context["flow_names"] = flow_names(
                planned | {str(one.flow_id) for one in shown if one.flow_id}
            )
        now_ms = round(self.moment().timestamp() * 1000)
        found = services.facts_of(number).applies_at(now_ms).flow
        return self.context["flow_names"].get(found)

    def get_national(self, number: Number) -> str:
        return national(number.address)

    def get_fictional(self, number: Number) -> bool:
        return fictional(number.address)

    def get_internal(self, number: Number) -> bool:
        return not number.address.startswith("+")


def _fit(flow: FlowChoice, values: dict[str, Any], channel: str, flow_field: str, values_field: str) -> None:
    """Refuse a flow of another channel, and values that do not fit its inputs."""
    unfit = flow.unfit(channel)
    if unfit:
        raise serializers.ValidationError({flow_field: [unfit]})
    labels = {declared.name: declared.label or declared.name for declared in flow.inputs}
    wrong = [f"{labels.get(name, name)}: {w}." for name, w in misfits(flow.inputs, values).items()]
    wrong += [
        f"{labels[name]}: that does not exist (any more)."
        for name, value in values.items()
        if name in labels and isinstance(value, str) and not kinds.exists(value)
    ]
    if wrong:
        raise serializers.ValidationError({values_field: wrong})


class ReadNumberSerializer(Form):
    address = serializers.CharField()
    national = serializers.CharField()
    fictional = serializers.BooleanField()


class ReadNumberView(View):
    """What a number typed in any usual way is in E.164."""

    area, verb = "numbers", "see"
    asks = {"get": ("text",)}

    @extend_schema(parameters=[OpenApiParameter("text", str)], responses=ReadNumberSerializer)
    def get(self, request: Request) -> Response:
        try:
            address = read(request.query_params.get("text", "")[:60])
        except NotANumber as error:
            raise bad_request(str(error), text=[str(error)]) from None
        found = {"address": address, "national": national(address)}
        return Response({**found, "fictional": fictional(address)})


class NumberViewSet(ItemViewSet):
    area = "numbers"
    queryset = Number.objects.all()
    serializer_class = NumberSerializer
    search_fields = ["address", "label", "flow__name"]
    ordering_fields = ["address", "label", "channel", "flow__name"]
    asks = {"list": ("as", "ids", "channel")}

    def filter_queryset(self, queryset: Any) -> Any:
        rows = super().filter_queryset(queryset)
        channel = self.request.query_params.get("channel")
        return rows.filter(channel=channel) if channel and self.action == "list" else rows

    @extend_schema(
        parameters=[
            *LIST_PARAMETERS,
            OpenApiParameter("channel", str, enum=["voice", "text"], description="Only of it."),
        ]
    )
    def list(self, request: Request, *args: Any, **kwargs: Any) -> Any:
        return super().list(request, *args, **kwargs)
