"""The change log, to read and to take back from."""

from __future__ import annotations

from django_filters.rest_framework import DjangoFilterBackend
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import mixins, serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.things import must
from changelog import kept, kinds
from changelog.models import Change
from changelog.naming import ids_in, names_in
from hazeridge.api.base import ViewSet
from hazeridge.api.problems import bad_request
from hazeridge.api.views import BoundedSearch, StableOrdering


class ChangeSerializer(serializers.ModelSerializer):
    """One change; `page` is where its thing is edited, `words` what its kind is called."""

    words = serializers.SerializerMethodField()
    verb = serializers.ChoiceField(["created", "changed", "removed"], read_only=True)
    left_out = serializers.ListField(child=serializers.CharField(), read_only=True)
    names = serializers.SerializerMethodField()

    class Meta:
        model = Change
        fields = [
            "id",
            "at",
            "by_name",
            "kind",
            "words",
            "object_id",
            "title",
            "verb",
            "before",
            "after",
            "left_out",
            "names",
        ]

    @extend_schema_field({"type": "object", "additionalProperties": {"type": "string"}})
    def get_names(self, change: Change) -> dict[str, str]:
        """What the ids in it are called."""
        if "names" not in self.context:
            shown = list(self.parent.instance) if self.parent else [change]
            self.context["names"] = names_in(shown)
        known = self.context["names"]
        return {name: known[name] for name in ids_in(change) if name in known}

    def get_words(self, change: Change) -> str:
        return kinds.kind_named(change.kind).words


class ChangeViewSet(mixins.ListModelMixin, mixins.RetrieveModelMixin, ViewSet):
    """Who changed what, newest first."""

    area = "changes"
    queryset = Change.objects.all()
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
        return Response(ChangeSerializer(kept.undo(request.user, past.pk, must)).data)
