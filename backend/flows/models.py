"""Call flows, their versions, and their saved trials."""

from django.conf import settings
from django.db import models

from changelog.recorded import ConfigItem, Described, Recorded


class Flow(Described):
    """A flow: its draft, and the version in force. `refers_to` lists the draft's references.

    `scheduled` comes into force by itself at `scheduled_at`.
    """

    name = models.CharField(max_length=80, unique=True)
    draft = models.JSONField()
    refers_to = models.JSONField(default=list)
    in_force = models.ForeignKey("Version", null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    scheduled = models.ForeignKey(
        "Version", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    scheduled_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name"]


class FlowRules(Recorded):
    """What counts in all flows of the centre; there is one row.

    `silence_ends`: a caller who presses no key that counts is let go at a menu that says nothing
    of it, without a word. Lingering robots cost the centre that long and no longer.
    """

    silence_ends = models.BooleanField(default=False)

    @property
    def title(self) -> str:
        return "Rules of all flows"


class Unsound(models.Model):
    """A flow whose version in force could not be published any more, and why. See
    `flows.soundness`."""

    flow = models.OneToOneField(Flow, primary_key=True, on_delete=models.CASCADE, related_name="+")
    message = models.TextField()


class Version(models.Model):
    """A published version. Never changed. `overridden` says why trials that failed were let be."""

    flow = models.ForeignKey(Flow, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    definition = models.JSONField()
    refers_to = models.JSONField(default=list)
    note = models.CharField(max_length=300, blank=True)
    overridden = models.CharField(max_length=300, blank=True)
    author = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    author_name = models.CharField(max_length=150)
    published_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["flow", "number"], name="one_version_a_number")]


class Trial(ConfigItem):
    """A saved trial call: its setup, and what is expected of it."""

    flow = models.ForeignKey(Flow, on_delete=models.CASCADE, related_name="trials")
    name = models.CharField(max_length=80)
    setup = models.JSONField()
    expected = models.JSONField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["flow", "name"], name="one_trial_a_name")]
