from django.test import TestCase, override_settings
from rest_framework.test import APIClient

from accounts.models import Role
from accounts.policy import may
from testkit import people

A, S, G, R = Role.ADMINISTRATOR, Role.SUPERVISOR, Role.AGENT, Role.READ_ONLY
NOTHING = "00000000-0000-4000-8000-000000000000"

#: Every address with a method, and the roles that get past the policy.
RIGHTS = [
    *[
        row
        for name, changers in {
            "numbers": {A}, "hours": {A},
            "flows": {A}, "sounds": {A}, "codes": {A}, "code-sets": {A},
            "queues": {A, S}, "agents": {A, S}, "lookups": {A}, "mailboxes": {A, S},
            "diversions": {A, S},
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
    *[("post", f"/flows/{NOTHING}/{what}", {A})
      for what in ("trials", "bring-back", "unschedule")],
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
    ("post", f"/hours/{NOTHING}/calendar", {A, S, R}),
    ("post", "/hours/look", {A, S, R}),
    ("get", "/holidays", {A, S, R}),
    ("post", "/speech", {A}),
    ("get", "/takes/1", {A, S, R}),
    ("get", "/music", {A, S, R}),
    ("get", "/handling-rules", {A, S, R}),
    ("patch", "/handling-rules", {A, S}),
    ("get", "/teams", {A, S, R}),
    ("post", "/teams", {A}),
    ("get", "/skills", {A, S, R}),
    ("delete", f"/skills/{NOTHING}", {A}),
    ("get", "/contacts", {A, S, R}),
    ("get", f"/contacts/{NOTHING}", {A, S, R}),
    ("get", "/callbacks", {A, S, R}),
    ("post", f"/callbacks/{NOTHING}/cancel", {A, S}),
    ("get", "/stand-ins", {A, S, R}),
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
    ("post", f"/calls/{NOTHING}/hang-up", {A, S}),
    ("post", "/desk/available", {A, S, G}),
    ("get", "/desk/targets", {A, S, G}),
    ("get", "/desk/reminder", {A, S, G}),
    ("get", "/supervisors", {A, S, R}),
    ("get", "/notices", {A, S, R}),
    ("get", "/live/floor", {A, S, R}),
    ("get", f"/live/flow.{NOTHING}", {A, S, R}),
    ("get", f"/live/desk.{NOTHING}", set()),
    ("get", "/schemas/flow", {A, S, R}),
    ("get", "/search", {A, S, G, R}),
]  # fmt: skip


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
        self.assertEqual(known - named, {"session", "schema"})

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
