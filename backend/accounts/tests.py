from datetime import timedelta
from io import StringIO
from unittest import mock

from axes.models import AccessAttempt, AccessFailureLog
from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import TestCase, override_settings
from django.utils import timezone
from rest_framework.test import APIClient

from accounts.models import Role, User
from accounts.policy import may
from accounts.services import change_user
from agents.models import Agent, Team
from agents.services import reached
from changelog import config_store
from changelog.models import Change
from testkit import people
from web.errors import Refused

A, S, G, R = Role.ADMINISTRATOR, Role.SUPERVISOR, Role.AGENT, Role.READ_ONLY
NOTHING = "00000000-0000-4000-8000-000000000000"

#: Every address with a method, and the roles that get past the policy.
RIGHTS = [
    *[
        row
        for name, changers in {
            "numbers": {A},
            "hours": {A},
            "flows": {A},
            "sounds": {A},
            "codes": {A},
            "code-sets": {A},
            "queues": {A, S},
            "agents": {A, S},
            "lookups": {A},
            "mailboxes": {A, S},
            "diversions": {A, S},
            "alerts": {A, S},
        }.items()
        for row in [
            ("get", f"/{name}", {A, S, R}),
            ("post", f"/{name}", changers),
            ("get", f"/{name}/{NOTHING}", {A, S, R}),
            ("get", f"/{name}/{NOTHING}/uses", {A, S, R}),
            ("patch", f"/{name}/{NOTHING}", changers),
            ("delete", f"/{name}/{NOTHING}", changers),
        ]
    ],
    ("post", f"/flows/{NOTHING}/inspect", {A, S, R}),
    ("post", f"/flows/{NOTHING}/publish", {A}),
    ("get", f"/flows/{NOTHING}/versions", {A, S, R}),
    ("get", f"/flows/{NOTHING}/compare", {A, S, R}),
    *[("post", f"/flows/{NOTHING}/{what}", {A, S, R}) for what in ("routes", "try", "run-trials")],
    *[("post", f"/flows/{NOTHING}/{what}", {A}) for what in ("trials", "bring-back", "unschedule")],
    ("get", f"/flows/{NOTHING}/file", {A, S, R}),
    ("post", "/flows/preview", {A, S, R}),
    ("post", "/flows/import", {A}),
    ("get", "/schemas/flow-file", {A, S, R}),
    ("post", f"/trials/{NOTHING}", {A}),
    ("delete", f"/trials/{NOTHING}", {A}),
    ("post", f"/sounds/{NOTHING}/upload", {A}),
    ("post", f"/sounds/{NOTHING}/even", {A}),
    ("post", f"/sounds/{NOTHING}/speak", {A}),
    ("post", "/sounds/files", {A}),
    ("get", "/numbers/read?text=01632960100", {A, S, R}),
    ("get", "/spoken?text=Hello", {A, S, R}),
    ("post", f"/diversions/{NOTHING}/lift", {A, S}),
    ("get", f"/lookups/{NOTHING}/rows", {A, S, R}),
    ("post", f"/lookups/{NOTHING}/rows", {A}),
    ("post", f"/lookups/{NOTHING}/preview", {A, S, R}),
    ("post", f"/lookups/{NOTHING}/import", {A}),
    ("post", f"/lookups/{NOTHING}/empty", {A}),
    ("patch", f"/lookup-rows/{NOTHING}", {A}),
    ("delete", f"/lookup-rows/{NOTHING}", {A}),
    ("get", "/lookup-imports/none", {A, S, R}),
    ("delete", "/lookup-imports/none", {A}),
    ("get", "/messages", {A, S, G}),
    ("post", "/messages/1/mark", {A, S, G}),
    ("get", "/messages/1/sound", {A, S, G}),
    ("get", f"/hours/{NOTHING}/calendar", {A, S, R}),
    ("post", f"/hours/{NOTHING}/calendar", {A}),
    ("post", "/hours/look", {A, S, R}),
    ("get", "/holidays", {A, S, R}),
    ("post", "/speech", {A}),
    ("get", "/takes/1", {A, S, R}),
    ("post", "/session/password", {A, S, G, R}),
    ("get", "/music", {A, S, R}),
    ("get", "/handling-rules", {A, S, R}),
    ("patch", "/handling-rules", {A, S}),
    ("get", "/teams", {A, S, R}),
    ("get", "/alerts/log", {A, S, R}),
    ("get", "/floor/now", {A, S, R}),
    ("get", "/boards", {A, S, R}),
    ("post", "/boards", {A, S, R}),
    ("get", "/boards/1", {A, S, R}),
    ("put", "/boards/1", {A, S, R}),
    ("delete", "/boards/1", {A, S, R}),
    ("post", "/boards/1/link", {A, S}),
    ("delete", "/boards/1/link", {A, S}),
    ("post", f"/alerts/{NOTHING}/see", {A, S}),
    ("get", f"/floor/teams/{NOTHING}/limits", {A, S}),
    ("patch", f"/floor/teams/{NOTHING}/limits", {A, S}),
    ("post", f"/floor/contacts/{NOTHING}/listen", {A, S}),
    ("get", f"/floor/contacts/{NOTHING}/why", {A, S, R}),
    ("post", f"/floor/agents/{NOTHING}/available", {A, S}),
    ("get", "/floor/closures", {A, S, R}),
    ("post", f"/floor/closures/{NOTHING}", {A, S}),
    ("get", "/keeping", {A}),
    ("patch", "/keeping", {A}),
    ("post", "/keeping/would-go", {A}),
    ("post", "/teams", {A}),
    ("get", "/skills", {A, S, R}),
    ("delete", f"/skills/{NOTHING}", {A}),
    ("get", f"/contacts/{NOTHING}", {A, S, R}),
    ("get", "/contacts/find", {A, S, R}),
    ("get", "/contacts/records", {A, S, R}),
    ("get", f"/contacts/{NOTHING}/course", {A, S, R}),
    *[
        ("get", f"/reports/{name}", {A, S, R})
        for name in (
            "queues",
            "queues/sum",
            "queues/sheet",
            "codes",
            "codes/contacts",
            "agents",
            "hours",
            "usage",
            "own",
            "past",
            "usual",
            f"usual/{NOTHING}",
            "measures",
            "in-use",
            "saved",
            "saved/files",
            "files/0",
            f"flows/{NOTHING}",
        )
    ],
    ("post", "/reports/saved", {A, S, R}),
    ("delete", "/reports/saved/0", {A, S, R}),
    ("get", "/callbacks", {A, S, R}),
    ("post", f"/callbacks/{NOTHING}/cancel", {A, S}),
    ("get", "/stand-ins", {A, S, R}),
    ("get", "/stand-ins/recorded/moments?day=2026-11-30", {A, S, R}),
    ("patch", "/stand-ins", {A}),
    ("post", "/stand-ins/reset", {A}),
    ("post", "/queues/clock", {A, S, R}),
    ("get", f"/agents/{NOTHING}/coverage", {A, S, R}),
    ("post", f"/agents/{NOTHING}/leave", {A, S}),
    ("post", "/agents/preview", {A, S}),
    ("post", "/agents/import", {A, S}),
    ("post", "/agents/bulk", {A, S}),
    ("get", f"/live/queue.{NOTHING}", {A, S, R}),
    ("post", f"/flows/{NOTHING}/extract", {A}),
    ("post", "/texts", {A, S}),
    ("get", "/changes", {A, S, R}),
    ("get", "/changes/1", {A, S, R}),
    ("post", "/changes/1/undo", {A}),
    ("post", "/calls", {A, S}),
    ("post", f"/calls/{NOTHING}/keys", {A, S}),
    ("post", f"/calls/{NOTHING}/say", {A, S}),
    ("post", f"/calls/{NOTHING}/hang-up", {A, S}),
    ("post", f"/alarms/{NOTHING}/take", {A, S}),
    ("post", "/desk/available", {A, S, G}),
    ("get", "/desk/targets", {A, S, G}),
    ("get", "/desk/day", {A, S, G}),
    ("get", "/desk/reminder", {A, S, G}),
    ("get", "/supervisors", {A, S, R}),
    ("get", "/notices", {A, S, R}),
    ("get", "/ring-groups", {A, S, R}),
    ("get", "/flow-rules", {A, S, R}),
    ("patch", "/flow-rules", {A}),
    ("post", "/ring-groups", {A, S}),
    ("get", "/people", {A}),
    ("post", "/people", {A}),
    ("get", "/people/1", {A}),
    ("patch", "/people/1", {A}),
    ("get", "/live/floor", {A, S, R}),
    ("get", f"/live/flow.{NOTHING}", {A, S, R}),
    ("get", f"/live/desk.{NOTHING}", set()),
    ("get", "/schemas/flow", {A, S, R}),
    ("get", "/search", {A, S, G, R}),
    ("get", "/glance/numbers", {A, S, R}),
    ("get", "/glance/flows", {A, S, R}),
    ("get", "/glance/queues", {A, S, R}),
    ("get", "/glance/agents", {A, S, R}),
    ("get", "/reports/agents/sum?figure=legs", {A, S, R}),
]


