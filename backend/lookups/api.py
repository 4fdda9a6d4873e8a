"""Lookup tables, their rows, and files of rows."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db.models import Count, F, Q
from django.http import Http404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import ItemSerializer, ItemViewSet, RevisionSerializer, csv_of
from callcore.lookups.table import TYPE_WORDS, folded, shown
from changelog import config_store
from lookups import services
from lookups.keys import key_of
from lookups.models import Row, Table
from lookups.tasks import run_import
from lookups.things import Names
from web.base import Form, View
from web.parts import PartSerializer
from web.problems import bad_request

LARGEST_FILE = 20 * 1024 * 1024
MOST_COLUMNS = 30


class ColumnSerializer(PartSerializer):
    name = serializers.CharField(max_length=60)
    type = serializers.ChoiceField(list(TYPE_WORDS))


class TableSerializer(ItemSerializer):
    """A lookup table; its first column is the key."""

    columns = ColumnSerializer(many=True)
    row_count = serializers.IntegerField(read_only=True)

    class Meta:
        model = Table
        fields = ["id", "revision", "updated_at", "name", "columns", "row_count"]

    def validate_columns(self, columns: list[dict[str, str]]) -> list[dict[str, str]]:
        if not 1 <= len(columns) <= MOST_COLUMNS:
            raise serializers.ValidationError(f"A table has 1 to {MOST_COLUMNS} columns.")
        names = [folded(column["name"]) for column in columns]
        twice = [name for name in names if names.count(name) > 1]
        if twice:
            raise serializers.ValidationError(f"Two columns are called {twice[0]}.")
        return [dict(column) for column in columns]


class RowsFileSerializer(Form):
    file = serializers.FileField()

    def validate_file(self, file: Any) -> Any:
        if file.size > LARGEST_FILE:
            raise serializers.ValidationError("The file is larger than 20 MB.")
        return file


class ImportFileSerializer(RowsFileSerializer):
    revision = serializers.IntegerField(min_value=1)


class BadLineSerializer(Form):
    line = serializers.IntegerField()
    column = serializers.CharField()
    words = serializers.CharField()


class PreviewSerializer(Form):
    """What a file would do; nothing has been changed. `bad_count` 0: it can be taken in."""

    rows = serializers.IntegerField()
    new = serializers.IntegerField()
    changed = serializers.IntegerField()
    same = serializers.IntegerField()
    gone = serializers.IntegerField()
    bad = BadLineSerializer(many=True)
    bad_count = serializers.IntegerField()


class ImportSerializer(Form):
    name = serializers.CharField()
    state = serializers.ChoiceField(["waiting", "running", "done", "failed", "cancelled"])
    share = serializers.FloatField()
    words = serializers.CharField()


class RowSerializer(serializers.ModelSerializer):
    cells = serializers.ListField(child=serializers.JSONField(allow_null=True))

    class Meta:
        model = Row
        fields = ["id", "cells"]


class RowPageSerializer(Form):
    count = serializers.IntegerField()
    results = RowSerializer(many=True)


_ROW_QUERY = [
    OpenApiParameter("search", str, description="In any cell."),
    OpenApiParameter("page", int),
    OpenApiParameter("page_size", int),
    OpenApiParameter("as", str, enum=["csv"]),
]


class TableViewSet(ItemViewSet):
    area = "lookups"
    queryset = Table.objects.annotate(row_count=Count("rows", filter=Q(rows__generation=F("generation"))))
    serializer_class = TableSerializer
    search_fields = ["name"]
    ordering_fields = ["name", "row_count", "updated_at"]
    asks = {"list": ("as", "ids"), "rows": ("search", "page", "page_size", "as")}

    def get_permissions(self) -> Any:
        # A preview changes nothing.
        self.verb = "see" if self.action == "preview" else None
        return super().get_permissions()

    def keep(self, instance: Table, revision: int, values: dict[str, Any]) -> None:
        columns = values.pop("columns", None)
        services.change_columns(self.request.user, instance, revision, columns, **values)

    @extend_schema(methods=["GET"], parameters=_ROW_QUERY, responses=RowPageSerializer)
    @extend_schema(methods=["POST"], request=RowSerializer, responses={201: RowSerializer})
    @action(detail=True, methods=["get", "post"], filter_backends=[])
    def rows(self, request: Request, pk: str | None = None) -> Any:
        """The rows, by key; or a new one."""
        table = self.get_object()
        if request.method == "POST":
            form = RowSerializer(data=request.data)
            form.is_valid(raise_exception=True)
            made = services.change_row(request.user, table, None, form.validated_data["cells"])
            return Response(_rows_shown(table, [made])[0], status=201)
        rows = services.rows_of(table).order_by("key")
        text = request.query_params.get("search", "").replace("\x00", "").strip()
        if text:
            rows = rows.filter(
                Q(key=key_of(text)) | Q(key__startswith=folded(text)) | Q(cells__icontains=text)
            )
        if request.query_params.get("as") == "csv":
            return _csv(table, rows)
        page = self.paginate_queryset(rows)
        return self.get_paginated_response(_rows_shown(table, page))

    @extend_schema(request={"multipart/form-data": RowsFileSerializer}, responses=PreviewSerializer)
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def preview(self, request: Request, pk: str | None = None) -> Response:
        """What a CSV file would do to the table."""
        form = RowsFileSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found, counts = services.preview(self.get_object(), form.validated_data["file"].read())
        bad = [line._asdict() for line in found.bad]
        return Response({"rows": len(found.rows), **counts, "bad": bad, "bad_count": found.bad_count})

    @extend_schema(request={"multipart/form-data": ImportFileSerializer}, responses={202: ImportSerializer})
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser], url_path="import")
    def import_file(self, request: Request, pk: str | None = None) -> Response:
        """Put a file's rows in place of the table's; the worker does it, all or nothing."""
        form = ImportFileSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        table, values = self.get_object(), form.validated_data
        name = services.begin_import(request.user, table, values["revision"], values["file"].read())
        run_import.delay(name, str(table.pk), values["revision"])
        return Response({"name": name, **(services.state_of(name) or {})}, status=202)

    @extend_schema(request=RevisionSerializer, responses=TableSerializer)
    @action(detail=True, methods=["post"])
    def empty(self, request: Request, pk: str | None = None) -> Response:
        """Delete every row; can be taken back from the change log."""
        form = RevisionSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        table = self.get_object()
        with self.saying_what_stands(table):
            services.empty(request.user, table, form.validated_data["revision"])
        return Response(self._fresh(table.pk))


def _rows_shown(table: Table, rows: Iterable[Row]) -> list[dict[str, Any]]:
    """Rows as they are read: things by their names."""
    names = Names(services.columns_of(table))
    return [{"id": str(row.pk), "cells": names.shown(row.cells)} for row in rows]


def _csv(table: Table, rows: Any) -> Any:
    names = [column["name"] for column in table.columns]
    things = Names(services.columns_of(table))
    cells = rows.values_list("cells", flat=True).iterator(chunk_size=5000)
    return csv_of(
        "table",
        ({n: shown(v) for n, v in zip(names, things.shown(row), strict=True)} for row in cells),
        names,
    )


class RowView(View):
    """One row: changed or deleted; both can be taken back."""

    area = "lookups"

    def _row(self, pk: Any) -> Row:
        found = Row.objects.select_related("table").filter(pk=pk).first()
        if found is None or found.generation != found.table.generation:
            raise Http404
        return found

    @extend_schema(request=RowSerializer, responses=RowSerializer)
    def patch(self, request: Request, pk: Any) -> Response:
        found = self._row(pk)
        form = RowSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        if "cells" not in form.validated_data:
            raise bad_request("A row has cells.", cells=["A row has cells."])
        changed = services.change_row(request.user, found.table, found, form.validated_data["cells"])
        return Response(_rows_shown(found.table, [changed])[0])

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: Any) -> Response:
        config_store.remove(request.user, self._row(pk))
        return Response(status=204)


class ImportView(View):
    """How far an import is; deleting it cancels it."""

    area = "lookups"

    def _state(self, name: str) -> dict[str, Any]:
        state = services.state_of(name)
        if state is None:
            raise Http404
        return {"name": name, **state}

    @extend_schema(responses=ImportSerializer)
    def get(self, request: Request, name: str) -> Response:
        return Response(self._state(name))

    @extend_schema(responses=ImportSerializer)
    def delete(self, request: Request, name: str) -> Response:
        self._state(name)
        services.cancel_import(name)
        return Response(self._state(name))
