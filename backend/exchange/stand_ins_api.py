"""The stand-ins of this site: switched on and off, what they are like, and starting over."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models import Count, Exists, F, OuterRef
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from callcore.people.moments import by_quarters
from callcore.people.profile import QUARTER_MS, QUARTERS, from_csv
from callcore.people.said import LENGTHS, SHARES, Wrong, as_said, traits_of, usual_unless
from callcore.simulation.run import midnight_of
from changelog import config_store
from exchange.commands import ask, reload_exchange
from exchange.live.journal import crowd_settings
from exchange.models import Callback, Contact, StandIns
from exchange.site_clock import SPEEDS, SiteClock
from web.base import Form, View
from web.files import download
from web.problems import bad_request

#: A profile's file is no larger than this, in bytes.
_LARGEST = 200_000

_LENGTH = {
    "type": "object",
    "required": ["kind", "mean_s", "spread"],
    "properties": {
        "kind": {"enum": ["fixed", "exponential", "lognormal", "erlang"], "type": "string"},
        "mean_s": {"type": "number"},
        "spread": {"type": "number"},
    },
}


#: Any figures from 0 on, by what they are of.
_WEIGHTS = {"type": "object", "additionalProperties": {"type": "number"}}


@extend_schema_field(
    {
        "type": ["object", "null"],
        "properties": {
            "profile": {"type": "array", "items": {"type": "array", "items": {"type": "number"}}},
            "moments": {"type": "array", "items": {"type": "integer"}},
            **dict.fromkeys(LENGTHS, _LENGTH),
            **{name: {"type": "number"} for name in SHARES},
            **dict.fromkeys(("choices", "texts"), _WEIGHTS),
        },
    }
)
class PeopleField(serializers.Field[Any, Any, Any, Any]):
    """What the people are like; `callcore.people.said` knows what can be said."""

    default_error_messages = {"no_object": "An object is needed."}

    def __init__(self, **options: Any) -> None:
        super().__init__(allow_null=True, **options)

    def to_internal_value(self, data: Any) -> dict[str, Any]:
        if not isinstance(data, dict):
            self.fail("no_object")
        return dict(data)

    def to_representation(self, value: Any) -> dict[str, Any]:
        return as_said(usual_unless(value))


class StandInsSerializer(serializers.ModelSerializer):
    """Simulated callers and agents. A load of 1 is the usual day."""

    load = serializers.FloatField(min_value=0, max_value=20, required=False)
    misheard = serializers.IntegerField(
        min_value=0,
        max_value=100,
        required=False,
        help_text="How many of a hundred things that callers say are not understood.",
    )
    agents = serializers.IntegerField(min_value=0, max_value=1000, required=False)
    seed = serializers.IntegerField(min_value=1, max_value=10**9, required=False)
    people = PeopleField(
        required=False,
        help_text="Arrivals an hour by weekday and quarter-hour, lengths and shares. What is not "
        "said stays; null is as usual.",
    )
    speed = serializers.ChoiceField(SPEEDS, required=False)
    clock_ms = serializers.SerializerMethodField()

    class Meta:
        model = StandIns
        fields = ["on", "load", "agents", "seed", "fax", "misheard", "people", "speed", "clock_ms"]

    def validate_people(self, said: dict[str, Any] | None) -> dict[str, Any]:
        if said is None:
            return {}
        whole = {**(self.instance.people if self.instance else {}), **said}
        try:
            traits_of(whole)
        except Wrong as error:
            raise serializers.ValidationError({error.field: [str(error)]}) from None
        return whole

    def get_clock_ms(self, row: StandIns) -> int:
        return _clock_of(row).now_ms()


def _clock_of(row: StandIns) -> SiteClock:
    return SiteClock(row.speed, row.clock_from_ms, row.clock_since_ms)


class StandInsView(View):
    """The stand-ins of this site: switched on and off here, for trying a set-up."""

    area = "stand_ins"

    @extend_schema(responses=StandInsSerializer)
    def get(self, request: Request) -> Response:
        return Response(StandInsSerializer(_stand_ins()).data)

    @extend_schema(request=StandInsSerializer(partial=True), responses=StandInsSerializer)
    def patch(self, request: Request) -> Response:
        row = _stand_ins()
        form = StandInsSerializer(row, data=request.data, partial=True)
        form.is_valid(raise_exception=True)
        changed = config_store.change(request.user, row, None, **form.validated_data)
        reload_exchange(request.user)
        return Response(StandInsSerializer(changed).data)


class ResetView(View):
    """Forget every contact and figure of the site, and go by the wall's clock again."""

    area, verb = "stand_ins", "change"

    @extend_schema(request=None, responses=StandInsSerializer)
    def post(self, request: Request) -> Response:
        ask(request.user, "reset", {})
        return Response(StandInsSerializer(_stand_ins()).data)


