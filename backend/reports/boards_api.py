"""Boards for walls: kept by who made them, shared, and read by a link that can be withdrawn."""

from __future__ import annotations

from typing import Any

from django.http import Http404
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.exceptions import PermissionDenied
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.policy import may
from reports import boards
from reports.models import Board
from web.base import Form, View


class BoardSerializer(Form):
    """A board. `queues`: ids in their order, none for all; `token`: of its link, if there is one,
    for whoever owns it."""

    id = serializers.IntegerField(read_only=True)
    name = serializers.CharField(max_length=80)
    shared = serializers.BooleanField(required=False)
    queues = serializers.ListField(child=serializers.UUIDField(), max_length=100, required=False)
    columns = serializers.ListField(
        child=serializers.ChoiceField(boards.COLUMNS), max_length=8, required=False
    )
    totals = serializers.ListField(
        child=serializers.ChoiceField(boards.TOTALS), max_length=11, required=False
    )
    mine = serializers.SerializerMethodField()
    token = serializers.SerializerMethodField()
    owner_name = serializers.CharField(source="owner.full_name", read_only=True)

    def get_mine(self, board: Board) -> bool:
        return board.owner_id == self.context["user"].pk

    def get_token(self, board: Board) -> str:
        return board.token if self.get_mine(board) else ""

    def validate_queues(self, queues: list[Any]) -> list[str]:
        return list(dict.fromkeys(map(str, queues)))

    def validate_shared(self, shared: bool) -> bool:
        if shared and not may(self.context["user"], "use", "floor"):
            raise serializers.ValidationError("Who only reads keeps boards for themself.")
        return shared


class BoardWaitSerializer(Form):
    """One who waits: since when, and from when on that is too long (ms)."""

    entered_ms = serializers.IntegerField()
    late_from_ms = serializers.IntegerField()


class BoardQueueSerializer(Form):
    """A queue on a board; who waits, first in line first. `below_goal`: the day's level."""

    id = serializers.CharField()
    name = serializers.CharField()
    threshold_s = serializers.IntegerField()
    below_goal = serializers.BooleanField()
    waits = BoardWaitSerializer(many=True)
    waiting = serializers.IntegerField()
    first_entered_ms = serializers.IntegerField(allow_null=True)
    expected_s = serializers.FloatField(allow_null=True)
    signed_in = serializers.IntegerField()
    available = serializers.IntegerField()
    on_contact = serializers.IntegerField()
    answered = serializers.IntegerField()
    abandoned = serializers.IntegerField()
    level = serializers.FloatField(allow_null=True)


class BoardCentreSerializer(Form):
    """All together; each agent counted once."""

    signed_in = serializers.IntegerField()
    available = serializers.IntegerField()
    ringing = serializers.IntegerField()
    on_contact = serializers.IntegerField()
    wrapping = serializers.IntegerField()
    away = serializers.IntegerField()
    waiting = serializers.IntegerField()
    first_entered_ms = serializers.IntegerField(allow_null=True)
    answered = serializers.IntegerField()
    abandoned = serializers.IntegerField()
    level = serializers.FloatField(allow_null=True)


class BoardNowSerializer(Form):
    """What a board shows. `told_ms`: when the exchange last gave a sign, null for never; `now_ms`:
    the site's clock."""

    name = serializers.CharField()
    columns = serializers.ListField(child=serializers.ChoiceField(boards.COLUMNS))
    totals = serializers.ListField(child=serializers.ChoiceField(boards.TOTALS))
    told_ms = serializers.IntegerField(allow_null=True)
    now_ms = serializers.IntegerField()
    time_zone = serializers.CharField()
    queues = BoardQueueSerializer(many=True)
    centre = BoardCentreSerializer(allow_null=True)


class BoardsView(View):
    """One's own boards, and those that others share."""

    area, verb = "floor", "see"

    @extend_schema(responses=BoardSerializer(many=True))
    def get(self, request: Request) -> Response:
        rows = boards.readable_by(request.user)
        return Response(BoardSerializer(rows, many=True, context={"user": request.user}).data)

    @extend_schema(request=BoardSerializer, responses={201: BoardSerializer})
    def post(self, request: Request) -> Response:
        form = BoardSerializer(data=request.data, context={"user": request.user})
        form.is_valid(raise_exception=True)
        if Board.objects.filter(owner=request.user).count() >= boards.MOST:
            words = f"{boards.MOST} boards are kept at the most."
            raise serializers.ValidationError({"name": [words]})
        first = {"columns": boards.FIRST_COLUMNS, "totals": boards.FIRST_TOTALS}
        made = Board.objects.create(owner=request.user, **{**first, **form.validated_data})
        told = BoardSerializer(made, context={"user": request.user})
        return Response(told.data, status=201)


def _own(request: Request, pk: int) -> Board:
    board: Board = get_object_or_404(boards.readable_by(request.user), pk=pk)
    if board.owner_id != request.user.pk:
        raise PermissionDenied("This board is somebody else’s: make one of your own.")
    return board


class BoardView(View):
    """One board."""

    area, verb = "floor", "see"

    @extend_schema(operation_id="board_now", responses=BoardNowSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """What it shows now."""
        board = get_object_or_404(boards.readable_by(request.user), pk=pk)
        return Response(BoardNowSerializer(boards.now(board)).data)

    @extend_schema(request=BoardSerializer, responses=BoardSerializer)
    def put(self, request: Request, pk: int) -> Response:
        board = _own(request, pk)
        form = BoardSerializer(board, data=request.data, context={"user": request.user})
        form.is_valid(raise_exception=True)
        for name, value in form.validated_data.items():
            setattr(board, name, value)
        board.save()
        return Response(BoardSerializer(board, context={"user": request.user}).data)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        _own(request, pk).delete()
        return Response(status=204)


class BoardLinkView(View):
    """The link by which anybody reads a board who has it."""

    area, verb = "floor", "use"

    @extend_schema(request=None, responses=BoardSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Make one; an earlier one leads nowhere any more."""
        return self._set(request, pk, boards.new_token())

    @extend_schema(request=None, responses=BoardSerializer)
    def delete(self, request: Request, pk: int) -> Response:
        """Withdraw it."""
        return self._set(request, pk, "")

    def _set(self, request: Request, pk: int, token: str) -> Response:
        board = _own(request, pk)
        board.token = token
        board.save(update_fields=["token"])
        return Response(BoardSerializer(board, context={"user": request.user}).data)


class WallView(View):
    """A board, read by its link alone."""

    area = "session"
    permission_classes = [AllowAny]

    @extend_schema(responses=BoardNowSerializer)
    def get(self, request: Request, token: str) -> Response:
        """What it shows now."""
        board = Board.objects.filter(token=token).first() if len(token) >= 32 else None
        if board is None:
            raise Http404
        return Response(BoardNowSerializer(boards.now(board)).data)
