"""What must hold for the whole project."""

import ast
import asyncio
import re
import secrets
import subprocess
import sys
from io import StringIO
from pathlib import Path
from unittest import mock

import grimp
import yaml
from django.apps import apps as django_apps
from django.conf import settings
from django.core.management import call_command
from django.test import SimpleTestCase, TestCase
from rest_framework import serializers
from rest_framework.test import APIClient

from accounts.item_views import ItemSerializer
from callcore.tests.flows import short_line
from changelog import kinds
from changelog.config_store import ConfigItem, Described, Recorded
from hazeridge.limits import BodyLimit
from testkit import people
from web.codes import CODES
from web.parts import PartSerializer

OPENAPI = settings.BACKEND.parent / "docs" / "openapi.yaml"


class HouseTests(TestCase):
    def test_no_migration_is_missing(self):
        call_command("makemigrations", "--check", "--dry-run", stdout=StringIO())

    def test_the_written_schema_is_the_schema(self):
        out = StringIO()
        call_command("spectacular", stdout=out)
        message = "Run: manage.py spectacular --file ../docs/openapi.yaml"
        self.assertEqual(out.getvalue().strip(), Path(OPENAPI).read_text().strip(), message)

    def test_every_kept_model_is_registered(self):
        bases = (*Recorded.__subclasses__(), *ConfigItem.__subclasses__(), *Described.__subclasses__())
        models = {model for model in bases if not model._meta.abstract}
        self.assertEqual({kind.model for kind in kinds.all_kinds()}, models)


