"""Sounds."""

from django.apps import AppConfig


class SoundsConfig(AppConfig):
    name = "sounds"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import Kind, register
        from sounds import models, services

        register(Kind("sound", models.Sound, "Sound", "/guide/sounds"))
        say(models.Sound, ThingRule())
        say(models.Take, ThingRule(rows=services.heard_by_all))
