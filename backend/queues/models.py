"""Queues."""

from django.db import models

from changelog.kept import Kept


class Queue(Kept):
    """Where contacts wait for a person. Made by name alone it is unfinished until set up."""

    name = models.CharField(max_length=80, unique=True)
    finished = models.BooleanField(default=False)
    extension = models.CharField(max_length=6, blank=True)
    colour = models.CharField(max_length=7, default="#4A6B66")
    members = models.ManyToManyField("agents.Agent", blank=True, related_name="queues")
    #: Whole teams are members too; `ranks` orders agents in the list (1 first, else 5).
    teams = models.ManyToManyField("agents.Team", blank=True, related_name="queues")
    ranks = models.JSONField(default=dict, blank=True)
    priority = models.PositiveSmallIntegerField(default=5)
    growth = models.FloatField(default=0)
    chooses = models.CharField(max_length=20, default="longest_idle")
    #: Skills with least levels: `[{"skill": id, "least": 1..10}]`.
    asks = models.JSONField(default=list, blank=True)
    #: `[{"after_s": n, "lower": levels, "teams": [ids]}]`, by time.
    widening = models.JSONField(default=list, blank=True)
    prefer_s = models.PositiveIntegerField(default=0)
    hours = models.ForeignKey(
        "hours_app.Hours", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    when_closed = models.CharField(max_length=10, default="wait")
    when_nobody = models.CharField(max_length=10, default="wait")
    longest_wait_s = models.PositiveIntegerField(null=True, blank=True, default=900)
    threshold_s = models.PositiveIntegerField(default=60)
    goal_percent = models.PositiveSmallIntegerField(default=80)
    short_abandon_s = models.PositiveSmallIntegerField(default=5)
    formula = models.CharField(max_length=1, default="A")
    code_set = models.ForeignKey(
        "wrapup.CodeSet", null=True, blank=True, on_delete=models.PROTECT, related_name="queues"
    )
    plan = models.ForeignKey(
        "flows.Flow", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    note = models.TextField(max_length=2000, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["extension"], condition=~models.Q(extension=""), name="queue_extension"
            )
        ]
