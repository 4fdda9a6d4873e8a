"""A day that was never live: simulated, written, and gone on from; and days that leave no trace."""

import json
import uuid
from collections.abc import Callable
from io import StringIO
from unittest.mock import AsyncMock, Mock, patch

from asgiref.sync import async_to_sync
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import OperationalError
from django.db.models import Max
from django.test import TestCase

from callcore.centre.centre import Centre
from callcore.people.crowd import OWN, Crowd
from callcore.tests.flows import short_line
from exchange import past
from exchange.live import journal, reading
from exchange.live.shell import Exchange, _new_centre
from exchange.live.taking_up import take_up
from exchange.models import Contact, Journal, StandIns
from exchange.services import set_site_clock, settle_stand_ins, site_clock_ms
from flows.services import publish
from testkit import people

#: A Wednesday in London, 00:10: the day is young, and short to live through.
NOW = 1_795_565_400_000
SITE = settings.EXCHANGE_SITE


class CentreTestCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        admin = people.person()
        agents = [people.agent(admin, f"{name} Vaughan", f"410{n}") for n, name in enumerate("ABC")]
        queue = people.queue(admin, "Bookings", *agents)
        flow = people.flow(admin, short_line(queue.pk))
        people.number(admin, flow)
        publish(admin, flow, 1, "")
        settle_stand_ins(on=True, agents=3, seed=4, load=40.0)
        set_site_clock(NOW)


