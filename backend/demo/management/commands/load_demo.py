"""`manage.py load_demo`: the demo, through the same services as everybody else. Once."""

import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils.timezone import localdate

from accounts.services import any_users, everybody, make_user, one_password_for, supervisors
from agents.services import make_agent, rules, set_layer
from callcore.events import Happening
from callcore.events.facts import MessageLeft
from callcore.flow.definition import load
from changelog.config_store import change, create
from changelog.kinds import kind_named
from demo import around_queues, definitions, other_lines, scenario
from demo.weeks import storm_closure
from exchange.services import settle_stand_ins
from flows.services import make_flow, publish
from lookups.services import import_file as import_rows
from mailboxes.services import give_voice, keep_messages
from sounds.services import make_sound, speak


class Command(BaseCommand):
    help = "Load Ostrel Island Ferries into an empty database; does nothing in another."

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        if any_users():
            return
        people = [make_user(None, *row, None) for row in scenario.OFFICE]
        admin = people[0]
        hours = create(admin, kind_named("hours").model, **scenario.HOURS)
        agents, teams = _agents(admin)
        queues = _queues(admin, teams, _code_sets(admin))
        for name, queue, rule in scenario.ALERTS:
            of = queues[queue].partition(":")[2]
            create(admin, kind_named("alert").model, name=name, queue_id=of, **rule)
        mailboxes = _mailboxes(admin, queues)
        sails = {**scenario.STORM, "exceptions": [storm_closure(localdate())]}
        storm = create(admin, kind_named("hours").model, **sails)
        refs = {
            **queues,
            **mailboxes,
            "hours": f"hours:{hours.pk}",
            "storm": f"hours:{storm.pk}",
            "table": _table(admin),
        }
        refs["Office"] = _group(admin, agents, teams, mailboxes)
        flows = _flows(admin, refs, _sounds(admin))
        _numbers(admin, flows, refs)
        _text_number(admin, queues["Bookings"])
        _messages(mailboxes)
        settle_stand_ins(
            on=True,
            agents=scenario.AT_WORK,
            seed=scenario.SEED,
            load=scenario.LOAD_TODAY,
            people=scenario.PEOPLE,
        )
        one_password_for(everybody(), scenario.PASSWORD)
        self.stdout.write("The demo is loaded.")


def _group(admin: Any, agents: Any, teams: Any, mailboxes: dict[str, str]) -> str:
    name, extension, mailbox, (first, count), then = scenario.GROUP
    members = [f"agent:{agent.pk}" for agent in agents[first][:count]]
    made = create(
        admin,
        kind_named("group").model,
        name=name,
        extension=extension,
        way="listed",
        ring_s=15,
        members=[*members, f"team:{teams[then].pk}"],
        mailbox_id=mailboxes[f"{mailbox} mailbox"].partition(":")[2],
    )
    return f"group:{made.pk}"


def _sounds(admin: Any) -> dict[str, str]:
    refs = {}
    for name, (english, welsh) in scenario.SOUNDS.items():
        rows = [{"language": "en", "text": english}, {"language": "cy", "text": welsh}]
        refs[name] = f"sound:{make_sound(admin, name, rows).pk}"
    return refs


def _mailboxes(admin: Any, queues: dict[str, str]) -> dict[str, str]:
    mailbox, refs = kind_named("mailbox").model, {}
    for name, extension, queue, longest_s, words in scenario.MAILBOXES:
        speak("en", words)
        owner = {"owner": "queue", "queue_id": queues[queue].partition(":")[2]} if queue else {}
        made = create(
            admin,
            mailbox,
            name=name,
            extension=extension,
            longest_s=longest_s,
            greeting=definitions.text(words),
            **owner,
        )
        refs[f"{name} mailbox"] = f"mailbox:{made.pk}"
    return refs


def _messages(mailboxes: dict[str, str]) -> None:
    """Messages that callers left in the night, each with its sound."""
    now_ms = round(time.time() * 1000)
    for i, (name, caller, hours_ago, seconds) in enumerate(scenario.MESSAGES):
        contact = f"demo-message-{i}"
        mailbox = mailboxes[f"{name} mailbox"].partition(":")[2]
        fact = MessageLeft("", mailbox, seconds * 1000)
        left = Happening(now_ms - round(hours_ago * 3_600_000), contact, "", fact)
        give_voice(keep_messages([left], {contact: (caller, scenario.NUMBERS[0][0])}))


def _table(admin: Any) -> str:
    table = create(admin, kind_named("table").model, **scenario.TABLE)
    import_rows(admin, table, table.revision, scenario.ROWS.encode(), lambda _: None)
    return f"table:{table.pk}"


def _numbers(admin: Any, flows: dict[str, Any], refs: dict[str, str]) -> None:
    number = kind_named("number").model

    def value(words: str) -> str:
        kind, _, name = words.partition(":")
        if kind == "hours":
            return refs["hours"]
        return refs[f"{name} mailbox" if kind == "mailbox" else name] if name else words

    for address, label, flow, values in scenario.NUMBERS:
        handed = {name: value(words) for name, words in values.items()}
        channel = flows[flow].draft["channel"]
        create(admin, number, address=address, label=label, flow=flows[flow], values=handed, channel=channel)


