"""Mailboxes and their messages."""

from __future__ import annotations

import uuid
from typing import Any

from django.db.models import Aggregate, Count, Max, OuterRef, Subquery
from django.db.models.functions import Coalesce
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from pydantic import TypeAdapter, ValidationError
from rest_framework import mixins, serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import ItemSerializer, ItemViewSet, StableOrdering
from accounts.things import must, visible
from callcore.flow.parts import Prompt
from changelog import kinds
from mailboxes import services
from mailboxes.models import Mailbox, Message, Owner
from phone_numbers.fields import ExtensionField
from phone_numbers.plan import national
from sounds.services import speak, take_of
from web.base import Form, ViewSet

_PROMPT: TypeAdapter[Any] = TypeAdapter(Prompt)


@extend_schema_field(
    {
        "oneOf": [
            {"$ref": "#/components/schemas/DefinitionSpokenText"},
            {"$ref": "#/components/schemas/DefinitionLibrarySound"},
        ]
    }
)
class PromptField(serializers.JSONField):
    """What callers hear: a prompt as flows have them."""

    def to_internal_value(self, data: Any) -> Any:
        try:
            prompt = _PROMPT.validate_python(super().to_internal_value(data))
        except ValidationError as error:
            raise serializers.ValidationError(str(error.errors()[0]["msg"])) from None
        if prompt.kind == "text" and not prompt.text:
            raise serializers.ValidationError("Type what is said.")
        if prompt.kind == "sound" and not (prompt.sound and kinds.exists(prompt.sound)):
            raise serializers.ValidationError("Choose a sound that exists.")
        return prompt.model_dump(mode="json")


class MailboxSerializer(ItemSerializer):
    """A mailbox, with its counts of messages."""

    owner = serializers.ChoiceField(Owner.choices, required=False)
    extension = ExtensionField("mailbox", allow_blank=True, required=False)
    greeting = PromptField(allow_null=True, required=False)
    longest_s = serializers.IntegerField(min_value=5, max_value=600, required=False)
    new = serializers.IntegerField(read_only=True)
    kept = serializers.IntegerField(read_only=True)
    newest_at = serializers.DateTimeField(read_only=True, allow_null=True)
    may_listen = serializers.SerializerMethodField()

    class Meta:
        model = Mailbox
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "extension",
            "owner",
            "agent",
            "queue",
            "listeners",
            "greeting",
            "longest_s",
            "new",
            "kept",
            "newest_at",
            "may_listen",
        ]

    def get_may_listen(self, mailbox: Mailbox) -> bool:
        if "heard_by_me" not in self.context:
            mine = services.mailboxes_for(self.context["request"].user)
            mine = mine.filter(pk__in=[each.pk for each in self.shown(mailbox)])
            self.context["heard_by_me"] = set(mine.values_list("pk", flat=True))
        return mailbox.pk in self.context["heard_by_me"]

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        owner = attrs.get("owner", getattr(self.instance, "owner", Owner.SHARED))
        for kind, name, words in (
            (Owner.PERSON, "agent", "Choose whose mailbox it is."),
            (Owner.QUEUE, "queue", "Choose the queue whose mailbox it is."),
        ):
            chosen = attrs.get(name, getattr(self.instance, name, None))
            if owner == kind and chosen is None:
                raise serializers.ValidationError({name: [words]})
            if owner != kind and chosen is not None:
                attrs[name] = None
        return attrs


def _of_messages(figure: Aggregate, **which: Any) -> Subquery:
    """A figure of a mailbox's messages, worked out for the mailboxes of a page only."""
    of_one = Message.objects.filter(mailbox=OuterRef("pk"), **which).order_by()
    return Subquery(of_one.values("mailbox").annotate(figure=figure).values("figure"))


