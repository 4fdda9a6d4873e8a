"""How fast lists and lookups are with much behind them. Everything is rolled back at the end."""

from __future__ import annotations

import os
import statistics
import time
from collections.abc import Callable

import django

from callcore.tests.flows import short_line

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "hazeridge.settings")
django.setup()

from django.conf import settings  # noqa: E402
from django.db import connection, transaction  # noqa: E402
from rest_framework.test import APIClient  # noqa: E402

from callcore.flow.definition import load  # noqa: E402
from callcore.flow.trial_setup import setup_of  # noqa: E402
from changelog.kinds import kind_named  # noqa: E402
from exchange.models import Contact  # noqa: E402
from flows import services, trials  # noqa: E402
from flows.inspect import catalogue_around  # noqa: E402
from lookups import services as lookups  # noqa: E402
from testkit import people  # noqa: E402

MANY, ROWS, TRIALS = 10_000, 100_000, 200


def p95_ms(work: Callable[[int], object], times: int = 120) -> float:
    """The 95th percentile of `work`'s time in milliseconds."""
    spent = []
    for i in range(times):
        began = time.perf_counter()
        work(i)
        spent.append((time.perf_counter() - began) * 1000)
    return statistics.quantiles(spent, n=20)[-1]


def fill() -> tuple[APIClient, str]:
    """Ten thousand of each kind, and a lookup table of a hundred thousand rows."""
    admin = people.person(name="bench-admin")
    queue = people.queue(admin, "Bench desk")
    flow = people.flow(admin, short_line(queue.pk), "Bench line")
    number, agent, sound, mailbox, flows = (
        kind_named(n).model for n in ("number", "agent", "sound", "mailbox", "flow")
    )
    number.objects.bulk_create(
        number(address=f"+4416{i:08}", label=f"Desk {i}", flow=flow) for i in range(MANY)
    )
    agent.objects.bulk_create(agent(name=f"Agent {i}", extension=str(100_000 + i)) for i in range(MANY))
    sound.objects.bulk_create(sound(name=f"Sound {i}") for i in range(MANY))
    mailbox.objects.bulk_create(mailbox(name=f"Mailbox {i}") for i in range(MANY))
    flows.objects.bulk_create(flows(name=f"Flow {i}", draft=flow.draft) for i in range(MANY))
    Contact.objects.bulk_create(
        Contact(
            id=f"bench-{i}",
            site=settings.EXCHANGE_SITE,
            number="+441632960000",
            caller=f"+4477009{i:05}",
            flow=str(flow.pk),
            arrived_ms=i,
        )
        for i in range(MANY)
    )
    columns = [{"name": "Booking", "type": "text"}, {"name": "People", "type": "number"}]
    table = people.config_store.create(admin, kind_named("table").model, name="Bench", columns=columns)
    file = "Booking,People\n" + "".join(f"B{i:06},{i}\n" for i in range(ROWS))
    began = time.perf_counter()
    lookups.import_file(admin, table, table.revision, file.encode(), lambda _: None)
    print(f"{'taking in a file of 100,000 rows':58} {time.perf_counter() - began:9.1f} s")
    with connection.cursor() as cursor:  # as the database does by itself, of rows that stay
        cursor.execute("ANALYZE")
    return people.client_of(admin), str(table.pk)


def trials_work(client: APIClient) -> Callable[[int], object]:
    """Work: two hundred saved trials of one flow, run as the editor has them run."""
    admin = people.person(name="bench-author")
    queue = people.queue(admin, "Trial desk")
    flow = people.flow(admin, short_line(queue.pk), "Trial line")
    draft = load(flow.draft)
    stage = services.stage(draft, catalogue_around(draft, str(flow.pk), {}, services.library))
    saved = trials.save(admin, flow, "Trial 0", setup_of({"keys": ["1"]}), stage)
    kind_named("trial").model.objects.bulk_create(
        kind_named("trial").model(flow=flow, name=f"Trial {i}", setup=saved.setup, expected=saved.expected)
        for i in range(1, TRIALS)
    )

    def work(_: int) -> object:
        body = {"draft": flow.draft}
        answer = client.post(
            f"/api/v1/flows/{flow.pk}/run-trials", body, format="json", headers={"host": "127.0.0.1"}
        )
        assert all(row["passed"] for row in answer.json()), answer.content
        return answer

    return work


def got(client: APIClient, address: str) -> None:
    """An answer of the API that is one."""
    answer = client.get(f"/api/v1/{address}", headers={"host": "127.0.0.1"})
    assert answer.status_code == 200, answer.content


def main() -> None:
    with transaction.atomic():
        client, table = fill()
        rows = [
            (
                f"list of 10,000 {area}",
                p95_ms(lambda i, a=area: got(client, f"{a}?page_size=50&page={i % 200 + 1}")),
                50.0,
            )
            for area in ("numbers", "agents", "sounds", "mailboxes", "flows", "contacts")
        ]
        rows.append(
            ("find among 10,000 numbers", p95_ms(lambda i: got(client, f"numbers?search=desk+{i}")), 50.0)
        )
        looked = p95_ms(lambda i: lookups.look_up(table, f"b{i * 797:06}"), 1000)
        rows.append(("200 saved trials", p95_ms(trials_work(client), 12), 1000.0))
        rows.append(("look-up in a table of 100,000 rows", looked, 2.0))
        for name, found, budget in rows:
            print(f"{name:58} {found:9.2f} ms p95 {budget:10.0f} ms {found / budget:9.2f}x")
        transaction.set_rollback(True)


if __name__ == "__main__":
    main()