class RightsTests(TestCase):
    def test_every_address_asks_the_policy(self):
        for role in (A, S, G, R, None):
            client = people.client_of(people.person(role) if role else None)
            for method, path, allowed in RIGHTS:
                with self.subTest(role=role, method=method, path=path):
                    status = getattr(client, method)(f"/api/v1{path}").status_code
                    self.assertEqual(status != 403, role in allowed, status)
                    self.assertLess(status, 500 if status != 503 else 504)

    def test_the_table_of_rights_names_every_address(self):
        from django.urls import get_resolver

        named = {path.strip("/").split("/")[0].split(".")[0].split("?")[0] for _, path, _ in RIGHTS}
        known = set()
        for entry in get_resolver().url_patterns[0].url_patterns:
            known.add(str(entry.pattern).strip("^").split("/")[0].rstrip("$"))
        self.assertEqual(known - named, {"schema", "wall"})

    def test_nobody_may_anything_without_signing_in(self):
        self.assertFalse(may(None, "see", "numbers"))


class SignInTests(TestCase):
    def setUp(self):
        user = people.person(A, "tamsin")
        user.set_password(people.PASSWORD)
        user.save()
        self.client = APIClient()

    def sign_in(self, password):
        return self.client.post("/api/v1/session", {"username": "tamsin", "password": password})

    def test_signing_in_and_out(self):
        self.assertIsNone(self.client.get("/api/v1/session").json()["username"])
        answer = self.sign_in(people.PASSWORD).json()
        self.assertEqual((answer["full_name"], answer["role"]), ("Tamsin", A))
        self.assertIn("change", answer["rights"]["flows"])
        self.assertIsNone(self.client.delete("/api/v1/session").json()["username"])

    def test_a_wrong_password_says_no_more_than_that(self):
        answer = self.sign_in("wrong")
        self.assertEqual(answer.status_code, 400)
        self.assertEqual(answer.json()["detail"], "The name or the password is wrong.")

    @override_settings(AXES_FAILURE_LIMIT=3)
    def test_guessing_is_throttled_even_with_the_right_password(self):
        for _ in range(3):
            self.sign_in("wrong")
        answer = self.sign_in(people.PASSWORD)
        self.assertEqual((answer.status_code, answer.json()["code"]), (429, "too-many-tries"))

    def test_a_change_without_the_csrf_token_is_refused(self):
        client = APIClient(enforce_csrf_checks=True)
        client.force_login(people.person(A, "other"), "django.contrib.auth.backends.ModelBackend")
        self.assertEqual(client.post("/api/v1/queues", {"name": "X"}).status_code, 403)

    def test_one_password_against_many_names_and_many_against_one_are_slowed(self):
        for limits, names in (
            ({"username": 9, "ip_address": 3, "whole": 9}, ("ann", "bea", "cai", "dov")),
            ({"username": 3, "ip_address": 9, "whole": 9}, ("tamsin",) * 4),
            ({"username": 9, "ip_address": 9, "whole": 3}, ("ann", "bea", "cai", "dov")),
        ):
            with self.subTest(limits), override_settings(SIGN_IN_FAILURES=limits):
                AccessFailureLog.objects.all().delete()
                AccessAttempt.objects.all().delete()
                codes = [
                    self.client.post(
                        "/api/v1/session",
                        {"username": name, "password": "harbour-light"},
                        headers={"X-Forwarded-For": f"203.0.113.{i}"},
                    ).status_code
                    for i, name in enumerate(names)
                ]
                self.assertEqual(codes, [400, 400, 400, 429])
        AccessFailureLog.objects.update(attempt_time=timezone.now() - timedelta(minutes=6))
        AccessAttempt.objects.all().delete()
        self.assertEqual(self.sign_in(people.PASSWORD).status_code, 200)


