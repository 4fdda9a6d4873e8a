"""People who sign in."""

from django.contrib.auth.models import AbstractUser
from django.db import models

from changelog.recorded import Recorded


class Role(models.TextChoices):
    """What a person may do; `accounts.policy` says what that is."""

    ADMINISTRATOR = "administrator", "Administrator"
    SUPERVISOR = "supervisor", "Supervisor"
    AGENT = "agent", "Agent"
    READ_ONLY = "read_only", "Read only"


class User(Recorded, AbstractUser):
    """One person and their role. People are disabled, never deleted: the change log names them."""

    first_name = None
    last_name = None
    full_name = models.CharField(max_length=120)
    role = models.CharField(max_length=20, choices=Role.choices, default=Role.READ_ONLY)
    #: That a password was set is recorded by this; the password never is.
    password_set_at = models.DateTimeField(null=True, blank=True)

    REQUIRED_FIELDS = ["full_name"]

    class Meta(AbstractUser.Meta):
        ordering = ["full_name", "pk"]

    @property
    def title(self) -> str:
        return self.full_name or self.username
