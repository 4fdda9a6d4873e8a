"""Numbers."""

from django.apps import AppConfig


class NumbersConfig(AppConfig):
    name = "numbers_app"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from numbers_app import models, services

        register(Kind("number", models.Number, "Number", "/arrive/numbers"))
        register_use("flow", services.numbers_of_flow)
