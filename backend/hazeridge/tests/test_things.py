"""Objects, not only roles: operations on things, as each role, on one's own and on others'."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any, NamedTuple
from unittest import mock

import yaml
from django.conf import settings
from django.test import TestCase
from django.urls import resolve
from django.utils import timezone

from accounts import things
from accounts.models import Role
from accounts.policy import may
from agents.models import HandlingRules, Notice, Team
from callcore.hours.plan import Hours as Plan
from callcore.hours.plan import dump
from changelog import config_store, kinds
from changelog.models import Change
from exchange.models import Callback, Contact
from mailboxes.models import Mailbox, Message
from opening_hours.models import Hours
from queues.models import AlertRule, Queue
from sounds.models import Take
from testkit import people

OPENAPI = settings.BACKEND.parent / "docs" / "openapi.yaml"
A, S, G, R = Role.ADMINISTRATOR, Role.SUPERVISOR, Role.AGENT, Role.READ_ONLY
METHODS = ("get", "post", "patch", "put", "delete")


class Pair(NamedTuple):
    """A thing of the supervisor's own teams, and one that is not."""

    own: Any
    foreign: Any


class ThingsTests(TestCase):
    """The supervisor deepa has the team Ostrel; all else is Haven Quay's."""

    @classmethod
    def setUpTestData(cls):
        cls.admin = admin = people.person(A, "tamsin")
        cls.deepa = people.person(S, "deepa")
        teams = Pair(
            config_store.create(admin, Team, name="Ostrel", supervisors=[cls.deepa]),
            config_store.create(admin, Team, name="Haven Quay"),
        )
        made = (people.agent(admin, "Ann", "411"), people.agent(admin, "Bea", "412"))
        agents = Pair(
            *(
                config_store.change(admin, agent, None, team=team)
                for agent, team in zip(made, teams, strict=True)
            )
        )
        queues = Pair(
            people.queue(admin, "Bookings", agents.own), people.queue(admin, "Freight", agents.foreign)
        )
        cls.people_of = {A: admin, S: cls.deepa, G: agents.own.user, R: people.person(R, "guest")}
        cls.pairs = {
            "agents": agents,
            "queues": queues,
            "mailboxes": cls.of_each("mailbox", agents, queues),
            "alerts": Pair(
                *(
                    config_store.create(
                        admin, AlertRule, name=f"{q.name} behind", figure="waiting", queue=q, value=5
                    )
                    for q in queues
                )
            ),
            "notices": Pair(
                *(
                    config_store.create(
                        admin, Notice, text="Fog", teams=[team], until=timezone.now() + timedelta(hours=1)
                    )
                    for team in teams
                )
            ),
        }
        cls.teams = teams
        cls.messages = Pair(
            *(
                Message.objects.create(
                    mailbox=box,
                    contact=box.name,
                    caller="+441632960100",
                    number="",
                    length_ms=900,
                    left_at=timezone.now(),
                    take=Take.objects.create(digest=box.name, wav=b"x", length_ms=900, private=True),
                )
                for box in cls.pairs["mailboxes"]
            )
        )

    @classmethod
    def of_each(cls, name, agents, queues):
        return Pair(
            *(
                config_store.create(cls.admin, Mailbox, name=f"{q.name} {name}", owner="queue", queue=q)
                for q in queues
            )
        )

    def client_as(self, role):
        return people.client_of(self.people_of[role])

    def status(self, role, method, path, body=None):
        return getattr(self.client_as(role), method)(f"/api/v1{path}", body or {}).status_code

    def test_every_operation_on_a_kind_with_a_rule_lets_in_just_who_the_policy_lets(self):
        """By role, and for supervisors by whose it is; nothing is really changed."""
        for name, pair in self.pairs.items():
            for role in (A, S, G, R):
                for whose, thing in pair._asdict().items():
                    for method, path, act in (
                        ("patch", f"/{name}/{thing.pk}", "change"),
                        ("delete", f"/{name}/{thing.pk}", "delete"),
                    ):
                        with self.subTest(name=name, role=role, whose=whose, method=method):
                            area = resolve(f"/api/v1{path}").func.cls.area
                            person = self.people_of[role]
                            lets = may(person, "change", area)
                            lets = lets and not things.refusal(person, act, thing)
                            body = {"revision": thing.revision}
                            status = self.status(role, method, path, body)
                            self.assertEqual(status != 403, lets, status)
                            expected = role == A or (role == S and whose == "own")
                            self.assertEqual(lets, expected)
                            if method == "delete" and status == 204:
                                config_store.undo(self.admin, newest_change(thing))

    def test_alerts_about_all_queues_are_the_administrators(self):
        body = {"name": "All", "figure": "waiting", "value": 9}
        own = {**body, "queue": str(self.pairs["queues"].own.pk)}
        foreign = {**body, "queue": str(self.pairs["queues"].foreign.pk)}
        for values, status in ((body, 403), (foreign, 403), (own, 201)):
            self.assertEqual(self.status(S, "post", "/alerts", values), status)
        for team, status in ((self.teams.foreign, 403), (self.teams.own, 201)):
            told = {**own, "name": f"For {team.name}", "teams": [str(team.pk)]}
            self.assertEqual(self.status(S, "post", "/alerts", told), status)
        wrong = ({"figure": "expected"}, {"figure": "level", "value": 101}, {"from_min": 60})
        for more in wrong:
            self.assertEqual(self.status(A, "post", "/alerts", {**body, **more}), 400, more)

    def test_a_team_stays_while_a_notice_or_an_alert_is_for_it(self):
        team = config_store.create(self.admin, Team, name="Northby")
        until = timezone.now() + timedelta(hours=1)
        notice = config_store.create(self.admin, Notice, text="Fog", teams=[team], until=until)
        alert = config_store.create(
            self.admin, AlertRule, name="Behind", figure="waiting", value=5, teams=[team]
        )
        for thing in (notice, alert):
            self.assertEqual(self.status(A, "delete", f"/teams/{team.pk}"), 409, thing)
            config_store.remove(self.admin, thing)
        self.assertEqual(self.status(A, "delete", f"/teams/{team.pk}"), 204)

    def test_a_supervisor_sets_the_limits_of_their_own_teams(self):
        for whose, status in (("own", 200), ("foreign", 403)):
            team = getattr(self.teams, whose)
            body = {"revision": team.revision, "talk_limit_s": 300}
            path = f"/floor/teams/{team.pk}/limits"
            self.assertEqual(self.status(S, "patch", path, body), status)
            self.assertEqual(self.status(S, "get", path), status)
        self.teams.own.refresh_from_db()
        self.assertEqual(self.teams.own.talk_limit_s, 300)
        path = f"/floor/teams/{self.teams.own.pk}/limits"
        self.assertEqual(self.status(S, "patch", path, {"revision": 1, "missed_limit": 9}), 400)
        self.assertEqual(self.status(S, "patch", path, {"revision": 1, "wrap_limit_s": 9}), 409)

    def test_who_runs_the_floor_closes_by_hand_and_opens_again(self):
        hours = config_store.create(self.admin, Hours, name="Office", **dump(Plan()))
        path = f"/floor/closures/{hours.pk}"
        past = {"revision": 1, "closed": True, "until": "2020-01-01T10:00:00Z"}
        storm = {"revision": 1, "closed": True, "reason": "Storm"}
        self.assertEqual(self.status(S, "post", path, past), 400)
        for role, status in ((R, 403), (G, 403), (S, 200)):
            self.assertEqual(self.status(role, "post", path, storm), status)
        self.assertEqual(self.status(S, "post", path, storm), 409)
        told = self.client_as(S).get("/api/v1/floor/closures").json()[0]
        self.assertEqual((told["closed"], told["open"], told["reason"]), (True, False, "Storm"))
        self.assertEqual(self.status(S, "post", path, {"revision": 2, "closed": False}), 200)
        hours.refresh_from_db()
        self.assertIsNone(hours.closure)

    def test_what_supervisors_do_names_whom_they_reach(self):
        ann, queue = self.pairs["agents"].own, self.pairs["queues"].own
        path, teams = f"/floor/agents/{ann.pk}", [str(self.teams.own.pk)]
        with mock.patch("exchange.floor_api.ask") as asked:
            self.assertEqual(self.status(S, "post", f"{path}/away", {"reason": "Lunch"}), 204)
            self.assertEqual(self.status(A, "post", f"{path}/available"), 204)
            wrong = [("away", {}), ("serve", {}), ("serve", {"queues": ["none"]})]
            wrong += [("say", {"text": ""}), ("say", {"text": "x" * 501})]
            for act, body in wrong:
                self.assertEqual(self.status(S, "post", f"{path}/{act}", body), 400, act)
            self.assertEqual(self.status(S, "post", f"{path}/fire"), 404)
            contact = f"/floor/contacts/{ann.pk}"
            self.assertEqual(self.status(S, "post", f"{contact}/priority", {"priority": 99}), 400)
        (_, kind, body), (_, _, every) = (call.args for call in asked.call_args_list)
        self.assertEqual((kind, body["agent"], body["reason"]), ("supervise.away", str(ann.pk), "Lunch"))
        self.assertEqual((body["teams"], body["queues"]), (teams, [str(queue.pk)]))
        self.assertEqual((every["teams"], every["queues"]), (None, None))

    def test_each_operation_of_the_schema_that_names_a_thing_asks_about_it(self):
        """An address with an id leads to a view whose model has a rule, or to one named here."""
        others = {
            "contacts",
            "trials",
            "lookup-rows",
            "lookup-imports",
            "takes",
            "calls",
            "live",
            "desk",
            "changes",
            "messages",
            "callbacks",
            "boards",
            "wall",
        }
        rules = things.registered()
        for path in yaml.safe_load(OPENAPI.read_text())["paths"]:
            match = re.match(r"/api/v1/([a-z-]+)/\{", path)
            if not match or match[1] in others:
                continue
            view = resolve(
                re.sub(r"\{[^}]*\}", "1", path)
                if match[1] == "people"
                else re.sub(r"\{[^}]*\}", "00000000-0000-4000-8000-000000000000", path)
            ).func.cls
            model = getattr(view, "queryset", None)
            if model is not None:
                self.assertIn(model.model, rules, path)
        self.assertEqual({k.model for k in kinds.all_kinds()} - rules.keys(), set())

    def test_a_supervisor_makes_nothing_with_other_peoples(self):
        bea, haven = self.pairs["agents"].foreign, self.teams.foreign
        bookings, freight = self.pairs["queues"]
        until = (timezone.now() + timedelta(hours=1)).isoformat()
        for path, body in (
            ("/queues", {"name": "X", "members": [str(bea.pk)]}),
            ("/queues", {"name": "X", "teams": [str(haven.pk)]}),
            ("/queues", {"name": "X", "widening": [{"after_s": 5, "teams": [str(haven.pk)]}]}),
            ("/agents", {"name": "X", "extension": "499", "team": str(haven.pk)}),
            ("/agents", {"name": "X", "extension": "499"}),
            ("/notices", {"text": "X", "until": until, "teams": [str(haven.pk)]}),
            ("/notices", {"text": "X", "until": until}),
            ("/mailboxes", {"name": "X", "owner": "person", "agent": str(bea.pk)}),
            ("/mailboxes", {"name": "X", "owner": "queue", "queue": str(freight.pk)}),
        ):
            with self.subTest(path=path, body=body):
                self.assertEqual(self.status(S, "post", path, body), 403)
        made = self.client_as(S).post("/api/v1/queues", {"name": "Mine"})
        self.assertEqual(made.status_code, 201, made.content)
        mine = Queue.objects.get(name="Mine")
        again = {"revision": 1, "note": "Hello"}
        self.assertEqual(self.status(S, "patch", f"/queues/{mine.pk}", again), 200)
        body = {"revision": bookings.revision, "members": [str(bea.pk)]}
        self.assertEqual(self.status(S, "patch", f"/queues/{bookings.pk}", body), 403)

    def test_handling_rules_of_others_and_of_the_centre(self):
        for whose, expected in ((self.teams.own, 200), (self.teams.foreign, 403)):
            body = {"layer": "team", "team": str(whose.pk), "values": {"ring_s": 15}}
            self.assertEqual(self.status(S, "patch", "/handling-rules", body), expected)
        centre = {"layer": "centre", "values": {"ring_s": 15}, "revision": 1}
        self.assertEqual(self.status(S, "patch", "/handling-rules", centre), 403)
        self.assertEqual(HandlingRules.objects.filter(team=self.teams.foreign).count(), 0)

    def test_a_persons_mailbox_stays_theirs(self):
        own = self.pairs["agents"].own
        box = config_store.create(self.admin, Mailbox, name="Ann's", owner="person", agent=own)
        url = f"/mailboxes/{box.pk}"
        for body in (
            {"owner": "shared"},
            {"listeners": [str(self.pairs["agents"].foreign.pk)]},
            {"owner": "queue", "queue": str(self.pairs["queues"].own.pk)},
        ):
            self.assertEqual(self.status(S, "patch", url, {"revision": 1, **body}), 403, body)
        self.assertEqual(self.status(S, "delete", url), 403)
        self.assertEqual(self.status(S, "patch", url, {"revision": 1, "longest_s": 60}), 200)
        self.assertEqual(self.status(A, "patch", url, {"revision": 2, "owner": "shared"}), 200)

    def test_messages_are_heard_by_those_they_are_for_also_by_their_take(self):
        for role, heard in ((A, {"own", "foreign"}), (S, {"own"}), (G, {"own"}), (R, set())):
            for whose, message in self.messages._asdict().items():
                with self.subTest(role=role, whose=whose):
                    url = f"/messages/{message.pk}"
                    status = self.status(role, "get", f"{url}/sound")
                    self.assertEqual(status == 200, whose in heard, status)
                    marked = self.status(role, "post", f"{url}/mark", {"what": "heard"})
                    self.assertEqual(marked == 200, whose in heard, marked)
                    self.assertIn(self.status(role, "get", f"/takes/{message.take_id}"), (403, 404))

    def test_a_telephone_is_whose_call_it_is(self):
        contact = Contact.objects.create(
            id="5f0c0000-0000-4000-8000-000000000001",
            site="main",
            number="",
            caller="",
            arrived_ms=1,
            placed_by=self.admin,
        )
        text = {"contact": contact.pk, "text": "Hi", "caller": "07700900123"}
        for path, body in (
            (f"/calls/{contact.pk}/hang-up", {}),
            (f"/calls/{contact.pk}/keys", {"key": "1"}),
            (f"/calls/{contact.pk}/say", {"words": "lost"}),
            ("/texts", text),
        ):
            self.assertEqual(self.status(S, "post", path, body), 403, path)
            self.assertEqual(self.status(A, "post", path, body), 503, "no exchange runs here")

    def test_a_callback_is_its_queues(self):
        for whose, queue in self.pairs["queues"]._asdict().items():
            row = Callback.objects.create(
                contact=f"5f0c0000-0000-4000-8000-00000000000{whose == 'own':d}",
                site="main",
                origin="",
                queue=str(queue.pk),
                number="",
                booked_ms=1,
                entered_ms=1,
                next_ms=1,
                attempts=1,
            )
            status = self.status(S, "post", f"/callbacks/{row.contact}/cancel")
            self.assertEqual(status, 503 if whose == "own" else 403)

    def test_agents_see_what_their_own_team_does(self):
        foreign = self.pairs["agents"].foreign
        third = people.agent(self.admin, "Cai", "413")
        config_store.change(self.admin, third, None, team=self.teams.own)
        floor = {"data": {"agents": {str(a.pk): {"status": "away", "since_ms": 1} for a in (third, foreign)}}}
        with mock.patch("exchange.targets.snapshot", return_value=floor):
            found = self.client_as(G).get("/api/v1/desk/targets").json()
        states = {row["name"]: row["status"] for row in found if row["kind"] == "agent"}
        self.assertEqual(states, {"Cai": "away", "Bea": ""})


def newest_change(thing):
    """The number of the newest change of a thing."""

    return Change.objects.filter(object_id=str(thing.pk)).latest("id").pk