class PastTests(CentreTestCase):
    def taken_up(self) -> Centre:
        now_ms = journal.site_clock(SITE).now_ms()
        centre = _new_centre(reading.read(), now_ms)
        take_up(centre, SITE, now_ms)
        return centre

    def test_the_exchange_goes_on_from_where_the_simulator_stopped(self):
        self.assertFalse(past.there_is_one())
        contacts = past.live_through_today(lambda _percent: None)
        self.assertTrue(past.there_is_one())
        self.assertGreater(contacts, 15)
        self.assertEqual(Contact.objects.count(), contacts)
        self.assertTrue(Contact.objects.filter(ended_ms__isnull=True).exists())
        centre = self.taken_up()
        self.assertEqual(centre.figures.arrived, contacts)
        self.assertEqual(len(centre.stood_in), 3)
        row = centre.figures.centre_total()
        self.assertGreater(row.answered, 3)
        left = row.abandoned + row.left_otherwise
        self.assertEqual(row.offered, row.answered + left + row.under_way)
        self.assertEqual(
            {c for c in centre.contacts if c.startswith(OWN)},
            set(Contact.objects.filter(ended_ms__isnull=True).values_list("pk", flat=True)),
        )

    def test_the_stand_ins_that_are_at_it_go_on(self):
        past.live_through_today(lambda _percent: None)
        centre = self.taken_up()
        under_way, now_ms = set(centre.contacts), centre.now_ms
        crowd = Crowd(centre, journal.crowd_settings(SITE), now_ms)
        for _ in range(3_000):
            now_ms += 1_000
            centre.advance(now_ms)
            crowd.advance(now_ms)
        self.assertEqual(under_way & set(centre.contacts), set(), "who was there has been served")
        self.assertEqual(list(centre.troubles), [])
        self.assertGreater(centre.figures.centre_total().answered, 20)

    def test_the_stand_ins_have_lived_on_while_no_exchange_ran(self):
        past.live_through_today(lambda _percent: None)
        open_at_stop = set(Contact.objects.filter(ended_ms__isnull=True).values_list("pk", flat=True))
        for minutes, more in ((4, False), (60, True)):
            before, stopped_ms = Contact.objects.count(), journal.newest(SITE)[1]
            set_site_clock(stopped_ms + minutes * 60_000)
            with patch("exchange.past._TOGETHER", 100):
                past.live_on(uuid.uuid4())
            with self.subTest(minutes=minutes):
                self.assertEqual(Contact.objects.count() > before, more)
        self.assertFalse(open_at_stop & set(self.taken_up().contacts), "at it for an hour")
        self.assert_whole()

    def test_an_exchange_that_begins_takes_up_what_they_have_done_meanwhile(self):
        past.live_through_today(lambda _percent: None)
        set_site_clock(NOW + 3_600_000)
        exchange = self.begun(past.live_on)
        ages = [exchange.centre.now_ms - one.arrived_ms for one in exchange.centre.contacts.values()]
        self.assertTrue(ages)
        self.assertLess(max(ages), 1_800_000)

    def begun(self, lives_on: Callable[[uuid.UUID], object]) -> Exchange:
        exchange = Exchange(SITE, lives_on)
        with patch.object(exchange, "_have_it_looked_at", AsyncMock()):
            async_to_sync(exchange._begin)()
        return exchange

    def test_a_past_that_cannot_be_made_keeps_nobody_from_being_served(self):
        past.live_through_today(lambda _percent: None)
        with self.assertLogs("exchange.live.shell", "ERROR"):
            exchange = self.begun(Mock(side_effect=ValueError("no such queue")))
        self.assertGreater(exchange.centre.figures.arrived, 15)
        with self.assertRaises(OperationalError):
            self.begun(Mock(side_effect=OperationalError))

    def assert_whole(self) -> Centre:
        """What is written is what an exchange goes on from."""
        centre = self.taken_up()
        under_way = Contact.objects.filter(ended_ms__isnull=True).values_list("pk", flat=True)
        self.assertEqual({c for c in centre.contacts if c.startswith(OWN)}, set(under_way))
        today = Contact.objects.filter(arrived_ms__gte=centre.day_begins_ms)
        self.assertEqual(centre.figures.arrived, today.count())
        self.assertEqual(list(centre.troubles), [])
        return centre

    def test_what_takes_too_long_is_gone_on_from_where_it_is(self):
        past.live_through_today(lambda _percent: None)
        stopped_ms = journal.newest(SITE)[1]
        set_site_clock(stopped_ms + 3_600_000)
        with patch("exchange.past._TOGETHER", 100), patch("exchange.past._PATIENCE_S", -1):
            past.live_on(uuid.uuid4())
        written_ms = journal.newest(SITE)[1]
        self.assertTrue(stopped_ms < written_ms < stopped_ms + 1_800_000)
        set_site_clock(written_ms)
        self.assert_whole()

    def test_who_was_there_before_yesterday_went_home_and_today_begins_anew(self):
        past.live_through_today(lambda _percent: None)
        stopped_ms = journal.newest(SITE)[1]
        set_site_clock(NOW + 3 * 86_400_000)
        StandIns.objects.update(load=4.0)
        past.live_on(uuid.uuid4())
        midnight_ms = self.assert_whole().day_begins_ms
        between = Contact.objects.filter(arrived_ms__gt=stopped_ms, arrived_ms__lt=midnight_ms)
        self.assertEqual(between.count(), 0)
        self.assertGreater(Contact.objects.filter(arrived_ms__gte=midnight_ms).count(), 0)
        longest = Contact.objects.filter(arrived_ms__lte=stopped_ms).aggregate(Max("ended_ms"))
        self.assertLess(longest["ended_ms__max"], stopped_ms + 900_000)

    def test_where_nobody_stands_in_time_just_passes(self):
        past.live_on(uuid.uuid4())
        self.assertEqual(Journal.objects.count(), 0, "nothing has been yet")
        past.live_through_today(lambda _percent: None)
        settle_stand_ins(on=False, agents=0)
        set_site_clock(NOW + 3_600_000)
        events = Journal.objects.count()
        past.live_on(uuid.uuid4())
        self.assertEqual(Journal.objects.count(), events)
        set_site_clock(NOW + 20 * 3_600_000)
        call_command("load_past", stdout=StringIO())
        self.assertLess(site_clock_ms(), NOW + 21 * 3_600_000, "no busy hour is looked for")

    def test_the_demo_lives_through_its_day_once(self):
        said = StringIO()
        StandIns.objects.update(load=2.0)
        call_command("load_past", days=1, stdout=said, stderr=StringIO())
        self.assertIn("have come in today", said.getvalue())
        days = {at_ms // 86_400_000 for at_ms in Contact.objects.values_list("arrived_ms", flat=True)}
        self.assertEqual(len(days), 2, "yesterday and today")
        events = Journal.objects.count()
        self.assertGreater(events, 100)
        call_command("load_past", stdout=said, stderr=StringIO())
        self.assertEqual(Journal.objects.count(), events)

    def test_whoever_comes_back_to_the_demo_at_night_finds_a_busy_hour(self):
        past.live_through_today(lambda _percent: None)
        for hour, shown in ((0.5, 0.5), (12, 12), (20, 34.5)):
            midnight_ms = NOW - 600_000
            set_site_clock(midnight_ms + round(hour * 3_600_000))
            call_command("load_past", stdout=StringIO())
            with self.subTest(hour=hour):
                late_ms = site_clock_ms() - midnight_ms - shown * 3_600_000
                self.assertTrue(0 <= late_ms < 1_200_000)


class PeopleTests(CentreTestCase):
    """What an administrator says of the people."""

    URL = "/api/v1/stand-ins"

    def setUp(self):
        super().setUp()
        self.client = people.client_of(people.person(name="admin-two"))

    def test_what_is_not_said_stays_and_null_is_as_usual(self):
        usual = self.client.get(self.URL).json()["people"]
        self.assertEqual(usual["patience"], {"kind": "exponential", "mean_s": 150, "spread": 1})
        self.assertEqual([len(day) for day in usual["profile"]], [96] * 7)
        talk = {"kind": "erlang", "mean_s": 90, "spread": 0.5}
        days = [[12.0] * 96] * 6 + [[0.0] * 96]
        self.client.patch(self.URL, {"people": {"profile": days}})
        said = self.client.patch(self.URL, {"people": {"talk": talk, "held": 0.5}}).json()["people"]
        self.assertEqual((said["profile"], said["talk"], said["held"]), (days, talk, 0.5))
        traits = journal.crowd_settings(SITE).traits
        self.assertEqual((traits.profile.of_day(0), traits.callers.talk.mean_s), (288, 90))
        back = self.client.patch(self.URL, {"people": None}).json()["people"]
        self.assertEqual(back, usual)

    def test_what_cannot_be_is_refused_where_it_is_wrong(self):
        length = {"kind": "lognormal", "mean_s": 90, "spread": 0.5}
        for said, field, words in (
            ({"patience": {**length, "spread": 99}}, "patience", "spread"),
            ({"talk": {**length, "mean_s": "long"}}, "talk", "numbers"),
            ({"wraps": {**length, "kind": "odd"}}, "wraps", "no distribution"),
            ({"wraps": 5}, "wraps", "mean and a spread"),
            ({"held": 1.5}, "held", "between 0 and 1"),
            ({"held": True}, "held", "between 0 and 1"),
            ({"profile": [[1.0] * 96] * 6}, "profile", "Seven days"),
            ({"profile": [[-1.0] * 96] * 7}, "profile", "Monday, 00:00"),
            ({"moments": [1, 2.5]}, "moments", "Moment 2"),
            ({"moments": [-1]}, "moments", "Moment 1"),
            ({"moments": [10**400]}, "moments", "Moment 1"),
            ({"moments": [0] * 20_001}, "moments", "20,000"),
            ({"luck": 1}, "luck", "called so"),
            ([], "", "object"),
            ({"talk": {**length, "mean_s": 10**400}}, "talk", "numbers"),
            ({"talk": {"kind": "erlang", "mean_s": 9, "spread": 1e-200}}, "talk", "spread"),
            ({"held": 10**400}, "held", "between 0 and 1"),
        ):
            with self.subTest(said=str(said)[:60]):
                answer = self.client.patch(self.URL, {"people": said})
                self.assertEqual(answer.status_code, 400)
                fields = json.dumps(answer.json()["fields"], ensure_ascii=False)
                self.assertIn(words, fields)
                self.assertIn(field, fields)

    def test_the_profile_goes_out_and_in_as_a_table(self):
        answer = self.client.get(f"{self.URL}/profile")
        self.assertEqual(answer["Content-Type"], "text/csv; charset=utf-8")
        text = answer.content.decode()
        self.assertTrue(text.startswith("From,Monday,Tuesday,"))

        def read(data: bytes):
            file = SimpleUploadedFile("callers.csv", data)
            return self.client.post(f"{self.URL}/profile", {"file": file}, format="multipart")

        profile = read(text.replace("00:00,4,", "00:00,8.5,").encode()).json()["profile"]
        self.assertEqual((profile[0][0], profile[1][0]), (8.5, 4))
        for data, words in (
            (text[:200].encode(), "96 rows"),
            (b"\xff\xfe", "UTF-8"),
            (text.replace("12:15,200", "12:15,-1").encode(), "Line 51"),
            (b"", "empty"),
            (b"1," * 150_000, "larger"),
        ):
            answer = read(data)
            with self.subTest(words):
                self.assertEqual(answer.status_code, 400)
                self.assertIn(words, json.dumps(answer.json(), ensure_ascii=False))

    def test_what_a_later_version_has_set_is_as_usual(self):
        usual = self.client.get(self.URL).json()["people"]
        StandIns.objects.update(people={"moods": 3})
        with self.assertLogs("callcore.people.said", "WARNING"):
            self.assertEqual(self.client.get(self.URL).json()["people"], usual)
        with self.assertLogs("callcore.people.said", "WARNING"):
            self.assertEqual(journal.crowd_settings(SITE).load, 40)

    def test_todays_arrivals_stand_against_what_was_expected(self):
        past.live_through_today(lambda _percent: None)
        today = self.client.get(f"{self.URL}/today").json()
        self.assertEqual((len(today["quarters"]), len(today["expected"])), (96, 96))
        self.assertEqual((sum(today["quarters"]), today["weekday"]), (Contact.objects.count(), 2))
        self.assertEqual(today["expected"][0], 4 * 40 / 4)
