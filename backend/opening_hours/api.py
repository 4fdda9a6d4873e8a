"""Opening hours: kept, asked for any moment, and filled with public holidays."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import ItemSerializer, ItemViewSet
from callcore.hours.answer import Answer, answer, in_words, next_changes, outlook
from callcore.hours.plan import FIRST_YEAR, LAST_YEAR, LONGEST_NAME, dump, load
from callcore.hours.plan import Hours as Plan
from opening_hours import calendar_files, services
from opening_hours.calendar_reader import read_bounded
from opening_hours.models import Hours
from web.base import Form, View
from web.clock import site_now
from web.files import download
from web.parts import PartSerializer
from web.problems import bad_request

#: How far the months of the page look ahead.
OUTLOOK_DAYS = 123


class SpanSerializer(PartSerializer):
    """Minutes after local midnight; the end may be up to 2880, on the next day."""

    start = serializers.IntegerField()
    end = serializers.IntegerField()


class ExceptionSerializer(PartSerializer):
    name = serializers.CharField(allow_blank=True, max_length=LONGEST_NAME)
    day = serializers.CharField(help_text="A date, YYYY-MM-DD.")
    yearly = serializers.BooleanField(default=False)
    spans = SpanSerializer(many=True)


class ClosureSerializer(PartSerializer):
    reason = serializers.CharField(allow_blank=True, default="")
    until = serializers.CharField(allow_null=True, default=None, help_text="ISO 8601, with zone.")


class PlanSerializer(Form):
    """What `callcore.hours.plan` reads; it, and nothing else, says what is wrong."""

    time_zone = serializers.CharField()
    week = serializers.ListField(child=SpanSerializer(many=True))
    exceptions = ExceptionSerializer(many=True)
    closure = ClosureSerializer(allow_null=True)


class HoursSerializer(ItemSerializer):
    """Named hours; what is not sent of the plan stays as it is."""

    week = serializers.ListField(child=SpanSerializer(many=True), required=False)
    exceptions = ExceptionSerializer(many=True, required=False)
    closure = ClosureSerializer(allow_null=True, required=False)
    time_zone = serializers.CharField(max_length=60, required=False)
    now = serializers.SerializerMethodField()

    class Meta:
        model = Hours
        fields = ["id", "revision", "updated_at", "name", "time_zone", "week", "exceptions", "closure", "now"]

    def get_now(self, hours: Hours) -> str:
        return services.said_at(load(hours.plan()), self.moment())

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        before = self.instance.plan() if self.instance is not None else dump(Plan())
        plan = dump(load({name: attrs.get(name, value) for name, value in before.items()}))
        return {**attrs, **{k: v for k, v in plan.items() if self.instance is None or k in attrs}}


class CalendarFileSerializer(Form):
    file = serializers.FileField()


class CalendarPreviewSerializer(Form):
    """What a calendar file would bring; nothing has been changed."""

    exceptions = ExceptionSerializer(many=True)
    left_out = serializers.ListField(
        child=serializers.CharField(), help_text="Of which events nothing can be taken, and why."
    )


class HoursViewSet(ItemViewSet):
    area = "hours"
    queryset = Hours.objects.all()
    serializer_class = HoursSerializer
    search_fields = ["name", "time_zone"]
    ordering_fields = ["name", "time_zone"]

    @extend_schema(responses={(200, "text/calendar"): OpenApiTypes.STR}, methods=["GET"])
    @extend_schema(
        request={"multipart/form-data": CalendarFileSerializer},
        responses=CalendarPreviewSerializer,
        methods=["POST"],
    )
    @action(detail=True, methods=["get", "post"], parser_classes=[MultiPartParser])
    def calendar(self, request: Request, pk: str | None = None) -> Any:
        """The exceptions as iCalendar; or what an iCalendar file would bring."""
        hours = self.get_object()
        if request.method == "GET":
            text = calendar_files.write(load(hours.plan()), hours.name)
            return download(hours.name, text, "text/calendar", "ics")
        form = CalendarFileSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        data = form.validated_data["file"].read(calendar_files.LARGEST + 1)
        try:
            found = read_bounded(data, hours.time_zone, site_now().date())
        except calendar_files.NotACalendar as error:
            raise bad_request(str(error), file=[str(error)]) from None
        rows = [e.model_dump(mode="json") for e in found.exceptions]
        return Response({"exceptions": rows, "left_out": found.left_out})


class AnswerSerializer(Form):
    at = serializers.DateTimeField()
    open = serializers.BooleanField()
    words = serializers.CharField()
    why = serializers.ListField(child=serializers.CharField())
    until = serializers.DateTimeField(allow_null=True)


class ChangeOfHoursSerializer(Form):
    at = serializers.DateTimeField()
    open = serializers.BooleanField()


class DaySerializer(Form):
    day = serializers.DateField()
    spans = SpanSerializer(many=True)
    kind = serializers.ChoiceField(["plan", "special", "closed"])
    name = serializers.CharField()
    open_minutes = serializers.IntegerField()
    clocks_change = serializers.BooleanField()


class LookSerializer(Form):
    now = AnswerSerializer()
    then = AnswerSerializer()
    changes = ChangeOfHoursSerializer(many=True)
    days = DaySerializer(many=True)


class HoursQuestionSerializer(Form):
    plan = PlanSerializer()
    at = serializers.CharField(
        required=False, help_text="A wall clock time in the plan's zone, YYYY-MM-DDTHH:MM."
    )


def _answered(plan: Plan, moment: datetime) -> dict[str, Any]:
    found: Answer = answer(plan, moment)
    return {
        "at": moment,
        "open": found.open,
        "words": in_words(found, plan, moment),
        "why": list(found.why),
        "until": found.until,
    }


class LookView(View):
    """Ask any plan, kept or just typed: now, then, what changes next, the months ahead."""

    area, verb = "hours", "see"

    @extend_schema(request=HoursQuestionSerializer, responses=LookSerializer)
    def post(self, request: Request) -> Response:
        data = request.data if isinstance(request.data, dict) else {}
        plan = load(data.get("plan"))
        now = site_now()
        then = self._then(data.get("at"), plan) if data.get("at") else now
        first = now.astimezone(plan.zone).date().replace(day=1)
        return Response(
            {
                "now": _answered(plan, now),
                "then": _answered(plan, then),
                "changes": [{"at": at, "open": o} for at, o in next_changes(plan, now, 6)],
                "days": [self._day(day) for day in outlook(plan, first, OUTLOOK_DAYS)],
            }
        )

    @staticmethod
    def _day(day: Any) -> dict[str, Any]:
        return {**day._asdict(), "spans": [span.model_dump() for span in day.spans]}

    @staticmethod
    def _then(text: Any, plan: Plan) -> datetime:
        words = "Choose a date and time between 1970 and 2200."
        try:
            local = datetime.fromisoformat(str(text)).replace(tzinfo=plan.zone)
        except ValueError:
            raise bad_request(words, at=[words]) from None
        if not FIRST_YEAR <= local.year <= LAST_YEAR:
            raise bad_request(words, at=[words])
        return local.astimezone(UTC)


class HolidaySerializer(Form):
    day = serializers.DateField()
    name = serializers.CharField()


class HolidaysView(View):
    """Public holidays, to look at before they are taken in as exceptions."""

    area, verb = "hours", "see"
    asks = {"get": ("country", "region", "year")}

    @extend_schema(
        parameters=[
            OpenApiParameter("country", str, description="ISO 3166, such as GB."),
            OpenApiParameter("region", str, description="Such as WLS; may be empty."),
            OpenApiParameter("year", int),
        ],
        responses=HolidaySerializer(many=True),
    )
    def get(self, request: Request) -> Response:
        query = request.query_params
        year = query.get("year", "")
        if not (year.isdecimal() and 1970 <= int(year) <= 2100):
            raise bad_request("Choose a year.", year=["A year from 1970 to 2100."])
        country, region = query.get("country", "")[:8].upper(), query.get("region", "")[:8].upper()
        found = services.public_holidays(country, region, int(year))
        return Response([holiday._asdict() for holiday in found])
