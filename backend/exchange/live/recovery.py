"""Taking everything up again from the journal, after a stop or a crash.

Waiting contacts come back into their queues in the order in which they entered;
contacts in a menu hear their prompt's rest or meet what is due; contacts with an
agent stay with the agent. What was ringing rings again.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from typing import Any

from django.db import InterfaceError, OperationalError

from callcore.events import Happening, Kind
from callcore.flow import runner
from callcore.routing import events as e
from callcore.routing.events import Status
from callcore.talk.conversation import Talk
from exchange.live import callbacks
from exchange.live.asking import around
from exchange.live.breakage import broke
from exchange.live.configuration import Script
from exchange.live.contact import Aside, Live, log_line
from exchange.live.engine import Engine
from exchange.live.performing import redial
from exchange.live.talking import watch_reply

log = logging.getLogger(__name__)

ScriptOf = Callable[[dict[str, Any]], Script]


def recover(
    engine: Engine,
    today: Iterable[Happening],
    stories: dict[str, list[Happening]],
    agents: list[Happening],
    script_of: ScriptOf,
    now_ms: int,
) -> None:
    """Bring the engine to where the journal ends.

    Args:
        today: the stream since the centre's midnight, or since the oldest open contact arrived,
            for the figures.
        stories: the events of every open contact.
        agents: the last state of every agent.
        script_of: the script named in an ARRIVED event's body.
    """
    # What a contact heard stands in the journal: the start of its script is not asked for hours.
    lives = _revive_all(engine, stories, script_of, now_ms)
    engine.contacts = {live.id: live for live in lives}
    joined: dict[str, int] = {}
    for number, event in enumerate(today):
        engine.absorb(event)
        if event.kind in (Kind.QUEUED, Kind.BOOKED):
            joined[event.contact] = number
    for live in lives:
        story = stories[live.id]
        # A callback's log goes on from that of the call which booked it.
        live.log = [*story[0].body.get("log", ()), *(log_line(event) for event in story)]
    for state in agents:
        with engine.surviving("", f"taking up the state of agent {state.agent}", now_ms):
            _take_up_agent(engine, state, now_ms)
    waiting = [live for live in lives if live.state.phase == "queued"]
    for live in sorted(waiting, key=lambda live: (live.entered_ms, joined.get(live.id, 0))):
        with engine.surviving(live.id, "taking up a place in a queue", now_ms):
            engine.rejoin(live, now_ms)
    for live in lives:
        with engine.surviving(live.id, "taking up a contact", now_ms):
            _go_on(engine, live, now_ms)
    engine.advance(now_ms)
    # Whoever watches was told by the run before: tell them how things stand now.
    engine.dirty |= {f"call.{live.id}" for live in lives}
    engine.dirty |= {f"desk.{agent_id}" for agent_id in engine.router.agents}
    engine.dirty |= {f"flow.{flow_id}" for flow_id in engine.config.scripts}


def _revive_all(
    engine: Engine, stories: dict[str, list[Happening]], script_of: ScriptOf, now_ms: int
) -> list[Live]:
    """Every open contact. One whose story cannot be read is over: no other waits for it."""
    lives = []
    for name, story in stories.items():
        try:
            live = _revive(engine, story, script_of)
            live.script.machine.around = around(engine)
            if live.state.plan:
                _take_up_plan(engine, live.state.plan, script_of)
            lives.append(live)
        except (OperationalError, InterfaceError):
            raise
        except Exception as error:  # noqa: BLE001  whatever it is: it stays with this contact
            broke(engine, name, f"reading the story of contact {name}", error, now_ms)
            engine.emit(Kind.ENDED, now_ms, contact=name, step="", ending="failed")
    return lives


def _go_on(engine: Engine, live: Live, now_ms: int) -> None:
    """What is due for a contact, and what it does outside."""
    if live.back is not None and live.state.phase == "with_person":
        callbacks.taken_up(engine, live, now_ms)
    if live.agent and live.text:
        watch_reply(engine, live)
    if live.talk.notice:
        engine.timers.set(now_ms, "records", live.id)
    if live.state.phase in _DUE or live.state.inner is not None:
        engine.watch(live)
    if live.state.phase in ("ringing", "outside"):
        redial(engine, live, now_ms)


def _take_up_plan(engine: Engine, key: str, script_of: ScriptOf) -> None:
    """The waiting plan of a contact, in the version that it began with."""
    scripts = engine.config.scripts.values()
    in_force = next((s for s in scripts if str(s.version_id) == key), None)
    engine.plans[key] = in_force or script_of({"version_id": int(key)})
    engine.plans[key].machine.around = around(engine)


#: Phases in which something is due for a contact by its own clock.
_DUE = ("playing", "listening", "recording", "ringing", "asking")


def _revive(engine: Engine, story: list[Happening], script_of: ScriptOf) -> Live:
    """A contact from its events; its runner's state is the last one written."""
    first = story[0]
    if first.kind is Kind.BOOKED:
        return _revived_callback(engine, story)
    body = first.body
    script = script_of(first.body)
    values = first.body.get("values", {})
    state, _ = script.machine.start(first.at_ms, values)
    live = Live(
        first.contact, first.body["number"], first.body["caller"], first.body["trial"], script,
        state, first.at_ms, values, begun=body.get("begun", ""),
        placed_by=body.get("placed_by", ""),
    )  # fmt: skip
    if body.get("aside"):
        live.aside = Aside(body["aside"], body["by"], body["purpose"])
    for event in story:
        if event.kind is Kind.WENT_ON:
            live.script = script_of(event.body)
        _retrace(live, event)
        _hears(live, event)
    return live


