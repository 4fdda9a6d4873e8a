"""Numbers."""

from __future__ import annotations

from rest_framework import serializers

from hazeridge.api.views import KeptSerializer, KeptViewSet
from numbers_app.models import Number
from numbers_app.plan import NotANumber, fictional, national, read


class NumberSerializer(KeptSerializer):
    """A number, typed in any usual way and answered in E.164."""

    e164 = serializers.CharField(max_length=40)
    national = serializers.SerializerMethodField()
    fictional = serializers.SerializerMethodField()
    flow_name = serializers.CharField(source="flow.name", read_only=True, default=None)

    class Meta:
        model = Number
        fields = [
            "id", "revision", "updated_at", "e164", "national", "fictional", "label", "flow",
            "flow_name",
        ]  # fmt: skip

    def validate_e164(self, typed: str) -> str:
        try:
            e164 = read(typed)
        except NotANumber as error:
            raise serializers.ValidationError(str(error)) from None
        taken = Number.objects.filter(e164=e164).exclude(pk=getattr(self.instance, "pk", None))
        other = taken.first()
        if other:
            raise serializers.ValidationError(f"{national(e164)} is {other.title} already.")
        return e164

    def get_national(self, number: Number) -> str:
        return national(number.e164)

    def get_fictional(self, number: Number) -> bool:
        return fictional(number.e164)


class NumberViewSet(KeptViewSet):
    area = "numbers"
    queryset = Number.objects.select_related("flow")
    serializer_class = NumberSerializer
    search_fields = ["e164", "label", "flow__name"]
    ordering_fields = ["e164", "label", "flow__name"]
