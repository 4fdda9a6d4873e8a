"""Agents by the file, several at once, leaving, and whom a supervisor reaches."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from accounts.models import User
from agents.models import Agent, HandlingRules, Team
from callcore.events import Kind
from changelog import config_store
from exchange.live import reading
from exchange.models import Journal
from exchange.site_clock import wall_ms
from testkit import people

HEAD = "Extension,Name,Team,Site,Languages,Skills,Outside number,Signs in as\n"


class Centre(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.ostrel = config_store.create(self.admin, Team, name="Ostrel")
        self.haven = config_store.create(self.admin, Team, name="Haven Quay")
        self.nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        self.kofi = people.agent(self.admin, "Kofi Mensah", "4102")
        Agent.objects.filter(pk=self.nerys.pk).update(team=self.ostrel)
        Agent.objects.filter(pk=self.kofi.pk).update(team=self.haven)
        skill = self.client.post("/api/v1/skills", {"name": "Freight"}).json()
        self.skill = skill["id"]

    def file(self, action, text, client=None):
        data = {"file": SimpleUploadedFile("agents.csv", text.encode(), "text/csv")}
        return (client or self.client).post(f"/api/v1/agents/{action}", data, format="multipart")


class FileTests(Centre):
    def test_a_staff_number_is_one_persons_and_files_without_it_leave_it_alone(self):
        url = f"/api/v1/agents/{self.nerys.pk}"
        revision = self.client.get(url).json()["revision"]
        self.client.patch(url, {"revision": revision, "staff_number": "P-17"})
        kofi = f"/api/v1/agents/{self.kofi.pk}"
        revision = self.client.get(kofi).json()["revision"]
        refused = self.client.patch(kofi, {"revision": revision, "staff_number": "P-17"})
        self.assertIn("Nerys Vaughan", refused.json()["fields"]["staff_number"][0])
        text = HEAD + "4101,Nerys V,Ostrel,,en,,,nerys\n"
        self.assertEqual(self.file("import", text).status_code, 200)
        self.nerys.refresh_from_db()
        self.assertEqual((self.nerys.name, self.nerys.staff_number), ("Nerys V", "P-17"))
        whole = HEAD.replace("\n", ",Staff number\n") + "4101,Nerys V,Ostrel,,en,,,nerys,P-18\n"
        self.file("import", whole)
        self.assertEqual(reading.read().agents[str(self.nerys.pk)].staff_number, "P-18")

    def test_a_file_says_what_it_would_do_and_then_does_all_of_it(self):
        text = HEAD + (
            "4101,Nerys Vaughan-Price,Ostrel,Pier,en cy,Freight 7,,nerys\n"
            "4107,Ada Wynn,haven quay,,en,,01632 960777,ada\n"
        )
        seen = self.file("preview", text).json()
        self.assertEqual((seen["new"], seen["changed"], seen["bad_count"]), (1, 1, 0))
        self.assertEqual(Agent.objects.count(), 2)
        self.assertEqual(self.file("import", text).status_code, 200)
        nerys = Agent.objects.get(extension="4101")
        self.assertEqual((nerys.name, nerys.skills), ("Nerys Vaughan-Price", {self.skill: 7}))
        ada = Agent.objects.get(extension="4107")
        self.assertEqual((ada.team, ada.outside_number), (self.haven, "+441632960777"))
        self.assertTrue(User.objects.filter(username="ada").exists())
        again = self.file("preview", text).json()
        self.assertEqual((again["new"], again["changed"], again["same"]), (0, 0, 2))

    def test_what_the_list_gives_out_can_be_taken_in_again_and_changes_nothing(self):
        out = self.client.get("/api/v1/agents?as=csv").content.decode()
        seen = self.file("preview", out).json()
        self.assertEqual((seen["same"], seen["bad_count"]), (2, 0), seen)

    def test_one_bad_line_keeps_all_out_and_says_where_and_why(self):
        for line, column in (
            ("4109,Nobody,Nowhere,,en,,,", "Team"),
            ("4109,Nobody,,,en,Juggling 3,,", "Skills"),
            ("4109,Nobody,,,en,Freight 11,,", "Skills"),
            ("4109,Nobody,,,fr,,,", "Languages"),
            ("x,Nobody,,,en,,,", "Extension"),
            ("4109,,,,en,,,", "Name"),
            ("4109,Nobody,,,en,,12,", "Outside number"),
        ):
            with self.subTest(line):
                text = HEAD + "4107,Ada Wynn,Ostrel,,en,,,\n" + line + "\n"
                seen = self.file("preview", text).json()
                bad = seen["bad"][0]
                self.assertEqual((bad["line"], bad["column"]), (3, column), seen)
                self.assertEqual(self.file("import", text).status_code, 409)
        self.assertEqual(Agent.objects.count(), 2)

    def test_what_is_no_such_file_is_refused(self):
        for text in ("", "a,b\n1,2\n", HEAD[:20]):
            self.assertEqual(self.file("preview", text).status_code, 400, text)


class SeveralTests(Centre):
    def test_several_are_changed_alike_and_keep_what_is_not_named(self):
        ids = [str(self.nerys.pk), str(self.kofi.pk)]
        body = {"ids": ids, "site": "Pier", "levels": {self.skill: 4}}
        self.assertEqual(self.client.post("/api/v1/agents/bulk", body).json(), {"changed": 2})
        self.client.post("/api/v1/agents/bulk", {"ids": ids[:1], "levels": {self.skill: None}})
        self.nerys.refresh_from_db()
        self.kofi.refresh_from_db()
        self.assertEqual((self.nerys.skills, self.kofi.skills), ({}, {self.skill: 4}))
        self.assertEqual((self.nerys.site, self.nerys.team), ("Pier", self.ostrel))
        for bad in ({"ids": ids}, {"ids": [], "site": "x"}, {"ids": ids, "levels": {"x": 3}}):
            self.assertEqual(self.client.post("/api/v1/agents/bulk", bad).status_code, 400)

    def test_a_person_leaves_every_queue_and_cannot_sign_in(self):
        queue = people.queue(self.admin, "Bookings", self.nerys, self.kofi)
        url = f"/api/v1/agents/{self.nerys.pk}"
        now = wall_ms()
        for hours, status in ((3, "available"), (1, "out")):
            Journal.objects.create(
                site="main",
                at_ms=now - hours * 3_600_000,
                kind=str(Kind.AGENT),
                agent=str(self.nerys.pk),
                body={"status": status},
            )
        told = self.client.get(f"{url}/coverage").json()
        row = told["covered"][0]
        self.assertEqual((row["name"], row["others"], len(row["before"])), ("Bookings", 1, 24))
        self.assertGreater(sum(row["before"]), 1.9)
        self.assertEqual(sum(row["after"]), 0)
        self.assertEqual(self.client.post(f"{url}/leave").status_code, 204)
        self.assertEqual(list(queue.members.all()), [self.kofi])
        self.assertFalse(User.objects.get(username="nerys").is_active)
        self.assertEqual(self.client.get(f"{url}/coverage").status_code, 404)


class SupervisorTests(Centre):
    def setUp(self):
        super().setUp()
        self.deepa = people.person("supervisor", "deepa")
        self.ostrel.supervisors.add(self.deepa)
        self.hers = people.client_of(self.deepa)

    def change(self, agent, **values):
        url = f"/api/v1/agents/{agent.pk}"
        return self.hers.patch(url, {"revision": agent.revision, **values})

    def test_a_supervisor_changes_the_people_of_their_teams_and_nobody_elses(self):
        self.assertEqual(self.change(self.nerys, site="Pier").status_code, 200)
        with self.assertLogs("web.problems", "WARNING") as logged:
            refused = self.change(self.kofi, site="Pier")
        self.assertEqual((refused.status_code, refused.json()["code"]), (403, "not-yours"))
        self.assertIn("Kofi Mensah is in no team that you supervise", refused.json()["detail"])
        self.assertIn("deepa may not PATCH", logged.output[0])
        self.nerys.refresh_from_db()
        away = self.change(self.nerys, team=str(self.haven.pk))
        self.assertEqual(away.status_code, 403)
        both = {"ids": [str(self.nerys.pk), str(self.kofi.pk)], "site": "Quay"}
        self.assertEqual(self.hers.post("/api/v1/agents/bulk", both).status_code, 403)
        self.nerys.refresh_from_db()
        self.assertEqual(self.nerys.site, "Pier")
        self.assertEqual(self.hers.post(f"/api/v1/agents/{self.kofi.pk}/leave").status_code, 403)
        text = HEAD + "4102,Kofi M,Ostrel,,en,,,\n"
        self.assertEqual(self.file("preview", text, self.hers).json()["bad"][0]["column"], "Team")

    def test_rules_of_the_centre_and_of_other_teams_are_not_theirs(self):
        def set_rule(layer, **of):
            body = {"layer": layer, "values": {"ring_s": 33}, **of}
            return self.hers.patch("/api/v1/handling-rules", body).status_code

        self.assertEqual(set_rule("team", team=str(self.ostrel.pk)), 200)
        self.assertEqual(set_rule("team", team=str(self.haven.pk)), 403)
        self.assertEqual(set_rule("agent", agent=str(self.kofi.pk)), 403)
        self.assertEqual(set_rule("centre", revision=1), 403)
        self.assertEqual(HandlingRules.objects.filter(values__ring_s=33).count(), 1)

    def test_a_number_is_typed_as_people_write_it_and_kept_as_it_is_rung(self):
        def help_to(typed):
            body = {"layer": "centre", "revision": 1, "values": {"help_to": typed}}
            return self.client.patch("/api/v1/handling-rules", body)

        self.client.get("/api/v1/handling-rules")
        self.assertEqual(help_to("somebody").status_code, 400)
        told = help_to("01632 960118").json()["settings"]
        counts = next(row["counts"] for row in told if row["name"] == "help_to")
        self.assertEqual(counts["value"], "+441632960118")

    def test_notices_go_to_teams_that_they_supervise_and_not_into_the_past(self):
        def told(client, until="2099-01-01T10:00:00Z", **values):
            return client.post("/api/v1/notices", {"text": "Hello", "until": until, **values})

        self.assertEqual(told(self.hers, teams=[str(self.ostrel.pk)]).status_code, 201)
        self.assertEqual(told(self.hers, teams=[str(self.haven.pk)]).status_code, 403)
        self.assertEqual(told(self.hers).status_code, 403)
        self.assertEqual(told(self.client).status_code, 201)
        self.assertEqual(told(self.client, until="2020-01-01T10:00:00Z").status_code, 400)
        facts = reading.read().notices
        self.assertEqual(sorted(len(n.teams) for n in facts), [0, 1])

    def test_queues_that_their_teams_serve_or_that_name_them_are_theirs(self):
        def change(queue):
            body = {"revision": 1, "note": "Hello"}
            return self.hers.patch(f"/api/v1/queues/{queue.pk}", body).status_code

        served = people.queue(self.admin, "Bookings", self.nerys)
        named = people.queue(self.admin, "Groups", supervisors=[self.deepa])
        other = people.queue(self.admin, "Freight", self.kofi)
        self.assertEqual([change(q) for q in (served, named, other)], [200, 200, 403])
        self.assertEqual(self.hers.delete(f"/api/v1/queues/{other.pk}").status_code, 403)
