"""What things are whose changes are recorded."""

from __future__ import annotations

import uuid

from django.db import models


class Recorded(models.Model):
    """Base of everything whose changes are recorded."""

    revision = models.PositiveIntegerField(default=1, editable=False)
    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True

    @property
    def title(self) -> str:
        """What people call it."""
        return str(getattr(self, "name", self.pk))


class ConfigItem(Recorded):
    """Base of everything that an administrator keeps."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)

    class Meta:
        abstract = True


class Described(ConfigItem):
    """Base of everything that can say what it is for, in a sentence."""

    description = models.CharField(max_length=200, blank=True, default="")

    class Meta:
        abstract = True
