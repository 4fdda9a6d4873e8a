"""A contact while it is with an agent: on hold or not, and a colleague's call beside it.

Plain data; `allowed` says what may be done with it, and `refuse` says why something may not.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from callcore.errors import EventRefused


class Talk(NamedTuple):
    """How a contact stands with its agent.

    `held`: the caller hears music. `consult`: the contact by which the agent speaks with a
    colleague or an outside number, and `purpose` why: `consult`, `help` or `emergency`. `joined`:
    all speak with each other. `recording`: it is being recorded; `notice`: it will be, once the
    caller has heard so.
    """

    held: bool = False
    consult: str = ""
    purpose: str = ""
    joined: bool = False
    recording: bool = False
    notice: bool = False


class Circumstances(NamedTuple):
    """What else decides over what may be done.

    `text`: it writes. `consult`: it is itself a colleague's question. `calling`: a callback whose
    caller has not answered yet. `answered`: whom the agent asks has answered. `help`,
    `emergency`: the agent's rules name somebody. `record`: the queue lets agents record.
    `by_text`: it can go on in writing.
    """

    text: bool = False
    consult: bool = False
    calling: bool = False
    answered: bool = False
    help: bool = False
    emergency: bool = False
    record: bool = False
    by_text: bool = False


class _Rule(NamedTuple):
    holds: Callable[[Talk, Circumstances], bool]
    words: str


def _plain(talk: Talk, facts: Circumstances) -> bool:
    return not facts.consult and not facts.calling


def _call(talk: Talk, facts: Circumstances) -> bool:
    return _plain(talk, facts) and not facts.text


#: When each action may be done, and the words that refuse it.
_RULES: dict[str, _Rule] = {
    "hold": _Rule(
        lambda t, f: _call(t, f) and not t.held and not t.joined, "This contact cannot be put on hold now."
    ),
    "resume": _Rule(lambda t, f: _call(t, f) and t.held, "This contact is not on hold."),
    "transfer": _Rule(
        lambda t, f: _plain(t, f) and not t.consult,
        "End what you began with your colleague before you transfer the contact.",
    ),
    "consult": _Rule(
        lambda t, f: _call(t, f) and not t.consult, "A call can be talked over with one colleague at a time."
    ),
    "put_through": _Rule(
        lambda t, f: bool(t.consult) and f.answered, "Nobody has answered yet whom to put through to."
    ),
    "join": _Rule(
        lambda t, f: bool(t.consult) and f.answered and not t.joined,
        "Nobody has answered yet who could join.",
    ),
    "end_consult": _Rule(lambda t, f: bool(t.consult), "There is no colleague to end it with."),
    "help": _Rule(
        lambda t, f: f.help and _plain(t, f) and not t.consult,
        "Your handling rules name nobody to call for help.",
    ),
    "emergency": _Rule(
        lambda t, f: f.emergency and _call(t, f) and t.purpose != "emergency",
        "Your handling rules have no emergency button.",
    ),
    "record": _Rule(
        lambda t, f: f.record and _call(t, f) and not (t.recording or t.notice),
        "This queue’s calls are not recorded by hand.",
    ),
    "stop_recording": _Rule(
        lambda t, f: f.record and (t.recording or t.notice), "You cannot stop the recording of this call."
    ),
    "by_text": _Rule(lambda t, f: f.by_text and _call(t, f), "This queue has no number to go on in writing."),
    "end": _Rule(
        lambda t, f: not t.consult or t.joined,
        "You are speaking with a colleague: put the caller through, or end that first.",
    ),
}


def allowed(talk: Talk, facts: Circumstances) -> list[str]:
    """What may be done with a contact now."""
    return [action for action, rule in _RULES.items() if rule.holds(talk, facts)]


def refuse(action: str, talk: Talk, facts: Circumstances) -> None:
    """Let an action pass that may be done.

    Raises:
        EventRefused: it may not; the text says why.
    """
    rule = _RULES[action]
    if not rule.holds(talk, facts):
        raise EventRefused("not-now", rule.words)
