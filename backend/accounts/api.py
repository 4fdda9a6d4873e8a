"""Signing in and out."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import AnonymousUser
from django.http import HttpRequest, JsonResponse
from django.middleware.csrf import get_token
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import BoundedSearch, StableOrdering
from accounts.lines import session_ended
from accounts.models import Role
from accounts.permissions import AREAS
from accounts.policy import rights
from accounts.services import change_user, supervisors
from accounts.throttle import refuse_guessing
from web.base import Form, View, ViewSet
from web.problems import bad_request


class CredentialsSerializer(Form):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class SessionSerializer(Form):
    """Who is signed in; everything but the centre is null where nobody is."""

    centre = serializers.CharField()
    time_zone = serializers.CharField()
    user = serializers.CharField(allow_null=True)
    username = serializers.CharField(allow_null=True)
    full_name = serializers.CharField(allow_null=True)
    role = serializers.ChoiceField(Role.choices, allow_null=True)
    agent = serializers.UUIDField(allow_null=True)
    extension = serializers.CharField(allow_null=True)
    rights = serializers.DictField(child=serializers.ListField(child=serializers.CharField()))


def session_data(user: Any) -> dict[str, Any]:
    """What the interface needs to know of the person in front of it."""
    known = user.is_authenticated
    agent = getattr(user, "agent", None) if known else None
    return {
        "centre": settings.CENTRE_NAME,
        "time_zone": settings.CENTRE_TIME_ZONE,
        "user": str(user.pk) if known else None,
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
            request._request, username=request.user.username, password=form.validated_data["current"]
        )
        if known is None:
            words = "This is not your password."
            raise bad_request(words, current=[words])
        changed = change_user(request.user, request.user, password=form.validated_data["password"])
        update_session_auth_hash(request._request, changed)
        return Response(status=204)
