"""Taking over what a version without the rows of `callcore.centre.standing` left: contacts from the
events, each of which held the state after it. Used once for a site, while it has no rows yet.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from typing import Any, NamedTuple

from django.db import InterfaceError, OperationalError

from callcore.centre.contact import CallbackState, Consultation, Contact
from callcore.centre.handlers import callbacks, effects
from callcore.centre.handlers.call_control import watch_reply
from callcore.centre.handlers.outside import redial
from callcore.centre.setup import RunnableFlow
from callcore.centre.site import Site
from callcore.events import Happening, Kind, facts, read
from callcore.flow import runner
from callcore.flow.definition import Flow as DefinedFlow
from callcore.flow.steps import WaitInQueue
from callcore.routing import events as e
from callcore.routing.events import Status
from callcore.talk.conversation import Talk

log = logging.getLogger(__name__)
#: How long a talk goes on that a stop of the exchange cut off from its line.
_TALK_MS = 30_000

FlowOf = Callable[[dict[str, Any]], RunnableFlow]


class Written(NamedTuple):
    """An event as it stands in the journal, with the keys of its time."""

    at_ms: int
    kind: Kind
    contact: str
    agent: str
    body: dict[str, Any]


def take_over(
    site: Site,
    today: Iterable[Happening],
    stories: dict[str, list[Written]],
    agents: list[Written],
    flow_of: FlowOf,
    now_ms: int,
) -> None:
    """Bring the site to where the journal ends.

    Args:
        today: the stream since the centre's midnight, or since the oldest open contact arrived,
            for the figures.
        stories: the events of every open contact.
        agents: the last state of every agent.
        flow_of: the script named in an ARRIVED event's body.
    """
    # What a contact heard stands in the journal: the start of its script is not asked for hours.
    lives = _revive_all(site, stories, flow_of, now_ms)
    for live in lives:
        site.add(live)
    joined: dict[str, int] = {}
    for number, event in enumerate(today):
        site.absorb(event)
        if isinstance(event.fact, facts.Queued | facts.Booked):
            joined[event.contact] = number
    for live in lives:
        story = stories[live.id]
        live.log = [read(*event) for event in story]
    for state in agents:
        with site.surviving("", f"taking up the state of agent {state.agent}", now_ms):
            _take_up_agent(site, state, now_ms)
    waiting = [live for live in lives if live.state.phase == "queued"]
    for live in sorted(waiting, key=lambda live: (live.entered_ms, joined.get(live.id, 0))):
        with site.surviving(live.id, "taking up a place in a queue", now_ms):
            _rejoin(site, live, now_ms)
    for live in lives:
        with site.surviving(live.id, "taking up a contact", now_ms):
            _go_on(site, live, now_ms)
    site.advance(now_ms)
    site.touched |= {*site.contacts, *site.router.agents}
    # Whoever watches was told by the run before: tell them how things stand now.
    site.dirty |= {f"call.{live.id}" for live in lives}
    site.dirty |= {f"desk.{agent_id}" for agent_id in site.router.agents}
    site.dirty |= {f"flow.{flow_id}" for flow_id in site.setup.flows}


def _revive_all(site: Site, stories: dict[str, list[Written]], flow_of: FlowOf, now_ms: int) -> list[Contact]:
    """Every open contact. One whose story cannot be read is over: no other waits for it."""
    lives = []
    for name, story in stories.items():
        try:
            live = _revive(site, story, flow_of)
            if live.state.plan:
                _take_up_plan(site, live.state.plan, flow_of)
            lives.append(live)
        except (OperationalError, InterfaceError):
            raise
        except Exception as error:  # noqa: BLE001  whatever it is: it stays with this contact
            site.broke(name, f"reading the story of contact {name}", error, now_ms)
            site.emit(facts.Ended("", "failed"), now_ms, contact=name)
    return lives


def _go_on(site: Site, live: Contact, now_ms: int) -> None:
    """What is due for a contact, and what it does outside."""
    if live.callback is not None and live.state.phase == "with_person":
        _callback_taken_up(site, live, now_ms)
    if live.agent and live.text:
        watch_reply(site, live)
    if live.talk.notice:
        site.timers.set(now_ms, "records", live.id)
    if live.state.phase in _DUE or live.state.inner is not None:
        site.timers.set(live.state.due_ms, "contact", live.id)
    if live.state.phase in ("ringing", "outside"):
        _ring_again(site, live, now_ms)


def _take_up_plan(site: Site, key: str, flow_of: FlowOf) -> None:
    """The waiting plan of a contact, in the version that it began with."""
    scripts = site.setup.flows.values()
    in_force = next((s for s in scripts if str(s.version_id) == key), None)
    site.plans[key] = in_force or flow_of({"version_id": int(key)})


#: Phases in which something is due for a contact by its own clock.
_DUE = ("playing", "listening", "recording", "ringing", "asking")


def _revive(site: Site, story: list[Written], flow_of: FlowOf) -> Contact:
    """A contact from its events; its runner's state is the last one written."""
    first = story[0]
    if first.kind is Kind.BOOKED:
        return _revived_callback(site, story)
    body = first.body
    flow = flow_of(first.body)
    values = first.body.get("values", {})
    state, _ = flow.machine.start(first.at_ms, values)
    live = Contact(
        first.contact,
        first.body["number"],
        first.body["caller"],
        first.body["trial"],
        flow,
        state,
        first.at_ms,
        values,
        begun=body.get("begun", ""),
        placed_by=body.get("placed_by", ""),
    )
    if body.get("aside"):
        live.consultation = Consultation(body["aside"], body["by"], body["purpose"])
    for event in story:
        if event.kind is Kind.WENT_ON:
            live.flow = flow_of(event.body)
        _retrace(live, event)
        _hears(live, event)
    return live


