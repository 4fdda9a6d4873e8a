"""Notices: what agents read at their desk until a moment, all of them or those of some teams."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from rest_framework import serializers

from accounts.item_views import ItemSerializer, ItemViewSet
from agents.models import Notice
from web.clock import site_now


class NoticeSerializer(ItemSerializer):
    """A notice at the desks of some teams, or of everybody, until a moment."""

    team_names = serializers.SerializerMethodField()

    class Meta:
        model = Notice
        fields = ["id", "revision", "updated_at", "text", "teams", "team_names", "since", "until"]
        read_only_fields = ["since"]

    def create(self, validated_data: dict[str, Any]) -> Notice:
        return super().create({**validated_data, "since": site_now()})

    def get_team_names(self, notice: Notice) -> list[str]:
        return [team.name for team in notice.teams.all()]

    def validate_until(self, until: datetime) -> datetime:
        if until <= site_now():
            raise serializers.ValidationError("This moment has passed already.")
        return until


class NoticeViewSet(ItemViewSet):
    area = "agents"
    queryset = Notice.objects.prefetch_related("teams")
    serializer_class = NoticeSerializer
    search_fields = ["text"]
    ordering_fields = ["until", "text"]
