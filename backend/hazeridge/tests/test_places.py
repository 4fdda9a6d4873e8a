"""What docs/architecture.md lists under “Where things are added”: each thing is in its places."""

from __future__ import annotations

import re
from pathlib import Path
from typing import get_args

from django.conf import settings
from django.test import SimpleTestCase

from callcore.centre import centre, registry, why_rung
from callcore.centre.facts import QueueSettings
from callcore.events.codec import FACTS, KINDS, Kind
from callcore.events.facts import Fact
from callcore.flow import describe
from callcore.flow.machine import BEHAVIOUR
from callcore.flow.state import Effect
from callcore.flow.steps import STEP_KINDS, AnyStep
from callcore.routing import choosing
from callcore.routing.events import Decision
from exchange.api import DESK_ACTIONS
from queues.models import Queue

FRONT = Path(settings.BACKEND).parent / "frontend" / "src" / "areas"
#: What is told of an agent, or by the event that follows.
#: What a told wait says is heard in words beside it.
_NOT_TOLD = {Kind.SAID, Kind.ALERT, Kind.AGENT, Kind.LINE, Kind.ARRIVED, Kind.LEG_ENDED, Kind.WAIT_TOLD}


def front(path: str) -> str:
    return (FRONT / path).read_text()


class PlacesTests(SimpleTestCase):
    def test_a_kind_of_step(self):
        laid_in = {"block"}
        forms = "".join(file.read_text() for file in (FRONT / "flows" / "forms").iterdir())
        for step in get_args(get_args(AnyStep)[0]):
            kind = step.model_fields["kind"].default
            self.assertIn(kind, STEP_KINDS)
            runs = step in BEHAVIOUR.begin or step in BEHAVIOUR.decide or kind in laid_in
            self.assertTrue(runs, kind)
            self.assertIn(step, describe._STOPS)
            self.assertRegex(forms, rf"\n  {kind}: {{", kind)
            self.assertRegex(front("flows/trail/glyphs.tsx"), rf"\b{kind}\b", kind)

    def test_what_a_flow_wants_and_what_the_router_decides_is_handled(self):
        self.assertTrue(centre.HANDLERS)
        self.assertEqual(set(get_args(Effect)), registry.effect.keys())
        self.assertEqual(set(get_args(Decision)), registry.decision.keys())
        self.assertEqual(set(registry.Occasion), registry.on.keys())

    def test_a_command_of_an_agent_is_one_of_the_desk(self):
        of_agents = {c.removeprefix("agent.") for c in sorted(registry.command.keys()) if "agent." in c}
        self.assertEqual(of_agents, set(DESK_ACTIONS))

    def test_an_event(self):
        self.assertEqual(set(FACTS), set(Kind))
        self.assertEqual(set(KINDS), set(get_args(Fact)))
        told = set(re.findall(r'^  "([a-z._]+)": \(', front("flows/phone/Transcript.tsx"), re.M))
        self.assertEqual({str(kind) for kind in set(Kind) - _NOT_TOLD}, told)

    def test_a_way_of_choosing(self):
        self.assertEqual(set(choosing.WAYS), set(choosing._COMPARES))
        self.assertEqual(set(choosing.WAYS), {*why_rung._DECIDED, "all"})

    def test_a_queue_setting_is_a_column(self):
        columns = {f.name for f in Queue._meta.get_fields()}
        others = {"required_skills", "members", "recording", "widening", "id"}
        self.assertEqual(set(QueueSettings._fields) - columns - others, set())

    def test_nothing_is_handled_twice(self):
        table = registry.Registry("command")
        table("a")(print)
        with self.assertRaisesRegex(TypeError, "two handlers of the command a"):
            table("a")(print)
