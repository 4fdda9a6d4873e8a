"""A flow as a state machine in SCXML (W3C Recommendation, 2015): one state a stop."""

from __future__ import annotations

import json
import re
from xml.etree import ElementTree as Xml

from callcore.flow import describe
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyStep, Flow
from callcore.flow.fates import OWN_ARMS
from callcore.flow.xml_names import Names, clean, document, token

NAMESPACE = "http://www.w3.org/2005/07/scxml"


def write(flow: Flow, name: str, catalogue: Catalogue) -> str:
    """The flow as an SCXML document; exits are events, named as in the definition.

    Each state logs what the stop is and says: its expressions are ECMAScript strings.
    """
    names = Names(step.id for step in flow.steps)
    #: Where the failure rule ends a call.
    failed = names.new("failure-rule")
    ended = {step.id: names.new(f"{names.of(step.id)}-{own}") for step, own in _owned(flow)}
    root = Xml.Element(
        "scxml",
        {"xmlns": NAMESPACE, "version": "1.0", "datamodel": "ecmascript", "name": token(name, "flow")},
    )
    root.set("initial", names.of(flow.start, failed))
    for step in flow.steps:
        state = Xml.SubElement(root, "final" if step.kind == "end" else "state")
        state.set("id", names.of(step.id))
        entry = Xml.SubElement(state, "onentry")
        said = _string(_words(step, catalogue))
        Xml.SubElement(entry, "log", {"label": step.kind, "expr": said})
        for way in step.exits():
            Xml.SubElement(
                state, "transition", {"event": _event(way.name), "target": names.of(way.to, failed)}
            )
        if step.id in ended:
            event = OWN_ARMS[step.kind]
            Xml.SubElement(state, "transition", {"event": event, "target": ended[step.id]})
    for final in (*ended.values(), failed):
        Xml.SubElement(root, "final", {"id": final})
    return document(root)


def _owned(flow: Flow) -> list[tuple[AnyStep, str]]:
    return [(step, OWN_ARMS[step.kind]) for step in flow.steps if step.kind in OWN_ARMS]


def _words(step: AnyStep, catalogue: Catalogue) -> str:
    """What a stop is, and the whole of what it says."""
    words = describe.stop(step, catalogue)
    said = [text for prompt in step.prompts() if (text := catalogue.words(prompt))]
    return f"{words.title}: {' / '.join(said) or words.sentence}"


def _event(exit_name: str) -> str:
    """`key.1`, `key.star`: event names hold letters, figures, - and dots."""
    spelled = exit_name.replace(":", ".").replace("*", "star").replace("#", "hash")
    return re.sub(r"[^A-Za-z0-9_.-]+", "-", spelled)


def _string(text: str) -> str:
    """A text as an ECMAScript string literal."""
    return json.dumps(clean(text))
