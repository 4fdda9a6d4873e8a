"""Wrap-up codes and code sets."""

from __future__ import annotations

from django.db.models import Count
from rest_framework import serializers

from accounts.item_views import ItemSerializer, ItemViewSet
from wrapup.models import Code, CodeSet


class CodeSerializer(ItemSerializer):
    digits = serializers.RegexField(
        r"^[0-9]{1,6}$", error_messages={"invalid": "A code is 1 to 6 digits, for a keypad."}
    )

    class Meta:
        model = Code
        fields = ["id", "revision", "updated_at", "name", "digits", "group", "long_label", "retired"]

    def validate_digits(self, digits: str) -> str:
        others = Code.objects.exclude(pk=getattr(self.instance, "pk", None))
        same = others.filter(digits=digits).first()
        if same:
            raise serializers.ValidationError(f"{digits} is {same.name} already.")
        return digits


class CodeSetSerializer(ItemSerializer):
    size = serializers.IntegerField(read_only=True)
    codes = serializers.PrimaryKeyRelatedField(many=True, required=False, queryset=Code.objects.all())

    class Meta:
        model = CodeSet
        fields = ["id", "revision", "updated_at", "name", "codes", "size"]


class CodeViewSet(ItemViewSet):
    area = "wrapup"
    queryset = Code.objects.all()
    serializer_class = CodeSerializer
    search_fields = ["name", "digits", "group"]
    ordering_fields = ["name", "digits", "group"]


class CodeSetViewSet(ItemViewSet):
    area = "wrapup"
    queryset = CodeSet.objects.annotate(size=Count("codes")).prefetch_related("codes")
    serializer_class = CodeSetSerializer
    search_fields = ["name"]
    ordering_fields = ["name", "size"]
