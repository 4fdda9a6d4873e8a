"""Calls, the agent's desk, and live topics without a WebSocket."""

from __future__ import annotations

import uuid
from typing import Any

from django.http import Http404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.things import must
from agents.services import agent_of, reached
from callcore.errors import EventRefused
from callcore.routing.events import Status
from callcore.speech.recogniser import MOST_SAID
from exchange.commands import ask
from exchange.consumers import may_watch
from exchange.models import Contact
from exchange.reach import reach_of, within
from exchange.targets import targets
from exchange.watching import seen
from phone_numbers.plan import NotANumber, read, read_any
from web.base import Form, View
from web.problems import Problem, bad_request


class PlaceCallSerializer(Form):
    """`number` is dialled; with `flow` the call tries that flow's draft instead."""

    number = serializers.CharField(max_length=40, required=False, allow_blank=True, default="")
    flow = serializers.UUIDField(required=False, allow_null=True, default=None)
    caller = serializers.CharField(max_length=40)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if not attrs["number"] and not attrs["flow"]:
            raise serializers.ValidationError({"number": ["Choose the number to call."]})
        for name in ("number", "caller"):
            if attrs[name]:
                try:
                    attrs[name] = (read_any if name == "number" else read)(attrs[name])
                except NotANumber as error:
                    raise serializers.ValidationError({name: [str(error)]}) from None
        return attrs


class PlacedSerializer(Form):
    contact = serializers.UUIDField()


class PlaceTextSerializer(PlaceCallSerializer):
    """A text message; with `contact` it goes into that thread, whatever the numbers."""

    text = serializers.CharField(max_length=1600)
    contact = serializers.UUIDField(required=False, allow_null=True, default=None)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        return attrs if attrs["contact"] else super().validate(attrs)


class KeySerializer(Form):
    key = serializers.RegexField(r"^[0-9*#]$", error_messages={"invalid": "There is no such key."})


class DeskSerializer(Form):
    """`reason` goes with `away`, `code` (may be empty) with `wrap_up`, `text` with `text` and
    `by_text`, `to` with `transfer` and `consult` (a reference, an extension or a number), `key`
    with `key`. `contact` names one of several; without it the one in hand is meant. `keypad`: the
    code was entered on a desk phone's keypad.
    """

    contact = serializers.UUIDField(required=False, allow_null=True)
    to = serializers.CharField(max_length=60, required=False)
    key = serializers.RegexField(
        r"^[0-9*#]$", required=False, error_messages={"invalid": "There is no such key."}
    )
    keypad = serializers.BooleanField(required=False)

    text = serializers.CharField(max_length=1600, required=False)
    reason = serializers.CharField(max_length=40, required=False)
    code = serializers.UUIDField(required=False, allow_null=True)


class CallsView(View):
    """A telephone: place a call."""

    area, verb = "telephone", "use"

    @extend_schema(request=PlaceCallSerializer, responses={201: PlacedSerializer})
    def post(self, request: Request) -> Response:
        form = PlaceCallSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        placed = ask(request.user, "call.place", _placing(form.validated_data))
        return Response(placed, status=201)


def _placing(values: dict[str, Any]) -> dict[str, Any]:
    """What the exchange is told of a call or a text that arrives."""
    return {
        "contact": str(uuid.uuid4()),
        "number": values["number"],
        "caller": values["caller"],
        "flow": str(values["flow"] or ""),
        "draft": bool(values["flow"]),
    }


def _must_hold(request: Request, contact: uuid.UUID) -> None:
    """Let pass whoever has the telephone of a call; a call that nobody knows is over."""
    known = Contact.objects.filter(pk=str(contact)).first()
    if known is None:
        raise EventRefused("contact-ended", "This call is over.")
    must(request.user, "use", known)


class TextsView(View):
    """A text handset: send a message."""

    area, verb = "telephone", "use"

    @extend_schema(request=PlaceTextSerializer, responses={201: PlacedSerializer})
    def post(self, request: Request) -> Response:
        form = PlaceTextSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = form.validated_data
        if values["contact"]:
            _must_hold(request, values["contact"])
            body = {"contact": str(values["contact"]), "text": values["text"]}
            ask(request.user, "text.say", body)
            return Response({"contact": body["contact"]}, status=201)
        return Response(
            ask(request.user, "text.place", {**_placing(values), "text": values["text"]}), status=201
        )


class CallKeyView(View):
    """A telephone: press a key."""

    area, verb = "telephone", "use"

    @extend_schema(request=KeySerializer, responses={204: None})
    def post(self, request: Request, contact: uuid.UUID) -> Response:
        _must_hold(request, contact)
        form = KeySerializer(data=request.data)
        form.is_valid(raise_exception=True)
        ask(request.user, "call.key", {"contact": str(contact), **form.validated_data})
        return Response(status=204)


