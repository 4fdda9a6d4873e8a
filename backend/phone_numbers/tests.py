from datetime import UTC, datetime, timedelta

from django.test import SimpleTestCase, TestCase

from phone_numbers.plan import NotANumber, fictional, national, read, read_any
from phone_numbers.services import numbers
from testkit import people


class PlanTests(SimpleTestCase):
    def test_any_usual_way_of_typing_a_number_is_understood(self):
        for typed in ("020 7946 0210", "+44 20 7946 0210", "(020) 7946-0210", "0044 20 79460210"):
            self.assertEqual(read(typed), "+442079460210")

    def test_fictional_ranges_are_allowed_and_marked(self):
        for typed in ("01632 960100", "07700 900123", "0808 157 0144"):
            self.assertTrue(fictional(read(typed)))
        self.assertFalse(fictional("+441223336699"))

    def test_what_is_no_number_is_refused_in_words(self):
        for typed in ("hello", "", "12", "020 79460", "020 7946 0210 ext 5", "01632 111111", "9" * 40):
            with self.subTest(typed), self.assertRaises(NotANumber):
                read(typed)

    def test_an_extension_is_kept_as_it_is_dialled(self):
        self.assertEqual((read_any("41 01"), national("4101")), ("4101", "4101"))

    def test_numbers_are_shown_as_people_at_home_write_them(self):
        self.assertEqual(national("+442079460210"), "020 7946 0210")
        self.assertEqual(national("+33123456789"), "+33 1 23 45 67 89")


class NumberApiTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def test_a_number_is_kept_in_one_form_and_clashes_are_named(self):
        made = self.client.post("/api/v1/numbers", {"address": "020 7946 0210", "label": "Main"})
        self.assertEqual((made.status_code, made.json()["address"]), (201, "+442079460210"))
        again = self.client.post("/api/v1/numbers", {"address": "+44 20 7946 0210"})
        self.assertEqual(again.json()["fields"]["address"], ["020 7946 0210 is Main already."])

    def test_a_flow_cannot_be_something_else(self):
        queue = people.queue(self.admin)
        body = {"address": "01632 960100", "flow": str(queue.pk)}
        self.assertEqual(self.client.post("/api/v1/numbers", body).status_code, 400)

    def test_a_change_can_be_planned_and_takes_effect_by_itself(self):
        day, night = (people.flow(self.admin, {"steps": []}, name) for name in ("Day", "Night"))
        soon = datetime.now(UTC).replace(microsecond=0) + timedelta(days=1)
        plan = [{"at": soon.isoformat(), "flow": str(night.pk)}]
        body = {"address": "01632 960100", "flow": str(day.pk), "planned": plan}
        made = self.client.post("/api/v1/numbers", body).json()
        self.assertEqual(made["flow_now"], "Day")
        facts = numbers()[made["id"]]
        later = round(soon.timestamp() * 1000)
        self.assertEqual(facts.applies_at(later - 1).flow, str(day.pk))
        self.assertEqual(facts.applies_at(later).flow, str(night.pk))
        used = self.client.delete(f"/api/v1/flows/{night.pk}").json()["uses"]
        self.assertEqual(used[0]["how"], "number it will answer")
        for bad in (
            [{"at": "soon", "flow": None}],
            plan * 2,
            "x",
            [{"at": soon.isoformat(), "flow": made["id"]}],
        ):
            with self.subTest(bad):
                answer = self.client.patch(f"/api/v1/numbers/{made['id']}", {"planned": bad, "revision": 1})
                self.assertEqual(answer.status_code, 400)

    def test_extensions_and_things_share_one_numbering_plan(self):
        people.agent(self.admin, "Nerys Vaughan", "4101")
        people.queue(self.admin, "Freight", extension="4600")
        made = self.client.post("/api/v1/numbers", {"address": "4700", "label": "Bridge"}).json()
        self.assertEqual((made["internal"], made["national"]), (True, "4700"))
        clashes = [
            ("numbers", {"address": "4101"}, "4101 is Nerys Vaughan already."),
            ("queues", {"name": "Groups", "extension": "4700"}, "4700 is Bridge"),
            ("mailboxes", {"name": "Night", "extension": "4600"}, "4600 is Freight"),
            ("agents", {"name": "Kofi", "extension": "4600"}, "4600 is Freight"),
            ("numbers", {"address": "0470"}, "is in no range that is in use"),
        ]
        for area, body, words in clashes:
            with self.subTest(area=area, words=words):
                answer = self.client.post(f"/api/v1/{area}", body)
                self.assertEqual(answer.status_code, 400, answer.content)
                self.assertIn(words, str(answer.json()["fields"]))
        kept = self.client.patch(f"/api/v1/numbers/{made['id']}", {"address": "4700", "revision": 1})
        self.assertEqual(kept.status_code, 200)

    def test_values_must_fit_the_inputs_of_the_flow_and_lead_to_what_exists(self):
        queue = people.queue(self.admin)
        inputs = [
            {"name": "desk", "label": "Desk", "type": "queue"},
            {"name": "port", "type": "text", "default": "Ostrel"},
        ]
        flow = people.flow(self.admin, {"steps": [], "inputs": inputs}, "Port desk")
        body = {"address": "01632 960100", "flow": str(flow.pk)}
        good = {"desk": f"queue:{queue.pk}", "port": "Northby"}
        made = self.client.post("/api/v1/numbers", {**body, "values": good})
        self.assertEqual((made.status_code, made.json()["values"]), (201, good))
        gone = "queue:00000000-0000-4000-8000-000000000000"
        for bad, words in (
            ({"port": 7}, "port: a text is needed here"),
            ({"desk": "sound:1"}, "Desk: a queue is needed here"),
            ({"desk": gone}, "Desk: that does not exist"),
            ({"harbour": "x"}, "harbour: the flow has no such input"),
        ):
            with self.subTest(words):
                body = {"revision": 1, "values": bad}
                answer = self.client.patch(f"/api/v1/numbers/{made.json()['id']}", body)
                self.assertEqual(answer.status_code, 400)
                self.assertIn(words, str(answer.json()["fields"]))
        uses = self.client.get(f"/api/v1/queues/{queue.pk}/uses").json()
        self.assertEqual(uses[0]["how"], "handed over by the number")

    def test_a_number_takes_flows_of_its_channel_only(self):
        flow = people.flow(self.admin, {"steps": [], "channel": "text"}, "Texts")
        body = {"address": "07700 900100", "flow": str(flow.pk)}
        answer = self.client.post("/api/v1/numbers", body)
        self.assertIn("Texts answers text messages only", str(answer.json()["fields"]["flow"]))
        made = self.client.post("/api/v1/numbers", {**body, "channel": "text"})
        self.assertEqual(made.status_code, 201)

    def test_a_list_can_be_of_one_channel(self):
        people.number(self.admin, None)
        url = "/api/v1/numbers"
        self.client.post(url, {"address": "07700 900300", "channel": "text"})
        for channel, count in (("voice", 1), ("text", 1), ("fax", 0)):
            found = self.client.get(f"{url}?channel={channel}").json()
            self.assertEqual(found["count"], count)

    def test_a_list_of_many_asks_the_database_no_more(self):
        flow = people.flow(self.admin, {"steps": []})
        people.number(self.admin, flow)
        with self.assertNumQueries(6):
            self.client.get("/api/v1/numbers")
        for i in range(30):
            people.number(self.admin, flow, f"+4416329601{i:02}")
        with self.assertNumQueries(6):
            self.assertEqual(len(self.client.get("/api/v1/numbers").json()["results"]), 31)
