"""The API of ring groups."""

from __future__ import annotations

import re

from rest_framework import serializers

from accounts.item_views import ItemSerializer, ItemViewSet
from agents import groups
from agents.models import RingGroup
from agents.services import agents, members_of_teams, team_names
from callcore.flow.parts import LANGUAGES
from callcore.routing.groups import BUSY, WAYS
from phone_numbers.fields import ExtensionField

_MEMBER = re.compile(r"^(agent|team):[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$")
MOST_MEMBERS = 100


class RingGroupSerializer(ItemSerializer):
    """People (`agent:…`) and teams (`team:…`) in an order, rung together or one after another."""

    extension = ExtensionField("group", allow_blank=True, required=False)
    members = serializers.ListField(
        child=serializers.CharField(max_length=45), required=False, max_length=MOST_MEMBERS
    )
    member_names = serializers.SerializerMethodField()
    people = serializers.SerializerMethodField(help_text="How many people it rings.")
    way = serializers.ChoiceField(list(WAYS.items()), required=False)
    when_busy = serializers.ChoiceField(list(BUSY.items()), required=False)
    ring_s = serializers.IntegerField(min_value=5, max_value=120, required=False)
    language = serializers.ChoiceField(list(LANGUAGES.items()), required=False)

    class Meta:
        model = RingGroup
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "extension",
            "members",
            "member_names",
            "people",
            "way",
            "ring_s",
            "when_busy",
            "mailbox",
            "language",
        ]

    def _known(self) -> dict[str, object]:
        known: dict[str, object] = self.context.setdefault("known", {})
        if not known:
            known["agents"], known["teams"] = agents(), team_names()
            known["of_team"] = members_of_teams()
        return known

    def get_member_names(self, group: RingGroup) -> list[str]:
        known = self._known()
        people, teams = known["agents"], known["teams"]
        names = []
        for member in group.members:
            kind, _, identity = member.partition(":")
            found = teams.get(identity) if kind == "team" else people.get(identity)  # type: ignore[attr-defined]
            names.append(str(getattr(found, "name", found) or "somebody who is gone"))
        return names

    def get_people(self, group: RingGroup) -> int:
        return len(groups.people_of(group.members, self._known()["of_team"]))  # type: ignore[arg-type]

    def validate_members(self, members: list[str]) -> list[str]:
        if not all(_MEMBER.match(member) for member in members):
            raise serializers.ValidationError("People and teams can be members.")
        if len(set(members)) < len(members):
            raise serializers.ValidationError("Somebody is named twice.")
        if len(groups.there(members)) < len(members):
            raise serializers.ValidationError("Somebody of these does not exist (any more).")
        return members


class RingGroupViewSet(ItemViewSet):
    area = "agents"
    queryset = RingGroup.objects.all()
    serializer_class = RingGroupSerializer
    search_fields = ["name", "extension"]
    ordering_fields = ["name", "extension", "way"]
