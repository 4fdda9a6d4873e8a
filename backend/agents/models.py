"""Agents, and the rules by which they work."""

from django.conf import settings
from django.db import models

from changelog.kept import Kept


class Agent(Kept):
    """A person who takes contacts. Without a user they cannot sign in yet."""

    name = models.CharField(max_length=120)
    extension = models.CharField(max_length=6, unique=True)
    team = models.CharField(max_length=80, blank=True)
    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.SET_NULL
    )

    class Meta:
        ordering = ["name"]


class WrapUp(models.TextChoices):
    NONE = "none", "None"
    OPTIONAL = "optional", "Optional"
    REQUIRED = "required", "Required"


class HandlingRules(Kept):
    """How agents of the whole centre work; there is one row."""

    ring_s = models.PositiveSmallIntegerField(default=20)
    wrap_up = models.CharField(max_length=10, choices=WrapUp.choices, default=WrapUp.OPTIONAL)
    longest_wrap_s = models.PositiveSmallIntegerField(default=60)
    away_reasons = models.JSONField(default=list)

    @property
    def title(self) -> str:
        return "Handling rules"
