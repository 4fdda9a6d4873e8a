"""The shape that all kept things share in the API."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema, inline_serializer
from rest_framework import filters, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from changelog import kept, kinds
from changelog.errors import Stale


class KeptSerializer(serializers.ModelSerializer):
    """A kept thing. A change must name the `revision` that its author saw."""

    revision = serializers.IntegerField(required=False, min_value=1)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if self.instance is not None and "revision" not in attrs:
            raise serializers.ValidationError({"revision": ["Say which revision you changed."]})
        return attrs


UsesSerializer = inline_serializer(
    "Use",
    {name: serializers.CharField() for name in ("kind", "id", "name", "how")},
    many=True,
)


class KeptViewSet(viewsets.ModelViewSet):
    """List with search, order and pages; create, change and delete through `changelog.kept`."""

    area: str
    filter_backends = [filters.SearchFilter, filters.OrderingFilter]
    lookup_value_regex = "[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"
    http_method_names = ["get", "post", "patch", "delete", "head", "options"]

    def perform_create(self, serializer: Any) -> None:
        serializer.validated_data.pop("revision", None)
        model = serializer.Meta.model
        made = kept.create(self.request.user, model, **serializer.validated_data)
        serializer.instance = self.get_queryset().get(pk=made.pk)

    def perform_update(self, serializer: Any) -> None:
        values = dict(serializer.validated_data)
        revision = values.pop("revision")
        try:
            kept.change(self.request.user, serializer.instance, revision, **values)
        except Stale as stale:
            stale.current = self._fresh(serializer.instance.pk)
            raise
        serializer.instance = self.get_queryset().get(pk=serializer.instance.pk)

    def perform_destroy(self, instance: Any) -> None:
        kept.remove(self.request.user, instance)

    def _fresh(self, identity: Any) -> dict[str, Any]:
        return dict(self.get_serializer(self.get_queryset().get(pk=identity)).data)

    @extend_schema(responses=OpenApiResponse(UsesSerializer), filters=False, request=None)
    @action(detail=True, pagination_class=None, filter_backends=[])
    def uses(self, request: Request, pk: str | None = None) -> Response:
        """Everything that uses this."""
        kind = kinds.kind_of(type(self.get_object()))
        return Response([use._asdict() for use in kinds.uses(kind.name, str(pk))])
