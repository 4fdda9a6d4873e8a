"""Reports."""

from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "reports"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register
        from exchange.services import forgotten_with
        from reports.growing import forget
        from reports.models import KeepingRules

        forgotten_with(forget)
        register(RecordedKind("keeping", KeepingRules, "What is kept", "/settings/kept"))
        say(KeepingRules, ThingRule())
