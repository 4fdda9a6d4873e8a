"""The API attacked from its own schema, as each role: `./run verify api-attack`.

Whatever is sent, nothing answers with a fault of ours, and nothing with what the schema does not
say. No exchange runs here: what needs one says so (503).
"""

from __future__ import annotations

from collections import Counter
from typing import Any

import schemathesis
from django.conf import settings as settings_
from django.test import TransactionTestCase
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import CHECKS, load_all_checks
from schemathesis.core.errors import InvalidSchema

from accounts.models import Role
from callcore.tests.flows import short_line
from testkit import people, processes

load_all_checks()
TOKEN = settings_.CSRF_COOKIE_NAME
EXAMPLES = 6
_SAID = ("status_code_conformance", "content_type_conformance", "response_schema_conformance")
#: What may fail for reasons that are not ours: no exchange, no engine, no room.
_NOT_OURS = (502, 503, 507)
_QUIETLY = settings(
    max_examples=EXAMPLES,
    deadline=None,
    derandomize=True,
    database=None,
    phases=(Phase.explicit, Phase.generate),
    suppress_health_check=list(HealthCheck),
)


class AttackTests(TransactionTestCase):
    """One test a role, so that each begins with the same centre, served as it is served to all."""

    def setUp(self) -> None:
        self.admin = people.person()
        nerys = people.agent(self.admin, "Nerys Vaughan", "411")
        queue = people.queue(self.admin, "Bookings", nerys)
        people.number(self.admin, people.flow(self.admin, short_line(queue.pk)))
        web, self.address = processes.start_web()
        self.addCleanup(processes.stop, web)

    def attack(self, user: Any) -> None:
        client = people.client_of(user)
        cookies = {name: morsel.value for name, morsel in client.cookies.items()}
        self.seen: Counter[int] = Counter()
        schema = schemathesis.openapi.from_url(f"{self.address}/api/v1/schema?format=json")
        for found in schema.get_all_operations():
            operation = found.ok()
            # A session that ends in the middle would leave the rest to nobody.
            if operation.path.endswith(("/session", "/session/password", "/schema")):
                continue
            with self.subTest(operation.label):
                self.send(operation, cookies)
        let_in = sum(count for status, count in self.seen.items() if status < 300)
        self.assertEqual(let_in > 0, user is not None, self.seen)

    def send(self, operation: Any, cookies: dict[str, str]) -> None:
        @_QUIETLY
        @given(case=operation.as_strategy())
        def one(case: Any) -> None:
            answer = case.call(cookies=cookies, headers={"X-CSRFToken": cookies.get(TOKEN, "")})
            self.seen[answer.status_code] += 1
            if answer.status_code >= 500 and answer.status_code not in _NOT_OURS:
                self.fail(f"{answer.status_code}: {answer.text[:400]}")
            case.validate_response(answer, checks=CHECKS.get_by_names(_SAID))

        try:
            one()
        except InvalidSchema as error:
            self.fail(str(error))

    def test_as_an_administrator(self) -> None:
        self.attack(self.admin)

    def test_as_a_supervisor(self) -> None:
        self.attack(people.person(Role.SUPERVISOR))

    def test_as_an_agent(self) -> None:
        self.attack(people.agent(self.admin, "Ann Prys", "412").user)

    def test_as_somebody_who_only_looks(self) -> None:
        self.attack(people.person(Role.READ_ONLY))

    def test_as_nobody(self) -> None:
        self.attack(None)
