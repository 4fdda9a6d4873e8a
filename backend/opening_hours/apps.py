"""Opening hours."""

from django.apps import AppConfig


class HoursConfig(AppConfig):
    name = "opening_hours"
    #: Its tables, and the notes of what was migrated, have this name.
    label = "hours_app"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register
        from opening_hours import models

        register(RecordedKind("hours", models.Hours, "Hours", "/arrive/hours"))
        say(models.Hours, ThingRule())
