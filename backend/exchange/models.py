"""What the exchange writes down."""

from typing import Any

from django.conf import settings
from django.db import models
from django.db.models.fields.json import KeyTransform

from changelog.recorded import Recorded
from exchange.site_clock import SiteClock, wall_ms


class Journal(models.Model):
    """The stream of events, in order. Only the exchange writes it; nothing is ever changed."""

    seq = models.BigAutoField(primary_key=True)
    site = models.CharField(max_length=40)
    at_ms = models.BigIntegerField()
    kind = models.CharField(max_length=40)
    contact = models.CharField(max_length=40, blank=True)
    agent = models.CharField(max_length=40, blank=True)
    body = models.JSONField()

    class Meta:
        indexes = [
            models.Index(fields=["contact", "seq"], name="journal_of_contact"),
            models.Index(fields=["site", "at_ms"], name="journal_by_time"),
            models.Index(fields=["site", "kind", "agent", "-seq"], name="journal_of_agent"),
            models.Index(
                fields=["site", "at_ms"], name="journal_of_answers", condition=models.Q(kind="leg.answered")
            ),
            models.Index(
                fields=["site", "at_ms"], name="journal_of_alerts", condition=models.Q(kind="floor.alert")
            ),
            models.Index(
                KeyTransform("code", "body"), name="journal_of_codes", condition=models.Q(kind="leg.coded")
            ),
        ]


class Standing(models.Model):
    """How a thing of a site stands: a contact, an agent, or the site itself. Written with the
    events that made it so; what is taken up after a stop or a crash."""

    site = models.CharField(max_length=40)
    what = models.CharField(max_length=10)
    name = models.CharField(max_length=40)
    body = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "what", "name"], name="one_standing")]


class Contact(models.Model):
    """One contact, written with its events; the open ones are taken up after a crash."""

    id = models.CharField(max_length=40, primary_key=True)
    site = models.CharField(max_length=40)
    number = models.CharField(max_length=16)
    caller = models.CharField(max_length=20)
    flow = models.CharField(max_length=40)
    arrived_ms = models.BigIntegerField(db_index=True)
    ended_ms = models.BigIntegerField(null=True)
    ending = models.CharField(max_length=20, blank=True)
    #: The contact that it is part of, where an agent speaks with a colleague about it.
    consult_of = models.CharField(max_length=40, blank=True)
    #: The user at whose telephone it was placed; null for all other calls.
    placed_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        indexes = [
            models.Index(fields=["site"], name="open_contacts", condition=models.Q(ended_ms__isnull=True))
        ]


class Callback(models.Model):
    """A place in a queue that is kept for a caller, written with the events that tell of it.

    `contact` is the callback's own, `origin` the call that booked it.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        CALLING = "calling"
        TALKING = "talking"
        DONE = "done"
        NOT_REACHED = "not_reached"
        CANCELLED = "cancelled"

    contact = models.CharField(max_length=40, primary_key=True)
    site = models.CharField(max_length=40)
    origin = models.CharField(max_length=40)
    queue = models.CharField(max_length=40)
    number = models.CharField(max_length=20)
    booked_ms = models.BigIntegerField()
    entered_ms = models.BigIntegerField()
    next_ms = models.BigIntegerField()
    attempts = models.PositiveSmallIntegerField()
    tried = models.PositiveSmallIntegerField(default=0)
    agent = models.CharField(max_length=40, blank=True)
    state = models.CharField(max_length=20, choices=State, default=State.WAITING)
    ended_ms = models.BigIntegerField(null=True)

    class Meta:
        ordering = ["entered_ms"]
        indexes = [models.Index(fields=["site", "state", "entered_ms"], name="callbacks_by_state")]


class StandIns(Recorded):
    """The simulated callers and agents of a site: whether there are any, and how many."""

    site = models.CharField(max_length=40, primary_key=True)
    on = models.BooleanField(default=False)
    load = models.FloatField(default=1.0)
    agents = models.PositiveSmallIntegerField(default=30)
    seed = models.PositiveIntegerField(default=1)
    fax = models.BooleanField(default=True)
    #: How many of a hundred things that callers say are not understood.
    misheard = models.PositiveSmallIntegerField(default=10)
    #: What the people are like, as `callcore.people.said` has it; empty: as usual.
    people = models.JSONField(default=dict, blank=True)
    #: How fast the site's clock runs, since which moment of the wall's (ms), and from which of its
    #: own; both 0 while it has never run at another speed.
    speed = models.PositiveSmallIntegerField(default=1)
    clock_from_ms = models.BigIntegerField(default=0)
    clock_since_ms = models.BigIntegerField(default=0)

    @property
    def title(self) -> str:
        return "Stand-ins"

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Another speed counts from the moment at which it is set, also when it is taken back."""
        before = StandIns.objects.filter(pk=self.pk).first()
        if before is not None and before.speed != self.speed:
            clock = SiteClock(before.speed, before.clock_from_ms, before.clock_since_ms)
            moved = clock.at_speed(self.speed, wall_ms())
            self.clock_from_ms, self.clock_since_ms = moved.from_ms, moved.since_ms
        super().save(*args, **kwargs)


class Command(models.Model):
    """Something the exchange is asked to do; it writes the answer into the row."""

    site = models.CharField(max_length=40)
    kind = models.CharField(max_length=40)
    body = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    asked_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    answered_at = models.DateTimeField(null=True)
    answer = models.JSONField(null=True)

    class Meta:
        indexes = [
            models.Index(
                fields=["site", "id"], name="open_commands", condition=models.Q(answered_at__isnull=True)
            )
        ]


class Lease(models.Model):
    """Which exchange owns a site, and until when."""

    site = models.CharField(max_length=40, primary_key=True)
    owner = models.UUIDField()
    where = models.CharField(max_length=120)
    until = models.DateTimeField()
