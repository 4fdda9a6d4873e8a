from django.test import TestCase

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
            "priority": 0, "longest_wait_s": 5, "threshold_s": -1, "goal_percent": 101,
            "short_abandon_s": 1000, "formula": "Z", "colour": "red", "members": ["nobody"],
            "name": "", "note": "x" * 2001,
        }.items():  # fmt: skip
            with self.subTest(name):
                answer = self.client.post("/api/v1/queues", {"name": "Desk", name: value})
                self.assertEqual(answer.status_code, 400, answer.content)
                self.assertTrue(any(f.startswith(name) for f in answer.json()["fields"]))

    def test_two_queues_never_share_a_name(self):
        people.queue(self.admin, "Freight")
        answer = self.client.post("/api/v1/queues", {"name": "Freight"})
        self.assertIn("name", answer.json()["fields"])
