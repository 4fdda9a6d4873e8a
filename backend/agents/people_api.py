"""The people who sign in, with their teams and their agent."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.base_user import AbstractBaseUser
from django.db import transaction
from rest_framework import serializers

from accounts.item_views import ItemSerializer, ItemViewSet
from accounts.services import ROLES, change_user, make_user, people
from agents.services import agent_of, all_teams, make_agent_of, set_teams
from phone_numbers.numbering import NotFree, free


class PersonSerializer(ItemSerializer):
    """A person who signs in. Supervisors have teams; an agent has an extension."""

    id = serializers.CharField(read_only=True)
    username = serializers.RegexField(
        r"^[\w.@+-]{2,60}$",
        error_messages={"invalid": "A sign-in name is 2 to 60 letters, digits, or . @ + - _"},
    )
    password = serializers.CharField(
        write_only=True, required=False, allow_blank=True, max_length=200, trim_whitespace=False
    )
    teams = serializers.PrimaryKeyRelatedField(
        source="supervised_teams",
        many=True,
        queryset=all_teams(),
        required=False,
        pk_field=serializers.UUIDField(),
    )
    extension = serializers.CharField(max_length=6, required=False, allow_blank=True)
    agent = serializers.UUIDField(source="agent.pk", read_only=True, allow_null=True, default=None)
    last_login = serializers.DateTimeField(read_only=True, allow_null=True)

    class Meta:
        model = get_user_model()
        fields = [
            "id",
            "revision",
            "updated_at",
            "full_name",
            "username",
            "password",
            "role",
            "is_active",
            "teams",
            "extension",
            "agent",
            "last_login",
            "password_set_at",
        ]
        read_only_fields = ["password_set_at"]

    def to_representation(self, person: AbstractBaseUser) -> dict[str, Any]:
        known = getattr(person, "agent", None)
        return {**super().to_representation(person), "extension": known.extension if known else ""}

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        role = attrs.get("role", getattr(self.instance, "role", ROLES.READ_ONLY))
        works = self.instance is not None and hasattr(self.instance, "agent")
        if attrs.get("supervised_teams") and role != ROLES.SUPERVISOR:
            raise serializers.ValidationError({"teams": ["Only a supervisor has teams."]})
        if role == ROLES.AGENT and not works and not attrs.get("extension"):
            raise serializers.ValidationError({"extension": ["An agent needs an extension."]})
        if attrs.get("extension") and not works:
            try:
                free(attrs["extension"], "agent", "")
            except NotFree as error:
                raise serializers.ValidationError({"extension": [str(error)]}) from None
        return attrs


class PersonViewSet(ItemViewSet):
    """The people who sign in. Nobody is deleted: the change log names them; they are disabled."""

    area = "people"
    queryset = people().select_related("agent").prefetch_related("supervised_teams")
    serializer_class = PersonSerializer
    search_fields = ["full_name", "username", "role"]
    ordering_fields = ["full_name", "username", "role", "is_active", "last_login"]
    lookup_value_regex = "[^/.]+"
    http_method_names = ["get", "post", "patch", "head", "options"]

    def make(self, values: dict[str, Any]) -> AbstractBaseUser:
        return self._with_the_rest(None, None, values)

    def keep(self, instance: AbstractBaseUser, revision: int, values: dict[str, Any]) -> None:
        self._with_the_rest(instance, revision, values)

    def _with_the_rest(self, person: Any, revision: int | None, values: dict[str, Any]) -> AbstractBaseUser:
        """A person with their teams and their agent, all or nothing."""
        by = self.request.user
        teams = values.pop("supervised_teams", None)
        extension = values.pop("extension", "")
        password = values.pop("password", None)
        with transaction.atomic():
            if person is None:
                role = values.get("role", ROLES.READ_ONLY)
                active = values.get("is_active", True)
                person = make_user(by, values["username"], values["full_name"], role, password)
                if not active:
                    person = change_user(by, person, is_active=False)
            else:
                person = change_user(by, person, revision, password=password, **values)
            if teams is not None and person.role == ROLES.SUPERVISOR:
                set_teams(by, person, teams)
            if extension and agent_of(person) is None:
                make_agent_of(by, person, extension)
        return person
