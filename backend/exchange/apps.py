"""The exchange."""

from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "exchange"

    def ready(self) -> None:
        from changelog.kinds import register_use
        from exchange import services

        register_use("code", services.contacts_with_code)
