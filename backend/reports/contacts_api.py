"""Contacts: found by anything, told one by one, and handed out."""

from __future__ import annotations

import re
import uuid
from typing import Any

from django.conf import settings
from django.http import Http404, HttpResponse, StreamingHttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from callcore.events import Happening
from exchange.contact_rights import must_see, scope_of
from exchange.live.journal import story
from exchange.services import contact_lines, site_clock_ms
from reports import course, finding, growing, heard
from reports.asking import PERIOD, PERIOD_PARAMETERS, asked_count, asked_period
from reports.models import Stay
from reports.period import Period
from web.base import Form, View
from web.errors import Refused
from web.problems import bad_request

_PAGE, _MOST = 50, 500
_FLAGS = ("transferred", "recorded", "callback")
_TEXTS = ("search", "queue", "agent", "code", "ending", "keys", "flow")
_OVER = ("wait_over", "talk_over")
WANTED = (*_TEXTS, *_OVER, *_FLAGS)
WANTED_PARAMETERS = [
    OpenApiParameter("search", str, description="Digits of the caller or the number."),
    OpenApiParameter("queue", str, description="Was in this queue."),
    OpenApiParameter("agent", str, description="This agent had a part of it."),
    OpenApiParameter("code", str, description="A part has this code; `none`: no part has one."),
    OpenApiParameter("ending", str, description="Ended so."),
    OpenApiParameter("keys", str, description="These keys were pressed, one after the other."),
    OpenApiParameter("flow", str, description="This flow answered it."),
    OpenApiParameter("wait_over", int, description="Waited longer in a queue (s)."),
    OpenApiParameter("talk_over", int, description="Agents spoke longer with it (s)."),
    OpenApiParameter("transferred", str, enum=["yes", "no"]),
    OpenApiParameter("recorded", str, enum=["yes", "no"]),
    OpenApiParameter("callback", str, enum=["yes", "no"], description="We called, as promised."),
]


class FoundContactSerializer(Form):
    """A contact in one line: its longest wait, all its talk, the last queue, agent and code."""

    id = serializers.CharField()
    arrived_ms = serializers.IntegerField()
    ended_ms = serializers.IntegerField(allow_null=True)
    caller = serializers.CharField()
    number = serializers.CharField()
    flow_name = serializers.CharField()
    queue_name = serializers.CharField()
    agent_name = serializers.CharField()
    code_name = serializers.CharField()
    ending = serializers.CharField()
    keys = serializers.CharField()
    recorded = serializers.BooleanField()
    texts = serializers.BooleanField()
    callback = serializers.BooleanField()
    wait_ms = serializers.IntegerField()
    up_front_ms = serializers.IntegerField()
    talk_ms = serializers.IntegerField()
    hold_ms = serializers.IntegerField()
    wrap_ms = serializers.IntegerField()
    legs = serializers.IntegerField()
    transferred = serializers.BooleanField()


class FoundContactsSerializer(Form):
    """Contacts, newest first. `more`: there are more than `count`."""

    count = serializers.IntegerField()
    more = serializers.BooleanField()
    contacts = FoundContactSerializer(many=True)


def _wanted(request: Request) -> finding.Wanted:
    asked = request.query_params
    figures = re.sub(r"[^0-9]", "", asked.get("search", "")).lstrip("0")
    if asked.get("search") and not figures:
        raise _wrong("search", "Contacts are found by digits of a number: type some.")
    keys = asked.get("keys", "")
    if not re.fullmatch(r"[0-9*#]{0,40}", keys):
        raise _wrong("keys", "Keys are 0 to 9, * and #, forty at the most.")
    others: dict[str, Any] = {
        **{name: asked.get(name, "")[:40] for name in _TEXTS if name not in ("search", "keys")},
        **{f"{name}_ms": _seconds(request, name) for name in _OVER},
        **{name: _flag(request, name) for name in _FLAGS},
    }
    return finding.Wanted(figures=figures[:20], keys=keys, **others)