class PeopleTests(TestCase):
    def setUp(self):
        self.admin = people.person(A, "tamsin")
        self.client = people.client_of(self.admin)
        self.team = config_store.create(self.admin, Team, name="Ostrel")

    def make(self, **values):
        values = {"full_name": "Mari Prys", "username": "mari", "role": S, **values}
        return self.client.post("/api/v1/people", values)

    def sign_in(self, username, password):
        answer = APIClient().post("/api/v1/session", {"username": username, "password": password})
        return answer.status_code

    def test_a_supervisor_is_made_with_teams_signs_in_is_disabled_and_enabled(self):
        made = self.make(password="harbour-light-9", teams=[str(self.team.pk)]).json()
        self.assertEqual(reached(User.objects.get(username="mari")), {str(self.team.pk)})
        self.assertEqual(self.sign_in("mari", "harbour-light-9"), 200)
        url = f"/api/v1/people/{made['id']}"
        off = self.client.patch(url, {"revision": made["revision"], "is_active": False}).json()
        self.assertEqual(self.sign_in("mari", "harbour-light-9"), 400)
        on = self.client.patch(url, {"revision": off["revision"], "is_active": True})
        self.assertEqual(self.sign_in("mari", "harbour-light-9"), 200)
        down = {"revision": on.json()["revision"], "role": R}
        self.assertEqual(self.client.patch(url, down).json()["teams"], [])
        self.assertEqual(self.team.supervisors.count(), 0)

    def test_an_agent_is_made_with_an_extension_that_is_free(self):
        self.assertIn("extension", self.make(role=G).json()["fields"])
        people.agent(self.admin, "Nerys Vaughan", "411")
        self.assertIn("411", self.make(role=G, extension="411").json()["fields"]["extension"][0])
        made = self.make(role=G, extension="412").json()
        self.assertEqual(Agent.objects.get(extension="412").user.username, "mari")
        self.assertEqual(made["extension"], "412")

    def test_passwords_are_good_enough_and_the_log_says_that_not_what(self):
        for weak in ("short", "1234567890", "password123", "mari-prys"):
            answer = self.make(password=weak)
            self.assertEqual(answer.status_code, 400, weak)
            self.assertIn("password", answer.json()["fields"])
        self.make(password="harbour-light-9")
        mari = User.objects.get(username="mari")
        client = people.client_of(mari)
        change = {"current": "harbour-light-9", "password": "another-tide-7"}
        wrong = client.post("/api/v1/session/password", {**change, "current": "guess"})
        self.assertIn("current", wrong.json()["fields"])
        self.assertEqual(client.post("/api/v1/session/password", change).status_code, 204)
        self.assertEqual(self.sign_in("mari", "another-tide-7"), 200)
        last = Change.objects.filter(kind="user").order_by("-id").first()
        self.assertEqual(last.by_id, mari.pk)
        changed = {name for name in last.after if last.after[name] != last.before[name]}
        self.assertEqual(changed, {"password_set_at"})
        self.assertNotIn("pbkdf2", str([c.after for c in Change.objects.all()]))

    def test_nobody_locks_themself_out_and_one_administrator_stays(self):
        url = f"/api/v1/people/{self.admin.pk}"
        for value in ({"role": S}, {"is_active": False}):
            answer = self.client.patch(url, {"revision": 1, **value})
            self.assertEqual((answer.status_code, answer.json()["code"]), (403, "not-yours"))
        other = people.person(A, "other")
        User.objects.filter(pk=self.admin.pk).update(is_active=False)
        with self.assertRaises(Refused):
            change_user(self.admin, other, role=S)

    def test_what_the_page_refuses_is_not_done_by_taking_a_change_back(self):
        def take_back(client=self.client):
            last = Change.objects.filter(kind="user").latest("id")
            return client.post(f"/api/v1/changes/{last.pk}/undo", {})

        made = self.make(password="harbour-light-9").json()
        self.assertEqual(take_back().json()["code"], "person-stays")
        url = f"/api/v1/people/{made['id']}"
        change = {"revision": 1, "password": "another-tide-7", "full_name": "Mari Prys-Hughes"}
        self.client.patch(url, change)
        undone = take_back().json()
        self.assertEqual(undone["left_out"], ["the password from before"])
        self.assertEqual(User.objects.get(username="mari").full_name, "Mari Prys")
        self.client.patch(url, {"revision": 3, "password": "third-harbour-8"})
        set_at = User.objects.get(username="mari").password_set_at
        self.assertEqual(take_back().json()["left_out"], ["the password from before"])
        self.assertEqual(User.objects.get(username="mari").password_set_at, set_at)
        self.client.patch(url, {"revision": 4, "role": A})
        mari = people.client_of(User.objects.get(username="mari"))
        self.assertEqual(take_back(mari).json()["code"], "not-yours")
        User.objects.filter(pk=self.admin.pk).update(is_active=False)
        with self.assertRaises(Refused) as refused:
            config_store.undo(None, Change.objects.filter(kind="user").latest("id").pk)
        self.assertEqual(refused.exception.code, "last-administrator")

    def test_who_left_and_is_taken_back_can_sign_in_again(self):
        agent = people.agent(self.admin, "Nerys Vaughan", "411", password="harbour-light-9")
        self.client.post(f"/api/v1/agents/{agent.pk}/leave", {})
        self.assertEqual(self.sign_in("nerys", "harbour-light-9"), 400)
        again = self.client.post(
            "/api/v1/agents", {"name": "Nerys Vaughan", "extension": "412", "username": "nerys"}
        )
        self.assertIn("disabled", again.json()["fields"]["username"][0])
        removed = Change.objects.get(kind="agent", verb="removed")
        undone = self.client.post(f"/api/v1/changes/{removed.pk}/undo", {})
        self.assertEqual(undone.status_code, 200, undone.content)
        self.assertEqual(self.sign_in("nerys", "harbour-light-9"), 200)


class FirstAdministratorTests(TestCase):
    def make(self, password: str, username: str = "ana") -> str:
        said = StringIO()
        with mock.patch("sys.stdin", StringIO(f"{password}\n")):
            call_command("first_administrator", username, "Ana Quay", stdout=said)
        return said.getvalue()

    def test_a_new_centre_gets_its_first_person_once(self):
        for password, words in (("", "password is needed"), ("12345", "password")):
            with self.assertRaisesMessage(CommandError, words):
                self.make(password)
        self.assertEqual(self.make("tide-and-slipway-7"), "Ana Quay signs in as ana.\n")
        ana = User.objects.get(username="ana")
        self.assertEqual((ana.role, ana.check_password("tide-and-slipway-7")), (Role.ADMINISTRATOR, True))
        with self.assertRaisesMessage(CommandError, "set up already"):
            self.make("tide-and-slipway-8", "ben")
