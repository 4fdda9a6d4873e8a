"""The other standing reports: codes, agents, flows, hours, and what is used."""

from __future__ import annotations

import re
import uuid
from functools import partial

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response

from exchange.services import site_clock_ms
from reports import agents_report, codes_report, flow_report, hours_report, usage_report
from reports.asking import PERIOD, PERIOD_PARAMETERS, asked_count, asked_ids, asked_period
from reports.reach import callers, reached_agents
from web.base import Form, View
from web.problems import bad_request

_QUEUES = OpenApiParameter("queues", str, description="Ids of queues by commas; all without it.")
_PAGE, _MOST, _DEEPEST = 20, 500, 1_000_000
_TEAM = OpenApiParameter("team", str, description="Only agents of this team.")


class Between(Form):
    """What every report says of its period (ms), and what it answers in one sentence, if so."""

    begin_ms = serializers.IntegerField()
    end_ms = serializers.IntegerField()
    sentence = serializers.CharField()


class CodeLegsSerializer(Form):
    """A code over the legs that have it, or all of them together; averages in ms."""

    code = serializers.CharField()
    name = serializers.CharField()
    legs = serializers.IntegerField()
    share = serializers.FloatField(allow_null=True)
    first_legs = serializers.IntegerField(help_text="Of these, the first ones of their contacts.")
    handed_on = serializers.IntegerField()
    talk_average_ms = serializers.FloatField(allow_null=True)
    hold_average_ms = serializers.FloatField(allow_null=True)
    wrap_average_ms = serializers.FloatField(allow_null=True)
    handle_average_ms = serializers.FloatField(allow_null=True)


class CodeHoursSerializer(Form):
    """Legs of a code by the 24 hours of the day."""

    code = serializers.CharField()
    counts = serializers.ListField(child=serializers.IntegerField())


class HandOverSerializer(Form):
    """How often one leg's code was followed by another's; `nobody` where none followed."""

    first = serializers.CharField()
    second = serializers.CharField()
    count = serializers.IntegerField()


class CodesReportSerializer(Between):
    """Codes of legs, by hour, and from one leg to the next. The empty code is no code."""

    legs = serializers.IntegerField()
    contacts = serializers.IntegerField()
    coded = serializers.IntegerField()
    codes = CodeLegsSerializer(many=True)
    total = CodeLegsSerializer()
    hours = CodeHoursSerializer(many=True)
    handed_on = serializers.IntegerField()
    matrix = HandOverSerializer(many=True)
    names = serializers.DictField(child=serializers.CharField())


class LegSerializer(Form):
    """One agent's part."""

    agent_name = serializers.CharField()
    at_ms = serializers.IntegerField()
    wait_ms = serializers.IntegerField()
    talk_ms = serializers.IntegerField()


class CodedContactSerializer(Form):
    """A contact behind a count of codes: the leg that counts, and the one after it."""

    contact = serializers.CharField()
    at_ms = serializers.IntegerField()
    caller = serializers.CharField()
    first = LegSerializer()
    second = LegSerializer(allow_null=True)


class CodedContactsSerializer(Form):
    """How many there are, some of them, and what they cost: the first legs' talk and wrap-up, the
    waits before the second ones (ms)."""

    count = serializers.IntegerField()
    first_talk_ms = serializers.IntegerField()
    second_wait_ms = serializers.IntegerField()
    contacts = CodedContactSerializer(many=True)


class CodesReportView(View):
    """What contacts were about."""

    area = "reports"
    asks = {"get": ("queues", *PERIOD)}

    @extend_schema(parameters=[_QUEUES, *PERIOD_PARAMETERS], responses=CodesReportSerializer)
    def get(self, request: Request) -> Response:
        period = asked_period(request.query_params)
        told = codes_report.report(asked_ids(request.query_params, "queues"), period)
        return Response(CodesReportSerializer(told).data)


