"""Opening hours."""

from django.apps import AppConfig


class HoursConfig(AppConfig):
    name = "hours_app"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import Kind, register
        from hours_app import models

        register(Kind("hours", models.Hours, "Hours", "/arrive/hours"))
        say(models.Hours, ThingRule())
