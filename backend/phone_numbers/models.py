"""Telephone numbers and internal extensions."""

from django.db import models

from changelog.recorded import Described


class Channel(models.TextChoices):
    VOICE = "voice", "Voice"
    TEXT = "text", "Text messages"


class Number(Described):
    """What callers dial, and the flow that answers it with which values.

    `address` is E.164 (it begins with +) or the figures of an internal extension.
    """

    address = models.CharField(max_length=16, unique=True)
    channel = models.CharField(max_length=5, choices=Channel.choices, default=Channel.VOICE)
    label = models.CharField(max_length=80, blank=True)
    flow = models.ForeignKey(
        "flows.Flow", null=True, blank=True, on_delete=models.PROTECT, related_name="numbers"
    )
    #: What the number hands to the flow's inputs, by name.
    values = models.JSONField(default=dict, blank=True)

    #: Changes dated ahead, in their order:
    #: [{"at": ISO 8601 with zone, "flow": id or null, "values": {}}].
    planned = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["address"]

    @property
    def title(self) -> str:
        return self.label or self.address
