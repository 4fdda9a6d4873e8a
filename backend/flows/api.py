"""Flows: the draft, its inspection, publishing, versions."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import F, Func, IntegerField, TextField, Value
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Coalesce
from django.http import HttpRequest, JsonResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from callcore.flow.definition import json_schema, load
from callcore.flow.inputs import TYPE_WORDS
from changelog import kept
from exchange.commands import reload_exchange
from exchange.snapshots import arm_counts
from flows import services
from flows.inspect import inspect, world_of
from flows.models import Flow, Version
from hazeridge.api.views import KeptSerializer, KeptViewSet

INTEGER, TEXT = IntegerField(), TextField()


def add_definition_schema(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """Put the core's own schema of definitions among the API's components."""
    schema = json_schema("#/components/schemas/Definition{model}")
    parts = schema.pop("$defs")
    components = result["components"]["schemas"]
    components.update({f"Definition{name}": part for name, part in parts.items()})
    components["Definition"] = schema
    return result


@extend_schema_field({"$ref": "#/components/schemas/Definition"})
class DefinitionField(serializers.JSONField):
    """A flow definition; its JSON Schema is the core's own."""


class VersionSerializer(serializers.ModelSerializer):
    class Meta:
        model = Version
        fields = ["id", "number", "note", "author_name", "published_at"]


class FlowSerializer(KeptSerializer):
    """A flow without its definition, as lists show it."""

    in_force = VersionSerializer(read_only=True)
    stops = serializers.IntegerField(read_only=True)
    channel = serializers.CharField(read_only=True)

    class Meta:
        model = Flow
        fields = ["id", "revision", "updated_at", "name", "channel", "in_force", "stops"]


class InputSerializer(serializers.Serializer):
    """An input that a number may fill: in force, or added by the draft."""

    name = serializers.CharField()
    label = serializers.CharField()
    type = serializers.ChoiceField(list(TYPE_WORDS))
    default = serializers.JSONField(allow_null=True)


class FlowDraftSerializer(FlowSerializer):
    """A flow with its draft, as the editor reads and writes it."""

    draft = DefinitionField(required=False)
    inputs = serializers.SerializerMethodField()

    class Meta(FlowSerializer.Meta):
        fields = [*FlowSerializer.Meta.fields, "draft", "inputs"]

    @extend_schema_field(InputSerializer(many=True))
    def get_inputs(self, flow: Flow) -> list[dict[str, Any]]:
        return [declared.model_dump(mode="json") for declared in services.inputs_of(flow)]


class ExitSerializer(serializers.Serializer):
    name = serializers.CharField()
    to = serializers.CharField(allow_null=True)
    failure = serializers.BooleanField()
    ends = serializers.BooleanField(help_text="This way is an ending of its own.")
    label = serializers.CharField()
    share = serializers.FloatField()


class StopSerializer(serializers.Serializer):
    id = serializers.CharField()
    kind = serializers.CharField()
    title = serializers.CharField()
    sentence = serializers.CharField()
    name = serializers.CharField()
    seconds = serializers.FloatField()
    place = serializers.CharField()
    fate = serializers.CharField(allow_null=True)
    fates = serializers.DictField(child=serializers.FloatField())
    reach = serializers.FloatField()
    exits = ExitSerializer(many=True)


class FixSerializer(serializers.Serializer):
    label = serializers.CharField()
    patch = serializers.ListField(child=serializers.DictField())
    goto = serializers.CharField()


class FindingSerializer(serializers.Serializer):
    code = serializers.CharField()
    severity = serializers.ChoiceField(["blocks", "warns", "hints"])
    step = serializers.CharField()
    exit = serializers.CharField()
    message = serializers.CharField()
    mend = serializers.CharField()
    name = serializers.CharField()
    fix = FixSerializer(allow_null=True)


class DifferenceSerializer(serializers.Serializer):
    added = serializers.ListField(child=serializers.CharField())
    removed = serializers.ListField(child=serializers.CharField())
    changed = serializers.ListField(child=serializers.CharField())
    settings = serializers.ListField(child=serializers.CharField())


