from django.test import TestCase

from testkit import people


class WrapUpApiTests(TestCase):
    def setUp(self):
        self.client = people.client_of(people.person())

    def test_codes_have_digits_of_their_own_and_are_not_deleted_while_a_set_holds_them(self):
        code = self.client.post("/api/v1/codes", {"name": "New booking", "digits": "11"}).json()
        clash = self.client.post("/api/v1/codes", {"name": "Refund", "digits": "11"})
        self.assertEqual(clash.json()["fields"]["digits"], ["11 is New booking already."])
        for digits in ("", "1a", "1234567", "-1"):
            answer = self.client.post("/api/v1/codes", {"name": "Odd", "digits": digits})
            self.assertEqual(answer.status_code, 400)
        made = self.client.post("/api/v1/code-sets", {"name": "Bookings", "codes": [code["id"]]})
        self.assertEqual(made.json()["size"], 1)
        refused = self.client.delete(f"/api/v1/codes/{code['id']}")
        self.assertEqual(refused.json()["uses"][0]["name"], "Bookings")

    def test_no_code_begins_another(self):
        def make(name, digits, **more):
            return self.client.post("/api/v1/codes", {"name": name, "digits": digits, **more})

        self.assertEqual(make("Booking", "21").status_code, 201)
        for digits in ("2", "211"):
            said = make("Odd", digits).json()["fields"]["digits"][0]
            self.assertIn("Booking has 21", said)
        gone = make("Old", "3", retired=True).json()
        self.assertEqual(make("New", "31").status_code, 201, "a retired one is typed no more")
        changed = {"revision": gone["revision"], "digits": "4"}
        done = self.client.patch(f"/api/v1/codes/{gone['id']}", changed)
        self.assertEqual(done.status_code, 200)
        self.assertEqual(make("Short", "5").status_code, 201)
        long = make("Long", "61").json()
        self.client.delete(f"/api/v1/codes/{long['id']}")
        self.assertEqual(make("Six", "6").status_code, 201)
        log = self.client.get(f"/api/v1/changes?object_id={long['id']}").json()["results"][0]
        undone = self.client.post(f"/api/v1/changes/{log['id']}/undo")
        self.assertIn("6 begins 61", undone.json()["detail"], "nor by taking a change back")

    def test_a_set_in_a_queue_is_not_deleted(self):
        made = self.client.post("/api/v1/code-sets", {"name": "Bookings", "codes": []}).json()
        self.client.post("/api/v1/queues", {"name": "Desk", "code_set": made["id"]})
        refused = self.client.delete(f"/api/v1/code-sets/{made['id']}")
        self.assertEqual((refused.status_code, refused.json()["code"]), (409, "in-use"))