def _retrace(live: Contact, event: Written) -> None:
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
        live.release(event.body["by"])
    elif event.kind is Kind.TEXTED and event.body["by"] == "agent":
        live.unanswered_ms = 0
    elif event.kind is Kind.TEXTED and event.body["by"] == "caller":
        values = {**live.state.values, "message": event.body["words"]}
        live.state = live.state._replace(values=values)
        live.unanswered_ms = live.unanswered_ms or event.at_ms


def _hears(live: Contact, event: Written) -> None:
    """What a contact hears after an event of its story."""
    if event.kind is Kind.HEARD and not live.text:
        live.playing = {
            "take": event.body["take"],
            "since_ms": event.at_ms,
            "length_ms": event.body["length_ms"],
            "step": event.body["step"],
            "spoken": event.body.get("spoken"),
        }
    elif event.kind in (Kind.QUEUED, Kind.LISTENS, Kind.RECORDS, Kind.RINGS_OUT, Kind.MUSIC):
        live.playing = None


def _revived_callback(site: Site, story: list[Written]) -> Contact:
    """A callback from its events; one that an agent was ringing for stands in line again."""
    live = _booked(site, story[0])
    back = callbacks.callback_of(live)
    for event in story:
        if event.kind is Kind.CALLS_BACK:
            back.tried = event.body["attempt"]
        elif event.kind is Kind.NOT_REACHED:
            back.next_ms = event.body["next_ms"]
        elif event.kind is Kind.ANSWERED:
            live.taken_by(event.agent)
            live.state = live.state._replace(phase="with_person")
    return live


