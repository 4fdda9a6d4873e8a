"""Anything that can happen to a small centre, by chance; and all that it is afterwards."""

from __future__ import annotations

import random
from collections import deque
from contextlib import suppress
from dataclasses import fields, is_dataclass
from typing import Any

from callcore.centre.facts import CodeFacts
from callcore.centre.handlers import messaging
from callcore.centre.setup import RunnableFlow
from callcore.errors import EventRefused
from callcore.flow.definition import load
from callcore.flow.machine import Machine
from callcore.handling.rules import DeskRule
from callcore.routing.events import HandlingRule
from callcore.talk.recording import RecordingRule
from callcore.tests.centre.hand import NUMBER, SECOND, Hand, configuration, mailbox

#: How much happens in one life.
LENGTH = 40
AGENTS = ("ann", "bea", "cyd")
TEXT_NUMBER = "+447700900200"
WORDS = {"kind": "text", "text": "Words."}
MAIN = load(
    {
        "start": "menu",
        "steps": [
            {
                "kind": "menu",
                "id": "menu",
                "tries": 2,
                "no_key": "end",
                "listens": True,
                "prompt": WORDS,
                "arms": [
                    {"key": "1", "label": "Bookings", "next": "look"},
                    {"key": "2", "next": "message"},
                    {"key": "3", "next": "ring"},
                    {"key": "4", "next": "people"},
                    {"key": "5", "next": "digits"},
                ],
            },
            {
                "kind": "digits",
                "id": "digits",
                "least": 2,
                "most": 3,
                "next": "label",
                "no_digits": "end",
                "prompt": WORDS,
            },
            {"kind": "label", "id": "label", "label": "Choir", "priority": 8, "next": "wait"},
            {
                "kind": "lookup",
                "id": "look",
                "table": "table:t",
                "key": "caller",
                "found": "wait",
                "not_found": "wait",
                "failed": "wait",
            },
            {"kind": "queue", "id": "wait", "queue": "queue:bookings", "waited": "message", "nobody": "end"},
            {"kind": "message", "id": "message", "mailbox": "mailbox:night", "failed": "end"},
            {
                "kind": "ring",
                "id": "ring",
                "number": "+441632960111",
                "ring_s": 20,
                "busy": "end",
                "no_answer": "message",
                "failed": "end",
            },
            {
                "kind": "ring",
                "id": "people",
                "people": ["agent:bea", "agent:cyd"],
                "ring_s": 12,
                "no_answer": "wait",
                "busy": "wait",
                "away": "wait",
            },
            {"kind": "end", "id": "end", "prompt": WORDS},
        ],
    }
)
WAITING = load(
    {
        "purpose": "plan",
        "start": "music",
        "steps": [
            {"kind": "music", "id": "music", "seconds": 8, "next": "tell"},
            {"kind": "tell", "id": "tell", "position": True, "wait": True, "next": "offer"},
            {
                "kind": "callback",
                "id": "offer",
                "prompt": WORDS,
                "declined": "music",
                "failed": "music",
                "attempts": 2,
                "retry_s": 60,
            },
        ],
    }
)
THREADS = load(
    {
        "channel": "text",
        "start": "wait",
        "steps": [
            {"kind": "queue", "id": "wait", "queue": "queue:bookings", "waited": "bye"},
            {"kind": "end", "id": "bye", "prompt": WORDS},
        ],
    }
)


