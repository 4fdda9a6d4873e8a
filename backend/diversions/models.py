"""Diversions: numbers sent elsewhere for a while."""

from django.db import models

from changelog.recorded import Described


class Where(models.TextChoices):
    OUTSIDE = "outside", "an outside number"
    MAILBOX = "mailbox", "a mailbox"
    FLOW = "flow", "another flow"


class Then(models.TextChoices):
    NORMAL = "normal", "the normal way"
    MAILBOX = "mailbox", "a mailbox"
    FLOW = "flow", "another flow"
    END = "end", "the call ends"


class Diversion(Described):
    """Sends the calls of some numbers elsewhere, until a time or until lifted.

    `until` is the planned end, `lifted_at` the moment somebody ended it by hand.
    """

    reason = models.CharField(max_length=80)
    numbers = models.ManyToManyField("numbers_app.Number", related_name="diversions")
    where = models.CharField(max_length=8, choices=Where.choices)
    outside = models.CharField(max_length=16, blank=True)
    mailbox = models.ForeignKey(
        "mailboxes.Mailbox", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    flow = models.ForeignKey("flows.Flow", null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    begins = models.DateTimeField()
    until = models.DateTimeField(null=True, blank=True)
    lifted_at = models.DateTimeField(null=True, blank=True)
    ring_s = models.PositiveSmallIntegerField(default=20)
    then = models.CharField(max_length=8, choices=Then.choices, default=Then.NORMAL)
    then_mailbox = models.ForeignKey(
        "mailboxes.Mailbox", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    then_flow = models.ForeignKey(
        "flows.Flow", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )

    class Meta:
        ordering = ["-begins"]

    @property
    def title(self) -> str:
        return self.reason