def _text_number(admin: Any, queue: str) -> None:
    """Agents of a queue go on in writing from the centre's text number."""
    number = kind_named("number").model.objects.filter(channel="text").first()
    found = kind_named("queue").model.objects.get(pk=queue.partition(":")[2])
    change(admin, found, None, text_number=number)


def _agents(admin: Any) -> tuple[dict[str, list[Any]], dict[str, Any]]:
    """The agents by team, and the teams."""
    team, skill = kind_named("team").model, kind_named("skill").model
    skills = {name: create(admin, skill, name=name) for name in scenario.SKILLS}
    teams = {
        name: create(
            admin, team, name=name, supervisors=list(supervisors()) if name in scenario.SUPERVISED else []
        )
        for name in scenario.TEAMS
    }
    agents: dict[str, list[Any]] = {}
    for name, (site, people) in scenario.TEAMS.items():
        for person, extension in people:
            first = person.split()[0]
            levels = {str(skills[s].pk): of[first] for s, of in scenario.SKILLS.items() if first in of}
            languages = ["en", "cy"] if first in scenario.WELSH else ["en"]
            made = make_agent(
                admin,
                name=person,
                extension=extension,
                team=teams[name],
                site=site,
                languages=languages,
                skills=levels,
                username=first.lower(),
                staff_number=f"F{extension[1:]}",
            )
            agents.setdefault(name, []).append(made)
    centre = rules()
    change(admin, centre, None, values={**centre.values, **scenario.CENTRE_RULES})
    for name, values in scenario.TEAM_RULES.items():
        set_layer(admin, None, None, values, team=str(teams[name].pk))
    return agents, teams


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


def _queues(admin: Any, teams: dict[str, Any], sets: dict[str, Any]) -> dict[str, str]:
    queue = kind_named("queue").model
    skills = {s.name: str(s.pk) for s in kind_named("skill").model.objects.all()}
    refs = {}
    for name, colour, its_teams, codes, asked, more, note in scenario.QUEUES:
        widening = [
            {"after_s": after, "lower": lower, "teams": [str(teams[team].pk)] if team else []}
            for after, lower, team in scenario.WIDENING.get(name, [])
        ]
        made = create(
            admin,
            queue,
            name=name,
            colour=colour,
            teams=[teams[t] for t in its_teams],
            code_set=sets[codes],
            note=note,
            finished=True,
            widening=widening,
            required_skills=[{"skill": skills[asked[0]], "least": asked[1]}] if asked else [],
            **more,
        )
        refs[name] = f"queue:{made.pk}"
    named = create(admin, queue, name="Lost property desk")
    return {**refs, "Lost property desk": f"queue:{named.pk}"}


def _flows(admin: Any, refs: dict[str, str], sounds: dict[str, str]) -> dict[str, Any]:
    """Every flow but one is published; the shared block before the flow that uses it."""
    flows: dict[str, Any] = {}

    def put_in_force(name: str, definition: dict[str, Any]) -> None:
        about = scenario.ABOUT.get(name, "")
        flow = make_flow(admin, name, load(definition), description=about)
        publish(admin, flow, flow.revision, "The first version")
        flow.refresh_from_db()
        flows[name] = flow

    put_in_force("While waiting", around_queues.while_waiting(refs["Night line mailbox"]))
    bookings = kind_named("queue").model.objects.get(pk=refs["Bookings"].partition(":")[2])
    change(admin, bookings, None, plan=flows["While waiting"])
    put_in_force("After the call", around_queues.after_the_call())
    assistance = kind_named("queue").model.objects.get(pk=refs["Assistance"].partition(":")[2])
    change(admin, assistance, None, survey=flows["After the call"])
    put_in_force("After hours", definitions.after_hours(refs))
    refs["After hours"] = f"flow:{flows['After hours'].pk}"
    refs["storm words"] = sounds["Storm closure"]
    openings = (sounds[name] for name in scenario.OPENINGS)
    put_in_force("Welcome", definitions.welcome(refs, *openings))
    refs["Welcome"] = f"flow:{flows['Welcome'].pk}"
    put_in_force("Main line", definitions.main_line(refs))
    put_in_force("Port desk", definitions.port_desk())
    put_in_force("Booking check", other_lines.booking_check(refs["table"]))
    block = f"flow:{flows['Booking check'].pk}"
    put_in_force("Group travel", other_lines.group_travel(refs, block))
    put_in_force("Text line", other_lines.text_line(refs))
    put_in_force("Inside line", other_lines.inside_line(refs))
    lost = definitions.lost_property(refs["Lost property desk"])
    flows["Lost property"] = make_flow(admin, "Lost property", load(lost))
    return flows
