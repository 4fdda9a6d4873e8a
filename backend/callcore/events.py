"""The one stream of events: the exchange writes it, every figure is folded from it.

Bodies are plain JSON data; the keys are named beside each kind. Contacts and
agents are named by id. `at_ms` is milliseconds since the epoch.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Any, NamedTuple


class Kind(StrEnum):
    """What can happen."""

    #: number, caller, flow, version, trial; aside (the contact that a colleague is asked about);
    #: begun (by an agent, not by the caller)
    ARRIVED = "contact.arrived"
    #: step, exit, to, why, detail, words, run
    MOVED = "contact.moved"
    #: step, role, prompt, length_ms, words, run
    HEARD = "contact.heard"
    #: step, until_ms, run
    LISTENS = "contact.listens"
    #: step, key
    KEYED = "contact.keyed"
    #: step, words, meant (the keys that they were taken for, or none)
    SPOKEN = "contact.spoken"
    #: by (`caller` or `agent`), words
    TEXTED = "contact.texted"
    #: queue, step, staff, plan, run
    QUEUED = "contact.queued"
    #: queue, entered_ms, why
    LEFT_QUEUE = "contact.left_queue"
    #: diversion, words
    DIVERTED = "contact.diverted"
    #: flow, flow_name, version, version_id, run
    WENT_ON = "contact.went_on"
    #: step, number, until_ms, run
    RINGS_OUT = "contact.rings_out"
    #: step, number, result, run
    RANG_OUT = "contact.rang_out"
    #: step, person, name, until_ms, run
    RINGS_PERSON = "contact.rings_person"
    #: step, until_ms, run
    MUSIC = "contact.music"
    #: step, table, key, run
    LOOKS_UP = "contact.looks_up"
    #: step, label, priority
    LABELLED = "contact.labelled"
    #: step, mailbox, until_ms, run
    RECORDS = "contact.records"
    #: step, mailbox, length_ms
    MESSAGE_LEFT = "contact.message_left"
    #: origin, queue, number, caller, entered_ms, attempts, retry_ms, next_ms, label, priority, flow
    BOOKED = "callback.booked"
    #: queue, number, attempt
    CALLS_BACK = "callback.calls"
    #: queue, result, next_ms
    NOT_REACHED = "callback.not_reached"
    #: ending, by
    ENDED = "contact.ended"
    #: queue, until_ms, rule, considered
    RANG = "leg.rang"
    #: queue, why
    RING_STOPPED = "leg.ring_stopped"
    #: queue, entered_ms, callback, transferred (from another agent), begun (by the agent)
    ANSWERED = "leg.answered"
    #: on, talk
    HELD = "talk.held"
    #: side (the contact with the colleague), words, purpose, talk
    CONSULTS = "talk.consults"
    #: words, talk
    JOINED = "talk.joined"
    #: words, talk
    SIDE_OVER = "talk.side_over"
    #: on, told (`notice`, `tone`, `nothing`), by, talk
    RECORDS_TALK = "talk.recording"
    #: words, to
    TRANSFERRED = "talk.transferred"
    #: words
    EMERGENCY = "talk.emergency"
    #: words (who has taken it)
    EMERGENCY_TAKEN = "talk.emergency_taken"
    #: number, result (`rings`, `answered`, `busy`, `failed`, `closed`)
    LINE = "agent.line"
    #: queue, by
    LEG_ENDED = "leg.ended"
    #: queue, code, name
    CODED = "leg.coded"
    #: status, reason, queue, since_ms, due_ms, others
    AGENT = "agent.changed"


class Happening(NamedTuple):
    """One event of the stream, in its order."""

    at_ms: int
    kind: Kind
    contact: str
    agent: str
    body: dict[str, Any]
