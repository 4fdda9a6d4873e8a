"""Taking emergencies: a supervisor of the agent's team says that they look after it."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.http import Http404
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.things import must
from agents.services import agent_with
from callcore.events import Kind
from exchange.commands import ask
from exchange.models import Journal
from web.base import View


class TakeAlarmView(View):
    """An emergency of an agent."""

    area = "alarms"

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, contact: uuid.UUID) -> Response:
        """Take it: it stands on no floor any more, and the agent reads who has it."""
        pressed = Journal.objects.filter(
            site=settings.EXCHANGE_SITE, contact=str(contact), kind=str(Kind.EMERGENCY)
        ).last()
        if pressed is None:
            raise Http404
        agent = agent_with(pressed.agent)
        if agent is not None:
            must(request.user, "change", agent)
        by = request.user.full_name or request.user.get_username()
        ask(request.user, "alarm.take", {"contact": str(contact), "by": by})
        return Response(status=204)
