"""Notices: what agents read at their desk until a moment, all of them or those of some teams."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.utils import timezone
from rest_framework import serializers

from agents.models import Notice
from agents.services import reached
from changelog.errors import Refused
from hazeridge.api.views import KeptSerializer, KeptViewSet


class NoticeSerializer(KeptSerializer):
    """A notice at the desks of some teams, or of everybody, until a moment."""

    team_names = serializers.SerializerMethodField()

    class Meta:
        model = Notice
        fields = ["id", "revision", "updated_at", "text", "teams", "team_names", "until"]

    def get_team_names(self, notice: Notice) -> list[str]:
        return [team.name for team in notice.teams.all()]

    def validate_until(self, until: datetime) -> datetime:
        if until <= timezone.now():
            raise serializers.ValidationError("This moment has passed already.")
        return until

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        teams = reached(self.context["request"].user)
        if teams is not None:
            standing = list(self.instance.teams.all()) if self.instance else []
            named = {str(team.pk) for team in attrs.get("teams", standing)}
            if not named or named - teams:
                words = "Name teams that you supervise: others are not yours to tell."
                raise Refused("not-your-team", words, status=403)
        return attrs


class NoticeViewSet(KeptViewSet):
    area = "agents"
    queryset = Notice.objects.prefetch_related("teams")
    serializer_class = NoticeSerializer
    search_fields = ["text"]
    ordering_fields = ["until", "text"]
