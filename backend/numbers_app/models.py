"""Telephone numbers."""

from django.db import models

from changelog.kept import Kept


class Number(Kept):
    """A number that callers dial, in E.164, and the flow that answers it."""

    e164 = models.CharField(max_length=16, unique=True)
    label = models.CharField(max_length=80, blank=True)
    flow = models.ForeignKey(
        "flows.Flow", null=True, blank=True, on_delete=models.PROTECT, related_name="numbers"
    )

    #: Changes dated ahead: [{"at": ISO 8601 with zone, "flow": id or null}], in their order.
    planned = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["e164"]

    @property
    def title(self) -> str:
        return self.label or self.e164
