"""A person leaves: out of every queue and team, then deleted; all of it or nothing."""

from __future__ import annotations

import uuid
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.things import must
from agents import groups
from agents import services as agent_services
from changelog import config_store
from changelog.kinds import kind_named
from queues.models import Queue
from web.base import View


def leave(user: Any, agent: Any) -> None:
    """Take an agent out of everything, and delete them.

    Raises:
        InUse: a flow or a mailbox still names them.
    """
    with transaction.atomic():
        for queue in Queue.objects.filter(members=agent.pk):
            stay = queue.members.exclude(pk=agent.pk)
            ranks = {pk: rank for pk, rank in queue.ranks.items() if pk != str(agent.pk)}
            config_store.change(user, queue, None, members=list(stay), ranks=ranks)
        groups.take_out(user, agent)
        agent = config_store.change(user, agent, None, team=None)
        config_store.remove(user, agent)
        agent_services.no_sign_in(user, agent)


class LeaveView(View):
    """An agent leaves the centre."""

    area, verb = "agents", "change"

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, pk: uuid.UUID) -> Response:
        agent = get_object_or_404(kind_named("agent").model, pk=pk)
        must(request.user, "delete", agent)
        leave(request.user, agent)
        return Response(status=204)
