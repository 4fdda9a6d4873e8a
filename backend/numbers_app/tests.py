from datetime import UTC, datetime, timedelta

from django.test import SimpleTestCase, TestCase

from numbers_app.plan import NotANumber, fictional, national, read
from numbers_app.services import numbers
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
        for typed in ("hello", "", "12", "020 7946 0210 ext 5", "01632 111111", "9" * 40):
            with self.subTest(typed), self.assertRaises(NotANumber):
                read(typed)

    def test_numbers_are_shown_as_people_at_home_write_them(self):
        self.assertEqual(national("+442079460210"), "020 7946 0210")
        self.assertEqual(national("+33123456789"), "+33 1 23 45 67 89")


class NumberApiTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def test_a_number_is_kept_in_one_form_and_clashes_are_named(self):
        made = self.client.post("/api/v1/numbers", {"e164": "020 7946 0210", "label": "Main"})
        self.assertEqual((made.status_code, made.json()["e164"]), (201, "+442079460210"))
        again = self.client.post("/api/v1/numbers", {"e164": "+44 20 7946 0210"})
        self.assertEqual(again.json()["fields"]["e164"], ["020 7946 0210 is Main already."])

    def test_a_flow_cannot_be_something_else(self):
        queue = people.queue(self.admin)
        body = {"e164": "01632 960100", "flow": str(queue.pk)}
        self.assertEqual(self.client.post("/api/v1/numbers", body).status_code, 400)

    def test_a_change_can_be_planned_and_takes_effect_by_itself(self):
        day, night = (people.flow(self.admin, {"steps": []}, name) for name in ("Day", "Night"))
        soon = datetime.now(UTC).replace(microsecond=0) + timedelta(days=1)
        plan = [{"at": soon.isoformat(), "flow": str(night.pk)}]
        body = {"e164": "01632 960100", "flow": str(day.pk), "planned": plan}
        made = self.client.post("/api/v1/numbers", body).json()
        self.assertEqual(made["flow_now"], "Day")
        facts = numbers()[made["id"]]
        later = round(soon.timestamp() * 1000)
        self.assertEqual(facts.flow_at(later - 1), str(day.pk))
        self.assertEqual(facts.flow_at(later), str(night.pk))
        used = self.client.delete(f"/api/v1/flows/{night.pk}").json()["uses"]
        self.assertEqual(used[0]["how"], "number it will answer")
        for bad in ([{"at": "soon", "flow": None}], plan * 2, "x",
                    [{"at": soon.isoformat(), "flow": made["id"]}]):  # fmt: skip
            with self.subTest(bad):
                answer = self.client.patch(
                    f"/api/v1/numbers/{made['id']}", {"planned": bad, "revision": 1}
                )
                self.assertEqual(answer.status_code, 400)