def begun() -> Hand:
    """A centre in which all of it can happen, with two at work."""
    base = configuration()
    number = base.numbers[NUMBER]
    catalogue = base.flows["flow-1"].catalogue

    def runnable(flow: Any, identity: str, version: int) -> RunnableFlow:
        return RunnableFlow(
            identity, identity, 1, version, Machine(flow, lambda _: 2 * SECOND), catalogue, {}
        )

    queue = base.queues["bookings"]._replace(
        plan="plan-1",
        members=AGENTS,
        longest_wait_s=120,
        distribution="longest_idle",
        last_agent_s=5,
        recording=RecordingRule("all"),
        survey="",
        text_number=TEXT_NUMBER,
    )
    freight = queue._replace(id="freight", name="Freight", members=("cyd",), text_number="")
    ann = base.agents["ann"]
    agents = {
        name: ann._replace(id=name, name=name.title(), outside_number="+441632960112") for name in AGENTS
    }
    handling = HandlingRule(ring_ms=9_000, texts=2, longest_wrap_ms=20_000, reply_ms=25_000)
    hand = Hand(
        configuration(
            flows={
                "flow-1": runnable(MAIN, "flow-1", 31),
                "plan-1": runnable(WAITING, "plan-1", 21),
                "texts": runnable(THREADS, "texts", 41),
            },
            numbers={
                NUMBER: number,
                TEXT_NUMBER: number._replace(address=TEXT_NUMBER, flow="texts", channel="text"),
            },
            queues={"bookings": queue, "freight": freight},
            agents=agents,
            mailboxes={"night": mailbox()},
            codes={"set": [CodeFacts("code-1", "New booking", "11", "")]},
            handling=handling,
            desks={"cyd": DeskRule(line="dialled"), "ann": DeskRule(emergency="alerts", help_to="agent:bea")},
        )
    )
    hand.ready("ann", "bea")
    return hand


def something(hand: Hand, rng: random.Random, number: int) -> None:
    """One thing that happens, and some time after it."""
    rng.choice(
        (
            _call,
            _call,
            _caller,
            _caller,
            _caller,
            _caller,
            _agent,
            _agent,
            _agent,
            _agent,
            _agent,
            _agent,
            _text,
            _table,
            _supervisor,
            _supervisor,
            _browser,
        )
    )(hand, rng, number)
    hand.after(rng.choice([0, 0, 0.5, 3, 11]))


def _call(hand: Hand, rng: random.Random, number: int) -> None:
    hand.call(f"c{number}")


def _text(hand: Hand, rng: random.Random, number: int) -> None:
    body = {
        "contact": f"t{number}",
        "number": TEXT_NUMBER,
        "text": "Hello?",
        "caller": rng.choice(["+447700900123", "+447700900124"]),
    }
    messaging.arrives(hand.centre, body, None, hand.now)


def _table(hand: Hand, rng: random.Random, number: int) -> None:
    for contact, _, _ in list(hand.centre.asked):
        hand.centre.looked_up(contact, rng.choice([None, {"Ref": "7"}]), hand.now)
    hand.centre.asked.clear()


def _caller(hand: Hand, rng: random.Random, number: int) -> None:
    if not hand.centre.contacts:
        return
    contact = rng.choice(sorted(hand.centre.contacts))
    actions = [
        ("call.key", {"key": rng.choice("123451#9")}),
        ("call.key", {"key": "1"}),
        ("call.say", {"words": rng.choice(["bookings", "er", "two"])}),
        ("call.hang_up", {}),
        ("text.say", {"text": "Still there?"}),
        ("callback.cancel", {}),
    ]
    kind, body = rng.choice(actions)
    with suppress(EventRefused):
        hand.do(kind, contact=contact, **body)


def _agent(hand: Hand, rng: random.Random, number: int) -> None:
    agent, other = rng.sample(AGENTS, 2)
    to = rng.choice(["queue:bookings", f"agent:{other}", "+441632960113", "mailbox:night"])
    actions = [
        ("sign_in", {}),
        ("available", {}),
        ("available", {}),
        ("answer", {}),
        ("answer", {}),
        ("answer", {}),
        ("end", {}),
        ("end", {}),
        ("hold", {}),
        ("resume", {}),
        ("wrap_up", {}),
        ("wrap_up", {"code": "code-1"}),
        ("away", {"reason": "Lunch"}),
        ("decline", {}),
        ("end_consult", {}),
        ("transfer", {"to": to}),
        ("consult", {"to": to}),
        ("put_through", {}),
        ("join", {}),
        ("help", {}),
        ("emergency", {}),
        ("record", {}),
        ("stop_recording", {}),
        ("by_text", {"text": "As said."}),
        ("text", {"text": "We look."}),
        ("key", {"key": rng.choice("19#")}),
        ("say", {"text": "One moment, please."}),
        ("sign_out", {}),
    ]
    kind, body = rng.choice(actions)
    with suppress(EventRefused):
        hand.do(f"agent.{kind}", agent=agent, **body)


