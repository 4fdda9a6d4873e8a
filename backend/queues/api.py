"""Queues."""

from __future__ import annotations

from typing import Any, get_args

from django.db.models import Count
from rest_framework import serializers

from accounts.item_views import ItemSerializer, ItemViewSet
from accounts.services import supervisors
from agents.services import reached, skills
from callcore.measures.rows import FORMULA_NAMES, FORMULAS
from callcore.routing.choosing import WAYS
from callcore.talk.recording import Told, Whose
from changelog.kinds import exists
from phone_numbers.answering import flow_choices
from phone_numbers.fields import ExtensionField
from queues.models import Queue
from web.base import Form
from web.parts import PartSerializer


class AskSerializer(PartSerializer):
    """A skill that callers of the queue need, and the least level."""

    skill = serializers.CharField(max_length=40)
    least = serializers.IntegerField(min_value=1, max_value=10)

    def validate_skill(self, skill: str) -> str:
        if skill not in skills():
            raise serializers.ValidationError("This skill does not exist (any more).")
        return skill


class WidenSerializer(PartSerializer):
    """After a time skills may be lower by some levels, and other teams may take the contact."""

    after_s = serializers.IntegerField(min_value=1, max_value=24 * 3600)
    lower = serializers.IntegerField(min_value=0, max_value=10, default=0)
    teams = serializers.ListField(child=serializers.UUIDField(), default=list, max_length=50)

    def validate_teams(self, teams: list[Any]) -> list[str]:
        found = [str(team) for team in teams]
        if not all(exists(f"team:{team}") for team in found):
            raise serializers.ValidationError("A team of these does not exist (any more).")
        return found


class ThenField(serializers.RegexField):
    """Where a queue sends those whom it lets go: a queue, mailbox or flow, or nothing."""

    def __init__(self, **more: Any) -> None:
        pattern = r"^((queue|mailbox|flow):[0-9a-f-]{36})?$"
        super().__init__(pattern, required=False, allow_blank=True, **more)


class QueueSerializer(ItemSerializer):
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
        [(f, f"{FORMULA_NAMES[f]}: {w}") for f, w in FORMULAS.items()], required=False
    )

    priority_growth = serializers.FloatField(min_value=0, max_value=20, required=False)
    distribution = serializers.ChoiceField(list(WAYS.items()), required=False)
    required_skills = AskSerializer(many=True, required=False)
    widening = WidenSerializer(many=True, required=False)
    ranks = serializers.DictField(
        child=serializers.IntegerField(min_value=1, max_value=2000),
        required=False,
        help_text="Places in the list, by agent: 1 comes first, who has none last, by name.",
    )
    last_agent_s = serializers.IntegerField(min_value=0, max_value=3600, required=False)
    when_closed = serializers.ChoiceField(["wait", "leave"], required=False)
    when_nobody = serializers.ChoiceField(["wait", "leave"], required=False)
    link = serializers.RegexField(
        r"^(https?://\S+)?$",
        max_length=500,
        required=False,
        allow_blank=True,
        error_messages={"invalid": "A link begins with https:// and has no blanks."},
    )
    channels = serializers.ListField(
        child=serializers.ChoiceField(["voice", "text"]), min_length=1, max_length=2, required=False
    )
    overflow = ThenField()
    overflow_nobody = ThenField()
    overflow_closed = ThenField()
    supervisors = serializers.PrimaryKeyRelatedField(
        many=True, queryset=supervisors(), pk_field=serializers.CharField(), required=False
    )
    recording = serializers.ChoiceField(get_args(Whose), required=False)
    recording_percent = serializers.IntegerField(min_value=1, max_value=100, required=False)
    recording_told = serializers.ChoiceField(get_args(Told), required=False)

    class Meta:
        model = Queue
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "extension",
            "finished",
            "colour",
            "group",
            "members",
            "teams",
            "ranks",
            "member_count",
            "priority_growth",
            "distribution",
            "required_skills",
            "widening",
            "last_agent_s",
            "hours",
            "when_closed",
            "when_nobody",
            "priority",
            "longest_wait_s",
            "threshold_s",
            "goal_percent",
            "short_abandon_s",
            "formula",
            "code_set",
            "plan",
            "note",
            "link",
            "supervisors",
            "channels",
            "overflow",
            "overflow_nobody",
            "overflow_closed",
            "recording",
            "recording_percent",
            "recording_told",
            "recording_notice",
            "transcribed",
            "survey",
            "text_number",
            "music",
        ]
        read_only_fields = ["finished"]

    def validate_plan(self, flow: Any) -> Any:
        if flow is not None and flow_choices([str(flow.pk)])[str(flow.pk)].purpose != "plan":
            raise serializers.ValidationError(f"“{flow.name}” is no waiting plan.")
        return flow

    def validate_survey(self, flow: Any) -> Any:
        if flow is not None and flow_choices([str(flow.pk)])[str(flow.pk)].purpose != "flow":
            raise serializers.ValidationError(f"“{flow.name}” is no flow that answers callers.")
        return flow

    def validate_text_number(self, number: Any) -> Any:
        if number is not None and number.channel != "text":
            raise serializers.ValidationError(
                f"{number.label or number.address} takes calls, no text messages."
            )
        return number

    def _validate_overflow(self, then: str) -> str:
        if then and not exists(then):
            raise serializers.ValidationError("This does not exist (any more).")
        if self.instance is not None and then == f"queue:{self.instance.pk}":
            raise serializers.ValidationError("The queue cannot send its callers to itself.")
        return then

    validate_overflow = validate_overflow_nobody = validate_overflow_closed = _validate_overflow

    def validate_channels(self, channels: list[str]) -> list[str]:
        return sorted(set(channels), reverse=True)

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


class QueueViewSet(ItemViewSet):
    area = "queues"
    queryset = Queue.objects.annotate(
        member_count=Count("members", distinct=True) + Count("teams__agents", distinct=True)
    ).prefetch_related("members", "teams", "supervisors")
    serializer_class = QueueSerializer
    search_fields = ["name", "extension"]
    ordering_fields = ["name", "extension", "member_count", "priority", "threshold_s"]

    def make(self, values: dict[str, Any]) -> Queue:
        """A supervisor's new queue is theirs to run."""
        user = self.request.user
        if reached(user) is not None:
            values["supervisors"] = [*values.get("supervisors", ()), user]
        return super().make(values)


class QueueInHandSerializer(Form):
    """The settings of a queue that its callers' clock depends on, as they stand in the form."""

    plan = serializers.UUIDField(required=False, allow_null=True, default=None)
    longest_wait_s = serializers.IntegerField(
        min_value=10, max_value=24 * 3600, required=False, allow_null=True, default=None
    )
    widening = WidenSerializer(many=True, required=False, default=list)
    last_agent_s = serializers.IntegerField(min_value=0, max_value=3600, required=False, default=0)
    overflow = ThenField(default="")
    overflow_nobody = ThenField(default="")
    overflow_closed = ThenField(default="")
    when_nobody = serializers.ChoiceField(["wait", "leave"], required=False, default="wait")
    when_closed = serializers.ChoiceField(["wait", "leave"], required=False, default="wait")
    hours = serializers.UUIDField(required=False, allow_null=True, default=None)
    required_skills = AskSerializer(many=True, required=False, default=list)
    members = serializers.ListField(
        child=serializers.UUIDField(), max_length=2000, required=False, default=list
    )
    teams = serializers.ListField(child=serializers.UUIDField(), max_length=500, required=False, default=list)