class CodedContactsView(View):
    """The contacts behind a count of codes."""

    area = "reports"
    asks = {"get": ("queues", "code", "hour", "second", "passed_on", "offset", "limit", *PERIOD)}

    @extend_schema(
        parameters=[
            _QUEUES,
            *PERIOD_PARAMETERS,
            OpenApiParameter("code", str, description="Of the leg; empty for no code."),
            OpenApiParameter("hour", int, description="The hour of the day, 0 to 23."),
            OpenApiParameter("second", str, description="The code of the leg after it; `nobody`."),
            OpenApiParameter("passed_on", str, enum=["yes"], description="Only those passed on."),
            OpenApiParameter("offset", int),
            OpenApiParameter("limit", int),
        ],
        responses=CodedContactsSerializer,
    )
    def get(self, request: Request) -> Response:
        query = request.query_params
        names = ("code", "hour", "second", "passed_on")
        asked = {name: query[name][:40] for name in names if name in query}
        if asked.get("hour") and not re.fullmatch(r"1?\d|2[0-3]", asked["hour"]):
            words = "An hour of the day is 0 to 23."
            raise bad_request(words, hour=[words])
        told = codes_report.behind(
            asked_ids(query, "queues"),
            asked_period(query),
            asked,
            asked_count(query, "offset", 0, _DEEPEST),
            asked_count(query, "limit", _PAGE, _MOST),
            partial(callers, request.user),
        )
        return Response(CodedContactsSerializer(told).data)


class AgentRowSerializer(Form):
    """An agent over a period; the states (ms) add up to the time signed in. Null: no figure."""

    agent = serializers.CharField()
    name = serializers.CharField()
    team = serializers.CharField()
    signed_in_ms = serializers.IntegerField()
    available_ms = serializers.IntegerField()
    ringing_ms = serializers.IntegerField()
    on_contact_ms = serializers.IntegerField()
    wrapping_ms = serializers.IntegerField()
    away_ms = serializers.IntegerField()
    legs = serializers.IntegerField()
    talk_ms = serializers.IntegerField()
    hold_ms = serializers.IntegerField()
    wrap_ms = serializers.IntegerField()
    handed_on = serializers.IntegerField()
    coded = serializers.IntegerField()
    missed = serializers.IntegerField()
    rang = serializers.IntegerField()
    occupancy = serializers.FloatField(allow_null=True)
    handle_average_ms = serializers.FloatField(allow_null=True)
    talk_average_ms = serializers.FloatField(allow_null=True)
    hold_average_ms = serializers.FloatField(allow_null=True)
    wrap_average_ms = serializers.FloatField(allow_null=True)
    available_share = serializers.FloatField(allow_null=True)
    ringing_share = serializers.FloatField(allow_null=True)
    on_contact_share = serializers.FloatField(allow_null=True)
    wrapping_share = serializers.FloatField(allow_null=True)
    away_share = serializers.FloatField(allow_null=True)
    coded_share = serializers.FloatField(allow_null=True)
    missed_share = serializers.FloatField(allow_null=True)


class AgentsReportSerializer(Between):
    """Every agent who was there, by team and name, and all of them together."""

    rows = AgentRowSerializer(many=True)
    total = AgentRowSerializer()


class StateSpanSerializer(Form):
    """An agent's state for a while (ms)."""

    status = serializers.CharField()
    reason = serializers.CharField()
    from_ms = serializers.IntegerField()
    until_ms = serializers.IntegerField()


class ReasonSerializer(Form):
    """How long somebody was away for a reason."""

    reason = serializers.CharField()
    ms = serializers.IntegerField()


class AgentQueueSerializer(Form):
    """An agent's parts of a queue's contacts."""

    name = serializers.CharField()
    legs = serializers.IntegerField()
    talk_ms = serializers.IntegerField()
    hold_ms = serializers.IntegerField()
    wrap_ms = serializers.IntegerField()


class AgentCodeSerializer(Form):
    """How often an agent gave a code."""

    name = serializers.CharField()
    legs = serializers.IntegerField()


