"""What a supervisor may do with a contact that an agent has, and what it does to those who speak.

Plain data; the words are for people, and say it before it is done.
"""

from __future__ import annotations

from typing import NamedTuple

from callcore.errors import EventRefused

#: How a supervisor attends a contact, from the least to the most.
HOW = ("listens", "coaches", "joins", "has")
#: What each act makes of it.
ACTS = {"listen": "listens", "coach": "coaches", "join": "joins", "take_over": "has"}


class Attended(NamedTuple):
    """What decides. `agent`, `speaker`: the names of whoever has the contact, and of another
    supervisor who speaks there. `text`: it writes. `consult`: it is a colleague's question.
    `calling`: a callback whose caller has not answered yet. `how`: as what they attend it now;
    empty for not."""

    agent: str
    text: bool = False
    consult: bool = False
    calling: bool = False
    speaker: str = ""
    how: str = ""


def refuse_act(act: str, at: Attended) -> None:
    """Let an act pass that may be done.

    Raises:
        EventRefused: it may not, and why.
    """
    words = _why_not(act, at)
    if words:
        raise EventRefused("not-now", words)


def _why_not(act: str, at: Attended) -> str:
    if at.how == ACTS[act]:
        return "You do so already."
    if at.consult:
        return "Two colleagues speak with each other: attend the caller’s contact instead."
    if at.calling:
        return "The caller has not answered yet."
    if at.text and act in ("coach", "join"):
        return "A text is written, not spoken: read along, or take it over by sending it on."
    if at.text and act == "take_over":
        return "A text cannot be taken over: have the agent send it on."
    if at.speaker and act != "listen":
        return f"{at.speaker} speaks there already."
    return ""


def what_may(at: Attended) -> dict[str, str]:
    """The acts that may be done now, each with what it does."""
    return {act: _said(act, at.agent) for act in ACTS if not _why_not(act, at)}


def _said(act: str, agent: str) -> str:
    return {
        "listen": "You hear everybody. Nobody hears you, and nobody is told.",
        "coach": f"Only {agent} hears you, and sees that you are there.",
        "join": f"Everybody hears you, and {agent} sees that you are there.",
        "take_over": f"{agent}’s part ends and is wrapped up. You have the caller then.",
    }[act]
