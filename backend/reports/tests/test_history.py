"""Days of the set-up that leave no trace, and days that are recorded as a past."""

import json
import uuid
from datetime import timedelta
from io import StringIO
from unittest.mock import patch

from django.conf import settings
from django.core.management import CommandError, call_command

from exchange import past
from exchange.live import journal
from exchange.models import Contact, Journal, Standing
from exchange.services import set_site_clock, settle_stand_ins
from exchange.tests.test_past import NOW, CentreTestCase
from reports import growing, history
from reports.asking import today
from reports.models import ContactLine, Stay
from reports.period import Period
from testkit import people

SITE = settings.EXCHANGE_SITE


class SimulateTests(CentreTestCase):
    def simulated(self, *words: str) -> str:
        said = StringIO()
        call_command("simulate", "--workers", "1", *words, stdout=said, stderr=StringIO())
        return said.getvalue()

    def test_days_are_told_with_their_intervals_and_leave_no_trace(self):
        said = json.loads(self.simulated("--days", "0.4", "--runs", "2", "--load", "0.3", "--json"))
        self.assertEqual(said["runs"], 2)
        queue = said["queues"]["Bookings"]
        self.assertGreater(queue["answered"]["mean"], 1)
        self.assertGreater(queue["offered"]["half_of_95_percent_interval"], 0)
        self.assertEqual(queue["offered"]["mean"], said["centre"]["offered"]["mean"])
        for model in (Journal, Contact, Standing):
            self.assertFalse(model.objects.exists(), model)

    def test_figures_are_for_people_too(self):
        said = self.simulated("--days", "0.1", "--runs", "1")
        self.assertIn("Bookings", said)
        self.assertIn("One run.", said)

    def test_what_cannot_be_simulated_is_refused_in_words(self):
        for words, refusal in (
            (("--days", "0"), "366 days"),
            (("--load", "-1"), "load"),
            (("--runs", "0"), "runs"),
            (("--runs", "many"), "runs"),
            (("--seed", "x"), "invalid int"),
            (("--agents", "0"), "agents"),
        ):
            with self.subTest(words), self.assertRaisesRegex(CommandError, refusal):
                self.simulated(*words)


