"""Ring groups: who is in them, whose they are, and what becomes of them."""

from agents.models import RingGroup, Team
from agents.tests.test_people import Centre
from changelog import config_store
from exchange.live import reading
from testkit import people


class GroupTests(Centre):
    def make(self, client=None, **values):
        members = [f"team:{self.haven.pk}", f"agent:{self.nerys.pk}"]
        body = {"name": "Harbour", "members": members, "extension": "77", **values}
        return (client or self.client).post("/api/v1/ring-groups", body)

    def test_people_and_teams_ring_in_their_order_each_once(self):
        members = [f"agent:{self.nerys.pk}", f"team:{self.haven.pk}", f"agent:{self.kofi.pk}"]
        made = self.make(members=members, way="listed").json()
        self.assertEqual(made["member_names"], ["Nerys Vaughan", "Haven Quay", "Kofi Mensah"])
        self.assertEqual(made["people"], 2)
        config = reading.read()
        group = config.groups[made["id"]]
        self.assertEqual(group.people, (str(self.nerys.pk), str(self.kofi.pk)))
        self.assertEqual(config.extensions["77"], f"group:{made['id']}")
        self.assertIn("Harbour", [person.name for person in config.people()])
        told = self.client.get("/api/v1/search", {"text": "harb"}).json()
        self.assertEqual([(row["kind"], row["name"]) for row in told], [("group", "Harbour")])

    def test_what_does_not_fit_is_refused_where_it_is(self):
        self.make()
        gone = "team:00000000-0000-4000-8000-000000000000"
        for field, bad in (
            ("members", ["queue:x"]),
            ("members", [gone]),
            ("name", "Harbour"),
            ("members", [f"agent:{self.nerys.pk}"] * 2),
            ("extension", "4101"),
            ("ring_s", 3),
            ("way", "round"),
        ):
            values = {"name": "Other", "extension": "", field: bad}
            with self.subTest(field, bad=bad):
                answer = self.make(**values)
                self.assertEqual(answer.status_code, 400)
                self.assertIn(field, answer.json()["fields"])
        self.assertEqual(RingGroup.objects.count(), 1)

    def test_members_stay_until_they_leave_and_an_undo_names_nobody_who_is_gone(self):
        made = self.make().json()
        uses = self.client.delete(f"/api/v1/teams/{self.haven.pk}").json()["uses"]
        self.assertIn("Harbour", [use["name"] for use in uses])
        self.client.post(f"/api/v1/agents/{self.nerys.pk}/leave")
        group = RingGroup.objects.get(pk=made["id"])
        self.assertEqual(group.members, [f"team:{self.haven.pk}"])
        log = self.client.get("/api/v1/changes", {"object_id": made["id"]}).json()["results"]
        self.client.post(f"/api/v1/changes/{log[0]['id']}/undo")
        group.refresh_from_db()
        self.assertEqual(group.members, [f"team:{self.haven.pk}"])

    def test_a_supervisor_makes_groups_of_their_own_teams_only(self):
        user = people.person("supervisor")
        config_store.change(self.admin, Team.objects.get(pk=self.haven.pk), None, supervisors=[user])
        client = people.client_of(user)
        self.assertEqual(self.make(client).status_code, 403)
        made = self.make(client, members=[f"team:{self.haven.pk}"])
        self.assertEqual(made.status_code, 201, made.content)
