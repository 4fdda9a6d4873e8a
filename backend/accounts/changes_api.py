"""The change log, to read and to take back from."""

from __future__ import annotations

from django_filters.rest_framework import DjangoFilterBackend
from drf_spectacular.utils import extend_schema
from rest_framework import mixins
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import BoundedSearch, StableOrdering
from accounts.things import must
from changelog import config_store
from changelog.shapes import ChangeSerializer, changes
from web.base import ViewSet
from web.problems import bad_request


class ChangeViewSet(mixins.ListModelMixin, mixins.RetrieveModelMixin, ViewSet):
    """Who changed what, newest first."""

    area = "changes"
    queryset = changes()
    serializer_class = ChangeSerializer
    filter_backends = [DjangoFilterBackend, BoundedSearch, StableOrdering]
    ordering_fields = ["id", "at", "title", "by_name", "kind"]
    asks = {"list": ("object_id", "kind", "verb")}
    filterset_fields = ["object_id", "kind", "verb"]
    search_fields = ["title", "by_name", "kind"]

    @extend_schema(request=None, responses=ChangeSerializer)
    @action(detail=True, methods=["post"])
    def undo(self, request: Request, pk: str | None = None) -> Response:
        """Take this change back."""
        if not str(pk).isdecimal():
            raise bad_request("A change has a number.", id=["A change has a number."])
        past = self.get_object()
        return Response(ChangeSerializer(config_store.undo(request.user, past.pk, must)).data)
