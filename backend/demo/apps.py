"""The made-up ferry line of the demo."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "demo"
