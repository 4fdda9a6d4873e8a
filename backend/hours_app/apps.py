"""Opening hours."""

from django.apps import AppConfig


class HoursConfig(AppConfig):
    name = "hours_app"

    def ready(self) -> None:
        from changelog.kinds import Kind, register
        from hours_app import models

        register(Kind("hours", models.Hours, "Hours", "/arrive/hours"))
