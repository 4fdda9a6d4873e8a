"""The shape that all kept things share in the API."""

from __future__ import annotations

import csv
import json
import re
import unicodedata
from collections.abc import Callable, Iterable, Iterator
from contextlib import AbstractContextManager, contextmanager
from datetime import datetime
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.http import HttpResponse
from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema, inline_serializer
from rest_framework import filters, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts import things
from callcore.lookups.table import guarded
from changelog import config_store, kinds
from changelog.config_store import Described
from web.base import Asked, Form, refuse_unknown
from web.clock import site_now
from web.errors import Stale
from web.problems import bad_request

_UNSEEN = "It holds a character that nobody can see, or that turns the writing around."


def has_unseen(value: Any) -> bool:
    """Whether a text holds invisible characters, or such as change the direction of writing.

    Two names that look the same, or one that reads otherwise than it is, deceive whoever reads.
    """
    return isinstance(value, str) and any(
        (character not in "\n\t" and unicodedata.category(character) in ("Cc", "Cf", "Zl", "Zp", "Co"))
        or character in "\u115f\u1160\u3164\uffa0\u2800"
        for character in value
    )


@contextmanager
def saying_what_stands(told: Callable[[], Any]) -> Iterator[None]:
    """Whoever changed an older revision is shown the one that stands now."""
    try:
        yield
    except Stale as stale:
        stale.current = told()
        raise


class ItemSerializer(serializers.ModelSerializer):
    """A kept thing. A change must name the `revision` that its author saw."""

    revision = serializers.IntegerField(required=False, min_value=1)

    def get_field_names(self, declared_fields: Any, info: Any) -> list[str]:
        """Whatever can say what it is for does so in the API."""
        names = list(super().get_field_names(declared_fields, info))
        said = issubclass(self.Meta.model, Described) and "description" not in names
        return [*names, "description"] if said else names

    def to_internal_value(self, data: Any) -> Any:
        refuse_unknown(self, data)
        return super().to_internal_value(data)

    def shown(self, instance: Any) -> list[Any]:
        """All that are shown together with one: what they need is asked once, and for them only."""
        return list(self.parent.instance) if self.parent else [instance]

    def moment(self) -> datetime:
        """What time it is in the centre, for all that are shown together."""
        if "now" not in self.context:
            self.context["now"] = site_now()
        known: datetime = self.context["now"]
        return known

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if self.instance is not None and "revision" not in attrs:
            raise serializers.ValidationError({"revision": ["Say which revision you changed."]})
        unseen = {name: [_UNSEEN] for name, value in attrs.items() if has_unseen(value)}
        if unseen:
            raise serializers.ValidationError(unseen)
        return attrs


class RevisionSerializer(Form):
    """Which revision the author saw."""

    revision = serializers.IntegerField(min_value=1)


UsesSerializer = inline_serializer(
    "Use", {name: serializers.CharField() for name in ("kind", "id", "name", "how")}, many=True
)


class BoundedSearch(filters.SearchFilter):
    """Search for a few words: each costs the database a look at every row."""

    def get_search_fields(self, view: Any, request: Request) -> list[str]:
        fields = list(super().get_search_fields(view, request) or ())
        described = issubclass(view.queryset.model, Described)
        return [*fields, "description"] if described else fields

    def get_search_terms(self, request: Request) -> list[str]:
        typed = request.query_params.get(self.search_param, "")
        terms = super().get_search_terms(request) if len(typed) <= LONGEST_SEARCH else []
        if len(typed) > LONGEST_SEARCH or len(terms) > MOST_WORDS:
            words = f"Search for at most {MOST_WORDS} words and {LONGEST_SEARCH} characters."
            raise bad_request(words, search=[words])
        return terms


LONGEST_SEARCH, MOST_WORDS = 120, 8


class StableOrdering(filters.OrderingFilter):
    """Order as asked, else as the model says; ties by key, so that pages never overlap."""

    def get_ordering(self, request: Request, queryset: Any, view: Any) -> list[str]:
        asked = super().get_ordering(request, queryset, view)
        return [*(asked or queryset.model._meta.ordering), "pk"]


