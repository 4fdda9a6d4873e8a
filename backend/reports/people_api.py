"""The stand-ins as real people were: what a site's last four weeks say of them."""

from __future__ import annotations

from collections import defaultdict
from datetime import datetime
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models import Avg, Count, Q, StdDev, Sum
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from callcore.measures.rows import INTERVAL_MS
from callcore.measures.tallies import Counted
from callcore.people.moments import MOST_MOMENTS
from callcore.people.profile import QUARTER_MS
from callcore.people.recorded import Lengths, Recorded, as_said
from exchange.live.journal import crowd_settings
from exchange.stand_ins_api import PeopleField
from reports.asking import day_of, days_of, today
from reports.hours_report import days_by_weekday
from reports.models import ContactLine, Leg, TallyInterval
from reports.period import Impossible, Period, period
from reports.queue_rows import total
from reports.tally_rows import tallies
from web.base import Form, View
from web.problems import bad_request

assert QUARTER_MS == INTERVAL_MS, "arrivals are counted as profiles have them"


class RecordedPeopleSerializer(Form):
    """What can be taken from what was recorded; what is not there stays as it is."""

    people = PeopleField()


class RecordedPeopleView(View):
    """The people of the last 28 days, as stand-ins could be. Nothing of it is in force."""

    area = "stand_ins"

    @extend_schema(responses=RecordedPeopleSerializer)
    def get(self, request: Request) -> Response:
        first, last = days_of("28days", today())
        said = as_said(_recorded(Period(first, last, settings.CENTRE_TIME_ZONE)))
        if not said:
            words = "Too little was recorded in the last 28 days to say what people are like."
            raise bad_request(words)
        return Response({"people": said})


class RecordedMomentsSerializer(Form):
    """When callers came on a day: milliseconds after midnight."""

    moments = serializers.ListField(child=serializers.IntegerField())


class RecordedMomentsView(View):
    """The moments at which callers came on a day, for stand-ins who come as they did."""

    area = "stand_ins"
    asks = {"get": ("day",)}

    @extend_schema(
        parameters=[OpenApiParameter("day", OpenApiTypes.DATE, required=True)],
        responses=RecordedMomentsSerializer,
    )
    def get(self, request: Request) -> Response:
        day = day_of("day", request.query_params.get("day", ""))
        try:
            of_day = period(day, day, settings.CENTRE_TIME_ZONE)
        except Impossible as error:
            raise bad_request(str(error), day=[str(error)]) from None
        came = ContactLine.objects.filter(
            site=settings.EXCHANGE_SITE,
            arrived_ms__gte=of_day.begin_ms,
            arrived_ms__lt=of_day.end_ms,
            callback=False,
        ).exclude(number="")
        moments = list(came.order_by("arrived_ms").values_list("arrived_ms", flat=True)[: MOST_MOMENTS + 1])
        if not moments:
            words = "Nobody called on that day, or its contacts are not kept any more."
            raise bad_request(words, day=[words])
        if len(moments) > MOST_MOMENTS:
            words = f"More than {MOST_MOMENTS:,} came on that day: take its profile instead."
            raise bad_request(words, day=[words])
        return Response({"moments": [at_ms - of_day.begin_ms for at_ms in moments]})


def _recorded(period: Period) -> Recorded:
    site = settings.EXCHANGE_SITE
    legs = Leg.objects.filter(
        site=site, answered_ms__gte=period.begin_ms, answered_ms__lt=period.end_ms, ended_ms__isnull=False
    ).exclude(how="consult")
    sums = legs.aggregate(
        parts=Count("pk"),
        held=Count("pk", filter=Q(hold_ms__gt=0)),
        sent_on=Count("pk", filter=Q(by="transferred")),
        coded=Count("pk", filter=~Q(code="")),
        talk=Avg("talk_ms"),
        talk_deviation=StdDev("talk_ms"),
        wrapped=Count("pk", filter=Q(wrap_ms__gt=0)),
        wrap=Avg("wrap_ms", filter=Q(wrap_ms__gt=0)),
        wrap_deviation=StdDev("wrap_ms", filter=Q(wrap_ms__gt=0)),
    )
    rings: defaultdict[str, int] = defaultdict(int)
    for told in tallies(Counted.RING, period):
        rings[told.detail] += told.count
    row = total([], period).parts
    return Recorded(
        arrivals=_arrivals(period),
        days=days_by_weekday(period),
        load=crowd_settings(site).load,
        talk=_lengths(sums["parts"], sums["talk"], sums["talk_deviation"]),
        wraps=_lengths(sums["wrapped"], sums["wrap"], sums["wrap_deviation"]),
        waited_s=(row.wait_answered_ms + row.wait_abandoned_ms) / 1000,
        gave_up=row.abandoned,
        rings=rings["rang"],
        missed=rings["missed"],
        parts=sums["parts"],
        held=sums["held"],
        sent_on=sums["sent_on"],
        coded=sums["coded"],
    )


def _lengths(count: int, mean_ms: float | None, deviation_ms: float | None) -> Lengths:
    return Lengths(count, float(mean_ms or 0) / 1000, float(deviation_ms or 0) / 1000)


def _arrivals(period: Period) -> dict[tuple[int, int], int]:
    zone = ZoneInfo(period.zone)
    rows = TallyInterval.objects.filter(
        site=settings.EXCHANGE_SITE,
        what=str(Counted.NUMBER),
        detail="arrived",
        at_ms__gte=period.begin_ms,
        at_ms__lt=period.end_ms,
    )
    found: defaultdict[tuple[int, int], int] = defaultdict(int)
    for at_ms, count in rows.values_list("at_ms").annotate(Sum("count")).order_by():
        local = datetime.fromtimestamp(at_ms / 1000, zone)
        found[(local.weekday(), local.hour * 4 + local.minute // 15)] += count
    return found
