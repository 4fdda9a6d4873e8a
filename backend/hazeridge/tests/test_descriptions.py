"""Whatever an administrator makes can say what it is for."""

from django.test import TestCase

from testkit import people


class DescriptionTests(TestCase):
    def setUp(self):
        self.client = people.client_of(people.person())

    def test_it_is_kept_of_everything_found_by_and_told_by_the_search(self):
        for path, more in (
            ("flows", {}),
            ("queues", {}),
            ("mailboxes", {}),
            ("hours", {}),
            ("teams", {}),
            ("ring-groups", {}),
            ("skills", {}),
            ("code-sets", {}),
            ("sounds", {}),
            ("lookups", {"columns": [{"name": "Ref", "type": "text"}]}),
            ("agents", {"extension": "4871"}),
            ("codes", {"digits": "87"}),
        ):
            with self.subTest(path):
                body = {"name": f"New {path}", "description": "For the pier.", **more}
                made = self.client.post(f"/api/v1/{path}", body)
                self.assertEqual(made.json().get("description"), "For the pier.", made.content)
                found = self.client.get(f"/api/v1/{path}", {"search": "pier"}).json()["results"]
                self.assertEqual([row["name"] for row in found], [f"New {path}"])
        told = self.client.get("/api/v1/search", {"text": "New queues"}).json()
        self.assertEqual([row["description"] for row in told], ["For the pier."])

    def test_it_is_short(self):
        long = {"name": "Pier", "description": "x" * 201}
        self.assertIn("description", self.client.post("/api/v1/skills", long).json()["fields"])