class AgentToldSerializer(Form):
    """What a supervisor had an agent do (`available`, `away`, `sign_out`, `serve`), for a reason or
    in which queues; or what one of them wrote (`say`)."""

    at_ms = serializers.IntegerField()
    by = serializers.CharField()
    act = serializers.CharField()
    about = serializers.CharField(allow_blank=True)


class AgentDaySerializer(Form):
    """One agent over a period; `row` is null where they were not there."""

    told = AgentToldSerializer(many=True)
    row = AgentRowSerializer(allow_null=True)
    spans = StateSpanSerializer(many=True)
    reasons = ReasonSerializer(many=True)
    queues = AgentQueueSerializer(many=True)
    codes = AgentCodeSerializer(many=True)


class AgentsReportView(View):
    """What agents did."""

    area = "reports"
    asks = {"get": ("team", *PERIOD)}

    @extend_schema(parameters=[_TEAM, *PERIOD_PARAMETERS], responses=AgentsReportSerializer)
    def get(self, request: Request) -> Response:
        who = reached_agents(request.user, request.query_params.get("team", ""))
        told = agents_report.report(who, asked_period(request.query_params), site_clock_ms())
        return Response(AgentsReportSerializer(told).data)


class AgentDayView(View):
    """What one agent did."""

    area = "reports"
    asks = {"get": PERIOD}

    @extend_schema(parameters=PERIOD_PARAMETERS, responses=AgentDaySerializer)
    def get(self, request: Request, pk: uuid.UUID) -> Response:
        if str(pk) not in reached_agents(request.user):
            raise PermissionDenied("This is nobody of a team that you supervise.")
        told = agents_report.day_of(str(pk), asked_period(request.query_params), site_clock_ms())
        return Response(AgentDaySerializer(told).data)


class ArmSerializer(Form):
    """How many left a stop by an exit; `misses`: no key, or none that is known."""

    exit = serializers.CharField()
    label = serializers.CharField()
    count = serializers.IntegerField()
    share = serializers.FloatField(allow_null=True)
    misses = serializers.BooleanField()


class StopEndSerializer(Form):
    """How many contacts ended at a stop, and how."""

    ending = serializers.CharField()
    count = serializers.IntegerField()
    share = serializers.FloatField(allow_null=True)


class PressedSerializer(Form):
    """How often a key was pressed at a stop, and whether it leads anywhere now."""

    key = serializers.CharField()
    count = serializers.IntegerField()
    has_arm = serializers.BooleanField()


class StopRowSerializer(Form):
    """A stop: who came, for how long (ms), and where they went."""

    stop = serializers.CharField()
    name = serializers.CharField()
    sentence = serializers.CharField()
    kind = serializers.CharField()
    callers = serializers.IntegerField()
    average_ms = serializers.FloatField(allow_null=True)
    longest_ms = serializers.IntegerField()
    arms = ArmSerializer(many=True)
    ends = StopEndSerializer(many=True)
    keys = PressedSerializer(many=True)


class FlowReportSerializer(Between):
    """What callers did in a flow."""

    flow = serializers.CharField()
    name = serializers.CharField()
    callers = serializers.IntegerField()
    ends = StopEndSerializer(many=True)
    stops = StopRowSerializer(many=True)
    definition = serializers.DictField(
        allow_null=True, help_text="What is in force, for a map; null for a flow that is gone."
    )


class FlowReportView(View):
    """What callers do in a flow."""

    area = "reports"
    asks = {"get": PERIOD}

    @extend_schema(parameters=PERIOD_PARAMETERS, responses=FlowReportSerializer)
    def get(self, request: Request, pk: uuid.UUID) -> Response:
        told = flow_report.report(str(pk), asked_period(request.query_params))
        return Response(FlowReportSerializer(told).data)


