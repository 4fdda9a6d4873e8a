"""Call flows."""

from django.apps import AppConfig


class FlowsConfig(AppConfig):
    name = "flows"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from flows import models, services

        register(Kind("flow", models.Flow, "Flow", "/guide/flows"))
        register_use("queue", services.flows_with_queue)
        register_use("sound", services.flows_with_sound)
        register_use("hours", services.flows_with_hours)
