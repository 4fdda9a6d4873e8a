"""The caller's clock of a queue: what its settings and its waiting plan do to a caller."""

from __future__ import annotations

from typing import Any, get_args

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from agents.services import members_of_teams, team_names
from callcore.routing.events import QueueRule
from callcore.waiting.wait_timeline import Clock, MarkKind, clock
from changelog.kinds import name_of
from flows.services import machine_of
from queues import services
from queues.api import QueueInHandSerializer
from queues.rows import WIDENING
from web.base import Form, View


def callers_clock(values: dict[str, Any]) -> Clock:
    """The caller's clock of a queue with these settings, saved or not."""
    of_team = members_of_teams()
    names = team_names()
    rows = sorted(WIDENING.validate_python(values["widening"]), key=lambda row: row.after_s)
    # A team of nobody widens nothing, and is named all the same.
    peopled = {team: of_team.get(team, ("nobody",)) for row in rows for team in row.teams}
    steps = [row.step(peopled) for row in rows]
    longest_s = values["longest_wait_s"]
    rule = QueueRule(
        "",
        longest_wait_ms=None if longest_s is None else longest_s * 1000,
        widening=tuple(steps),
        prefer_ms=values["last_agent_s"] * 1000,
    )
    plan, catalogue = machine_of(str(values["plan"] or ""))

    def teams(at: int) -> str:
        return " and ".join(names.get(team, "another team") for team in rows[at].teams)

    def goes_on(name: str) -> str:
        return f"goes on to {name_of(values[name])}" if values[name] else ""

    waited = goes_on("overflow") or "the flow goes on"
    at_once = []
    if values["when_nobody"] == "leave":
        at_once.append(("nobody", goes_on("overflow_nobody") or waited))
    if values["when_closed"] == "leave" and values["hours"]:
        at_once.append(("closed", goes_on("overflow_closed") or waited))
    return clock(rule, plan, catalogue, waited, teams, at_once)


class MarkSerializer(Form):
    """What happens at a moment after entering the queue; it lasts until `until_s`."""

    at_s = serializers.FloatField()
    until_s = serializers.FloatField()
    kind = serializers.ChoiceField(get_args(MarkKind))
    words = serializers.CharField()


class AtOnceSerializer(Form):
    """A way out that is taken at once, and where it leads."""

    way = serializers.ChoiceField(["nobody", "closed"])
    words = serializers.CharField()


class ClockSerializer(Form):
    """The caller's clock. `leaves`: the line ends because the queue lets go. `able`: how many
    agents could take its callers by the skills that it asks for; null where it asks for none."""

    at_once = AtOnceSerializer(many=True)
    able = serializers.IntegerField(allow_null=True)

    marks = MarkSerializer(many=True)
    end_s = serializers.FloatField()
    leaves = serializers.BooleanField()


class CallersClockView(View):
    """What a caller meets in a queue for whom nobody becomes free, computed from its settings."""

    area, verb = "queues", "see"

    @extend_schema(request=QueueInHandSerializer, responses=ClockSerializer)
    def post(self, request: Request) -> Response:
        form = QueueInHandSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = callers_clock(form.validated_data)
        marks = [
            {"at_s": m.at_ms / 1000, "until_s": m.until_ms / 1000, "kind": m.kind, "words": m.words}
            for m in found.marks
        ]
        told = {
            "marks": marks,
            "end_s": found.end_ms / 1000,
            "leaves": found.leaves,
            "at_once": [{"way": way, "words": words} for way, words in found.at_once],
            "able": services.able_in_hand(form.validated_data),
        }
        return Response(ClockSerializer(told).data)
