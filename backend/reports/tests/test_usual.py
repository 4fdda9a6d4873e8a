"""The usual is the mean of the same weekdays, up to the same time of day."""

from django.conf import settings
from django.core.cache import cache

from callcore.simulation.run import midnight_of
from exchange import past
from exchange.live import journal
from exchange.services import set_site_clock, site_clock_ms
from exchange.tests.test_past import CentreTestCase
from reports import growing, past_progress, usual
from reports.models import Stay
from testkit import people

SITE, ZONE = settings.EXCHANGE_SITE, settings.CENTRE_TIME_ZONE
DAY_MS = 86_400_000


class UsualTests(CentreTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        traits = journal.crowd_settings(SITE).traits
        list(past.live_through_days([past.Day(ago, 1.0, 3, traits) for ago in (14, 7, 3)], growing.count))
        growing.all_is_counted(SITE)
        cls.client_ = people.client_of(people.person("supervisor", "deepa"))

    def ask(self, path=""):
        cache.clear()
        return self.client_.get(f"/api/v1/reports/usual{path}").json()

    def test_while_a_past_is_written_it_is_told_how_far_it_is(self):
        def told():
            return self.client_.get("/api/v1/reports/past").json()

        past_progress.tell(3, 28)
        self.assertEqual(told(), {"written": 3, "of": 28})
        past_progress.over()
        self.assertEqual(told(), {"written": 0, "of": 0})

    def test_it_is_the_mean_of_the_same_weekdays_by_this_time(self):
        noon_ms = midnight_of(site_clock_ms(), ZONE) + DAY_MS // 2
        set_site_clock(noon_ms)
        entered = Stay.objects.filter(entered_ms__lt=noon_ms - 7 * DAY_MS)
        entered = [s for s in entered if s.entered_ms % DAY_MS < noon_ms % DAY_MS]
        queue = entered[0].queue
        told = self.ask(f"/{queue}")
        self.assertEqual(told["days"], 2)
        self.assertAlmostEqual(told["figures"]["offered"], len(entered) / 2, delta=1)
        answered = [s for s in entered if s.outcome == "answered"]
        self.assertAlmostEqual(told["figures"]["answered"], len(answered) / 2, delta=1)
        self.assertAlmostEqual(
            sum(told["hours"]),
            Stay.objects.filter(entered_ms__lt=midnight_of(noon_ms - 6 * DAY_MS, ZONE)).count() / 2,
        )
        centre = self.ask()
        self.assertEqual(centre["days"], 2)
        self.assertEqual(set(centre["stages"]), set(usual.STAGES))
        self.assertGreater(centre["arrived"], told["figures"]["offered"] - 1)

    def test_of_the_quarter_that_runs_counts_as_much_as_has_passed(self):
        noon_ms = midnight_of(site_clock_ms(), ZONE) + DAY_MS // 2
        queue = Stay.objects.first().queue
        offered = [
            usual.of_queues([queue], noon_ms + part * 60_000, ZONE)["figures"]["offered"]
            for part in (0, 5, 15)
        ]
        self.assertAlmostEqual(offered[1] - offered[0], (offered[2] - offered[0]) / 3)

    def test_where_no_such_day_was_there_is_no_usual(self):
        day_after_ms = midnight_of(site_clock_ms(), ZONE) + DAY_MS * 3 // 2
        set_site_clock(day_after_ms)
        told = self.ask()
        self.assertEqual((told["days"], told["arrived"], told["stages"]), (0, None, {}))
        self.assertIsNone(self.ask(f"/{Stay.objects.first().queue}")["figures"])