def _seconds(request: Request, name: str) -> int | None:
    if not request.query_params.get(name):
        return None
    return asked_count(request.query_params, name, 0, 1_000_000) * 1000


def _flag(request: Request, name: str) -> bool | None:
    said = request.query_params.get(name, "")
    if said not in ("", "yes", "no"):
        raise _wrong(name, "This is yes or no.")
    return {"yes": True, "no": False}.get(said)


def _period(request: Request) -> Period | None:
    """The days that are asked for; all where nothing is said of them."""
    named = any(request.query_params.get(name) for name in PERIOD)
    return asked_period(request.query_params) if named else None


def _wrong(name: str, words: str) -> Exception:
    return bad_request(words, **{name: [words]})


class FindContactsView(View):
    """Contacts, found by anything that is known of them."""

    area = "contacts"
    asks = {"get": (*WANTED, *PERIOD, "offset", "limit")}

    @extend_schema(
        parameters=[
            *WANTED_PARAMETERS,
            *PERIOD_PARAMETERS,
            OpenApiParameter("offset", int),
            OpenApiParameter("limit", int),
        ],
        responses=FoundContactsSerializer,
    )
    def get(self, request: Request) -> Response:
        wanted, period = _wanted(request), _period(request)
        growing.freshen(settings.EXCHANGE_SITE)
        rows = finding.found(wanted, period, scope_of(request.user))
        first = asked_count(request.query_params, "offset", 0, finding.MOST_COUNTED)
        count, contacts = finding.page(rows, first, asked_count(request.query_params, "limit", _PAGE, _MOST))
        more = count > finding.MOST_COUNTED
        told = {"count": min(count, finding.MOST_COUNTED), "more": more, "contacts": contacts}
        return Response(FoundContactsSerializer(told).data)


class ContactRecordsView(View):
    """All contacts that fit, as a file that is written while it is read, however many there are."""

    area = "contacts"
    asks = {"get": (*WANTED, *PERIOD, "as", "of")}

    @extend_schema(
        parameters=[
            *WANTED_PARAMETERS,
            *PERIOD_PARAMETERS,
            OpenApiParameter("as", str, enum=["csv", "jsonl"]),
            OpenApiParameter(
                "of", str, enum=["contacts", "parts"], description="The contacts, or agents’ parts of them."
            ),
        ],
        responses={(200, "text/csv"): OpenApiTypes.STR},
    )
    def get(self, request: Request) -> StreamingHttpResponse:
        kind = request.query_params.get("as", "csv")
        if kind not in ("csv", "jsonl"):
            raise _wrong("as", "A file is csv or jsonl.")
        of = request.query_params.get("of", "contacts")
        if of not in ("contacts", "parts"):
            raise _wrong("of", "A file is of contacts or of parts.")
        rows = finding.found(_wanted(request), _period(request), scope_of(request.user))
        types = {"csv": "text/csv; charset=utf-8", "jsonl": "application/jsonl; charset=utf-8"}
        answer = StreamingHttpResponse(finding.stream(rows, kind, of), content_type=types[kind])
        answer["Content-Disposition"] = f'attachment; filename="{of}.{kind}"'
        return answer


class PieceSerializer(Form):
    """Something from a moment to another (ms)."""

    kind = serializers.CharField()
    label = serializers.CharField()
    from_ms = serializers.IntegerField()
    until_ms = serializers.IntegerField()


class PressSerializer(Form):
    """A key, and when."""

    at_ms = serializers.IntegerField()
    key = serializers.CharField()


class WaitSerializer(Form):
    """A stay in a queue; `late_from_ms` is null where it was in time."""

    queue_name = serializers.CharField()
    from_ms = serializers.IntegerField()
    until_ms = serializers.IntegerField()
    late_from_ms = serializers.IntegerField(allow_null=True)
    outcome = serializers.CharField()


