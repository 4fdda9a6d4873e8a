"""The exchange."""

from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "exchange"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register, register_use
        from exchange import models, policy, services
        from exchange.commands import reload_exchange
        from exchange.snapshots import arm_counts
        from flows.running import Runner, run_by
        from web import clock

        hidden = ("clock_from_ms", "clock_since_ms")
        register(RecordedKind("stand_ins", models.StandIns, "Stand-ins", "/settings/stand-ins", hidden))
        say(models.StandIns, ThingRule())
        run_by(Runner(reload_exchange, arm_counts))
        clock.goes_by(services.site_clock_ms)
        register_use("code", services.contacts_with_code)
        say(models.Contact, ThingRule(policy.contact))
        say(models.Callback, ThingRule(policy.callback))
