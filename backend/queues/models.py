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
    priority = models.PositiveSmallIntegerField(default=5)
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
