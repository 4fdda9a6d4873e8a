"""What was: contacts with their traces, and callbacks."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any, get_args

from django.conf import settings
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from rest_framework import mixins, serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import StableOrdering
from accounts.things import must
from agents import services as agent_services
from callcore.events import Kind, facts
from callcore.flow.state import Ending
from exchange.commands import ask
from exchange.contact_rights import must_see, scope_of
from exchange.live.journal import story
from exchange.models import Callback, Contact
from exchange.stories import told
from flows import services as flow_services
from flows.shapes import DefinitionField
from phone_numbers.plan import national
from queues import services as queue_services
from web.base import Form, ViewSet

#: How contacts end: as flows say, and as callbacks and colleagues' calls do besides.
ENDINGS = (*get_args(Ending), "not_reached", "cancelled", "joined")


def _moment(at_ms: int | None) -> str | None:
    return None if at_ms is None else datetime.fromtimestamp(at_ms / 1000, UTC).isoformat()


class ContactSerializer(serializers.ModelSerializer):
    """A contact as the list shows it; without an end it is under way."""

    arrived_at = serializers.SerializerMethodField()
    ended_at = serializers.SerializerMethodField()
    flow_name = serializers.SerializerMethodField()
    number = serializers.SerializerMethodField()
    caller = serializers.SerializerMethodField()
    ending = serializers.ChoiceField(ENDINGS, allow_blank=True, read_only=True)

    class Meta:
        model = Contact
        fields = ["id", "number", "caller", "flow", "flow_name", "arrived_at", "ended_at", "ending"]

    @extend_schema_field(OpenApiTypes.DATETIME)
    def get_arrived_at(self, contact: Contact) -> str | None:
        return _moment(contact.arrived_ms)

    @extend_schema_field({"type": "string", "format": "date-time", "nullable": True})
    def get_ended_at(self, contact: Contact) -> str | None:
        return _moment(contact.ended_ms)

    def get_flow_name(self, contact: Contact) -> str:
        names = flow_services.flow_names([contact.flow] if contact.flow else [])
        return names.get(contact.flow, "")

    def get_number(self, contact: Contact) -> str:
        return national(contact.number)

    def get_caller(self, contact: Contact) -> str:
        return national(contact.caller)


class TraceLineSerializer(Form):
    """One event of a contact; what else it holds depends on its kind."""

    at_ms = serializers.IntegerField()
    kind = serializers.ChoiceField([str(kind) for kind in Kind])
    agent = serializers.CharField()
    agent_name = serializers.CharField()
    body = serializers.DictField()


class TraceSerializer(Form):
    """A contact with all that happened, and the definition that it ran."""

    contact = ContactSerializer()
    flow_name = serializers.CharField()
    version = serializers.IntegerField()
    definition = DefinitionField(allow_null=True)
    lines = TraceLineSerializer(many=True)


class ContactViewSet(ViewSet):
    """One contact with its trace; `/contacts/find` lists them."""

    area = "contacts"
    queryset = Contact.objects.all()
    serializer_class = ContactSerializer
    lookup_value_regex = "[0-9a-f-]{36}"

    @extend_schema(responses=TraceSerializer)
    def retrieve(self, request: Request, pk: str) -> Response:
        """The trace of one contact."""
        contact = get_object_or_404(Contact, pk=pk)
        events = story(pk)
        must_see(request.user, events)
        scope = scope_of(request.user)
        events = [h for h in events if not isinstance(h.fact, facts.AgentChanged)]
        began = next((h.fact for h in events if isinstance(h.fact, facts.Arrived)), facts.Arrived())
        agents = agent_services.agents()

        def name(agent: str) -> str:
            return agents[agent].name if agent in agents else ""

        lines = [
            {
                "at_ms": line["at_ms"],
                "kind": line["kind"],
                "agent": line["agent"],
                "agent_name": name(line["agent"]),
                "body": {k: v for k, v in line.items() if k not in ("at_ms", "kind", "agent")},
            }
            for line in told(events, lambda agent: scope is None or agent in scope.agents)
        ]
        definition = began.definition
        if definition is None and began.version_id:
            definition = flow_services.definition_of_version(began.version_id)
        trace = {
            "contact": contact,
            "flow_name": began.flow_name,
            "version": began.version,
            "definition": definition,
            "lines": lines,
        }
        return Response(TraceSerializer(trace, context={"request": request}).data)


class CallbackSerializer(serializers.ModelSerializer):
    """A callback; `state` says how far it is, `place` where it stands among those that wait."""

    id = serializers.CharField(source="contact")
    booked_at = serializers.SerializerMethodField()
    entered_at = serializers.SerializerMethodField()
    next_at = serializers.SerializerMethodField()
    ended_at = serializers.SerializerMethodField()
    number = serializers.SerializerMethodField()
    queue_name = serializers.SerializerMethodField()
    agent_name = serializers.SerializerMethodField()

    class Meta:
        model = Callback
        fields = [
            "id",
            "origin",
            "queue",
            "queue_name",
            "number",
            "booked_at",
            "entered_at",
            "next_at",
            "attempts",
            "tried",
            "agent_name",
            "state",
            "ended_at",
        ]

    @extend_schema_field(OpenApiTypes.DATETIME)
    def get_booked_at(self, row: Callback) -> str | None:
        return _moment(row.booked_ms)

    @extend_schema_field(OpenApiTypes.DATETIME)
    def get_entered_at(self, row: Callback) -> str | None:
        return _moment(row.entered_ms)

    @extend_schema_field({"type": "string", "format": "date-time", "nullable": True})
    def get_next_at(self, row: Callback) -> str | None:
        return _moment(row.next_ms or None)

    @extend_schema_field({"type": "string", "format": "date-time", "nullable": True})
    def get_ended_at(self, row: Callback) -> str | None:
        return _moment(row.ended_ms)

    def get_number(self, row: Callback) -> str:
        return national(row.number)

    def get_queue_name(self, row: Callback) -> str:
        if "queues" not in self.context:
            self.context["queues"] = queue_services.facts()
        facts = self.context["queues"].get(f"queue:{row.queue}")
        return facts.name if facts else "a queue that is gone"

    def get_agent_name(self, row: Callback) -> str:
        if "agents" not in self.context:
            self.context["agents"] = agent_services.agents()
        known = self.context["agents"].get(row.agent)
        return known.name if known else ""


class CallbackViewSet(mixins.ListModelMixin, ViewSet):
    """Callbacks: those that wait by their place in line, then those that are over."""

    area = "callbacks"
    queryset = Callback.objects.order_by("-ended_ms", "entered_ms", "pk")
    serializer_class = CallbackSerializer
    filter_backends = [StableOrdering]
    ordering_fields = ["entered_ms", "booked_ms", "ended_ms", "number", "state"]
    ordering = ["-ended_ms", "entered_ms"]
    asks = {"list": ("open",)}
    lookup_value_regex = "[0-9a-f-]{36}"

    def get_queryset(self) -> Any:
        rows = super().get_queryset().filter(site=settings.EXCHANGE_SITE)
        if self.request.query_params.get("open") == "yes":
            rows = rows.filter(ended_ms__isnull=True)
        return rows

    @extend_schema(parameters=[OpenApiParameter("open", str, enum=["yes"])])
    def list(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Callbacks; with `open` only those that are not over."""
        return super().list(request, *args, **kwargs)

    @extend_schema(request=None, responses={204: None})
    @action(detail=True, methods=["post"])
    def cancel(self, request: Request, pk: str | None = None) -> Response:
        """Take it off the list: the caller will not be rung."""
        known = Callback.objects.filter(pk=str(pk)).first()
        if known is not None:
            must(request.user, "change", known)
        ask(request.user, "callback.cancel", {"contact": str(pk)})
        return Response(status=204)