class SaySerializer(Form):
    """What the caller says to the flow."""

    words = serializers.CharField(max_length=MOST_SAID)


class SaidSerializer(Form):
    """The keys that the words were taken for; empty for not understood."""

    meant = serializers.CharField(allow_blank=True)


class SayView(View):
    """A telephone: say something to a menu, or to digits that are asked for."""

    area, verb = "telephone", "use"

    @extend_schema(request=SaySerializer, responses=SaidSerializer)
    def post(self, request: Request, contact: uuid.UUID) -> Response:
        _must_hold(request, contact)
        form = SaySerializer(data=request.data)
        form.is_valid(raise_exception=True)
        said = ask(request.user, "call.say", {"contact": str(contact), **form.validated_data})
        return Response(SaidSerializer(said).data)


class HangUpView(View):
    """A telephone: hang up."""

    area, verb = "telephone", "use"

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, contact: uuid.UUID) -> Response:
        _must_hold(request, contact)
        ask(request.user, "call.hang_up", {"contact": str(contact)})
        return Response(status=204)


DESK_ACTIONS = (
    "sign_in",
    "sign_out",
    "available",
    "away",
    "answer",
    "decline",
    "end",
    "wrap_up",
    "text",
    "hold",
    "resume",
    "transfer",
    "consult",
    "help",
    "emergency",
    "join",
    "put_through",
    "end_consult",
    "record",
    "stop_recording",
    "key",
    "by_text",
    "say",
)
#: What must be given with an action, and the words that ask for it.
_NEEDED = {
    "away": ("reason", "Say why you are away."),
    "text": ("text", "Type what you write."),
    "by_text": ("text", "Type what you write."),
    "say": ("text", "Type what you write."),
    "transfer": ("to", "Choose whom to transfer to."),
    "consult": ("to", "Choose whom to ask."),
    "key": ("key", "Press a key."),
}


class DeskView(View):
    """The agent's desk: everything an agent does, as themself."""

    area, verb = "desk", "use"

    @extend_schema(request=DeskSerializer, responses={204: None})
    def post(self, request: Request, action: str) -> Response:
        if action not in DESK_ACTIONS:
            raise Http404
        agent = agent_of(request.user)
        if agent is None:
            raise Problem(409, "no-agent", "You are not set up as an agent.")
        form = DeskSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = form.validated_data
        needed, words = _NEEDED.get(action, ("", ""))
        if needed and not values.get(needed):
            raise bad_request(words, **{needed: [words]})
        body = {
            "agent": str(agent.pk),
            "text": values.get("text", ""),
            "reason": values.get("reason", ""),
            "code": str(values.get("code") or ""),
            "contact": str(values.get("contact") or ""),
            "to": values.get("to", ""),
            "key": values.get("key", ""),
            "keypad": values.get("keypad", False),
        }
        ask(request.user, f"agent.{action}", body)
        return Response(status=204)


class TargetSerializer(Form):
    """Whom a contact can be sent to, or asked: `status` is an agent's state, empty for a queue."""

    to = serializers.CharField()
    name = serializers.CharField()
    extension = serializers.CharField(allow_blank=True)
    kind = serializers.ChoiceField(["agent", "queue", "group"])
    about = serializers.CharField(allow_blank=True)
    status = serializers.ChoiceField([str(s) for s in Status if s != Status.OUT], allow_blank=True)
    since_ms = serializers.IntegerField(allow_null=True)


class TargetsView(View):
    """Queues and colleagues, those who are there first: for the desk's transfer and consult."""

    area, verb = "desk", "use"
    asks = {"get": ("search",)}

    @extend_schema(responses=TargetSerializer(many=True), parameters=[OpenApiParameter("search", str)])
    def get(self, request: Request) -> Response:
        me = agent_of(request.user)
        wanted = request.query_params.get("search", "").strip().casefold()
        found = targets(me, reached(request.user))
        if wanted:
            found = [
                row
                for row in found
                if wanted in row["name"].casefold() or row["extension"].startswith(wanted)
            ]
        return Response(TargetSerializer(found[:50], many=True).data)


class LiveSerializer(Form):
    topic = serializers.CharField()
    epoch = serializers.CharField()
    version = serializers.IntegerField()
    now_ms = serializers.IntegerField()
    data = serializers.DictField()


class LiveView(View):
    """A live topic as it was last published: `floor`, `strip`, `heartbeat`, `call.{id}` …"""

    area = "session"

    @extend_schema(responses=LiveSerializer)
    def get(self, request: Request, topic: str) -> Response:
        if not may_watch(request.user, topic):
            raise Problem(403, "permission-denied", "Your role does not allow this.")
        kept = seen(topic)
        if kept is None:
            raise Http404
        return Response(within(reach_of(request.user), kept))
