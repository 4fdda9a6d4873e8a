"""Numbers."""

from functools import partial

from django.apps import AppConfig


class NumbersConfig(AppConfig):
    name = "phone_numbers"
    #: Its tables, and the notes of what was migrated, have this name.
    label = "numbers_app"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register, register_check, register_use
        from phone_numbers import models, numbering, services

        register(RecordedKind("number", models.Number, "Number", "/arrive/numbers", prune=services.prune))
        register_check(numbering.check)
        register_use("flow", services.numbers_of_flow)
        for kind in ("queue", "hours", "sound", "mailbox"):
            register_use(kind, partial(services.numbers_with_value, kind))
        numbering.register(services.extensions)
        say(models.Number, ThingRule())
