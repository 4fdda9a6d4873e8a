"""Diversions."""

from django.apps import AppConfig


class DiversionsConfig(AppConfig):
    name = "diversions"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register, register_use
        from diversions import models, services

        register(RecordedKind("diversion", models.Diversion, "Diversion", "/arrive/diversions"))
        register_use("number", services.of_number)
        register_use("mailbox", services.to_mailbox)
        register_use("flow", services.to_flow)
        say(models.Diversion, ThingRule())
