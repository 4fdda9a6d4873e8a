"""What agents see of their own day, at their desk."""

from __future__ import annotations

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response

from agents.services import agent_of
from exchange.services import site_clock_ms
from reports import agents_report, finding
from reports.asking import today
from reports.contacts_api import FoundContactSerializer
from reports.growing import freshen
from reports.more_api import AgentRowSerializer
from reports.period import Period
from web.base import Form, View
from web.problems import Problem

#: So many of the last contacts are shown.
_LAST = 5


class OwnDaySerializer(Form):
    """Today's figures of an agent (null before they have signed in), and their last contacts."""

    row = AgentRowSerializer(allow_null=True)
    contacts = FoundContactSerializer(many=True)


class OwnDayView(View):
    """An agent's own day."""

    area, verb = "desk", "use"

    @extend_schema(responses=OwnDaySerializer)
    def get(self, request: Request) -> Response:
        agent = agent_of(request.user)
        if agent is None:
            raise Problem(409, "no-agent", "You are not set up as an agent.")
        freshen(settings.EXCHANGE_SITE)
        day = Period(today(), today(), settings.CENTRE_TIME_ZONE)
        rows = agents_report.report([str(agent.pk)], day, site_clock_ms())["rows"]
        found = finding.found(finding.Wanted(agent=str(agent.pk)), day)
        contacts = finding.page(found, 0, _LAST)[1]
        told = {"row": next(iter(rows), None), "contacts": contacts}
        return Response(OwnDaySerializer(told).data)
