"""People who sign in."""

from django.apps import AppConfig
from django.db import transaction


class AccountsConfig(AppConfig):
    name = "accounts"

    def ready(self) -> None:
        from accounts import lines, models, services
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import (
            RecordedKind,
            never,
            register,
            register_check,
            register_listener,
            register_numbers,
        )

        hidden = (
            "password",
            "last_login",
            "groups",
            "user_permissions",
            "is_staff",
            "is_superuser",
            "date_joined",
            "email",
        )
        register(
            RecordedKind(
                "user",
                models.User,
                "Person",
                "/talk/people",
                hidden,
                runs=never,
                prune=services.prune_user,
                rights=True,
            )
        )
        for field in ("supervisors", "user_id"):
            register_numbers(field, services.names_of)
        register_check(services.check)
        say(models.User, ThingRule(services.person_rule))

        def tell_lines(user, kind, thing, before, after) -> None:  # type: ignore[no-untyped-def]
            if kind.rights:
                transaction.on_commit(lines.rights_changed)

        register_listener(tell_lines)
