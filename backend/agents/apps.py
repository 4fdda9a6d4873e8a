"""Agents."""

from django.apps import AppConfig


class AgentsConfig(AppConfig):
    name = "agents"

    def ready(self) -> None:
        from agents import models, services
        from changelog.kinds import Kind, register
        from numbers_app import numbering

        register(Kind("agent", models.Agent, "Agent", "/talk/agents"))
        register(Kind("handling_rules", models.HandlingRules, "Handling rules", "/talk/rules"))
        numbering.register(services.extensions)
