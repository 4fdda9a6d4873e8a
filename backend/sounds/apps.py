"""Sounds."""

from django.apps import AppConfig


class SoundsConfig(AppConfig):
    name = "sounds"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register, register_check
        from sounds import models, services

        register(RecordedKind("sound", models.Sound, "Sound", "/guide/sounds"))
        register_check(services.one_hold_music)
        say(models.Sound, ThingRule())
        say(models.Take, ThingRule(rows=services.heard_by_all))
