"""What is kept, and for how long: an administrator's."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import saying_what_stands
from accounts.things import must
from changelog import config_store
from reports import keeping
from reports.models import KeepingRules
from web.base import Form, View


def _days() -> serializers.IntegerField:
    return serializers.IntegerField(
        min_value=keeping.LEAST_DAYS,
        max_value=keeping.MOST_DAYS,
        allow_null=True,
        required=False,
        help_text="Whole days; null for ever.",
    )


class KeepingSerializer(serializers.ModelSerializer):
    """How many days something is kept."""

    contacts_days, messages_days, texts_days = _days(), _days(), _days()
    revision = serializers.IntegerField()

    class Meta:
        model = KeepingRules
        fields = ["revision", "contacts_days", "messages_days", "texts_days"]


class WouldGoSerializer(Form):
    """How many would go; 100,001 for more than 100,000."""

    contacts = serializers.IntegerField()
    messages = serializers.IntegerField()
    texts = serializers.IntegerField()


class KeepingView(View):
    """How long contacts, messages and the words of texts are kept; figures are kept for ever."""

    area = "keeping"

    @extend_schema(responses=KeepingSerializer)
    def get(self, request: Request) -> Response:
        return Response(KeepingSerializer(keeping.rules()).data)

    @extend_schema(request=KeepingSerializer, responses=KeepingSerializer)
    def patch(self, request: Request) -> Response:
        """Set some of it; what is older begins to go within a minute."""
        must(request.user, "change", KeepingRules, {})
        form = KeepingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values: dict[str, Any] = dict(form.validated_data)
        row, _ = KeepingRules.objects.get_or_create(pk=keeping.RULES_ID)
        with saying_what_stands(lambda: KeepingSerializer(keeping.rules()).data):
            changed = config_store.change(request.user, row, values.pop("revision"), **values)
        return Response(KeepingSerializer(changed).data)


class WouldGoView(View):
    """What rules would take out that nobody has set yet."""

    area = "keeping"

    @extend_schema(request=KeepingSerializer, responses=WouldGoSerializer)
    def post(self, request: Request) -> Response:
        """Look before setting them: nothing is changed."""
        form = KeepingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        wanted = keeping.rules()
        for name, value in form.validated_data.items():
            setattr(wanted, name, value)
        return Response(WouldGoSerializer(keeping.would_go(wanted)._asdict()).data)