class MailboxViewSet(ItemViewSet):
    area = "mailboxes"
    queryset = Mailbox.objects.annotate(
        kept=Coalesce(_of_messages(Count("pk"), deleted_at=None), 0),
        new=Coalesce(_of_messages(Count("pk"), deleted_at=None, heard_at=None), 0),
        newest_at=_of_messages(Max("left_at")),
    ).prefetch_related("listeners")
    serializer_class = MailboxSerializer
    search_fields = ["name", "extension", "agent__name", "queue__name"]
    ordering_fields = ["name", "extension", "owner", "new", "newest_at"]

    def perform_create(self, serializer: Any) -> None:
        _speak_greeting(serializer.validated_data)
        super().perform_create(serializer)

    def perform_update(self, serializer: Any) -> None:
        _speak_greeting(serializer.validated_data)
        super().perform_update(serializer)


def _speak_greeting(values: dict[str, Any]) -> None:
    """Spoken before it is kept, so that no caller waits for the engine."""
    greeting = values.get("greeting")
    if greeting and greeting["kind"] == "text":
        speak(greeting["language"], greeting["text"])


class MessageSerializer(serializers.ModelSerializer):
    """A message that a caller left."""

    mailbox_name = serializers.CharField(source="mailbox.name", read_only=True)
    caller_national = serializers.SerializerMethodField()
    heard_by = serializers.CharField(source="heard_by.full_name", read_only=True, default="")
    peaks = serializers.JSONField(source="take.peaks", read_only=True, default=list)

    class Meta:
        model = Message
        fields = [
            "id",
            "mailbox",
            "mailbox_name",
            "contact",
            "caller",
            "caller_national",
            "number",
            "left_at",
            "length_ms",
            "take",
            "peaks",
            "heard_at",
            "heard_by",
            "deleted_at",
        ]

    def get_caller_national(self, message: Message) -> str:
        return national(message.caller)


class MarkSerializer(Form):
    what = serializers.ChoiceField(["heard", "new", "deleted", "restored"])


class MessageViewSet(mixins.ListModelMixin, ViewSet):
    """The messages that the user may listen to, newest first; deleted ones only when asked for."""

    area, verb = "messages", "use"
    asks = {"list": ("mailbox", "deleted")}
    serializer_class = MessageSerializer
    queryset = Message.objects.none()
    filter_backends = [StableOrdering]
    ordering_fields = ["left_at", "caller", "length_ms"]

    def get_queryset(self) -> Any:
        rows = visible(self.request.user, Message.objects.all())
        rows = rows.select_related("mailbox", "take", "heard_by")
        query = self.request.query_params
        rows = rows.defer("take__wav")
        if self.action == "list":
            rows = rows.filter(deleted_at__isnull=query.get("deleted") != "1")
            if query.get("mailbox"):
                rows = rows.filter(mailbox__pk__in=_uuid(query["mailbox"]))
        return rows

    @extend_schema(
        parameters=[
            OpenApiParameter("mailbox", OpenApiTypes.UUID),
            OpenApiParameter("deleted", str, enum=["1"], description="Those that were deleted."),
        ]
    )
    def list(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        return super().list(request, *args, **kwargs)

    @extend_schema(request=MarkSerializer, responses=MessageSerializer)
    @action(detail=True, methods=["post"])
    def mark(self, request: Request, pk: str | None = None) -> Response:
        """Heard, new again, deleted or restored."""
        form = MarkSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        message = self.get_object()
        must(request.user, "hear", message)
        services.mark(request.user, message, form.validated_data["what"])
        return Response(self.get_serializer(self.get_object()).data)

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    @action(detail=True)
    def sound(self, request: Request, pk: str | None = None) -> HttpResponse:
        """What the caller said, as a WAV."""
        message = self.get_object()
        take = take_of(message.take_id) if message.take_id else None
        response = HttpResponse(bytes(take.wav) if take else b"", content_type="audio/wav")
        response["Cache-Control"] = "private, max-age=3600"
        return response


def _uuid(text: str) -> list[str]:
    try:
        return [str(uuid.UUID(text))]
    except ValueError:
        return []
