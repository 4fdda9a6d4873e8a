"""`manage.py load_demo`: the demo, through the same services as everybody else. Once."""

from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction

from accounts.services import any_users, make_user
from agents.services import make_agent
from callcore.flow.definition import load
from changelog.kept import create
from changelog.kinds import kind_named
from demo import scenario
from flows.services import make_flow, publish
from sounds.services import make_sound


class Command(BaseCommand):
    help = "Load Ostrel Island Ferries into an empty database; does nothing in another."

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        if any_users():
            return
        people = [make_user(*row, scenario.PASSWORD) for row in scenario.OFFICE]
        admin = people[0]
        hours = create(admin, kind_named("hours").model, **scenario.HOURS)
        queues = _queues(admin, _agents(admin), _code_sets(admin))
        flows = _flows(admin, {**queues, "hours": f"hours:{hours.pk}"})
        number = kind_named("number").model
        for e164, label, flow in scenario.NUMBERS:
            create(admin, number, e164=e164, label=label, flow=flows[flow])
        self.stdout.write("The demo is loaded.")


def _agents(admin: Any) -> dict[str, list[Any]]:
    return {
        team: [
            make_agent(
                admin,
                name=name,
                extension=extension,
                team=team,
                username=name.split()[0].lower(),
                password=scenario.PASSWORD,
            )
            for name, extension in members
        ]
        for team, members in scenario.TEAMS.items()
    }


def _code_sets(admin: Any) -> dict[str, Any]:
    code, code_set = kind_named("code").model, kind_named("code_set").model
    codes = {
        digits: create(admin, code, name=name, digits=digits, group=group)
        for name, digits, group in scenario.CODES
    }
    return {
        name: create(admin, code_set, name=name, codes=[codes[d] for d in digits])
        for name, digits in scenario.CODE_SETS.items()
    }


def _queues(admin: Any, teams: dict[str, list[Any]], sets: dict[str, Any]) -> dict[str, str]:
    queue = kind_named("queue").model
    refs = {}
    for name, colour, its_teams, codes, more, note in scenario.QUEUES:
        members = [agent for team in its_teams for agent in teams[team]]
        made = create(
            admin, queue, name=name, colour=colour, members=members, code_set=sets[codes],
            note=note, finished=True, **more,
        )  # fmt: skip
        refs[name] = f"queue:{made.pk}"
    named = create(admin, queue, name="Lost property desk")
    return {**refs, "Lost property desk": f"queue:{named.pk}"}


def _flows(admin: Any, refs: dict[str, str]) -> dict[str, Any]:
    words, name = scenario.OPENING
    opening = make_sound(admin, name=name, language="en", text=words)
    main = make_flow(admin, "Main line", load(scenario.main_line(refs, f"sound:{opening.pk}")))
    publish(admin, main, main.revision, "The first version")
    main.refresh_from_db()
    lost = make_flow(
        admin, "Lost property", load(scenario.lost_property(refs["Lost property desk"]))
    )
    return {"Main line": main, "Lost property": lost}
