"""Agents."""

from functools import partial

from django.apps import AppConfig


class AgentsConfig(AppConfig):
    name = "agents"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from agents import groups, models, policy, services
        from changelog.kinds import RecordedKind, register, register_listener, register_use
        from phone_numbers import numbering

        register(RecordedKind("team", models.Team, "Team", "/talk/teams", rights=True))
        register(RecordedKind("skill", models.Skill, "Skill", "/talk/skills"))
        register(RecordedKind("agent", models.Agent, "Agent", "/talk/agents", prune=services.prune_agent))
        register(RecordedKind("notice", models.Notice, "Notice", "/talk/notices"))
        register(RecordedKind("group", models.RingGroup, "Ring group", "/talk/groups", prune=groups.prune))
        for kind in ("agent", "team"):
            register_use(kind, partial(groups.with_member, kind))
        register_use("mailbox", groups.to_mailbox)
        numbering.register(groups.extensions)
        say(models.RingGroup, ThingRule(policy.ring_group))
        register_use("team", services.agents_in_team)
        register_use("team", services.notices_for)
        register_use("skill", services.agents_with_skill)
        register(
            RecordedKind(
                "handling_rules",
                models.HandlingRules,
                "Handling rules",
                "/talk/rules",
                prune=services.prune_rules,
            )
        )
        for kind in ("agent", "queue", "mailbox", "flow", "group"):
            register_use(kind, partial(services.rules_leading_to, kind))
        numbering.register(services.extensions)
        register_listener(services.follow_people)
        say(models.Agent, ThingRule(policy.agent))
        say(models.Team, ThingRule())
        say(models.Skill, ThingRule())
        say(models.HandlingRules, ThingRule(policy.handling_rules))
        say(models.Notice, ThingRule(policy.notice))
