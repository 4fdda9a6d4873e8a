"""Rows that grow with the journal: nothing is counted twice, and anew it comes to the same."""

from datetime import date
from io import StringIO
from unittest.mock import patch

from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import TestCase

from callcore.events import Happening, facts
from exchange import past
from exchange.live import journal
from exchange.services import set_site_clock, settle_stand_ins
from exchange.tests.test_past import NOW, CentreTestCase
from reports import growing
from reports.models import AgentSpan, Leg, Progress, QueueInterval, Stay, TallyInterval
from reports.period import midnight_ms, period
from reports.queue_rows import rows_of

SITE = settings.EXCHANGE_SITE


class GrowingTests(CentreTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        set_site_clock(NOW + 900_000)
        past.live_through_today(lambda _percent: None)

    def test_in_small_steps_or_at_once_or_anew_it_comes_to_the_same(self):
        with patch.object(growing, "MOST_AT_ONCE", 37):
            steps = 0
            while growing.catch_up(SITE):
                steps += 1
        self.assertGreater(steps, 10)
        grown = growing.everything(SITE)
        for rows in grown.values():
            self.assertTrue(rows)
        list(growing.rebuild(SITE))
        self.assertEqual(growing.differences(grown, growing.everything(SITE)), [])
        self.assertFalse(growing.catch_up(SITE), "nothing is counted twice")
        self.assertEqual(growing.differences(grown, growing.everything(SITE)), [])

    def test_what_comes_late_corrects_the_row_that_it_is_of(self):
        while growing.catch_up(SITE):
            pass
        leg = Leg.objects.filter(how="queue", coded=False, ended_ms__isnull=False).first()
        if leg is None:
            leg = Leg.objects.filter(how="queue", ended_ms__isnull=True).first()
            ended = Happening(
                leg.answered_ms + 9_000, leg.contact, leg.agent, facts.LegEnded(leg.queue, "agent")
            )
            journal.write_past(SITE, [ended], messages=False)
        since_ms = leg.answered_ms + 10_000
        state = facts.AgentChanged("wrapping", since_ms=since_ms)
        wrapping = Happening(since_ms, leg.contact, leg.agent, state)
        late_ms = leg.answered_ms + 86_400_000
        coded = Happening(late_ms, leg.contact, leg.agent, facts.Coded(leg.queue, "c"))
        journal.write_past(SITE, [wrapping, coded], messages=False)
        growing.catch_up(SITE)
        again = Leg.objects.get(contact=leg.contact, number=leg.number)
        self.assertEqual((again.code, again.coded), ("c", True))
        self.assertEqual(again.offered_ms, leg.offered_ms)
        rows = QueueInterval.objects.filter(queue=leg.queue, wrap_ms__gt=86_000_000)
        self.assertEqual([row.at_ms for row in rows], [leg.offered_ms // 900_000 * 900_000])

    def test_the_command_says_where_rows_and_journal_differ(self):
        said = StringIO()
        growing.catch_up(SITE)
        call_command("figures", "--check", stdout=said, stderr=StringIO())
        self.assertIn("as the journal says", said.getvalue())
        QueueInterval.objects.update(answered=99)
        with self.assertRaises(CommandError):
            call_command("figures", "--check", stdout=said, stderr=StringIO())
        self.assertEqual(QueueInterval.objects.first().answered, 99, "only looked at")
        with self.assertRaises(CommandError):
            call_command("figures", "--rebuild", "--check", stdout=said, stderr=StringIO())
        call_command("figures", "--check", stdout=said, stderr=StringIO())

    def test_who_forgets_the_contacts_forgets_what_was_made_of_them(self):
        growing.catch_up(SITE)
        journal.forget_everything(SITE)
        for model in (QueueInterval, TallyInterval, Stay, Leg, AgentSpan):
            self.assertFalse(model.objects.exists(), model)
        self.assertFalse(growing.catch_up(SITE))


class DaysTests(CentreTestCase):
    """Days that are over, each made by itself."""

    def test_days_before_today_are_counted_as_they_are_written(self):
        settle_stand_ins(on=True, agents=3, seed=4, load=2.0)
        traits = journal.crowd_settings(SITE).traits
        days = [past.Day(ago, 2.0, 3, traits) for ago in (2, 1)]
        counts = list(past.live_through_days(days, growing.count))
        growing.all_is_counted(SITE)
        self.assertEqual(len(counts), 2)
        self.assertGreater(min(counts), 50)
        grown = growing.everything(SITE)
        self.assertFalse(growing.catch_up(SITE), "all of it is counted already")
        list(growing.rebuild(SITE))
        self.assertEqual(growing.differences(grown, growing.everything(SITE)), [])
        self.assertFalse(
            AgentSpan.objects.filter(until_ms=None).exclude(status="out").exists(), "everybody has gone home"
        )

    def test_a_run_that_was_stopped_is_taken_out_by_the_next(self):
        traits = journal.crowd_settings(SITE).traits
        days = [past.Day(1, 1.0, 3, traits)]
        list(past.live_through_days(days, growing.count))
        first = Stay.objects.count()
        list(past.live_through_days(days, growing.count))
        self.assertEqual(Stay.objects.count(), first)


class PutBackTests(TestCase):
    """A day of 25 hours has its 25 hours; one of 23 its 23."""

    def test_hours_of_days_on_which_the_clock_is_changed(self):
        for day, hours in ((date(2026, 10, 25), 25), (date(2026, 3, 29), 23)):
            asked = period(day, day, "Europe/London", by="60")
            rows = rows_of([], asked, "60")
            self.assertEqual(len(rows), hours)
            self.assertEqual(rows[0].begin_ms, midnight_ms(day, "Europe/London"))
            self.assertEqual(rows[-1].end_ms, asked.end_ms)
            self.assertEqual(len(rows_of([], asked, "day")), 1)
        self.assertEqual(Progress.objects.count(), 0)
