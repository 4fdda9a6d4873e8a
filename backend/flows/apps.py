"""Call flows."""

from functools import partial

from django.apps import AppConfig


class FlowsConfig(AppConfig):
    name = "flows"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from flows import models, services

        register(Kind("trial", models.Trial, "Saved trial", "/guide/flows"))
        register(Kind("flow", models.Flow, "Flow", "/guide/flows"))
        for kind in ("queue", "sound", "hours", "mailbox", "flow", "table", "agent", "skill"):
            register_use(kind, partial(services.flows_with, kind))
