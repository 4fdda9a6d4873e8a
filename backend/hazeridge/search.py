"""Search over everything that has a name."""

from __future__ import annotations

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.policy import may
from agents import groups
from agents import services as agents
from changelog.config_store import Described
from changelog.kinds import kind_named
from diversions import services as diversions
from flows import services as flows
from lookups import services as lookups
from mailboxes import services as mailboxes
from opening_hours import services as hours
from phone_numbers import services as numbers
from queues import services as queues
from sounds import services as sounds
from web.base import Form, View
from web.errors import Use
from wrapup import services as wrapup

_SOURCES = {
    "numbers": numbers.search,
    "diversions": diversions.search,
    "flows": flows.search,
    "hours": hours.search,
    "queues": queues.search,
    "mailboxes": mailboxes.search,
    "lookups": lookups.search,
    "agents": lambda text: [*agents.search(text), *groups.search(text)],
    "wrapup": wrapup.search,
    "sounds": sounds.search,
}


class FoundSerializer(Form):
    kind = serializers.CharField()
    id = serializers.CharField()
    name = serializers.CharField()
    how = serializers.CharField()
    page = serializers.CharField()
    description = serializers.CharField(allow_blank=True)


def _described(found: list[Use]) -> dict[tuple[str, str], str]:
    """What each thing says that it is for, as far as it does."""
    said: dict[tuple[str, str], str] = {}
    for name in {use.kind for use in found}:
        model = kind_named(name).model
        if issubclass(model, Described):
            ids = [use.id for use in found if use.kind == name]
            rows = model.objects.filter(pk__in=ids).values_list("pk", "description")
            said |= {(name, str(pk)): text for pk, text in rows}
    return said


class SearchView(View):
    """Things whose name or number holds `text`, at most five of a kind."""

    area = "session"
    asks = {"get": ("text",)}

    @extend_schema(parameters=[OpenApiParameter("text", str)], responses=FoundSerializer(many=True))
    def get(self, request: Request) -> Response:
        text = request.query_params.get("text", "").strip().replace("\x00", "")[:80]
        if not text:
            return Response([])
        found: list[Use] = []
        for area, search in _SOURCES.items():
            if may(request.user, "see", area):
                found += search(text)
        said = _described(found)
        rows = [
            {
                **use._asdict(),
                "page": f"{kind_named(use.kind).page}/{use.id}",
                "description": said.get((use.kind, use.id), ""),
            }
            for use in found
        ]
        return Response(rows)
