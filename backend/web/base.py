"""What every view and every form of the API does: refuse what it does not know, in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rest_framework import serializers, viewsets
from rest_framework.filters import OrderingFilter, SearchFilter
from rest_framework.request import Request
from rest_framework.views import APIView

from web.problems import bad_request


class Asked:
    """A view that takes just the query parameters it names.

    `asks`: parameters by action (of a view set), or by method in small letters.
    """

    asks: Mapping[str, tuple[str, ...]] = {}

    def initial(self, request: Request, *args: Any, **kwargs: Any) -> None:
        """Refuse what is asked in a way that would be passed over in silence."""
        super().initial(request, *args, **kwargs)  # type: ignore[misc]
        known = self.parameters()
        for name in request.query_params:
            if name not in known:
                words = f"There is no parameter “{name[:40]}” here."
                raise bad_request(words, **{name[:40]: [words]})

    def parameters(self) -> set[str]:
        """The names of the parameters that this request may have."""
        action = getattr(self, "action", None) or self.request.method.lower()  # type: ignore[attr-defined]
        found = set(self.asks.get(action, ()))
        if action == "list":
            backends = self.filter_backends  # type: ignore[attr-defined]
            found |= {"page", "page_size"}
            found |= {"search"} if any(issubclass(b, SearchFilter) for b in backends) else set()
            found |= {"ordering"} if any(issubclass(b, OrderingFilter) for b in backends) else set()
        return found


class View(Asked, APIView):
    """Base of single views."""


class ViewSet(Asked, viewsets.GenericViewSet):
    """Base of view sets that are no kept things."""


class Form(serializers.Serializer):
    """Base of what is sent and answered: a field that it does not know is refused."""

    def to_internal_value(self, data: Any) -> Any:
        refuse_unknown(self, data)
        return super().to_internal_value(data)


def refuse_unknown(form: serializers.Serializer, data: Any) -> None:
    """Refuse fields that would be passed over; those that are only read may come back."""
    if isinstance(data, Mapping):
        unknown = {str(n): ["There is no such field."] for n in data if n not in form.fields}
        if unknown:
            raise serializers.ValidationError(unknown)
