"""Diversions."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import ItemSerializer, ItemViewSet, RevisionSerializer
from diversions import services
from diversions.models import Diversion, Then, Where
from phone_numbers.answering import flow_choices
from phone_numbers.plan import NotANumber, national, read
from web.clock import site_now


class DiversionSerializer(ItemSerializer):
    """Numbers sent elsewhere. Without `begins` it counts from now."""

    outside = serializers.CharField(max_length=40, allow_blank=True, required=False)
    outside_national = serializers.SerializerMethodField()
    begins = serializers.DateTimeField(required=False)
    ring_s = serializers.IntegerField(min_value=5, max_value=120, required=False)
    state = serializers.SerializerMethodField()
    to = serializers.SerializerMethodField(help_text="Where it sends calls, by name.")
    number_names = serializers.SerializerMethodField()

    class Meta:
        model = Diversion
        fields = [
            "id",
            "revision",
            "updated_at",
            "reason",
            "numbers",
            "number_names",
            "where",
            "outside",
            "outside_national",
            "mailbox",
            "flow",
            "begins",
            "until",
            "lifted_at",
            "ring_s",
            "then",
            "then_mailbox",
            "then_flow",
            "state",
            "to",
        ]
        read_only_fields = ["lifted_at"]

    @extend_schema_field(serializers.ChoiceField(services.STATES))
    def get_state(self, diversion: Diversion) -> str:
        return services.state_of(diversion, self.moment())

    def get_to(self, diversion: Diversion) -> str:
        return services.where_to(diversion)

    def get_outside_national(self, diversion: Diversion) -> str:
        return national(diversion.outside) if diversion.outside else ""

    def get_number_names(self, diversion: Diversion) -> list[str]:
        return [n.label or national(n.address) for n in diversion.numbers.all()]

    def validate_outside(self, typed: str) -> str:
        if not typed.strip():
            return ""
        try:
            return read(typed)
        except NotANumber as error:
            raise serializers.ValidationError(str(error)) from None

    def validate_numbers(self, numbers: list[Any]) -> list[Any]:
        texts = [n.title for n in numbers if n.channel != "voice"]
        if texts:
            raise serializers.ValidationError(f"{texts[0]} takes text messages; calls are diverted.")
        return numbers

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)

        def of(name: str, default: Any = None) -> Any:
            return attrs.get(name, getattr(self.instance, name, default))

        wanted = {
            Where.OUTSIDE: ("outside", "Type the number that is rung."),
            Where.MAILBOX: ("mailbox", "Choose the mailbox."),
            Where.FLOW: ("flow", "Choose the flow."),
        }[of("where", Where.OUTSIDE)]
        if not of(wanted[0]):
            raise serializers.ValidationError({wanted[0]: [wanted[1]]})
        if of("where") == Where.OUTSIDE:
            then = {Then.MAILBOX: "then_mailbox", Then.FLOW: "then_flow"}.get(of("then"))
            if then and not of(then):
                raise serializers.ValidationError({then: ["Choose what follows."]})
        for name in ("flow", "then_flow"):
            flow = attrs.get(name)
            if flow is None:
                continue
            unfit = flow_choices([str(flow.pk)])[str(flow.pk)].unfit("voice")
            if unfit or flow.in_force is None:
                message = unfit or f"{flow.name} is not in force: callers would be cut off."
                raise serializers.ValidationError({name: [message]})
        begins = of("begins") or site_now()
        if self.instance is None:
            attrs.setdefault("begins", begins)
        if of("until") and of("until") <= max(begins, site_now()) and "until" in attrs:
            raise serializers.ValidationError({"until": ["The end must be ahead, after the start."]})
        return attrs


class DiversionViewSet(ItemViewSet):
    area = "diversions"
    queryset = Diversion.objects.select_related("mailbox", "flow").prefetch_related("numbers")
    serializer_class = DiversionSerializer
    search_fields = ["reason", "numbers__label", "numbers__address", "outside"]
    ordering_fields = ["reason", "where", "begins", "until"]

    @extend_schema(request=RevisionSerializer, responses=DiversionSerializer)
    @action(detail=True, methods=["post"])
    def lift(self, request: Request, pk: str | None = None) -> Response:
        """End it now; the normal way counts again for calls that arrive from now on."""
        form = RevisionSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        diversion = self.get_object()
        with self.saying_what_stands(diversion):
            services.lift(request.user, diversion, form.validated_data["revision"])
        return Response(self._fresh(diversion.pk))
