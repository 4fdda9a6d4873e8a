"""Diversions."""

from django.apps import AppConfig


class DiversionsConfig(AppConfig):
    name = "diversions"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from diversions import models, services

        register(Kind("diversion", models.Diversion, "Diversion", "/arrive/diversions"))
        register_use("number", services.of_number)
        register_use("mailbox", services.to_mailbox)
        register_use("flow", services.to_flow)
