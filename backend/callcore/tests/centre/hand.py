"""A centre driven by hand: no database, and a clock that only the test moves."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import UTC, datetime
from itertools import count
from typing import Any, get_type_hints

from pydantic import TypeAdapter

from callcore.centre import standing
from callcore.centre.centre import Centre
from callcore.centre.facts import (
    AgentFacts,
    CodeFacts,
    DiversionFacts,
    MailboxSettings,
    NumberFacts,
    QueueSettings,
)
from callcore.centre.handlers.telephone import place_call
from callcore.centre.parts import Devices
from callcore.centre.setup import RunnableFlow, Setup
from callcore.centre.standing import Row
from callcore.centre.topics import Topics
from callcore.centre.views import view
from callcore.devices.fax import tone_after_ms
from callcore.devices.outside_line import SimulatedLine
from callcore.events import Happening, Kind
from callcore.flow.catalogue import Catalogue, QueueFacts
from callcore.flow.definition import Flow, load
from callcore.flow.parts import SpokenText
from callcore.flow.runner import Machine
from callcore.numbers.plan import Diversion
from callcore.routing.events import HandlingRule
from callcore.speech.recogniser import TypedSpeech
from callcore.tests.flows import short_line

NUMBER = "+442079460210"
#: Noon in London on an ordinary day.
NOON = 1_795_435_200_000
SECOND = 1000

_TOPICS = {name: TypeAdapter(said) for name, said in get_type_hints(Topics).items()}


def script(definition: Flow | None = None) -> RunnableFlow:
    """The shared test flow, ready to run; every prompt lasts two seconds."""
    definition = definition or load(short_line("bookings"))
    catalogue = Catalogue(queues={"queue:bookings": QueueFacts("Bookings", True, 2)})
    machine = Machine(definition, lambda _: 2 * SECOND)
    return RunnableFlow("flow-1", "Main line", 1, 11, machine, catalogue, {})


def configuration(**changes: Any) -> Setup:
    """One number, one queue of two agents."""
    queue = QueueSettings(
        "bookings", "Bookings", True, "#4A6B66", ("ann", "bea"), 5, 900, 60, 80, 5, "A", "set", ""
    )
    values: dict[str, Any] = {
        "revision": 7,
        "time_zone": "Europe/London",
        "numbers": {NUMBER: NumberFacts("n", NUMBER, "Main line", "flow-1")},
        "flows": {"flow-1": script()},
        "queues": {"bookings": queue},
        "agents": {n: AgentFacts(n, n.title(), f"41{i}", "") for i, n in enumerate(["ann", "bea"])},
        "codes": {"set": [CodeFacts("code-1", "New booking", "11", "")]},
        "handling": HandlingRule(),
        "away_reasons": ("Lunch",),
        **changes,
    }
    return Setup(**values)


def mailbox(name: str = "night") -> MailboxSettings:
    """A mailbox with a greeting and a minute for messages."""
    greeting = SpokenText(text="Please leave a message.")
    return MailboxSettings(name, name.title(), greeting, 60 * SECOND, 0)


def diversion(**changes: Any) -> DiversionFacts:
    """The test number to an outside number, from a minute before noon on."""
    begins = datetime.fromtimestamp(NOON / 1000 - 60, UTC)
    values = {
        "id": "d1",
        "reason": "Storm",
        "numbers": frozenset({NUMBER}),
        "where": "outside",
        "target": "+441632960111",
        "begins": begins,
        **changes,
    }
    return DiversionFacts(Diversion(**values), ("Main line",), "01632 960111")


def devices() -> Devices:
    """What stands around a centre; ids count up, so that the same actions give the same journal."""
    numbers = count(1)
    return Devices(lambda: f"id-{next(numbers)}", SimulatedLine(), TypedSpeech(), tone_after_ms)


class Hand:
    """A centre, its clock, and everything it has written."""

    def __init__(self, config: Setup | None = None) -> None:
        self.now = NOON
        self.centre = Centre(config or configuration(), self.now, devices())
        self.journal: list[Happening] = []
        self.stands: dict[tuple[str, str], str] = {}

    def after(self, seconds: float) -> None:
        """Let time pass, with everything that is due on the way."""
        end = self.now + round(seconds * SECOND)
        while self.centre.next_due_ms() <= end and self.now < end:
            self.now = max(self.now, self.centre.next_due_ms())
            self.centre.advance(self.now)
        self.now = end
        self.centre.advance(end)

    def do(self, kind: str, **body: Any) -> dict[str, Any]:
        return self.centre.command(kind, body, self.now)

    def call(self, name: str, trial: RunnableFlow | None = None) -> None:
        place_call(self.centre, name, NUMBER, "+447700900123", trial, self.now)

    def queued(self, name: str) -> None:
        """A call that has come into the queue."""
        self.call(name)
        self.after(2.5)
        self.do("call.key", contact=name, key="1")

    def ready(self, *agents: str) -> None:
        for agent in agents:
            self.do("agent.sign_in", agent=agent)
            self.do("agent.available", agent=agent)

    def shown(self, topic: str) -> Any:
        """What a live topic shows, which is what `callcore.centre.topics` says of it."""
        said = view(self.centre, topic, self.now)
        return said and _TOPICS[topic.partition(".")[0]].validate_python(said, strict=True)

    def desk(self, agent: str) -> dict[str, Any]:
        """What an agent reads of the contact in hand."""
        shown = self.shown(f"desk.{agent}")
        return shown["contacts"].get(shown["agent"]["contact"], {})

    def written(self) -> list[Happening]:
        """The journal so far."""
        self.journal += self.centre.pending
        self.centre.pending.clear()
        return self.journal

    def told(self, contact: str, kind: Kind) -> list[dict[str, Any]]:
        """What is read of a contact, of one kind."""
        shown = self.shown(f"call.{contact}")
        return [line for line in shown["log"].values() if line["kind"] == kind]

    def rows(self) -> list[Row]:
        """How everything stands, as it is written."""
        for row in standing.changed(self.centre):
            self.stands[row[:2]] = json.dumps(row.body)
        rows = [Row(*key, json.loads(body)) for key, body in self.stands.items()]
        return [row for row in rows if row.body is not None]

    def kinds(self, contact: str) -> list[Kind]:
        return [h.kind for h in self.written() if h.contact == contact]


def restarted(hand: Hand, seconds: float) -> Hand:
    """Another centre, some seconds later, that knows only what the first one wrote."""
    return after_a_stop(hand, list(hand.written()), hand.rows(), seconds)


def after_a_stop(hand: Hand, journal: list[Happening], rows: list[Row], seconds: float) -> Hand:
    """Another centre that takes up a journal and how things stood, some seconds later."""
    again = Hand(hand.centre.setup)
    again.now = hand.now + round(seconds * SECOND)

    def flow_of(data: Mapping[str, Any]) -> RunnableFlow:
        if data["version"] is None:
            return again.centre.setup.ad_hoc(load(data["definition"]), data["name"])
        return script()

    again.centre.take_up(rows, journal, flow_of, again.now)
    return again
