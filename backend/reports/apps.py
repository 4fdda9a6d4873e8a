"""Reports."""

from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "reports"

    def ready(self) -> None:
        from exchange.services import forgotten_with
        from reports.growing import forget

        forgotten_with(forget)
