from django.test import TestCase

from accounts.models import User
from agents import services
from exchange.live import reading
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
        self.assertIn("4102 is Kofi Mensah already", str(self.change(extension="4102").json()["fields"]))
        self.assertIn("is taken", str(self.change(username="Kofi").json()["fields"]))
        self.assertIn("cannot be taken away", str(self.change(username="").json()["fields"]))
        self.assertEqual(self.change(username="NERYS").json()["username"], "NERYS")

    def rules(self, **asked):
        return self.client.get("/api/v1/handling-rules", asked).json()

    def set_rules(self, **body):
        return self.client.patch("/api/v1/handling-rules", body)

    def counts(self, name, **asked):
        found = {row["name"]: row["counts"] for row in self.rules(**asked)["settings"]}
        return found[name]["value"], found[name]["layer"]

    def test_a_rule_is_inherited_overridden_and_cleared(self):
        team = self.client.post("/api/v1/teams", {"name": "Freight"}).json()
        self.change(team=team["id"])
        nerys = {"agent": self.nerys["id"]}
        self.assertEqual(self.counts("ring_s", **nerys), (20, "centre"))
        revision = self.rules()["revisions"]["centre"]
        self.set_rules(layer="centre", revision=revision, values={"ring_s": 30})
        self.set_rules(layer="team", team=team["id"], values={"ring_s": 12})
        self.assertEqual(self.counts("ring_s", **nerys), (12, "team"))
        answer = self.set_rules(layer="agent", values={"ring_s": 45}, **nerys)
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.counts("ring_s", **nerys), (45, "agent"))
        self.assertEqual(services_of(self.nerys["id"]).ring_ms, 45_000)
        revision = self.rules(**nerys)["revisions"]["agent"]
        self.set_rules(layer="agent", revision=revision, values={"ring_s": None}, **nerys)
        self.assertEqual(self.counts("ring_s", **nerys), (12, "team"))
        stale = self.set_rules(layer="agent", revision=revision, values={"ring_s": 50}, **nerys)
        self.assertEqual(stale.status_code, 409)

    def test_rules_that_make_no_sense_are_refused_where_they_are(self):
        revision = self.rules()["revisions"]["centre"]
        bad = (
            {"values": {"ring_s": 1}},
            {"values": {"wrap_up": "sometimes"}},
            {"values": {"magic": 1}},
            {"away_reasons": []},
            {"away_reasons": [""]},
            {"layer": "team", "values": {}},
            {"layer": "agent", "agent": self.nerys["id"], "away_reasons": ["Tea"]},
        )
        for body in bad:
            with self.subTest(body):
                answer = self.set_rules(**{"layer": "centre", "revision": revision, **body})
                self.assertEqual(answer.status_code, 400)
        self.assertEqual(self.client.get("/api/v1/handling-rules?agent=x").status_code, 404)

    def test_skills_teams_and_languages_are_kept_and_named_where_they_are_used(self):
        skill = self.client.post("/api/v1/skills", {"name": "Dangerous goods"}).json()
        answer = self.change(skills={skill["id"]: 7}, languages=["cy"], site="Ostrel").json()
        self.assertEqual((answer["skills"], answer["languages"]), ({skill["id"]: 7}, ["cy"]))
        self.assertEqual(self.change(skills={skill["id"]: 11}).status_code, 400)
        self.assertEqual(self.change(skills={"nothing": 3}).status_code, 400)
        facts = services.agents()[self.nerys["id"]]
        self.assertEqual(facts.skills, {skill["id"]: 7, "language:cy": 10})
        gone = self.client.delete(f"/api/v1/skills/{skill['id']}")
        self.assertEqual(gone.status_code, 409)
        self.assertIn("Nerys", str(gone.json()))
        queue = self.client.post(
            "/api/v1/queues",
            {
                "name": "Freight",
                "distribution": "best_skill",
                "required_skills": [{"skill": skill["id"], "least": 5}],
                "widening": [
                    {"after_s": 60, "lower": 2, "teams": []},
                    {"after_s": 30, "lower": 1, "teams": []},
                ],
            },
        )
        self.assertEqual([row["after_s"] for row in queue.json()["widening"]], [30, 60])
        for bad in (
            {"required_skills": [{"skill": "x", "least": 5}]},
            {"distribution": "magic"},
            {"widening": [{"after_s": 9, "teams": [self.nerys["id"]]}]},
        ):
            with self.subTest(bad):
                again = self.client.post("/api/v1/queues", {"name": "Other", **bad})
                self.assertEqual(again.status_code, 400)


def services_of(agent):
    """The rules of an agent as the exchange takes them."""
    return reading.read().rule_of(agent)
