"""Signing in and out."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import AnonymousUser
from django.db import transaction
from django.http import HttpRequest, JsonResponse
from django.middleware.csrf import get_token
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.lines import session_ended
from accounts.models import Role, User
from accounts.permissions import AREAS
from accounts.policy import rights
from accounts.services import change_user, make_user, supervisors
from accounts.throttle import refuse_guessing
from agents.services import agent_of, all_teams, make_agent_of, set_teams
from hazeridge.api.base import Form, View, ViewSet
from hazeridge.api.problems import bad_request
from hazeridge.api.views import BoundedSearch, KeptSerializer, KeptViewSet, StableOrdering
from numbers_app.numbering import NotFree, free


class CredentialsSerializer(Form):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class SessionSerializer(Form):
    """Who is signed in; everything but the centre is null where nobody is."""

    centre = serializers.CharField()
    time_zone = serializers.CharField()
    username = serializers.CharField(allow_null=True)
    full_name = serializers.CharField(allow_null=True)
    role = serializers.ChoiceField(Role.choices, allow_null=True)
    agent = serializers.UUIDField(allow_null=True)
    extension = serializers.CharField(allow_null=True)
    rights = serializers.DictField(child=serializers.ListField(child=serializers.CharField()))


def session_data(user: Any) -> dict[str, Any]:
    """What the interface needs to know of the person in front of it."""
    known = user.is_authenticated
    agent = agent_of(user) if known else None
    return {
        "centre": settings.CENTRE_NAME,
        "time_zone": settings.CENTRE_TIME_ZONE,
        "username": user.username if known else None,
        "full_name": user.full_name if known else None,
        "role": user.role if known else None,
        "agent": agent.pk if agent else None,
        "extension": agent.extension if agent else None,
        "rights": rights(user, AREAS),
    }


def locked_out(request: HttpRequest, *_: Any, **__: Any) -> JsonResponse:
    """What somebody gets who has guessed too often, whatever they send."""
    del request
    body = {
        "status": 429,
        "code": "too-many-tries",
        "detail": "Too many tries. Wait five minutes.",
        "fields": {},
    }
    return JsonResponse(body, status=429, content_type="application/problem+json")


class SupervisorSerializer(Form):
    """A person who supervises teams and queues."""

    id = serializers.CharField(source="pk")
    name = serializers.CharField(source="full_name")


class SupervisorViewSet(mixins.ListModelMixin, ViewSet):
    """Who can be made a supervisor of teams and queues."""

    area = "agents"
    queryset = supervisors()
    serializer_class = SupervisorSerializer
    filter_backends = [BoundedSearch, StableOrdering]
    ordering_fields = ["full_name"]
    asks = {"list": ("ids",)}
    search_fields = ["full_name", "username"]

    def filter_queryset(self, queryset: Any) -> Any:
        asked = self.request.query_params.get("ids")
        if asked is not None:
            return queryset.filter(pk__in=[i for i in asked.split(",") if i.isdecimal()])
        return super().filter_queryset(queryset)


class SessionView(View):
    """The present session: see it, begin it, end it."""

    area = "session"
    permission_classes = [AllowAny]

    @extend_schema(responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        get_token(request)
        return Response(session_data(request.user))

    @extend_schema(request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        credentials = CredentialsSerializer(data=request.data)
        credentials.is_valid(raise_exception=True)
        refuse_guessing(request._request, credentials.validated_data["username"])
        user = authenticate(request._request, **credentials.validated_data)
        if user is None:
            raise bad_request("The name or the password is wrong.")
        login(request._request, user)
        return Response(session_data(user))

    @extend_schema(responses=SessionSerializer)
    def delete(self, request: Request) -> Response:
        ended = request._request.session.session_key
        logout(request._request)
        if ended:
            session_ended(ended)
        get_token(request)
        return Response(session_data(AnonymousUser()))


class PasswordSerializer(Form):
    """A person's own new password, and the one that they have."""

    current = serializers.CharField(max_length=200, trim_whitespace=False)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class PasswordView(View):
    """Everybody changes their own password. Their other sessions end by it."""

    area = "session"

    @extend_schema(request=PasswordSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        form = PasswordSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        refuse_guessing(request._request, request.user.username)
        known = authenticate(
            request._request, username=request.user.username,
            password=form.validated_data["current"],
        )  # fmt: skip
        if known is None:
            words = "This is not your password."
            raise bad_request(words, current=[words])
        changed = change_user(request.user, request.user, password=form.validated_data["password"])
        update_session_auth_hash(request._request, changed)
        return Response(status=204)


class PersonSerializer(KeptSerializer):
    """A person who signs in. Supervisors have teams; an agent has an extension."""

    id = serializers.CharField(read_only=True)
    username = serializers.RegexField(
        r"^[\w.@+-]{2,60}$",
        error_messages={"invalid": "A sign-in name is 2 to 60 letters, figures, or . @ + - _"},
    )
    password = serializers.CharField(
        write_only=True, required=False, allow_blank=True, max_length=200, trim_whitespace=False
    )
    teams = serializers.PrimaryKeyRelatedField(
        source="supervised_teams", many=True, queryset=all_teams(), required=False,
        pk_field=serializers.UUIDField(),
    )  # fmt: skip
    extension = serializers.CharField(max_length=6, required=False, allow_blank=True)
    agent = serializers.UUIDField(source="agent.pk", read_only=True, allow_null=True, default=None)
    last_login = serializers.DateTimeField(read_only=True, allow_null=True)

    class Meta:
        model = User
        fields = [
            "id", "revision", "updated_at", "full_name", "username", "password", "role",
            "is_active", "teams", "extension", "agent", "last_login", "password_set_at",
        ]  # fmt: skip
        read_only_fields = ["password_set_at"]

    def to_representation(self, person: User) -> dict[str, Any]:
        known = getattr(person, "agent", None)
        return {**super().to_representation(person), "extension": known.extension if known else ""}

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        role = attrs.get("role", getattr(self.instance, "role", Role.READ_ONLY))
        works = self.instance is not None and hasattr(self.instance, "agent")
        if attrs.get("supervised_teams") and role != Role.SUPERVISOR:
            raise serializers.ValidationError({"teams": ["Only a supervisor has teams."]})
        if role == Role.AGENT and not works and not attrs.get("extension"):
            raise serializers.ValidationError({"extension": ["An agent needs an extension."]})
        if attrs.get("extension") and not works:
            try:
                free(attrs["extension"], "agent", "")
            except NotFree as error:
                raise serializers.ValidationError({"extension": [str(error)]}) from None
        return attrs


class PersonViewSet(KeptViewSet):
    """The people who sign in. Nobody is deleted: the change log names them; they are disabled."""

    area = "people"
    queryset = User.objects.select_related("agent").prefetch_related("supervised_teams")
    serializer_class = PersonSerializer
    search_fields = ["full_name", "username", "role"]
    ordering_fields = ["full_name", "username", "role", "is_active", "last_login"]
    lookup_value_regex = "[^/.]+"
    http_method_names = ["get", "post", "patch", "head", "options"]

    def make(self, values: dict[str, Any]) -> User:
        return self._with_the_rest(None, None, values)

    def keep(self, instance: User, revision: int, values: dict[str, Any]) -> None:
        self._with_the_rest(instance, revision, values)

    def _with_the_rest(
        self, person: User | None, revision: int | None, values: dict[str, Any]
    ) -> User:
        """A person with their teams and their agent, all or nothing."""
        by = self.request.user
        teams = values.pop("supervised_teams", None)
        extension = values.pop("extension", "")
        password = values.pop("password", None)
        with transaction.atomic():
            if person is None:
                role = values.get("role", Role.READ_ONLY)
                active = values.get("is_active", True)
                person = make_user(by, values["username"], values["full_name"], role, password)
                if not active:
                    person = change_user(by, person, is_active=False)
            else:
                person = change_user(by, person, revision, password=password, **values)
            if teams is not None and person.role == Role.SUPERVISOR:
                set_teams(by, person, teams)
            if extension and agent_of(person) is None:
                make_agent_of(by, person, extension)
        return person
