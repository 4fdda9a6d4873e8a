"""Rows and objects inside a thing's own JSON: read whole and written whole, also by a PATCH.

A PATCH leaves out fields of the thing, never fields of a part: what a part does not say has its
default, and what it must say is asked for. DRF would pass the `partial` of the whole on to them.
"""

from __future__ import annotations

from typing import Any

from rest_framework import serializers
from rest_framework.fields import empty

from web.base import Form


class PartsSerializer(serializers.ListSerializer):
    """Several parts. What is no list in the database is shown as none."""

    def to_representation(self, data: Any) -> Any:
        return super().to_representation(data if isinstance(data, list) else [])


class PartSerializer(Form):
    """One part."""

    class Meta:
        list_serializer_class = PartsSerializer

    def to_internal_value(self, data: Any) -> Any:
        if not getattr(self.root, "partial", False):
            return super().to_internal_value(data)
        whole = type(self)(data=data, context=self.context)
        whole.is_valid(raise_exception=True)
        return whole.validated_data

    def to_representation(self, row: Any) -> dict[str, Any]:
        """What an older version kept without some of its fields is shown with their defaults."""
        said = row if isinstance(row, dict) else {}
        return {name: self._shown(field, said.get(name, empty)) for name, field in self.fields.items()}

    @staticmethod
    def _shown(field: serializers.Field, value: Any) -> Any:
        if value is empty:
            default = None if field.default is empty else field.default
            value = default() if callable(default) else default
        try:
            return None if value is None else field.to_representation(value)
        except (TypeError, ValueError, KeyError, AttributeError):
            return None
