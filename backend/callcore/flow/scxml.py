"""A flow as a state machine in SCXML (W3C Recommendation, 2015): one state a stop."""

from __future__ import annotations

from xml.etree import ElementTree as Xml

from callcore.flow import describe
from callcore.flow.definition import Flow
from callcore.flow.fates import OWN_ARMS
from callcore.flow.world import World

NAMESPACE = "http://www.w3.org/2005/07/scxml"
#: Where the failure rule ends a call.
FAILED = "failure-rule"


def write(flow: Flow, name: str, world: World) -> str:
    """The flow as an SCXML document; exits are events, named as in the definition."""
    root = Xml.Element("scxml", {"xmlns": NAMESPACE, "version": "1.0", "name": _token(name)})
    known = {step.id for step in flow.steps}
    root.set("initial", flow.start if flow.start in known else FAILED)
    for step in flow.steps:
        words = describe.stop(step, world)
        if step.kind == "end":
            state = Xml.SubElement(root, "final", {"id": step.id})
        else:
            state = Xml.SubElement(root, "state", {"id": step.id})
        entry = Xml.SubElement(state, "onentry")
        said = f"{words.title}: {words.sentence}"
        Xml.SubElement(entry, "log", {"label": step.kind, "expr": _string(said)})
        for way in step.exits():
            target = way.to if way.to in known else FAILED
            Xml.SubElement(state, "transition", {"event": _event(way.name), "target": target})
        own = OWN_ARMS.get(step.kind)
        if own is not None:
            Xml.SubElement(state, "transition", {"event": own, "target": f"{step.id}-{own}"})
    for step in flow.steps:
        own = OWN_ARMS.get(step.kind)
        if own is not None:
            Xml.SubElement(root, "final", {"id": f"{step.id}-{own}"})
    Xml.SubElement(root, "final", {"id": FAILED})
    Xml.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode")


def _event(exit_name: str) -> str:
    """`key.1`, `key.star`: event names hold no * and no #."""
    return exit_name.replace(":", ".").replace("*", "star").replace("#", "hash")


def _token(name: str) -> str:
    return "-".join("".join(c if c.isalnum() else " " for c in name).split()) or "flow"


def _string(text: str) -> str:
    """A text as an ECMAScript string literal."""
    plain = text.replace("\\", "\\\\").replace("'", "\\'").replace("\n", " ")
    return f"'{plain}'"
