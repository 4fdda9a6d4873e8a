"""The past in rows: what the journal's events come to. All of it can be made anew from them."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.db import models

from changelog.recorded import Recorded


class Progress(models.Model):
    """Up to which event of a site's journal everything is counted, and of which moment that is.

    `kept_from_ms`: the journal says nothing of contacts before it any more, their figures stay;
    `worded_from_ms`: texts before it have no words any more; 0 for all.
    """

    site = models.CharField(max_length=40, primary_key=True)
    seq = models.BigIntegerField(default=0)
    at_ms = models.BigIntegerField(default=0)
    kept_from_ms = models.BigIntegerField(default=0)
    worded_from_ms = models.BigIntegerField(default=0)


class KeepingRules(Recorded):
    """How many days contacts, messages and the words of texts are kept; null for ever. One row."""

    contacts_days = models.PositiveIntegerField(null=True, blank=True)
    messages_days = models.PositiveIntegerField(null=True, blank=True)
    texts_days = models.PositiveIntegerField(null=True, blank=True)

    @property
    def title(self) -> str:
        return "What is kept"


def counted_to_ms() -> int:
    """Up to when everything of this site is counted (ms)."""
    known = Progress.objects.filter(site=settings.EXCHANGE_SITE).first()
    return known.at_ms if known else 0


class QueueInterval(models.Model):
    """A queue in 15 minutes: `callcore.measures.rows.QueueRow`, by the limits that counted."""

    site = models.CharField(max_length=40)
    queue = models.CharField(max_length=40)
    at_ms = models.BigIntegerField()
    threshold_ms = models.IntegerField()
    short_abandon_ms = models.IntegerField()
    formula = models.CharField(max_length=1)
    offered = models.IntegerField()
    answered = models.IntegerField()
    abandoned = models.IntegerField()
    messages = models.IntegerField()
    callbacks = models.IntegerField()
    elsewhere = models.IntegerField()
    ended = models.IntegerField()
    under_way = models.IntegerField()
    short_abandons = models.IntegerField()
    answered_late = models.IntegerField()
    abandoned_late = models.IntegerField()
    wait_answered_ms = models.BigIntegerField()
    wait_abandoned_ms = models.BigIntegerField()
    longest_answered_ms = models.BigIntegerField()
    longest_abandoned_ms = models.BigIntegerField()
    longest_arrival_ms = models.BigIntegerField()
    up_front_ms = models.BigIntegerField()
    legs = models.IntegerField()
    transferred = models.IntegerField()
    callbacks_reached = models.IntegerField()
    talk_ms = models.BigIntegerField()
    hold_ms = models.BigIntegerField()
    wrap_ms = models.BigIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["site", "queue", "at_ms", "threshold_ms", "short_abandon_ms", "formula"],
                name="one_queue_interval",
            )
        ]


class TallyInterval(models.Model):
    """How often something happened in 15 minutes; see `callcore.measures.tallies.Counted`."""

    site = models.CharField(max_length=40)
    what = models.CharField(max_length=10)
    thing = models.CharField(max_length=40)
    detail = models.CharField(max_length=200)
    at_ms = models.BigIntegerField()
    count = models.IntegerField()
    ms = models.BigIntegerField()
    longest_ms = models.BigIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["site", "what", "thing", "at_ms", "detail"], name="one_tally")
        ]
        indexes = [models.Index(fields=["site", "what", "at_ms"], name="tallies_by_time")]


class Stay(models.Model):
    """One stay of a contact in a queue; `number` counts them. See `callcore.measures.account`."""

    site = models.CharField(max_length=40)
    contact = models.CharField(max_length=40)
    number = models.PositiveSmallIntegerField()
    queue = models.CharField(max_length=40)
    entered_ms = models.BigIntegerField()
    left_ms = models.BigIntegerField(null=True)
    up_front_ms = models.BigIntegerField()
    wait_ms = models.BigIntegerField()
    outcome = models.CharField(max_length=10)
    late = models.BooleanField()
    short = models.BooleanField()
    agent = models.CharField(max_length=40, blank=True)

    class Meta:
        indexes = [
            models.Index(fields=["contact"], name="stays_of_contact"),
            models.Index(fields=["site", "queue", "entered_ms"], name="stays_of_queue"),
            models.Index(fields=["site", "entered_ms"], name="stays_by_time"),
        ]


class Leg(models.Model):
    """One agent's part of a contact; `number` counts them. `offered_ms`: the moment whose interval
    it is booked to. `code` is empty for no code, `coded` says whether that is settled."""

    site = models.CharField(max_length=40)
    contact = models.CharField(max_length=40)
    number = models.PositiveSmallIntegerField()
    agent = models.CharField(max_length=40)
    queue = models.CharField(max_length=40, blank=True)
    how = models.CharField(max_length=12)
    offered_ms = models.BigIntegerField()
    answered_ms = models.BigIntegerField()
    ended_ms = models.BigIntegerField(null=True)
    by = models.CharField(max_length=12, blank=True)
    wait_ms = models.BigIntegerField()
    talk_ms = models.BigIntegerField()
    hold_ms = models.BigIntegerField()
    wrap_ms = models.BigIntegerField()
    code = models.CharField(max_length=40, blank=True)
    coded = models.BooleanField()

    class Meta:
        indexes = [
            models.Index(fields=["contact"], name="legs_of_contact"),
            models.Index(fields=["site", "offered_ms"], name="legs_by_time"),
            models.Index(fields=["site", "agent", "answered_ms"], name="legs_of_agent"),
            models.Index(fields=["site", "code", "answered_ms"], name="legs_of_code"),
        ]


class ContactLine(models.Model):
    """One contact as lists find it: `callcore.measures.summary.Summary`, and of its stays and legs
    the longest wait, all talk, and the last queue, agent and code; `queues`, `agents` and `codes`
    are all that it met."""

    site = models.CharField(max_length=40)
    contact = models.CharField(max_length=40)
    number = models.CharField(max_length=20)
    caller = models.CharField(max_length=20)
    flow = models.CharField(max_length=40, blank=True)
    arrived_ms = models.BigIntegerField()
    ended_ms = models.BigIntegerField(null=True)
    ending = models.CharField(max_length=20, blank=True)
    keys = models.CharField(max_length=40, blank=True)
    recorded = models.BooleanField()
    texts = models.BooleanField()
    callback = models.BooleanField()
    queue = models.CharField(max_length=40, blank=True)
    agent = models.CharField(max_length=40, blank=True)
    code = models.CharField(max_length=40, blank=True)
    queues = ArrayField(models.CharField(max_length=40))
    agents = ArrayField(models.CharField(max_length=40))
    codes = ArrayField(models.CharField(max_length=40))
    wait_ms = models.BigIntegerField()
    up_front_ms = models.BigIntegerField()
    talk_ms = models.BigIntegerField()
    hold_ms = models.BigIntegerField()
    wrap_ms = models.BigIntegerField()
    legs = models.PositiveSmallIntegerField()
    transferred = models.BooleanField()

    class Meta:
        indexes = [
            models.Index(fields=["contact"], name="line_of_contact"),
            models.Index(fields=["site", "-arrived_ms", "-contact"], name="lines_by_time"),
            models.Index(fields=["site", "wait_ms"], name="lines_by_wait"),
            models.Index(fields=["site", "ending", "-arrived_ms"], name="lines_by_ending"),
            GinIndex(fields=["queues"], name="lines_by_queues"),
            GinIndex(fields=["agents"], name="lines_by_agents"),
            GinIndex(fields=["codes"], name="lines_by_codes"),
            GinIndex(fields=["caller"], opclasses=["gin_trgm_ops"], name="lines_by_caller"),
            GinIndex(fields=["number"], opclasses=["gin_trgm_ops"], name="lines_by_number"),
        ]


class AgentSpan(models.Model):
    """An agent's state from a moment on; `until_ms` is null while it goes on."""

    site = models.CharField(max_length=40)
    agent = models.CharField(max_length=40)
    status = models.CharField(max_length=12)
    reason = models.CharField(max_length=80, blank=True)
    from_ms = models.BigIntegerField()
    until_ms = models.BigIntegerField(null=True)

    class Meta:
        indexes = [
            models.Index(fields=["site", "agent", "from_ms"], name="spans_of_agent"),
            models.Index(fields=["site", "until_ms"], name="spans_by_end"),
        ]


