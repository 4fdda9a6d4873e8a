"""Agents, and the rules by which they work."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from changelog.recorded import ConfigItem, Described


class Skill(Described):
    """Something that agents can do, each at a level from 1 to 10."""

    name = models.CharField(max_length=60, unique=True)

    class Meta:
        ordering = ["name"]


class Team(Described):
    """Agents who work together, and who supervises them."""

    name = models.CharField(max_length=80, unique=True)
    supervisors = models.ManyToManyField(
        settings.AUTH_USER_MODEL, blank=True, related_name="supervised_teams"
    )
    #: From when on the floor points somebody of the team out; see `LookLimits`.
    talk_limit_s = models.PositiveIntegerField(default=480)
    wrap_limit_s = models.PositiveIntegerField(default=120)
    away_limit_s = models.PositiveIntegerField(default=1800)
    missed_limit = models.PositiveIntegerField(default=2)

    class Meta:
        ordering = ["name"]


class Agent(Described):
    """A person who takes contacts. Without a user they cannot sign in yet.

    `skills`: levels (1 to 10) by skill id.
    """

    name = models.CharField(max_length=120)
    extension = models.CharField(max_length=6, unique=True)
    team = models.ForeignKey(Team, null=True, blank=True, on_delete=models.PROTECT, related_name="agents")
    site = models.CharField(max_length=60, blank=True)
    #: What the personnel office calls them; nobody else has it.
    staff_number = models.CharField(max_length=20, blank=True)
    #: Where the agent speaks if their rules say so (E.164).
    outside_number = models.CharField(max_length=16, blank=True)
    languages = models.JSONField(default=list, blank=True)
    skills = models.JSONField(default=dict, blank=True)
    user = models.OneToOneField(settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["staff_number"],
                condition=~models.Q(staff_number=""),
                name="agent_staff_number",
                violation_error_message="Somebody has this staff number already.",
            )
        ]


class RingGroup(Described):
    """People and teams in an order (`agent:…`, `team:…`), rung together or one after another.

    `way` and `when_busy` as in `callcore.routing.groups`. `mailbox` takes callers whom nobody
    answers, where whatever led them here says nothing; `language` is spoken to them then.
    """

    name = models.CharField(max_length=80, unique=True)
    extension = models.CharField(max_length=6, blank=True)
    members = models.JSONField(default=list, blank=True)
    way = models.CharField(max_length=10, default="all")
    ring_s = models.PositiveSmallIntegerField(default=20)
    when_busy = models.CharField(max_length=10, default="pass")
    mailbox = models.ForeignKey(
        "mailboxes.Mailbox", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    language = models.CharField(max_length=2, default="en")

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["extension"], condition=~models.Q(extension=""), name="group_extension"
            )
        ]


class Notice(ConfigItem):
    """What agents read at their desk until a moment; without teams everybody does."""

    text = models.TextField(max_length=500)
    teams = models.ManyToManyField(Team, blank=True, related_name="+")
    #: By the site's clock, as `until`: the newest that has not ended stands at a desk.
    since = models.DateTimeField(default=timezone.now, editable=False)
    until = models.DateTimeField()

    class Meta:
        ordering = ["until"]

    @property
    def title(self) -> str:
        return self.text[:60]


class HandlingRules(ConfigItem):
    """How agents work, in one layer: of a team, of an agent, or (with neither) of the centre.

    `values` holds what the layer sets (see `callcore.handling.rules`); away reasons are the
    centre's only.
    """

    team = models.OneToOneField(Team, null=True, blank=True, on_delete=models.CASCADE)
    agent = models.OneToOneField(Agent, null=True, blank=True, on_delete=models.CASCADE)
    values = models.JSONField(default=dict)
    away_reasons = models.JSONField(default=list)

    @property
    def title(self) -> str:
        of = self.team or self.agent
        return f"Handling rules of {of.name}" if of else "Handling rules"
