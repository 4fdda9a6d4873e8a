"""Wrap-up codes."""

from django.apps import AppConfig


class WrapUpConfig(AppConfig):
    name = "wrapup"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from wrapup import models, services

        register(Kind("code", models.Code, "Wrap-up code", "/wrap-up/codes"))
        register(Kind("code_set", models.CodeSet, "Code set", "/wrap-up/sets"))
        register_use("code", services.sets_with_code)
