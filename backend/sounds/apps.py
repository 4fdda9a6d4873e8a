"""Sounds."""

from django.apps import AppConfig


class SoundsConfig(AppConfig):
    name = "sounds"

    def ready(self) -> None:
        from changelog.kinds import Kind, register
        from sounds import models

        register(Kind("sound", models.Sound, "Sound", "/guide/sounds"))
