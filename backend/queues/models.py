"""Queues."""

from django.conf import settings
from django.db import models

from changelog.recorded import Described


def both_channels() -> list[str]:
    """A new queue takes calls and texts."""
    return ["voice", "text"]


class Queue(Described):
    """Where contacts wait for a person. Made by name alone it is unfinished until set up."""

    name = models.CharField(max_length=80, unique=True)
    finished = models.BooleanField(default=False)
    extension = models.CharField(max_length=6, blank=True)
    colour = models.CharField(max_length=7, default="#4A6B66")
    #: Queues of one group stand together on the floor, with their sums.
    group = models.CharField(max_length=60, blank=True)
    members = models.ManyToManyField("agents.Agent", blank=True, related_name="queues")
    #: Whole teams are members too; `ranks` are places in the list by agent, 1 first, none last.
    teams = models.ManyToManyField("agents.Team", blank=True, related_name="queues")
    ranks = models.JSONField(default=dict, blank=True)
    priority = models.PositiveSmallIntegerField(default=5)
    priority_growth = models.FloatField(default=0)
    distribution = models.CharField(max_length=20, default="longest_idle")
    #: Skills with least levels: `[{"skill": id, "least": 1..10}]`.
    required_skills = models.JSONField(default=list, blank=True)
    #: `[{"after_s": n, "lower": levels, "teams": [ids]}]`, by time.
    widening = models.JSONField(default=list, blank=True)
    last_agent_s = models.PositiveIntegerField(default=0)
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
    plan = models.ForeignKey("flows.Flow", null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    note = models.TextField(max_length=2000, blank=True)
    #: Opened with the contact; `{caller}`, `{number}` and `{queue}` are filled in.
    link = models.CharField(max_length=500, blank=True)
    supervisors = models.ManyToManyField(settings.AUTH_USER_MODEL, blank=True, related_name="+")
    channels = models.JSONField(default=both_channels, blank=True)
    #: Where callers go whom the queue lets go and their flow says nothing, references: after the
    #: longest wait; while nobody is signed in, and outside of the hours, where these are given.
    overflow = models.CharField(max_length=60, blank=True)
    overflow_nobody = models.CharField(max_length=60, blank=True)
    overflow_closed = models.CharField(max_length=60, blank=True)
    recording = models.CharField(max_length=10, default="none")
    recording_percent = models.PositiveSmallIntegerField(default=100)
    recording_told = models.CharField(max_length=10, default="notice")
    recording_notice = models.CharField(max_length=300, blank=True)
    transcribed = models.BooleanField(default=False)
    #: What callers hear while they wait; none: the centre's hold music.
    music = models.ForeignKey(
        "sounds.Sound", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    survey = models.ForeignKey(
        "flows.Flow", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    #: Our number by which agents go on in writing.
    text_number = models.ForeignKey(
        "numbers_app.Number", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["extension"], condition=~models.Q(extension=""), name="queue_extension"
            )
        ]


class AlertRule(Described):
    """When the floor is told of a live figure; see `callcore.measures.alerts`. Without a queue
    it is about all of them."""

    name = models.CharField(max_length=80, unique=True)
    figure = models.CharField(max_length=20)
    queue = models.ForeignKey(Queue, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    #: Whose supervisors are told; none: those who supervise the queue.
    teams = models.ManyToManyField("agents.Team", blank=True, related_name="+")
    above = models.BooleanField(default=True)
    value = models.FloatField()
    for_s = models.PositiveIntegerField(default=60)
    #: Monday is 0; empty for all.
    weekdays = models.JSONField(default=list, blank=True)
    #: Minutes of the day; None for all of it.
    from_min = models.PositiveSmallIntegerField(null=True, blank=True)
    until_min = models.PositiveSmallIntegerField(null=True, blank=True)

    class Meta:
        ordering = ["name"]