class InspectionSerializer(serializers.Serializer):
    stops = StopSerializer(many=True)
    findings = FindingSerializer(many=True)
    blocked = serializers.BooleanField()
    changes = serializers.IntegerField(allow_null=True)
    difference = DifferenceSerializer(allow_null=True)


class InspectRequestSerializer(serializers.Serializer):
    draft = DefinitionField()


class PublishRequestSerializer(serializers.Serializer):
    revision = serializers.IntegerField(min_value=1)
    note = serializers.CharField(max_length=300, allow_blank=True, default="")


class PublishedSerializer(serializers.Serializer):
    version = VersionSerializer()
    in_effect = serializers.IntegerField(
        allow_null=True, help_text="Revision in effect on the exchange; null if it did not answer."
    )


class FlowViewSet(KeptViewSet):
    area = "flows"
    queryset = (
        Flow.objects.select_related("in_force")
        .defer("in_force__definition")
        .annotate(
            stops=Func(F("draft__steps"), function="jsonb_array_length", output_field=INTEGER),
            channel=Coalesce(
                KeyTextTransform("channel", "draft"),
                Value("voice", output_field=TEXT),
                output_field=TEXT,
            ),
        )
    )
    search_fields = ["name"]
    ordering_fields = ["name", "channel", "stops", "updated_at"]

    def get_queryset(self) -> Any:
        # Lists do not carry the definitions: they would be read for their length only.
        rows = super().get_queryset()
        return rows.defer("draft") if self.action == "list" else rows

    def get_serializer_class(self) -> Any:
        return FlowSerializer if self.action == "list" else FlowDraftSerializer

    def get_permissions(self) -> Any:
        # Inspecting writes nothing: whoever may see a flow may have it checked.
        self.verb = "see" if self.action == "inspect" else None
        return super().get_permissions()

    def make(self, values: dict[str, Any]) -> Flow:
        definition = load(values["draft"]) if "draft" in values else None
        return services.make_flow(self.request.user, values["name"], definition)

    def keep(self, instance: Flow, revision: int, values: dict[str, Any]) -> None:
        user = self.request.user
        with transaction.atomic():
            if "draft" in values:
                instance = services.save_draft(user, instance, revision, values.pop("draft"))
                revision = instance.revision
            if values:
                kept.change(user, instance, revision, **values)

    @extend_schema(request=InspectRequestSerializer, responses=InspectionSerializer)
    @action(detail=True, methods=["post"])
    def inspect(self, request: Request, pk: str | None = None) -> Response:
        """Check and describe a definition as this flow's, without keeping it."""
        flow = self.get_object()
        form = InspectRequestSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        in_force = flow.in_force.definition if flow.in_force else None
        counts = arm_counts(str(flow.pk))
        draft = load(form.validated_data["draft"])
        world = world_of(draft, str(flow.pk), services.facts())
        return Response(inspect(draft, world, in_force, counts))

    @extend_schema(request=PublishRequestSerializer, responses=PublishedSerializer)
    @action(detail=True, methods=["post"])
    def publish(self, request: Request, pk: str | None = None) -> Response:
        """Put the draft in force; answered once the exchange runs on it."""
        form = PublishRequestSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        flow = self.get_object()
        with self.saying_what_stands(flow):
            version = services.publish(request.user, flow, **form.validated_data)
        in_effect = reload_exchange(request.user)
        return Response({"version": VersionSerializer(version).data, "in_effect": in_effect})

    @extend_schema(responses=VersionSerializer(many=True), filters=False)
    @action(detail=True, pagination_class=None, filter_backends=[])
    def versions(self, request: Request, pk: str | None = None) -> Response:
        """Every published version, newest first."""
        return Response(VersionSerializer(self.get_object().versions.all(), many=True).data)


class FlowSchemaView(APIView):
    """The JSON Schema of flow definitions."""

    area = "flows"

    @extend_schema(responses=OpenApiTypes.OBJECT)
    def get(self, request: HttpRequest) -> JsonResponse:
        return JsonResponse(json_schema(), content_type="application/schema+json")
