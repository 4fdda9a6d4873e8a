"""What supervisors do on the floor: with contacts that agents have, with those that wait, and with
what agents do. Whom they reach goes along; whether it can be done is the exchange's to say."""

from __future__ import annotations

import uuid
from typing import Any

from django.http import Http404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from agents.services import reached
from callcore.centre.handlers.chat import MOST_WORDS
from callcore.centre.handlers.supervision import PRIORITIES
from exchange.commands import ask
from queues.policy import supervised
from web.base import Form, View
from web.problems import bad_request


class OnContactSerializer(Form):
    """`to` goes with `send_on` (a reference, an extension or a number), `priority` and `queue` with
    the acts of their names (`move` for the queue)."""

    to = serializers.CharField(max_length=60, required=False)
    priority = serializers.IntegerField(min_value=PRIORITIES[0], max_value=PRIORITIES[1], required=False)
    queue = serializers.UUIDField(required=False)


class OnAgentSerializer(Form):
    """`reason` goes with `away`, `text` with `say`, `queues` (ids; those of before that are not
    named end) with `serve`."""

    reason = serializers.CharField(max_length=40, required=False)
    text = serializers.CharField(max_length=MOST_WORDS, required=False)
    queues = serializers.ListField(child=serializers.UUIDField(), max_length=100, required=False)


#: What must be given with an act, and the words that ask for it.
_NEEDED = {
    "send_on": ("to", "Choose where the caller goes."),
    "priority": ("priority", "Say which priority."),
    "move": ("queue", "Choose a queue."),
    "away": ("reason", "Choose a reason."),
    "serve": ("queues", "Say which queues."),
    "say": ("text", "Write something first."),
}
ON_CONTACTS = ("listen", "coach", "join", "take_over", "leave", "end", "send_on", "priority", "move", "offer")
ON_AGENTS = ("available", "away", "sign_out", "serve", "say")


def _reach(user: Any) -> dict[str, Any]:
    """Whom somebody reaches, as it goes along with what they ask."""
    teams = reached(user)
    return {"teams": None if teams is None else sorted(teams), "queues": supervised(user)}


class _Act(View):
    area, verb = "floor", "use"
    acts: tuple[str, ...] = ()

    def act(self, request: Request, act: str, values: dict[str, Any], **on: uuid.UUID) -> Response:
        needed, words = _NEEDED.get(act, ("", ""))
        if needed and values.get(needed) is None:
            raise bad_request(words, **{needed: [words]})
        body = {
            **{name: str(identity) for name, identity in on.items()},
            **_reach(request.user),
            "act": act,
            "user": str(request.user.pk),
            "by": request.user.full_name or request.user.get_username(),
            "to": values.get("to", ""),
            "priority": values.get("priority", 0),
            "queue": str(values.get("queue") or ""),
            "reason": values.get("reason", ""),
            "text": values.get("text", ""),
            "serves": [str(queue) for queue in values.get("queues", ())],
        }
        ask(request.user, f"supervise.{act}", body)
        return Response(status=204)


class OnContactView(_Act):
    """A contact on the floor: hear it, speak there, take it over; or have it wait otherwise."""

    @extend_schema(request=OnContactSerializer, responses={204: None})
    def post(self, request: Request, contact: uuid.UUID, act: str) -> Response:
        """Do one of: listen, coach, join, take_over, leave, end, send_on, priority, move, offer."""
        if act not in ON_CONTACTS:
            raise Http404
        form = OnContactSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return self.act(request, act, form.validated_data, contact=contact)


class OnAgentView(_Act):
    """An agent on the floor: change their state, or which queues they serve this shift."""

    @extend_schema(request=OnAgentSerializer, responses={204: None})
    def post(self, request: Request, agent: uuid.UUID, act: str) -> Response:
        """Do one of: available, away, sign_out, serve, say."""
        if act not in ON_AGENTS:
            raise Http404
        form = OnAgentSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return self.act(request, act, form.validated_data, agent=agent)


class ConsideredSerializer(Form):
    """Some who were looked at: what was made of them, by name, and how many more."""

    words = serializers.CharField()
    people = serializers.ListField(child=serializers.CharField())
    more = serializers.IntegerField()


class WhyWaitsSerializer(Form):
    """Why a contact waits, in a sentence, and how those stand whom it might reach."""

    words = serializers.CharField()
    considered = ConsideredSerializer(many=True)


class WhyWaitsView(View):
    """Why a contact waits."""

    area, verb = "floor", "see"

    @extend_schema(responses=WhyWaitsSerializer)
    def get(self, request: Request, contact: uuid.UUID) -> Response:
        """How those stand at this moment who could take it, and who could not."""
        body = {"contact": str(contact), **_reach(request.user)}
        return Response(WhyWaitsSerializer(ask(request.user, "supervise.why_waits", body)).data)
