"""Queues."""

from django.apps import AppConfig


class QueuesConfig(AppConfig):
    name = "queues"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from numbers_app import numbering
        from queues import models, services

        register(Kind("queue", models.Queue, "Queue", "/wait/queues"))
        register_use("agent", services.queues_of_agent)
        register_use("code_set", services.queues_with_set)
        register_use("flow", services.queues_with_plan)
        numbering.register(services.extensions)
