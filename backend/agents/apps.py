"""Agents."""

from django.apps import AppConfig


class AgentsConfig(AppConfig):
    name = "agents"

    def ready(self) -> None:
        from agents import models, services
        from changelog.kinds import Kind, register, register_use
        from numbers_app import numbering

        register(Kind("team", models.Team, "Team", "/talk/teams"))
        register(Kind("skill", models.Skill, "Skill", "/talk/skills"))
        register(Kind("agent", models.Agent, "Agent", "/talk/agents"))
        register(Kind("notice", models.Notice, "Notice", "/talk/notices"))
        register_use("team", services.agents_in_team)
        register_use("skill", services.agents_with_skill)
        register(Kind("handling_rules", models.HandlingRules, "Handling rules", "/talk/rules"))
        numbering.register(services.extensions)
