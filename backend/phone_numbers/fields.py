"""Fields that several areas' forms share."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from phone_numbers.numbering import NotFree, free


class ExtensionField(serializers.CharField):
    """An extension that no other thing has. Empty where the thing may do without.

    Args:
        kind: whose it is, as in the change log.
    """

    def __init__(self, kind: str, **options: Any) -> None:
        self.kind = kind
        super().__init__(max_length=20, **options)

    def to_internal_value(self, data: Any) -> str:
        typed = super().to_internal_value(data)
        if not typed:
            return ""
        try:
            return free(typed, self.kind, str(getattr(self.parent.instance, "pk", "")))
        except NotFree as error:
            raise serializers.ValidationError(str(error)) from None
