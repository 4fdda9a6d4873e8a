from django.test import TestCase

from accounts.models import User
from testkit import people


class AgentApiTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.nerys = self.make(name="Nerys Vaughan", extension="4101", username="nerys")

    def make(self, **values):
        return self.client.post("/api/v1/agents", values).json()

    def change(self, **values):
        url = f"/api/v1/agents/{self.nerys['id']}"
        revision = self.client.get(url).json()["revision"]
        return self.client.patch(url, {"revision": revision, **values})

    def test_an_agent_and_the_sign_in_are_made_and_changed_together(self):
        answer = self.change(name="Nerys Vaughan-Price", username="nvp", password="a-calm-crossing")
        self.assertEqual(answer.json()["username"], "nvp")
        user = User.objects.get(username="nvp")
        self.assertEqual((user.full_name, user.role), ("Nerys Vaughan-Price", "agent"))
        self.assertTrue(user.check_password("a-calm-crossing"))
        self.assertNotIn("password", answer.json())

    def test_a_weak_password_changes_nothing_at_all(self):
        answer = self.change(name="Somebody Else", password="123")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("password", answer.json()["fields"])
        self.assertEqual(User.objects.get(username="nerys").full_name, "Nerys Vaughan")

    def test_names_and_extensions_that_are_taken_are_named(self):
        self.make(name="Kofi Mensah", extension="4102", username="kofi")
        self.assertIn(
            "4102 is Kofi Mensah already", str(self.change(extension="4102").json()["fields"])
        )
        self.assertIn("is taken", str(self.change(username="Kofi").json()["fields"]))
        self.assertIn("cannot be taken away", str(self.change(username="").json()["fields"]))
        self.assertEqual(self.change(username="NERYS").json()["username"], "NERYS")

    def test_handling_rules_are_kept_within_reason(self):
        url = "/api/v1/handling-rules"
        revision = self.client.get(url).json()["revision"]
        bad = (
            {"ring_s": 1},
            {"wrap_up": "sometimes"},
            {"away_reasons": []},
            {"away_reasons": [""]},
        )
        for values in bad:
            with self.subTest(values):
                answer = self.client.patch(url, {"revision": revision, **values})
                self.assertEqual(answer.status_code, 400)
        good = self.client.patch(url, {"revision": revision, "ring_s": 30}).json()
        self.assertEqual((good["ring_s"], good["revision"]), (30, revision + 1))
        stale = self.client.patch(url, {"revision": revision, "ring_s": 40})
        self.assertEqual(stale.json()["current"]["ring_s"], 30)
