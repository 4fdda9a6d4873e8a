"""A recorded change, as it is sent."""

from __future__ import annotations

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from changelog import kinds
from changelog.models import Change
from changelog.naming import ids_in, names_in


def changes() -> QuerySet[Change]:
    """Everything that was changed, newest first."""
    return Change.objects.all()


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
