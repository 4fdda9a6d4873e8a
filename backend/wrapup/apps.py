"""Wrap-up codes."""

from django.apps import AppConfig


class WrapUpConfig(AppConfig):
    name = "wrapup"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register, register_check, register_use
        from wrapup import models, services

        register(RecordedKind("code", models.Code, "Wrap-up code", "/wrap-up/codes"))
        register(RecordedKind("code_set", models.CodeSet, "Code set", "/wrap-up/sets"))
        register_check(services.check)
        register_use("code", services.sets_with_code)
        say(models.Code, ThingRule())
        say(models.CodeSet, ThingRule())
