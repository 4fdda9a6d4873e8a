"""Rules of alerts, and the alerts that came of them."""

from __future__ import annotations

from typing import Any

from django.db.models import F
from rest_framework import serializers

from accounts.item_views import ItemSerializer, ItemViewSet
from callcore.measures.alerts import FIGURES
from queues.models import AlertRule

#: So many rules the exchange looks at.
MOST = 100
_DAY_MIN = 24 * 60
_DAY_S = 24 * 3600


class AlertRuleSerializer(ItemSerializer):
    """When the floor is told of a live figure. Without a queue it is about all of them."""

    figure = serializers.ChoiceField([(name, figure.name) for name, figure in FIGURES.items()])
    value = serializers.FloatField(min_value=0, max_value=100_000)
    for_s = serializers.IntegerField(min_value=0, max_value=_DAY_S, required=False)
    weekdays = serializers.ListField(
        child=serializers.IntegerField(min_value=0, max_value=6), max_length=7, required=False
    )
    from_min = serializers.IntegerField(min_value=0, max_value=_DAY_MIN, required=False, allow_null=True)
    until_min = serializers.IntegerField(min_value=0, max_value=_DAY_MIN, required=False, allow_null=True)
    queue_name = serializers.CharField(read_only=True, allow_null=True)
    team_names = serializers.SerializerMethodField(help_text="Whose supervisors are told.")

    class Meta:
        model = AlertRule
        fields = [
            "id",
            "revision",
            "updated_at",
            "name",
            "figure",
            "queue",
            "queue_name",
            "teams",
            "team_names",
            "above",
            "value",
            "for_s",
            "weekdays",
            "from_min",
            "until_min",
        ]

    def get_team_names(self, rule: AlertRule) -> list[str]:
        return [team.name for team in rule.teams.all()]

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        if self.instance is None and AlertRule.objects.count() >= MOST:
            raise serializers.ValidationError({"name": [f"{MOST} alerts are kept at the most."]})

        def now(name: str) -> Any:
            return attrs[name] if name in attrs else getattr(self.instance, name, None)

        if (now("from_min") is None) != (now("until_min") is None):
            words = "Say both from when and until when, or neither."
            raise serializers.ValidationError({"until_min": [words]})
        if now("figure") == "expected" and now("queue") is None:
            raise serializers.ValidationError({"queue": ["A wait is expected in one queue."]})
        if FIGURES[now("figure")].unit == "%" and now("value") > 100:
            raise serializers.ValidationError({"value": ["A share is 100 % at most."]})
        return attrs


class AlertRuleViewSet(ItemViewSet):
    area = "alerts"
    queryset = AlertRule.objects.annotate(queue_name=F("queue__name")).prefetch_related("teams")
    serializer_class = AlertRuleSerializer
    search_fields = ["name", "queue__name"]
    ordering_fields = ["name", "figure", "queue_name"]