class CourseLegSerializer(Form):
    """An agent's part, and their wrap-up of it."""

    agent_name = serializers.CharField()
    from_ms = serializers.IntegerField()
    until_ms = serializers.IntegerField()
    talk_ms = serializers.IntegerField()
    hold_ms = serializers.IntegerField()
    how = serializers.CharField()
    by = serializers.CharField()
    wrap_from_ms = serializers.IntegerField(allow_null=True)
    wrap_until_ms = serializers.IntegerField(allow_null=True)
    code_name = serializers.CharField()


class GatheredSerializer(Form):
    """A value that the contact had at last."""

    name = serializers.CharField()
    value = serializers.CharField()


class LinkedSerializer(Form):
    """A contact that belongs to it: a `callback` and its `origin`, a `consult`, and what it was
    `about`."""

    contact = serializers.CharField()
    kind = serializers.CharField()
    at_ms = serializers.IntegerField()


class CourseSerializer(Form):
    """One contact over time, lane by lane, in a sentence, and the rows that it is counted in."""

    begins_ms = serializers.IntegerField()
    ends_ms = serializers.IntegerField()
    over = serializers.BooleanField()
    sentence = serializers.CharField()
    where = PieceSerializer(many=True)
    hears = PieceSerializer(many=True)
    keys = PressSerializer(many=True)
    rings = PieceSerializer(many=True)
    holds = PieceSerializer(many=True)
    recorded = PieceSerializer(many=True)
    texts = PieceSerializer(many=True)
    waits = WaitSerializer(many=True)
    legs = CourseLegSerializer(many=True)
    gathered = GatheredSerializer(many=True)
    linked = LinkedSerializer(many=True)
    same_caller = serializers.IntegerField(help_text="Contacts of this caller in 28 days.")
    counted = serializers.ListField(child=serializers.CharField())


class HeardPartSerializer(Form):
    """A stretch of what was heard: where it begins in the WAV, and when that was (ms)."""

    from_ms = serializers.IntegerField()
    at_ms = serializers.IntegerField()
    hears = serializers.ChoiceField(["words", "music", "talk", "quiet"])


class HeardView(View):
    """What a caller heard, in stretches; none where nothing was spoken to them."""

    area = "contacts"

    @extend_schema(responses=HeardPartSerializer(many=True))
    def get(self, request: Request, pk: uuid.UUID) -> Response:
        parts = heard.parts_of(_story_of(request, pk), site_clock_ms())
        return Response(HeardPartSerializer(parts, many=True).data)


class HeardWavView(View):
    """What a caller heard, as a WAV: prompts whole, music and talk as a moment of each."""

    area = "contacts"

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: uuid.UUID) -> HttpResponse:
        wav = heard.wav_of(_story_of(request, pk), site_clock_ms())
        if wav is None:
            raise Http404
        return HttpResponse(wav, content_type="audio/wav")


def _story_of(request: Request, pk: uuid.UUID) -> list[Happening]:
    identity = str(pk)
    if not contact_lines([identity]):
        raise _none_such(identity)
    events = story(identity)
    must_see(request.user, events)
    return events


def _none_such(contact: str) -> Exception:
    """Why there is nothing of a contact: it never was, or it is kept no longer."""
    if not Stay.objects.filter(contact=contact).exists():
        return Http404()
    words = "It is older than contacts are kept here. What it came to stays in the figures."
    return Refused("not-kept", f"This contact is not kept any more. {words}", status=410)


class CourseView(View):
    """The course of one contact."""

    area = "contacts"

    @extend_schema(responses=CourseSerializer)
    def get(self, request: Request, pk: uuid.UUID) -> Response:
        identity, events = str(pk), _story_of(request, pk)
        line: Any = contact_lines([identity])[identity]
        told = course.told(identity, events, site_clock_ms(), line)
        return Response(CourseSerializer(told).data)
