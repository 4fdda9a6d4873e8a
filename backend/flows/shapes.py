"""The shapes in which flows come and go."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from accounts.item_views import ItemSerializer, RevisionSerializer
from callcore.flow.definition import dump, load
from callcore.flow.inputs import TYPE_WORDS
from flows import services
from flows.models import Flow, Version
from web.base import Form

LARGEST_FILE = 5 * 1024 * 1024


@extend_schema_field({"$ref": "#/components/schemas/Definition"})
class DefinitionField(serializers.JSONField):
    """A flow definition; its JSON Schema is the core's own.

    It is answered whole: what was saved before a field was there has its default.
    """

    def to_representation(self, value: Any) -> Any:
        return dump(load(value))


class VersionSerializer(serializers.ModelSerializer):
    class Meta:
        model = Version
        fields = ["id", "number", "note", "overridden", "author_name", "published_at"]


class FlowSerializer(ItemSerializer):
    """A flow without its definition, as lists show it."""

    in_force = VersionSerializer(read_only=True, allow_null=True)
    scheduled = VersionSerializer(read_only=True, allow_null=True)
    scheduled_at = serializers.DateTimeField(read_only=True, allow_null=True)
    stops = serializers.IntegerField(read_only=True)
    channel = serializers.CharField(read_only=True)
    purpose = serializers.ChoiceField(["flow", "block", "plan"], required=False)

    class Meta:
        model = Flow
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "channel",
            "purpose",
            "in_force",
            "scheduled",
            "scheduled_at",
            "stops",
        ]


class InputSerializer(Form):
    """An input that a number may fill: in force, or added by the draft."""

    name = serializers.CharField()
    label = serializers.CharField()
    type = serializers.ChoiceField(list(TYPE_WORDS))
    default = serializers.JSONField(allow_null=True)


class FlowDraftSerializer(FlowSerializer):
    """A flow with its draft, as the editor reads and writes it."""

    draft = DefinitionField(required=False)  # with every field, also of drafts of older times
    inputs = serializers.SerializerMethodField()

    class Meta(FlowSerializer.Meta):
        fields = [*FlowSerializer.Meta.fields, "draft", "inputs"]

    def to_representation(self, flow: Flow) -> dict[str, Any]:
        return {**super().to_representation(flow), "draft": dump(load(flow.draft))}

    @extend_schema_field(InputSerializer(many=True))
    def get_inputs(self, flow: Flow) -> list[dict[str, Any]]:
        return [declared.model_dump(mode="json") for declared in services.inputs_of(flow)]


class ExitSerializer(Form):
    name = serializers.CharField()
    to = serializers.CharField(allow_null=True)
    failure = serializers.BooleanField()
    ends = serializers.BooleanField(help_text="This way is an ending of its own.")
    label = serializers.CharField()
    share = serializers.FloatField()


class StopSerializer(Form):
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
    mark = serializers.CharField(help_text="Another one whenever something else is told of the stop.")


class PatchOperationSerializer(Form):
    op = serializers.ChoiceField(["add", "remove", "replace"])
    path = serializers.CharField()
    value = serializers.JSONField(required=False)


class FixSerializer(Form):
    label = serializers.CharField()
    patch = PatchOperationSerializer(many=True)
    goto = serializers.CharField()


class FindingSerializer(Form):
    code = serializers.CharField()
    severity = serializers.ChoiceField(["blocks", "warns", "hints"])
    step = serializers.CharField()
    exit = serializers.CharField()
    message = serializers.CharField()
    mend = serializers.CharField()
    accepted = serializers.CharField(help_text="Why the author lets it be; empty: they do not.")
    name = serializers.CharField()
    fix = FixSerializer(allow_null=True)


class DifferenceSerializer(Form):
    added = serializers.ListField(child=serializers.CharField())
    removed = serializers.ListField(child=serializers.CharField())
    changed = serializers.ListField(child=serializers.CharField())
    settings = serializers.ListField(child=serializers.CharField())


class InspectionSerializer(Form):
    order = serializers.ListField(
        child=serializers.CharField(), help_text="The ids of all stops, those too that are known already."
    )
    stops = StopSerializer(many=True)
    kinds = serializers.ListField(
        child=serializers.CharField(), help_text="The kinds of stops that this flow may have."
    )
    findings = FindingSerializer(many=True)
    blocked = serializers.BooleanField()
    changes = serializers.IntegerField(allow_null=True)
    difference = DifferenceSerializer(allow_null=True)


class DraftInHandSerializer(Form):
    draft = DefinitionField()


class InspectedSerializer(DraftInHandSerializer):
    known = serializers.DictField(
        child=serializers.CharField(max_length=12),
        default=dict,
        help_text="The marks of stops that are known, by their ids: such a stop is told only if it changed.",
    )


class BringBackSerializer(RevisionSerializer):
    number = serializers.IntegerField(min_value=1)


class PublishingSerializer(RevisionSerializer):
    """`at` puts it in force then, not now; `override` says why failing trials are let be."""

    at = serializers.DateTimeField(required=False, allow_null=True, default=None)
    override = serializers.CharField(max_length=300, allow_blank=True, default="")
    note = serializers.CharField(max_length=300, allow_blank=True, default="")


class PublishedSerializer(Form):
    version = VersionSerializer()
    at = serializers.DateTimeField(allow_null=True, help_text="When it comes into force; null: now.")
    change = serializers.IntegerField(
        help_text="The revision from which on the exchange runs it, once it has taken that."
    )
    in_effect = serializers.IntegerField(
        allow_null=True, help_text="Revision in effect on the exchange; null if it did not answer."
    )


class TurnSerializer(Form):
    step = serializers.CharField()
    exit = serializers.CharField()
    label = serializers.CharField()
    choice = serializers.BooleanField()


class RouteSerializer(Form):
    turns = TurnSerializer(many=True)
    fate = serializers.CharField()
    place = serializers.CharField()
    share = serializers.FloatField()
    shortest_s = serializers.FloatField()
    longest_s = serializers.FloatField(allow_null=True)


class RoutesSerializer(Form):
    listed = RouteSerializer(many=True)
    total = serializers.IntegerField()
    complete = serializers.BooleanField()
    rest = serializers.FloatField()


class TryingSerializer(DraftInHandSerializer):
    """`hold` stops where the next key is needed."""

    setup = serializers.DictField()
    hold = serializers.BooleanField(default=True)


class TrialLineSerializer(Form):
    at_ms = serializers.IntegerField()
    kind = serializers.CharField()
    step = serializers.CharField()
    exit = serializers.CharField()
    to = serializers.CharField()
    words = serializers.CharField()
    why = serializers.CharField()


class TriedSerializer(Form):
    lines = TrialLineSerializer(many=True)
    stops = serializers.ListField(child=serializers.CharField())
    heard = serializers.ListField(child=serializers.CharField())
    ending = serializers.CharField()
    place = serializers.CharField()
    seconds = serializers.FloatField()
    open = serializers.CharField()
    phase = serializers.CharField()
    step = serializers.CharField()
    listens = serializers.BooleanField()


class OutcomeSerializer(Form):
    id = serializers.CharField()
    name = serializers.CharField()
    passed = serializers.BooleanField()
    differences = serializers.ListField(child=serializers.CharField())
    ending = serializers.CharField()
    seconds = serializers.FloatField()
    setup = serializers.DictField()


class ExtractingSerializer(DraftInHandSerializer):
    """The stops that become a shared block, and its name."""

    steps = serializers.ListField(child=serializers.CharField(max_length=40), max_length=500)
    name = serializers.CharField(max_length=80)

    def validate_name(self, name: str) -> str:
        if Flow.objects.filter(name=name).exists():
            raise serializers.ValidationError(f"There is a flow or block “{name}” already.")
        return name


class ExtractedSerializer(Form):
    """The draft that uses the new block, and the stop where it does."""

    draft = DefinitionField()
    made = serializers.CharField()
    block = serializers.UUIDField()


class SaveTrialSerializer(DraftInHandSerializer):
    name = serializers.CharField(max_length=80)
    setup = serializers.DictField()


class FlowChangeSerializer(Form):
    kind = serializers.ChoiceField(["added", "removed", "changed", "settings"])
    step = serializers.CharField()
    words = serializers.CharField()
    details = serializers.ListField(child=serializers.CharField())


class ComparedMapSerializer(Form):
    start = serializers.CharField(allow_null=True)
    inspection = InspectionSerializer()


class ComparedMapsSerializer(Form):
    before = ComparedMapSerializer()
    after = ComparedMapSerializer()


class ComparedSerializer(Form):
    """What differs in words, and both as maps."""

    changes = FlowChangeSerializer(many=True)
    maps = ComparedMapsSerializer()


class ClashesSerializer(Form):
    """Two drafts of a flow, and the one that both authors began from."""

    base = DefinitionField()
    mine = DefinitionField()
    theirs = DefinitionField()


class ClashSerializer(Form):
    """A part of a stop (`step` empty: a setting) that both changed, and differently."""

    step = serializers.CharField(allow_blank=True)
    part = serializers.CharField(allow_blank=True)
    label = serializers.CharField()
    mine = serializers.CharField()
    theirs = serializers.CharField()


class FlowFileSerializer(Form):
    file = serializers.FileField()

    def validate_file(self, file: Any) -> Any:
        if file.size > LARGEST_FILE:
            raise serializers.ValidationError("The file is larger than 5 MB.")
        return file


class FlowFileItemSerializer(Form):
    kind = serializers.CharField()
    name = serializers.CharField()
    state = serializers.ChoiceField(["new", "same", "differs", "missing"])


class FlowFilePreviewSerializer(Form):
    name = serializers.CharField()
    stops = serializers.IntegerField()
    things = FlowFileItemSerializer(many=True)