def _take_up_agent(site: Site, event: Written, now_ms: int) -> None:
    """An agent as they were; what rang rings anew, and who was with nobody is free."""
    body = event.body
    status, contact, queue, due_ms = Status(body["status"]), event.contact, body["queue"], None
    reason, asked = body["reason"], body.get("next")
    live = site.contacts.get(contact)
    with_contact = live is not None and live.state.phase == "with_person"
    if status is Status.RINGING or (status is Status.ON_CONTACT and not with_contact):
        # What they asked for while on a contact that is gone is theirs now.
        status, contact, queue = Status.AVAILABLE, "", ""
        if asked:
            status, reason, asked = Status(asked[0]), asked[1], None
    else:
        due_ms = body["due_ms"]
    others = _others(site, event)
    if body.get("stand_in"):
        site.stood_in.add(event.agent)
    site.router.restore_agent(
        e.AgentChanged(
            event.agent,
            status,
            reason,
            contact,
            queue,
            body["since_ms"],
            due_ms,
            others,
            (Status(asked[0]), asked[1]) if asked else None,
            body.get("handled", 0) if event.at_ms >= site.day_begins_ms else 0,
            tuple((name, line) for name, line in body.get("to_wrap", ())),
        )
    )
    held = [(live.id, queue)] if status is Status.ON_CONTACT and live is not None else []
    for name, line in (*held, *others):
        _connected(site, site.contacts[name], line, event.agent)
    _restored(site, event.agent, now_ms)


def _others(site: Site, event: Written) -> tuple[tuple[str, str], ...]:
    """The texts that an agent has besides the contact in hand, those that are over left out."""
    found = ((contact, queue) for contact, queue in event.body.get("others", ()))
    return tuple(
        (contact, queue)
        for contact, queue in found
        if contact in site.contacts and site.contacts[contact].agent == event.agent
    )


def _connected(site: Site, live: Contact, queue: str, agent: str) -> None:
    site.router.restore_connected(
        live.id, queue, agent, live.entered_ms, text=live.text, inner=live.consultation is not None
    )


def _rejoin(site: Site, contact: Contact, now_ms: int) -> None:
    """Put a contact back into its queue, at the place its entry gives it."""
    if contact.callback is not None and not contact.served:
        _callback_taken_up(site, contact, now_ms)
        return
    site.route(effects.joining(site, contact, contact.entered_ms), now_ms)
    site.watch_wait(contact)


def _restored(site: Site, agent_id: str, now_ms: int) -> None:
    """Look after what is due for an agent; tell where the journal had another state."""
    agent = site.router.agents[agent_id]
    site.timers.set(agent.due_ms, "agent", agent_id)
    if site.spans.last(agent_id) is not agent.status:
        site.carry_out([site.router.told(agent)], now_ms)


def _ring_again(site: Site, contact: Contact, now_ms: int) -> None:
    """People who rang ring again, and so does an outside number."""
    step = contact.flow.machine.steps.get(contact.state.step)
    rings = contact.state.phase == "ringing"
    if rings and contact.state.rounds:
        due_ms, people = contact.state.due_ms or now_ms, contact.state.rounds[0]
        ring = runner.RingPerson(contact.state.step, people, due_ms)
        effects.ring_person(site, contact, ring, now_ms)
    elif rings and not getattr(step, "number", ""):
        # Written before a list of people was kept: it goes on as if nobody had answered.
        site.feed(contact, runner.Rung("no_answer"), now_ms)
    else:
        redial(site, contact, now_ms)


def _booked(site: Site, booked: Written) -> Contact:
    """The contact that a BOOKED event began."""
    body = booked.body
    waits = DefinedFlow(start="wait", steps=(WaitInQueue(id="wait", queue=f"queue:{body['queue']}"),))
    flow = site.setup.ad_hoc(waits, "Callback")
    state, _ = flow.machine.start(body["entered_ms"])
    contact = Contact(booked.contact, body["number"], body["caller"], False, flow, state, booked.at_ms)
    contact.queue = contact.home = body["queue"]
    contact.entered_ms = body["entered_ms"]
    contact.label, contact.priority = body["label"], body["priority"]
    contact.callback = CallbackState(body["origin"], body["attempts"], body["retry_ms"], 0, body["next_ms"])
    return contact


def _callback_taken_up(site: Site, contact: Contact, now_ms: int) -> None:
    """Wait for its turn again, or let a talk end as talks do."""
    if contact.state.phase == "with_person":
        site.timers.set(now_ms + _TALK_MS, "done", f"{contact.id} {contact.rings}")
        return
    due_ms = max(callbacks.callback_of(contact).next_ms, now_ms)
    site.timers.set(due_ms, "callback", contact.id)
