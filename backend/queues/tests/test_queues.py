from django.test import TestCase

from queues import services
from testkit import people


class QueueApiTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def test_a_queue_made_by_name_alone_is_unfinished_until_it_is_set_up(self):
        queue = self.client.post("/api/v1/queues", {"name": "Freight desk"}).json()
        self.assertFalse(queue["finished"])
        url = f"/api/v1/queues/{queue['id']}"
        changed = self.client.patch(url, {"revision": 1, "threshold_s": 30}).json()
        self.assertTrue(changed["finished"])
        whole = self.client.post("/api/v1/queues", {"name": "Groups", "threshold_s": 30}).json()
        self.assertTrue(whole["finished"])

    def test_figures_outside_of_reason_are_refused_at_their_field(self):
        for name, value in {
            "priority": 0,
            "longest_wait_s": 5,
            "threshold_s": -1,
            "goal_percent": 101,
            "short_abandon_s": 1000,
            "formula": "Z",
            "colour": "red",
            "members": ["nobody"],
            "name": "",
            "note": "x" * 2001,
        }.items():
            with self.subTest(name):
                answer = self.client.post("/api/v1/queues", {"name": "Desk", name: value})
                self.assertEqual(answer.status_code, 400, answer.content)
                self.assertTrue(any(f.startswith(name) for f in answer.json()["fields"]))

    def test_each_way_out_has_a_destination_that_must_be_there(self):
        queue, other = people.queue(self.admin, "Freight"), people.queue(self.admin, "Groups")
        url = f"/api/v1/queues/{queue.pk}"
        there, gone = f"queue:{other.pk}", "mailbox:6b3a7c1e-0000-4000-8000-000000000000"
        for name in ("overflow", "overflow_nobody", "overflow_closed"):
            for bad in (gone, f"queue:{queue.pk}", "elsewhere"):
                answer = self.client.patch(url, {"revision": queue.revision, name: bad})
                self.assertIn(name, answer.json()["fields"])
        done = self.client.patch(url, {"revision": queue.revision, "overflow_nobody": there}).json()
        self.assertEqual((done["overflow"], done["overflow_nobody"]), ("", there))
        self.assertEqual(services.facts()[f"queue:{queue.pk}"].sends("nobody"), there)
        refused = self.client.delete(f"/api/v1/queues/{other.pk}")
        self.assertIn("Freight", refused.json()["detail"])

    def test_the_clock_tells_what_happens_at_once_and_whether_anybody_is_able(self):
        nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        skill = self.client.post("/api/v1/skills", {"name": "Freight"}).json()["id"]
        asked = {
            "members": [str(nerys.pk)],
            "required_skills": [{"skill": skill, "least": 3}],
            "when_nobody": "leave",
            "when_closed": "leave",
            "longest_wait_s": 60,
        }
        told = self.client.post("/api/v1/queues/clock", asked).json()
        self.assertEqual(told["able"], 0)
        self.assertEqual([way["way"] for way in told["at_once"]], ["nobody"], "it has no hours")
        self.assertIsNone(self.client.post("/api/v1/queues/clock", {}).json()["able"])

    def test_the_list_is_in_the_order_that_is_given_and_the_rest_by_name(self):
        made = [
            people.agent(self.admin, f"{name} Vaughan", f"410{i}")
            for i, name in enumerate(("Ann", "Bea", "Cai", "Dov"))
        ]
        team = self.client.post("/api/v1/teams", {"name": "Harbour"}).json()["id"]
        dov = made[3]
        self.client.patch(f"/api/v1/agents/{dov.pk}", {"revision": 1, "team": team})
        queue = people.queue(self.admin, "Freight", *made[:3])
        ranks = {str(dov.pk): 1, str(made[2].pk): 2}
        url = f"/api/v1/queues/{queue.pk}"
        asked = {"revision": queue.revision, "teams": [team], "ranks": ranks}
        self.assertEqual(self.client.patch(url, asked).status_code, 200)
        (settings,) = services.settings()
        self.assertEqual(settings.members, tuple(str(made[i].pk) for i in (3, 2, 0, 1)))
        listed = self.client.get(f"/api/v1/agents?teams={team}").json()["results"]
        self.assertEqual([row["id"] for row in listed], [str(dov.pk)])

    def test_two_queues_never_share_a_name(self):
        people.queue(self.admin, "Freight")
        answer = self.client.post("/api/v1/queues", {"name": "Freight"})
        self.assertIn("name", answer.json()["fields"])