class SavedReport(models.Model):
    """A report with what it is asked with, as somebody keeps it; and when a file of it is made.

    `asked`: the parameters of its address. `at_min`: minute of the day, by the centre's clock, at
    which a file is made; null for never. `weekdays`: only on these, Monday being 0; none for all.
    `last_day`: the day of the last file that was made so.
    """

    name = models.CharField(max_length=80)
    report = models.CharField(max_length=10)
    asked = models.JSONField(default=dict)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    shared = models.BooleanField(default=False)
    at_min = models.PositiveSmallIntegerField(null=True)
    weekdays = models.JSONField(default=list)
    to = models.JSONField(default=list)
    file = models.CharField(max_length=4, default="xlsx")
    last_day = models.DateField(null=True)

    class Meta:
        ordering = ["name", "pk"]


class ReportFile(models.Model):
    """A file of a saved report, or why there is none."""

    report = models.ForeignKey(SavedReport, on_delete=models.CASCADE, related_name="files")
    made_ms = models.BigIntegerField()
    name = models.CharField(max_length=120)
    content = models.BinaryField()
    sent_to = models.JSONField(default=list)
    error = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-made_ms", "-pk"]


class Board(models.Model):
    """The floor as somebody has arranged it, for a wall.

    `queues`: ids in their order; none for all. `columns`: what is shown of each (see
    `reports.boards`), `totals`: of all together. `token`: by which anybody reads it who has the
    link; empty for nobody.
    """

    name = models.CharField(max_length=80)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    shared = models.BooleanField(default=False)
    queues = models.JSONField(default=list)
    columns = models.JSONField(default=list)
    totals = models.JSONField(default=list)
    token = models.CharField(max_length=64, blank=True, db_index=True)

    class Meta:
        ordering = ["name", "pk"]
