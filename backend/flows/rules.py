"""What counts in all flows of the centre."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.things import must
from changelog import config_store
from flows.models import FlowRules
from web.base import View

#: There is one row.
RULES_ID = 1


def rules() -> FlowRules:
    """The centre's rules; their defaults while nobody has changed them."""
    return FlowRules.objects.filter(pk=RULES_ID).first() or FlowRules(pk=RULES_ID)


class FlowRulesSerializer(serializers.ModelSerializer):
    """What counts in all flows."""

    class Meta:
        model = FlowRules
        fields = ["silence_ends"]


class FlowRulesView(View):
    """What counts in all flows of the centre."""

    area = "flows"

    @extend_schema(responses=FlowRulesSerializer)
    def get(self, request: Request) -> Response:
        return Response(FlowRulesSerializer(rules()).data)

    @extend_schema(request=FlowRulesSerializer(partial=True), responses=FlowRulesSerializer)
    def patch(self, request: Request) -> Response:
        must(request.user, "change", FlowRules, {})
        form = FlowRulesSerializer(data=request.data, partial=True)
        form.is_valid(raise_exception=True)
        row, _ = FlowRules.objects.get_or_create(pk=RULES_ID)
        changed = config_store.change(request.user, row, None, **form.validated_data)
        return Response(FlowRulesSerializer(changed).data)