def _browser(hand: Hand, rng: random.Random, number: int) -> None:
    """A page is opened or closed, or somebody looks after what it shows."""
    line = {"line": rng.choice("xy")}
    actions = [
        ("desk.opened", {"agent": rng.choice(AGENTS), **line}),
        ("desk.closed", {"agent": rng.choice(AGENTS), **line}),
        ("supervisor.opened", {"user": rng.choice("78"), **line}),
        ("alarm.take", {"contact": rng.choice(sorted(hand.centre.contacts) or ["none"]), "by": "Sue"}),
        ("alert.see", {"rule": "behind", "by": "Sue"}),
    ]
    kind, body = rng.choice(actions)
    with suppress(EventRefused):
        hand.do(kind, **body)
    if kind == "supervisor.opened":
        # After a crash nobody knows of a browser: they look in, and are gone again.
        hand.do("supervisor.closed", **body)


def _supervisor(hand: Hand, rng: random.Random, number: int) -> None:
    """Two of them, without browsers: what they hear they hear for a while."""
    user = rng.choice(["7", "8"])
    acts = (
        "listen",
        "coach",
        "join",
        "take_over",
        "leave",
        "end",
        "send_on",
        "priority",
        "move",
        "offer",
        "why_waits",
        "available",
        "away",
        "sign_out",
        "serve",
        "say",
    )
    act = rng.choice(acts)
    contact = rng.choice(sorted(hand.centre.contacts) or ["none"])
    with suppress(EventRefused):
        hand.do(
            f"supervise.{act}",
            act=act,
            user=user,
            by=f"Supervisor {user}",
            contact=contact,
            agent=rng.choice(AGENTS),
            teams=None,
            queues=None,
            reason="Lunch",
            text="Hello",
            to=rng.choice(["queue:bookings", "agent:cyd"]),
            priority=rng.randint(0, 20),
            queue=rng.choice(["bookings", "freight"]),
            serves=[rng.choice(["freight", "bookings"])],
        )


#: What is given in, or belongs to a run of the process.
_NOT_STATE = {
    "setup",
    "devices",
    "dirty",
    "pending",
    "touched",
    "troubles",
    "desks",
    "now_ms",
    "asked",
    "unheard",
    "_handlers",
    "handlers",
    "limits",
    "_heap",
    "_gone",
    "supervisors",
    "watch",
    "_looks_ms",
    "_totals",
    "_could",
}


def whole(thing: Any) -> Any:
    """Everything that a thing holds, all the way down, as plain data that can be compared."""
    if isinstance(thing, RunnableFlow):
        return (thing.flow_id, thing.flow_name, thing.machine.flow)
    if isinstance(thing, dict):
        return {str(key): whole(value) for key, value in thing.items() if value not in ({}, [])}
    if isinstance(thing, set | frozenset):
        return sorted(map(str, thing))
    if isinstance(thing, list | tuple | deque):
        return [whole(value) for value in thing]
    if is_dataclass(thing):
        return {f.name: whole(getattr(thing, f.name)) for f in fields(thing)}
    if hasattr(thing, "__dict__") and not isinstance(thing, str | type):
        return {k: whole(v) for k, v in vars(thing).items() if k not in _NOT_STATE and not callable(v)}
    return thing
