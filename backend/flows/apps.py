"""Call flows."""

from functools import partial

from django.apps import AppConfig


class FlowsConfig(AppConfig):
    name = "flows"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, never, register, register_numbers, register_use, when
        from flows import models, services
        from phone_numbers.answering import Flows, known_by

        register(RecordedKind("trial", models.Trial, "Saved trial", "/guide/flows", runs=never))
        register(RecordedKind("flow_rules", models.FlowRules, "Rules of all flows", "/guide/flows"))
        say(models.FlowRules, ThingRule())
        # A draft runs nowhere until it is published.
        runs = when("name", "in_force_id", "scheduled_id", "scheduled_at")
        register(RecordedKind("flow", models.Flow, "Flow", "/guide/flows", runs=runs))
        for field in ("in_force_id", "scheduled_id"):
            register_numbers(field, services.version_names)
        things = "queue sound hours mailbox flow table agent skill group"
        for kind in things.split():
            register_use(kind, partial(services.flows_with, kind))
        say(models.Flow, ThingRule())
        known_by(Flows(services.flow_choices, services.flow_names))
        say(models.Trial, ThingRule())
