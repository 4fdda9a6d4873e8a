"""Queues."""

from functools import partial

from django.apps import AppConfig


class QueuesConfig(AppConfig):
    name = "queues"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register, register_listener, register_use
        from phone_numbers import numbering
        from queues import models, policy, services

        register(RecordedKind("queue", models.Queue, "Queue", "/wait/queues", prune=services.prune))
        register_use("agent", services.queues_of_agent)
        register_use("code_set", services.queues_with_set)
        register_use("flow", services.queues_with_flow)
        register_use("number", services.queues_with_number)
        for kind in ("queue", "mailbox"):
            register_use(kind, partial(services.queues_leading_to, kind))
        register_use("team", services.queues_with_team)
        register_use("skill", services.queues_with_skill)
        register_use("hours", services.queues_with_hours)
        register_use("sound", services.playing)
        numbering.register(services.extensions)
        register_listener(services.follow_people)
        say(models.Queue, ThingRule(policy.queue))
        register(RecordedKind("alert", models.AlertRule, "Alert", "/learn/alerts"))
        register_use("queue", services.alerts_of)
        register_use("team", services.alerts_telling)
        say(models.AlertRule, ThingRule(policy.alert))
