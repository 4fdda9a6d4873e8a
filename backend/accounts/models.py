"""People who sign in."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    """What a person may do; `accounts.policy` says what that is."""

    ADMINISTRATOR = "administrator", "Administrator"
    SUPERVISOR = "supervisor", "Supervisor"
    AGENT = "agent", "Agent"
    READ_ONLY = "read_only", "Read only"


class User(AbstractUser):
    """One person and their role."""

    first_name = None
    last_name = None
    full_name = models.CharField(max_length=120)
    role = models.CharField(max_length=20, choices=Role.choices, default=Role.READ_ONLY)

    REQUIRED_FIELDS = ["full_name"]