def _stand_ins() -> StandIns:
    return StandIns.objects.get_or_create(site=settings.EXCHANGE_SITE)[0]


class ArrivalsSerializer(Form):
    """Today by quarter-hours from midnight: who came, and who was expected at the present load."""

    quarters = serializers.ListField(child=serializers.IntegerField())
    expected = serializers.ListField(child=serializers.FloatField())
    weekday = serializers.IntegerField(help_text="0 is Monday.")


class ArrivalsView(View):
    """Today's arrivals against the profile."""

    area = "stand_ins"

    @extend_schema(responses=ArrivalsSerializer)
    def get(self, request: Request) -> Response:
        site, zone = settings.EXCHANGE_SITE, settings.CENTRE_TIME_ZONE
        now_ms = _clock_of(_stand_ins()).now_ms()
        since_ms = midnight_of(now_ms, zone)
        quarter = (F("arrived_ms") - since_ms) / QUARTER_MS
        arrived = Contact.objects.filter(site=site, arrived_ms__gte=since_ms, consult_of="")
        # A callback is no caller who came: they did before.
        arrived = arrived.exclude(Exists(Callback.objects.filter(contact=OuterRef("pk"))))
        counts = [0] * QUARTERS
        for at, count in arrived.values_list(quarter).annotate(Count("pk")):
            counts[min(QUARTERS - 1, at)] += count
        crowd = crowd_settings(site)
        weekday = datetime.fromtimestamp(now_ms / 1000, ZoneInfo(zone)).weekday()
        profile, moments = crowd.traits.profile, crowd.traits.moments
        expected = [rate * crowd.load / 4 for rate in profile.days[weekday]]
        if moments:
            expected = [count * crowd.load for count in by_quarters(moments, QUARTER_MS, QUARTERS)]
        told = {"quarters": counts, "expected": expected, "weekday": weekday}
        return Response(ArrivalsSerializer(told).data)


class ProfileFileSerializer(Form):
    """A profile as a file."""

    file = serializers.FileField()


class ProfileSerializer(Form):
    """Arrivals an hour: seven days from Monday, each of 96 quarter-hours."""

    profile = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))


class ProfileView(View):
    """The profile as a table of 96 rows: handed out, and read. What was read is not in force."""

    area = "stand_ins"
    parser_classes = [MultiPartParser]

    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request) -> HttpResponse:
        profile = crowd_settings(settings.EXCHANGE_SITE).traits.profile
        return download("Callers an hour", profile.as_csv(), "text/csv", "csv")

    @extend_schema(request=ProfileFileSerializer, responses=ProfileSerializer)
    def post(self, request: Request) -> Response:
        form = ProfileFileSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        data = form.validated_data["file"].read(_LARGEST + 1)
        if len(data) > _LARGEST:
            words = "The file is larger than any profile: 200 kB at the most."
            raise bad_request(words, file=[words])
        try:
            profile = from_csv(data.decode("utf-8-sig"))
        except UnicodeDecodeError:
            words = "The file is no text in UTF-8."
            raise bad_request(words, file=[words]) from None
        except ValueError as error:
            raise bad_request(str(error), file=[str(error)]) from None
        return Response(ProfileSerializer({"profile": [list(day) for day in profile.days]}).data)