def _retrace(live: Live, event: Happening) -> None:
    """What an event of its story left with a contact."""
    if "run" in event.body:
        live.state = runner.from_data(event.body["run"])
    if "talk" in event.body:
        live.talk = Talk(*event.body["talk"])
    if event.kind is Kind.QUEUED:
        live.queue = live.home = event.body["queue"]
        live.entered_ms = event.at_ms
        live.plan = live.state.plan
    elif event.kind is Kind.LABELLED:
        live.label, live.priority = event.body["label"], event.body["priority"]
        live.asks = tuple((skill, least) for skill, least in event.body.get("asks", ()))
    elif event.kind is Kind.ANSWERED:
        if event.body.get("begun"):
            live.queue = live.home = event.body["queue"]
            live.entered_ms = event.at_ms
        live.taken_by(event.agent)
        live.unanswered_ms = event.at_ms if live.text else 0
    elif event.kind is Kind.LEG_ENDED:
        live.let_go(event.body["by"])
    elif event.kind is Kind.TEXTED and event.body["by"] == "agent":
        live.unanswered_ms = 0
    elif event.kind is Kind.TEXTED and event.body["by"] == "caller":
        values = {**live.state.values, "message": event.body["words"]}
        live.state = live.state._replace(values=values)
        live.unanswered_ms = live.unanswered_ms or event.at_ms


def _hears(live: Live, event: Happening) -> None:
    """What a contact hears after an event of its story."""
    if event.kind is Kind.HEARD and not live.text:
        live.playing = {
            "take": event.body["take"], "since_ms": event.at_ms,
            "length_ms": event.body["length_ms"], "step": event.body["step"],
            "spoken": event.body.get("spoken"),
        }  # fmt: skip
    elif event.kind in (Kind.QUEUED, Kind.LISTENS, Kind.RECORDS, Kind.RINGS_OUT, Kind.MUSIC):
        live.playing = None


def _revived_callback(engine: Engine, story: list[Happening]) -> Live:
    """A callback from its events; one that an agent was ringing for stands in line again."""
    live = callbacks.revived(engine, story[0])
    back = callbacks.back_of(live)
    for event in story:
        if event.kind is Kind.CALLS_BACK:
            back.tried = event.body["attempt"]
        elif event.kind is Kind.NOT_REACHED:
            back.next_ms = event.body["next_ms"]
        elif event.kind is Kind.ANSWERED:
            live.taken_by(event.agent)
            live.state = live.state._replace(phase="with_person")
    return live


def _take_up_agent(engine: Engine, event: Happening, now_ms: int) -> None:
    """An agent as they were; what rang rings anew, and who was with nobody is free."""
    body = event.body
    status, contact, queue, due_ms = Status(body["status"]), event.contact, body["queue"], None
    reason, asked = body["reason"], body.get("next")
    live = engine.contacts.get(contact)
    with_contact = live is not None and live.state.phase == "with_person"
    if status is Status.RINGING or (status is Status.ON_CONTACT and not with_contact):
        # What they asked for while on a contact that is gone is theirs now.
        status, contact, queue = Status.AVAILABLE, "", ""
        if asked:
            status, reason, asked = Status(asked[0]), asked[1], None
    else:
        due_ms = body["due_ms"]
    others = _others(engine, event)
    if body.get("stand_in"):
        engine.stood_in.add(event.agent)
    engine.router.restore_agent(
        e.AgentChanged(
            event.agent, status, reason, contact, queue, body["since_ms"], due_ms, others,
            (Status(asked[0]), asked[1]) if asked else None,
            body.get("handled", 0) if event.at_ms >= engine.day_begins_ms else 0,
            tuple((name, line) for name, line in body.get("to_wrap", ())),
        )
    )  # fmt: skip
    held = [(live.id, queue)] if status is Status.ON_CONTACT and live is not None else []
    for name, line in (*held, *others):
        _connected(engine, engine.contacts[name], line, event.agent)
    engine.restored(event.agent, now_ms)


def _others(engine: Engine, event: Happening) -> tuple[tuple[str, str], ...]:
    """The texts that an agent has besides the contact in hand, those that are over left out."""
    found = ((contact, queue) for contact, queue in event.body.get("others", ()))
    return tuple(
        (contact, queue)
        for contact, queue in found
        if contact in engine.contacts and engine.contacts[contact].agent == event.agent
    )


def _connected(engine: Engine, live: Live, queue: str, agent: str) -> None:
    engine.router.restore_connected(
        live.id, queue, agent, live.entered_ms, text=live.text, inner=live.aside is not None
    )
