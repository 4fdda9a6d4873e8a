"""A voice flow's dialogues in VoiceXML 2.1 (W3C Recommendation, 2007): one dialog a stop.

What a dialog cannot decide (hours, figures, look-ups) is read from application variables
that the host sets, one for each such stop, holding the name of the exit.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from xml.etree import ElementTree as Xml

from callcore.flow.definition import (
    AnyPrompt,
    Digits,
    End,
    Flow,
    Menu,
    Message,
    Say,
    SpokenText,
)
from callcore.flow.world import World

NAMESPACE = "http://www.w3.org/2001/vxml"
LANGUAGES = {"en": "en-GB", "cy": "cy-GB"}


def write(flow: Flow, world: World) -> str:
    """The flow as a VoiceXML document."""
    language = {"xmlns": NAMESPACE, "version": "2.1", "xml:lang": LANGUAGES[flow.language]}
    root = Xml.Element("vxml", language)
    known = {step.id for step in flow.steps}
    ordered = sorted(flow.steps, key=lambda step: step.id != flow.start)
    for step in ordered:
        _DIALOGS.get(type(step), _decided)(root, step, world, known)
    failure = Xml.SubElement(root, "form", {"id": "failure-rule"})
    block = Xml.SubElement(failure, "block")
    if flow.failure_prompt is not None:
        _prompt(block, flow.failure_prompt, world)
    Xml.SubElement(block, "exit")
    Xml.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode")


def _to(target: str | None, known: set[str]) -> str:
    return f"#{target}" if target in known else "#failure-rule"


def _prompt(parent: Xml.Element, prompt: AnyPrompt, world: World) -> None:
    element = Xml.SubElement(parent, "prompt")
    if isinstance(prompt, SpokenText):
        element.set("xml:lang", LANGUAGES[prompt.language])
        element.text = prompt.text
    else:
        audio = Xml.SubElement(element, "audio", {"src": f"{prompt.sound or 'none'}.wav"})
        audio.text = world.words(prompt)


def _say(root: Xml.Element, step: Say, world: World, known: set[str]) -> None:
    block = Xml.SubElement(Xml.SubElement(root, "form", {"id": step.id}), "block")
    _prompt(block, step.prompt, world)
    Xml.SubElement(block, "goto", {"next": _to(step.next, known)})


def _menu(root: Xml.Element, step: Menu, world: World, known: set[str]) -> None:
    menu = Xml.SubElement(root, "menu", {"id": step.id})
    Xml.SubElement(menu, "property", {"name": "timeout", "value": f"{step.wait_s}s"})
    _prompt(menu, step.prompt, world)
    for arm in step.arms:
        choice = Xml.SubElement(menu, "choice", {"dtmf": arm.key, "next": _to(arm.next, known)})
        choice.text = arm.label
    wrong_tries = step.tries if step.wrong_tries is None else step.wrong_tries or None
    events = (
        ("noinput", step.no_key_prompt, step.tries, step.no_key),
        ("nomatch", step.wrong_key_prompt, wrong_tries, step.wrong_key or step.no_key),
    )
    for event, extra, tries, to in events:
        again = Xml.SubElement(menu, event)
        if extra is not None:
            _prompt(again, extra, world)
        Xml.SubElement(again, "reprompt")
        if tries is not None:
            last = Xml.SubElement(menu, event, {"count": str(tries)})
            Xml.SubElement(last, "goto", {"next": _to(to, known)})


def _digits(root: Xml.Element, step: Digits, world: World, known: set[str]) -> None:
    form = Xml.SubElement(root, "form", {"id": step.id})
    length = f"digits?minlength={step.least};maxlength={step.most}"
    field = Xml.SubElement(form, "field", {"name": step.into, "type": length})
    if step.end_key:
        Xml.SubElement(field, "property", {"name": "termchar", "value": step.end_key})
    Xml.SubElement(field, "property", {"name": "timeout", "value": f"{step.wait_s}s"})
    _prompt(field, step.prompt, world)
    for event in ("noinput", "nomatch"):
        last = Xml.SubElement(field, event, {"count": str(step.tries)})
        Xml.SubElement(last, "goto", {"next": _to(step.no_digits, known)})
    filled = Xml.SubElement(field, "filled")
    Xml.SubElement(filled, "assign", {"name": f"application.{step.into}", "expr": step.into})
    Xml.SubElement(filled, "goto", {"next": _to(step.next, known)})


def _message(root: Xml.Element, step: Message, world: World, known: set[str]) -> None:
    form = Xml.SubElement(root, "form", {"id": step.id})
    facts = world.mailboxes.get(step.mailbox or "")
    longest = f"{(facts.longest_ms if facts else 120_000) // 1000}s"
    record = Xml.SubElement(form, "record", {
        "name": "message", "beep": "true", "maxtime": longest, "dtmfterm": "true",
    })  # fmt: skip
    filled = Xml.SubElement(record, "filled")
    if step.thanks is not None:
        _prompt(filled, step.thanks, world)
    Xml.SubElement(filled, "exit", {"namelist": "message"})


def _end(root: Xml.Element, step: End, world: World, known: set[str]) -> None:
    block = Xml.SubElement(Xml.SubElement(root, "form", {"id": step.id}), "block")
    if step.prompt is not None:
        _prompt(block, step.prompt, world)
    Xml.SubElement(block, "exit")


def _decided(root: Xml.Element, step: Any, world: World, known: set[str]) -> None:
    """A stop that the host decides: it goes on by the exit that the host names."""
    block = Xml.SubElement(Xml.SubElement(root, "form", {"id": step.id}), "block")
    ways = step.exits()
    if not ways:
        Xml.SubElement(block, "exit")
        return
    name = "application.exit_" + "".join(c if c.isalnum() else "_" for c in step.id)
    choice = Xml.SubElement(block, "if", {"cond": f"{name} == '{ways[0].name}'"})
    Xml.SubElement(choice, "goto", {"next": _to(ways[0].to, known)})
    for way in ways[1:]:
        Xml.SubElement(choice, "elseif", {"cond": f"{name} == '{way.name}'"})
        Xml.SubElement(choice, "goto", {"next": _to(way.to, known)})
    Xml.SubElement(choice, "else")
    Xml.SubElement(choice, "exit")


_DIALOGS: dict[type, Callable[[Xml.Element, Any, World, set[str]], None]] = {
    Say: _say,
    Menu: _menu,
    Digits: _digits,
    Message: _message,
    End: _end,
}