class HourCellSerializer(Form):
    """An hour of a weekday, Monday being 0, over all days of a period."""

    weekday = serializers.IntegerField()
    hour = serializers.IntegerField()
    offered = serializers.IntegerField()
    a_day = serializers.FloatField()
    level = serializers.FloatField(allow_null=True)
    below_goal = serializers.BooleanField()
    abandoned = serializers.IntegerField()


class HoursReportSerializer(Between):
    """When it is busy, and how long was waited: counts by stretches of `bin_ms`, the last of which
    holds all that were longer."""

    goal = serializers.FloatField(allow_null=True)
    cells = HourCellSerializer(many=True)
    bin_ms = serializers.IntegerField()
    answered = serializers.ListField(child=serializers.IntegerField())
    abandoned = serializers.ListField(child=serializers.IntegerField())


class HoursReportView(View):
    """When it is busy."""

    area = "reports"
    asks = {"get": ("queues", *PERIOD)}

    @extend_schema(parameters=[_QUEUES, *PERIOD_PARAMETERS], responses=HoursReportSerializer)
    def get(self, request: Request) -> Response:
        told = hours_report.report(
            asked_ids(request.query_params, "queues"), asked_period(request.query_params, "60")
        )
        return Response(HoursReportSerializer(told).data)


class NumberUseSerializer(Form):
    """A number: who arrived, and how their contacts ended."""

    number = serializers.CharField()
    address = serializers.CharField()
    label = serializers.CharField()
    arrived = serializers.IntegerField()
    person = serializers.IntegerField()
    hung_up = serializers.IntegerField()
    message = serializers.IntegerField()
    elsewhere = serializers.IntegerField()
    callback = serializers.IntegerField()
    ended = serializers.IntegerField()
    average_ms = serializers.FloatField(allow_null=True)


class CallbackUseSerializer(Form):
    """Callbacks of a queue, by when they were booked."""

    queue_name = serializers.CharField()
    booked = serializers.IntegerField()
    reached = serializers.IntegerField()
    not_reached = serializers.IntegerField()
    cancelled = serializers.IntegerField()
    until_reached_ms = serializers.FloatField(allow_null=True)


class MailboxUseSerializer(Form):
    """Messages of a mailbox."""

    name = serializers.CharField()
    messages = serializers.IntegerField()
    average_ms = serializers.FloatField()
    longest_ms = serializers.IntegerField()


class OutsideUseSerializer(Form):
    """An outside number that was rung, and for how long somebody spoke (ms)."""

    number = serializers.CharField()
    rung = serializers.IntegerField()
    answered = serializers.IntegerField()
    talk_ms = serializers.IntegerField()


class ToldWaitsSerializer(Form):
    """Waits in a queue that callers were told of, by when they were told, and what came: how many
    ended with an agent as told, sooner or later; by how much they were off (ms)."""

    queue_name = serializers.CharField()
    told = serializers.IntegerField()
    as_told = serializers.IntegerField()
    sooner = serializers.IntegerField()
    later = serializers.IntegerField()
    as_told_share = serializers.FloatField()
    off_ms = serializers.FloatField()
    off_longest_ms = serializers.IntegerField()


class UsageReportSerializer(Form):
    """What is used, and how much."""

    begin_ms = serializers.IntegerField()
    end_ms = serializers.IntegerField()
    numbers = NumberUseSerializer(many=True)
    numbers_total = NumberUseSerializer()
    callbacks = CallbackUseSerializer(many=True)
    mailboxes = MailboxUseSerializer(many=True)
    diversions = serializers.IntegerField()
    outside = OutsideUseSerializer(many=True)
    told_waits = ToldWaitsSerializer(many=True)


class UsageReportView(View):
    """What is used."""

    area = "reports"
    asks = {"get": PERIOD}

    @extend_schema(parameters=PERIOD_PARAMETERS, responses=UsageReportSerializer)
    def get(self, request: Request) -> Response:
        return Response(UsageReportSerializer(usage_report.report(asked_period(request.query_params))).data)
