"""The setup is read in parts; what is kept of them is always what reading anew would give."""

from dataclasses import fields
from typing import Any
from unittest.mock import patch

from django.test import TestCase

from agents import services as agent_services
from callcore.tests.flows import short_line
from changelog import config_store
from changelog.kinds import kind_named
from exchange.live import reading
from flows.services import publish
from testkit import people


def seen(setup: Any) -> dict[str, Any]:
    """A setup by its fields, in what can be compared; the revision is another with every change."""
    found = {f.name: getattr(setup, f.name) for f in fields(setup) if f.name != "revision"}
    flows = found.pop("flows").values()
    return found | {
        "flows": [
            (f.flow_id, f.flow_name, f.number, f.catalogue, f.machine.flow, f.blocks, f.takes) for f in flows
        ]
    }


def anew() -> Any:
    """The setup as a process reads it that has kept nothing."""
    with patch.object(reading, "_kept", {}):
        for part in reading._PARTS:
            part._since = None
        return reading.read()


def model(kind: str) -> Any:
    return kind_named(kind).model


class ReadingTests(TestCase):
    def setUp(self):
        admin = self.admin = people.person()
        self.ann = people.agent(admin, "Ann Vaughan", "4101")
        self.team = config_store.create(admin, model("team"), name="Shore")
        self.queue = people.queue(admin, "Bookings", self.ann, teams=[self.team])
        self.flow = people.flow(admin, short_line(self.queue.pk))
        publish(admin, self.flow, 1, "")
        self.flow.refresh_from_db()

    def test_a_change_of_any_kind_is_taken_up(self):
        admin = self.admin
        made = {
            "skill": {"name": "Welsh"},
            "sound": {"name": "Waves"},
            "mailbox": {"name": "Lost things"},
            "group": {"name": "Deck", "members": [f"team:{self.team.pk}"]},
            "table": {"name": "Parties", "columns": [{"name": "Ref", "type": "text"}]},
            "code": {"name": "Booked", "digits": "11"},
            "number": {"address": "+442079460210", "label": "Main line", "flow": self.flow},
        }
        things = {kind: config_store.create(admin, model(kind), **v) for kind, v in made.items()}
        config_store.create(admin, model("code_set"), name="All", codes=[things["code"]])
        changes: list[tuple[Any, dict[str, Any]]] = [
            (self.ann, {"name": "Ann Vance", "team": self.team}),
            (self.team, {"name": "Harbour"}),
            (self.queue, {"name": "Reservations", "extension": "5001", "threshold_s": 45}),
            (things["skill"], {"name": "Cymraeg"}),
            (things["sound"], {"name": "Gulls"}),
            (things["mailbox"], {"name": "Found things", "extension": "5002"}),
            (things["group"], {"name": "Bridge", "extension": "5003"}),
            (things["table"], {"name": "Groups"}),
            (things["code"], {"name": "New booking"}),
            (things["number"], {"label": "Second line", "address": "4999"}),
            (self.flow, {"name": "Front line"}),
            (agent_services.rules(), {"values": {"wrap_up": "none"}, "away_reasons": ["Tea"]}),
        ]
        for thing, values in changes:
            before = seen(reading.read())
            thing.refresh_from_db()
            config_store.change(admin, thing, None, **values)
            after = seen(reading.read())
            with self.subTest(thing=thing.title, kind=type(thing).__name__):
                self.assertNotEqual(after, before)
                self.assertEqual(after, seen(anew()))
        people.client_of(admin).patch("/api/v1/flow-rules", {"revision": 1, "silence_ends": True})
        self.assertTrue(reading.read().catalogue.silence_ends)

    def test_a_new_version_is_taken_up_and_nothing_else_is_read(self):
        reading.read()
        draft = short_line(self.queue.pk)
        draft["steps"][0]["prompt"]["text"] = "Good morning."
        config_store.change(self.admin, self.flow, None, draft=draft)
        self.flow.refresh_from_db()
        publish(self.admin, self.flow, self.flow.revision, "")
        with patch.object(reading._PEOPLE, "_read", side_effect=AssertionError("read again")):
            self.assertEqual(reading.read().flows[str(self.flow.pk)].number, 2)