def csv_of(name: str, rows: Iterable[dict[str, Any]], head: Iterable[str] = ()) -> HttpResponse:
    """Rows as a CSV file; a text that a spreadsheet would run as a formula is guarded against it.

    Args:
        head: the columns, where there may be no row to name them.
    """
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    writer = csv.writer(response)
    names = list(head)
    if names:
        writer.writerow(names)
    for row in rows:
        if not names:
            names = list(row)
            writer.writerow(names)
        writer.writerow([_cell(value) for value in row.values()])
    return response


def _cell(value: Any) -> str:
    if isinstance(value, dict | list):
        return json.dumps(value, cls=DjangoJSONEncoder, ensure_ascii=False)
    if isinstance(value, int | float):
        return str(value)
    return "" if value is None else guarded(str(value))


#: What every list of kept things can be asked for, beside pages, search and order.
LIST_PARAMETERS = [
    OpenApiParameter("as", str, enum=["csv"], description="Every row, as CSV."),
    OpenApiParameter("ids", str, description="Only these, separated by commas."),
]


class ItemViewSet(Asked, viewsets.ModelViewSet):
    """List with search, order and pages; create, change and delete through
    `changelog.config_store`.

    The policy on things (`accounts.things`) is asked for every row and every act.
    """

    area: str
    filter_backends = [BoundedSearch, StableOrdering]
    lookup_value_regex = "[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"
    http_method_names = ["get", "post", "patch", "delete", "head", "options"]
    asks = {"list": ("as", "ids")}

    def get_queryset(self) -> Any:
        return things.visible(self.request.user, super().get_queryset())

    def filter_queryset(self, queryset: Any) -> Any:
        rows = super().filter_queryset(queryset)
        asked = self.ids_asked("ids")
        return rows if asked is None else rows.filter(pk__in=asked)

    def ids_asked(self, name: str) -> list[str] | None:
        """The ids that a list is asked for, separated by commas; None where it is not."""
        asked = self.request.query_params.get(name)
        if asked is None or self.action != "list":
            return None
        return [i for i in asked.split(",") if re.fullmatch(self.lookup_value_regex, i)]

    @extend_schema(parameters=LIST_PARAMETERS)
    def list(self, request: Request, *args: Any, **kwargs: Any) -> Any:
        if request.query_params.get("as") == "csv":
            rows = self.filter_queryset(self.get_queryset())
            return csv_of(self.basename, self.get_serializer(rows, many=True).data)
        return super().list(request, *args, **kwargs)

    def make(self, values: dict[str, Any]) -> Any:
        """Create one; an app with a service of its own for that calls it here."""
        return config_store.create(self.request.user, self.queryset.model, **values)

    def keep(self, instance: Any, revision: int, values: dict[str, Any]) -> None:
        """Change one; an app with a service of its own for that calls it here."""
        config_store.change(self.request.user, instance, revision, **values)

    def perform_create(self, serializer: Any) -> None:
        values = dict(serializer.validated_data)
        values.pop("revision", None)
        things.must(self.request.user, "make", self.queryset.model, values)
        serializer.instance = self.get_queryset().get(pk=self.make(values).pk)

    def perform_update(self, serializer: Any) -> None:
        values = dict(serializer.validated_data)
        revision = values.pop("revision")
        things.must(self.request.user, "change", serializer.instance, values)
        with self.saying_what_stands(serializer.instance):
            self.keep(serializer.instance, revision, values)
        serializer.instance = self.get_queryset().get(pk=serializer.instance.pk)

    def saying_what_stands(self, instance: Any) -> AbstractContextManager[None]:
        """Whoever changed an older revision is shown the one that stands now."""
        return saying_what_stands(lambda: self._fresh(instance.pk))

    def perform_destroy(self, instance: Any) -> None:
        things.must(self.request.user, "delete", instance)
        config_store.remove(self.request.user, instance)

    def _fresh(self, identity: Any) -> dict[str, Any]:
        return dict(self.get_serializer(self.get_queryset().get(pk=identity)).data)

    @extend_schema(responses=OpenApiResponse(UsesSerializer), filters=False, request=None)
    @action(detail=True, pagination_class=None, filter_backends=[])
    def uses(self, request: Request, pk: str | None = None) -> Response:
        """Everything that uses this."""
        kind = kinds.kind_of(type(self.get_object()))
        return Response([use._asdict() for use in kinds.uses(kind.name, str(pk))])
