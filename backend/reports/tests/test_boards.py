"""Boards: whose they are, and the link by which a wall reads one."""

from unittest import mock

from django.core.cache import cache
from django.test import Client, TestCase

from accounts.models import Role
from testkit import people

FIGURES = {"answered": 7, "abandoned": 1, "service_level": 0.75}
QUEUE = {
    "name": "Bookings",
    "threshold_s": 60,
    "below_goal": True,
    "first_entered_ms": 5_000,
    "waiting": [{"entered_ms": 5_000, "late_from_ms": 65_001, "caller": "07700 900123", "ringing": "Ann"}],
    "expected": None,
    "signed_in": 2,
    "available": 1,
    "on_contact": 1,
    "figures": FIGURES,
}
CENTRE = {
    "signed_in": 2,
    "available": 1,
    "ringing": 0,
    "on_contact": 1,
    "wrapping": 0,
    "away": 0,
    "waiting": 1,
    "first_entered_ms": 5_000,
    "figures": FIGURES,
}
DATA = {"queues": {"q": QUEUE}, "agents": {"a": {"name": "Ann"}}, "centre": CENTRE}
FLOOR = {"now_ms": 60_000, "data": DATA}


class BoardTests(TestCase):
    def setUp(self):
        cache.delete("board-floor")
        self.deepa = people.client_of(people.person(Role.SUPERVISOR, "deepa"))
        self.guest = people.client_of(people.person(Role.READ_ONLY, "guest"))
        told = mock.patch("reports.boards.snapshot", return_value=FLOOR)
        told.start()
        self.addCleanup(told.stop)

    def made(self, client, **values):
        body = {"name": "Office", **values}
        return client.post("/api/v1/boards", body, content_type="application/json")

    def test_a_wall_reads_by_its_link_until_that_is_withdrawn(self):
        board = self.made(self.deepa, columns=["level", "waiting"]).json()
        link = f"/api/v1/boards/{board['id']}/link"
        first = self.deepa.post(link).json()["token"]
        token = self.deepa.post(link).json()["token"]
        nobody = Client()
        shown = nobody.get(f"/api/v1/wall/{token}")
        self.assertEqual(shown.json()["columns"], ["level", "waiting"])
        queue = shown.json()["queues"][0]
        self.assertEqual((queue["name"], queue["waiting"], queue["level"]), ("Bookings", 1, 0.75))
        self.assertEqual(queue["waits"], [{"entered_ms": 5_000, "late_from_ms": 65_001}])
        self.assertTrue(queue["below_goal"])
        for secret in ("07700", "Ann"):
            self.assertNotIn(secret, shown.content.decode())
        self.assertEqual(nobody.get(f"/api/v1/wall/{first}").status_code, 404)
        self.deepa.delete(link)
        self.assertEqual(nobody.get(f"/api/v1/wall/{token}").status_code, 404)
        self.assertEqual(nobody.get(f"/api/v1/wall/{'x' * 43}").status_code, 404)

    def test_a_board_is_its_owners_and_shared_where_they_say_so(self):
        board = self.made(self.deepa).json()
        path = f"/api/v1/boards/{board['id']}"
        self.assertEqual(self.guest.get(path).status_code, 404)
        body = {"name": "Office", "shared": True, "totals": ["away"]}
        put = {"data": body, "content_type": "application/json"}
        self.assertEqual(self.deepa.put(path, **put).json()["totals"], ["away"])
        seen = self.guest.get("/api/v1/boards").json()[0]
        self.assertEqual((seen["mine"], seen["token"]), (False, ""))
        self.assertEqual(self.guest.put(path, **put).status_code, 403)
        self.assertEqual(self.guest.delete(path).status_code, 403)
        self.assertEqual(self.made(self.guest, shared=True).status_code, 400)
        self.assertEqual(self.made(self.deepa, columns=["nothing"]).status_code, 400)
        self.assertEqual(self.deepa.delete(path).status_code, 204)