class IntoHistoryTests(CentreTestCase):
    def recorded(self, *words: str) -> str:
        said = StringIO()
        call_command("simulate", "--into-history", *words, stdout=said, stderr=StringIO())
        return said.getvalue()

    def test_a_past_is_recorded_and_counted_once(self):
        said = self.recorded("--days", "2", "--load", "0.4")
        self.assertIn(f"{Contact.objects.count():,} contacts recorded", said)
        days = {ms // 86_400_000 for ms in Contact.objects.values_list("arrived_ms", flat=True)}
        self.assertGreater(len(days), 1)
        self.assertTrue(past.there_is_one())
        self.assertGreater(Stay.objects.count(), 10)
        call_command("figures", check=True, stdout=(checked := StringIO()), stderr=StringIO())
        self.assertIn("Everything is as the journal says.", checked.getvalue())
        self.as_they_came()
        before = set(Contact.objects.values_list("pk", flat=True))
        with self.assertRaisesMessage(CommandError, "This site has a past."):
            self.recorded("--days", "1")
        self.recorded("--days", "1", "--load", "0.2", "--afresh")
        self.assertLess(Contact.objects.count(), len(before))
        self.assertEqual(
            Stay.objects.exclude(contact__in=Contact.objects.values_list("pk", flat=True)).count(), 0
        )

    def as_they_came(self):
        """The moments of yesterday are handed out, and stand-ins come at them."""
        client = people.client_of(people.person(name="admin-two"))
        url, day = "/api/v1/stand-ins/recorded/moments", today() - timedelta(days=1)
        answer = client.get(url, {"day": day.isoformat()})
        self.assertEqual(answer.status_code, 200, answer.content)
        moments = answer.json()["moments"]
        of_day = Period(day, day, settings.CENTRE_TIME_ZONE)
        lines = ContactLine.objects.filter(
            callback=False, arrived_ms__gte=of_day.begin_ms, arrived_ms__lt=of_day.end_ms
        )
        self.assertEqual(
            [of_day.begin_ms + at for at in moments],
            list(lines.order_by("arrived_ms").values_list("arrived_ms", flat=True)),
        )
        self.assertGreater(len(moments), 10)
        client.patch("/api/v1/stand-ins", {"people": {"moments": moments}})
        told = client.get("/api/v1/stand-ins/today").json()
        came = ContactLine.objects.filter(callback=False, arrived_ms__gte=of_day.end_ms)
        self.assertEqual(sum(told["quarters"]), came.count())
        self.assertAlmostEqual(sum(told["expected"]), len(moments) * journal.crowd_settings(SITE).load)
        for said, words in (("2001-01-01", "Nobody called"), ("soon", "2026-11-30"), ("0001-01-01", "2000")):
            answer = client.get(url, {"day": said})
            self.assertEqual(answer.status_code, 400)
            self.assertIn(words, str(answer.json()["fields"]["day"]))

    def test_nothing_is_kept_of_one_that_is_stopped(self):
        def stopped(*_args: object) -> None:
            raise KeyboardInterrupt

        with (
            patch.object(history.past, "live_through_today", stopped),
            self.assertRaisesMessage(CommandError, "Nothing was kept"),
        ):
            self.recorded("--days", "1", "--load", "0.4")
        self.assertFalse(Journal.objects.exists() or Contact.objects.exists())
        self.assertFalse(Stay.objects.exists())
        self.assertFalse(past.there_is_one())

    def test_days_are_written_while_the_exchange_runs_as_if_they_had_been_first(self):
        settle_stand_ins(on=True, agents=3, seed=4, load=8.0)
        set_site_clock(NOW + 3_600_000)
        traits = journal.crowd_settings(SITE).traits
        days = [past.Day(ago, 1.0, 3, traits) for ago in (3, 2, 1)]
        told: list[tuple[int, int]] = []
        history.fill_in(days, lambda *how_far: told.append(how_far))
        self.assertEqual(told, [], "no numbers were left for them")
        journal.leave_numbers_to_a_past()
        past.live_through_today(lambda _percent: None)
        while growing.catch_up(SITE):
            pass
        list(past.fill_in(days[:1], growing.count_beside))
        first = Contact.objects.count()
        history.fill_in(days, lambda *how_far: told.append(how_far))
        self.assertEqual(told, [(2, 3), (3, 3)], "the first stands already")
        self.assertGreater(Contact.objects.count(), first)
        numbered = Journal.objects.order_by("seq").values_list("at_ms", flat=True)
        days_of = [at_ms // 86_400_000 for at_ms in numbered]
        self.assertEqual(days_of, sorted(days_of), "what happened first has the lower number")
        self.assertFalse(growing.catch_up(SITE), "what was counted beside is not counted again")
        grown = growing.everything(SITE)
        list(growing.rebuild(SITE))
        self.assertEqual(growing.differences(grown, growing.everything(SITE)), [])

    def test_a_past_is_not_written_on_when_the_site_was_reset(self):
        settle_stand_ins(on=True, agents=3, seed=4, load=8.0)
        set_site_clock(NOW + 3_600_000)
        traits = journal.crowd_settings(SITE).traits
        journal.leave_numbers_to_a_past()
        past.live_through_today(lambda _percent: None)
        days = [past.Day(ago, 0.2, 3, traits) for ago in (2, 1)]
        filling = past.fill_in(days, growing.count_beside)
        self.assertGreater(next(filling), 0)
        journal.forget_everything(SITE)
        with self.assertRaises(past.WasReset):
            next(filling)
        self.assertFalse(Contact.objects.exists())

    def test_it_is_refused_in_words_where_it_cannot_be(self):
        for words, refusal in (
            (("--days", "0.5"), "whole days"),
            (("--days", "4000"), "whole days"),
            (("--load", "0"), "load"),
            (("--runs", "3"), "do not go with"),
        ):
            with self.subTest(words), self.assertRaisesRegex(CommandError, refusal):
                self.recorded(*words)
        journal.take_lease(SITE, uuid.uuid4(), "here")
        with self.assertRaisesMessage(
            CommandError, "only while nothing else writes for this site: here does."
        ):
            self.recorded("--days", "1")
        with self.assertRaisesMessage(CommandError, "--afresh goes with"):
            call_command("simulate", "--afresh", stdout=StringIO(), stderr=StringIO())
        self.assertFalse(Journal.objects.exists())