class SchemaTests(SimpleTestCase):
    """What the written schema tells of every operation."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.schema = yaml.load(OPENAPI.read_text(), Loader=yaml.CSafeLoader)
        cls.operations = {
            f"{method} {path}": operation
            for path, methods in cls.schema["paths"].items()
            for method, operation in methods.items()
        }

    def test_every_operation_tells_its_refusals(self):
        problem = {"$ref": "#/components/responses/Problem"}
        for name, operation in self.operations.items():
            answers = operation["responses"]
            refused = {status for status, answer in answers.items() if answer == problem}
            self.assertLessEqual({"503", "default"}, refused, name)
            self.assertEqual("404" in refused, "{" in name, name)
            if "requestBody" in operation:
                self.assertLessEqual({"400", "413", "415"}, refused, name)

    def test_operations_are_named_after_what_they_do_and_speak_of_no_module(self):
        names = [operation["operationId"] for operation in self.operations.values()]
        self.assertEqual(len(names), len(set(names)))
        for name, operation in self.operations.items():
            self.assertNotRegex(operation["operationId"], "_(retrieve|create|destroy)$", name)
            self.assertNotIn("changelog.", operation.get("description", ""), name)
            self.assertTrue(operation.get("description"), name)
        self.assertFalse([n for n in self.schema["components"]["schemas"] if "RequestRequest" in n])

    def test_a_change_of_a_kept_thing_names_the_revision(self):
        changes = [o for n, o in self.operations.items() if n.startswith("patch") and "{id}" in n]
        bodies = {
            o["requestBody"]["content"]["application/json"]["schema"]["$ref"].rpartition("/")[2]
            for o in changes
        }
        for name in bodies - {"PatchedRowRequest"}:
            body = self.schema["components"]["schemas"][name]
            self.assertIn("revision", body["required"], name)

    def test_every_code_of_a_refusal_is_on_the_list(self):
        found = set()
        for file in settings.BACKEND.rglob("*.py"):
            if "tests" in file.parts or file.name == "tests.py":
                continue
            for call in ast.walk(ast.parse(file.read_text())):
                named = isinstance(call, ast.Call) and getattr(call.func, "id", "")
                place = {"Refused": 0, "EventRefused": 0, "Problem": 1}.get(named or "")
                if place is not None and len(call.args) > place:
                    code = call.args[place]
                    found |= {code.value} if isinstance(code, ast.Constant) else set()
        self.assertGreater(len(found), 40)
        codes = {code for code in found if re.fullmatch("[a-z-]+", code)}
        self.assertEqual(codes - CODES.keys(), set())


class TablesTests(SimpleTestCase):
    def test_only_an_app_itself_touches_its_tables(self):
        apps = [app.name for app in django_apps.get_app_configs() if (settings.BACKEND / app.name).is_dir()]
        graph = grimp.build_graph(*apps)
        touched = set()
        for app in apps:
            if f"{app}.models" in graph.modules:
                users = graph.find_modules_that_directly_import(f"{app}.models")
                touched |= {(user, app) for user in users if user.split(".")[0] != app}
        product = {(user, app) for user, app in touched if "tests" not in user.split(".")}
        self.assertEqual(product, set())
        self.assertGreater(len(apps), 10)


class StrictTests(TestCase):
    def test_what_is_not_known_is_refused_where_it_stands(self):
        client = people.client_of(people.person())
        queue = people.queue(people.person(name="other"), "Bookings")
        for path, body, field in (
            ("/queues", {"name": "X", "colr": "#000000"}, "colr"),
            ("/queues", {"name": "X", "widening": [{"after_s": 5, "team": []}]}, "team"),
            ("/calls", {"numbr": "1"}, "numbr"),
            ("/session", {"username": "a", "password": "b", "remember": True}, "remember"),
        ):
            answer = client.post(f"/api/v1{path}", body)
            self.assertEqual(answer.status_code, 400, (path, answer.content))
            self.assertIn("There is no such field", str(answer.json()["fields"]), field)
        for path in ("/queues?pages=2", f"/queues/{queue.pk}?page=1", "/search?txt=a", "/session?a=1"):
            answer = client.get(f"/api/v1{path}")
            self.assertEqual(answer.status_code, 400, path)
            self.assertIn("There is no parameter", answer.json()["detail"])


class PartTests(TestCase):
    def test_what_stands_inside_a_kept_thing_is_a_part(self):
        """A plain serializer inside would let a PATCH leave out what the exchange runs on."""
        for kind in ItemSerializer.__subclasses__():
            for name, field in kind().fields.items():
                inner = getattr(field, "child", field)
                if isinstance(inner, serializers.Serializer) and not field.read_only:
                    self.assertIsInstance(inner, PartSerializer, f"{kind.__name__}.{name}")
                for within in getattr(inner, "fields", {}).values():
                    deeper = getattr(within, "child", within)
                    if isinstance(deeper, serializers.Serializer):
                        self.assertIsInstance(deeper, PartSerializer, f"{kind.__name__}.{name}")


class BoundsTests(TestCase):
    """Nothing that is asked holds up what serves everybody."""

    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def test_a_search_is_for_a_few_words(self):
        for path in ("agents", "changes", "supervisors", "people", "contacts/find"):
            answer = self.client.get(f"/api/v1/{path}", {"search": "a " * 3000})
            self.assertEqual(answer.status_code, 400, path)

    def test_names_that_deceive_are_refused(self):
        for name in ("Book\u200bings", "\u202eseirref", "Free\u2066dom", "\u3164", "A\x07"):
            for path, body in (("queues", {}), ("codes", {"digits": "1"}), ("teams", {})):
                answer = self.client.post(f"/api/v1/{path}", {"name": name, **body})
                self.assertEqual(answer.status_code, 400, (path, name))
                self.assertIn("name", answer.json()["fields"])
        self.assertEqual(self.client.post("/api/v1/teams", {"name": "Gwasanaeth Ŷ"}).status_code, 201)

    def test_a_change_without_a_number_is_no_fault_of_ours(self):
        for pk in ("none", "1.5", "9" * 40):
            status = self.client.post(f"/api/v1/changes/{pk}/undo").status_code
            self.assertIn(status, (400, 404), pk)

    def test_what_is_too_large_is_refused_before_it_is_read(self):
        async def answered(said, chunks):
            sent = []

            async def receive():
                return {
                    "type": "http.request",
                    "body": chunks.pop() if chunks else b"",
                    "more_body": bool(chunks),
                }

            async def send(message):
                sent.append(message)

            async def reads(scope, receive, send):
                while (await receive())["more_body"]:
                    pass
                await send({"type": "http.response.start", "status": 200, "headers": []})

            scope = {"type": "http", "headers": [(b"content-length", said)] if said else []}
            await BodyLimit(reads)(scope, receive, send)
            return sent[0]["status"]

        part = b"x" * (1024 * 1024)
        for said, count, status in ((b"120000000", 1, 413), (b"-1", 1, 413), (b"10", 1, 200), (b"", 30, 413)):
            self.assertEqual(asyncio.run(answered(said, [part] * count)), status)

    def test_pages_run_only_our_own_scripts_and_https_is_a_setting(self):
        answer = self.client.get("/api/v1/session")
        policy = answer["Content-Security-Policy"]
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe-inline", policy.partition("style-src")[0])
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")
        with mock.patch.dict(
            "os.environ", {"HAZERIDGE_HTTPS": "1", "HAZERIDGE_SECRET_KEY": secrets.token_hex(40)}
        ):
            done = subprocess.run(
                [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "WARNING"],
                cwd=settings.BACKEND,
                capture_output=True,
                text=True,
            )
        self.assertEqual(done.returncode, 0, done.stderr)


class ListTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def test_lists_ask_the_database_no_more_for_more_rows(self):
        for path in ("numbers", "flows", "sounds", "queues", "agents", "codes", "code-sets"):
            self.client.get(f"/api/v1/{path}")
        counts = []
        for round_number in range(2):
            for i in range(12):
                tag = f"{round_number}{i:02}"
                member = people.agent(self.admin, f"P{tag} Person", f"5{tag}")
                queue = people.queue(self.admin, f"Queue {tag}", member)
                flow = people.flow(self.admin, short_line(queue.pk), f"Flow {tag}")
                people.number(self.admin, flow, f"+441632960{tag}")
            taken = []
            for path in ("numbers", "flows", "queues", "agents"):
                with self.settings(DEBUG=True):
                    from django.db import connection, reset_queries

                    reset_queries()
                    self.client.get(f"/api/v1/{path}?page_size=500")
                    taken.append(len(connection.queries))
            counts.append(taken)
        self.assertEqual(counts[0], counts[1])

    def test_search_order_pages_and_csv(self):
        for name in ("Zinc", "=Alpha", "Middle"):
            people.queue(self.admin, name)
        names = [q["name"] for q in self.client.get("/api/v1/queues?ordering=-name").json()["results"]]
        self.assertEqual(names, ["Zinc", "Middle", "=Alpha"])
        found = self.client.get("/api/v1/queues?search=mid").json()
        self.assertEqual((found["count"], found["results"][0]["name"]), (1, "Middle"))
        csv = self.client.get("/api/v1/queues?as=csv").content.decode()
        self.assertEqual(len(csv.splitlines()), 4)
        self.assertIn("'=Alpha", csv)

    def test_everything_with_a_name_is_found(self):
        queue = people.queue(self.admin, "Harbour desk")
        people.agent(self.admin, "Harriet Harbour", "4999")
        hits = self.client.get("/api/v1/search?text=harbour").json()
        self.assertEqual({hit["kind"] for hit in hits}, {"queue", "agent"})
        self.assertIn(f"/wait/queues/{queue.pk}", [hit["page"] for hit in hits])


class OddInputTests(TestCase):
    """No 500 for any input."""

    def test_a_request_without_its_token_is_refused_in_the_words_of_the_api(self):
        client = APIClient(enforce_csrf_checks=True)
        client.force_login(people.person(), "django.contrib.auth.backends.ModelBackend")
        answer = client.delete("/api/v1/session")
        self.assertEqual(answer.status_code, 403)
        self.assertTrue(answer.json()["detail"])

    BODIES = (
        b"",
        b"{",
        b"[]",
        b"null",
        b'"x"',
        b"123",
        b'{"name": {"a": [1]}}',
        b"\xff\xfe",
        b'{"name": "a\\u0000b"}',
        b'{"name": "\\ud800"}',
        b"[" * 50_000,
        b'{"name": 1e400}',
        b'{"name": "' + b"x" * 5000 + b'"}',
        b'{"name": "A", "members": ["x"], "threshold_s": 99999999999999, "formula": "Z"}',
    )

    def test_bodies_of_every_kind_are_answered_in_words(self):
        client = people.client_of(people.person())
        client.raise_request_exception = False
        paths = (
            "numbers",
            "flows",
            "sounds",
            "queues",
            "agents",
            "codes",
            "calls",
            "speech",
            "desk/away",
            "session",
            "texts",
            "teams",
            "skills",
            "callbacks/x/cancel",
        )
        for path in paths:
            for body in self.BODIES:
                with self.subTest(path=path, body=body[:40]):
                    answer = client.post(f"/api/v1/{path}", body, content_type="application/json")
                    self.assertIn(answer.status_code, (200, 201, 400, 404, 409, 503))
                    if answer.status_code >= 400:
                        self.assertTrue(answer.json()["detail"])

    def test_odd_addresses_and_queries(self):
        client = people.client_of(people.person())
        client.raise_request_exception = False
        for path, status in {
            "nothing": 404,
            "queues/not-an-id": 404,
            "takes/99999999999999999999999": 400,
            "queues?page=x": 404,
            "queues?page_size=-1": 200,
            "queues?ordering=password": 200,
            "queues?search=%00": 400,
            "changes/999": 404,
            "changes?object_id=%27": 200,
            "search?text=%00": 200,
            "live/call.------------------------------------": 404,
            "contacts/find?search=%00": 400,
            "contacts/find?flow=%00": 400,
            "callbacks?open=%00": 200,
            "contacts/------------------------------------": 404,
            "contacts/find?offset=x": 400,
            "handling-rules?team=%00": 404,
            "flows?purpose=%00": 400,
        }.items():
            with self.subTest(path):
                answer = client.get(f"/api/v1/{path}")
                self.assertEqual(answer.status_code, status, answer.content[:200])
