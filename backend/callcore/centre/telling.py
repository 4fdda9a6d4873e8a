"""A contact's events in words, as they are made when somebody reads: from the version that ran, and
by the names that things have by then."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Protocol

from callcore.centre.setup import RunnableFlow
from callcore.centre.why_rung import Shows, why_rung
from callcore.events import Happening, facts
from callcore.events.facts import Fact
from callcore.flow.blocks import plain
from callcore.flow.describe import prompt_words, sample
from callcore.flow.state import WITHIN, Moved
from callcore.flow.why import why

Line = dict[str, Any]
#: The flow in which a contact arrived, or went on; None where it is not known any more.
FlowOf = Callable[[facts.Arrived | facts.WentOn], RunnableFlow | None]
#: A waiting plan, by the key of its version.
PlanOf = Callable[[str], RunnableFlow | None]


class Names(Protocol):
    """What things are called."""

    def name_of(self, reference: str, /) -> str | None:
        """The name of what a reference leads to, or a number as people write it."""

    def code_name(self, code: str, /) -> str:
        """The name of a wrap-up code."""


class Story:
    """The lines of a contact, one event after another.

    Args:
        shows: of which agents it is told how they stood when somebody was rung; of the others how
            many.
    """

    def __init__(self, names: Names, flow_of: FlowOf, plan_of: PlanOf, shows: Shows) -> None:
        self._names = names
        self._shows = shows
        self._flow_of = flow_of
        self._plan_of = plan_of
        self._flow: RunnableFlow | None = None
        self._at_ms = 0

    def lines(self, events: Iterable[Happening]) -> list[Line]:
        """Every event as a line: its fact by field, and its words."""
        return [self.line(event) for event in events]

    def line(self, event: Happening) -> Line:
        """The next event."""
        fact, self._at_ms = event.fact, event.at_ms
        if isinstance(fact, facts.Arrived | facts.WentOn):
            self._flow = self._flow_of(fact)
        tell = _TELL.get(type(fact))
        return {
            "at_ms": event.at_ms,
            "kind": str(event.kind),
            "agent": event.agent,
            **{k: v for k, v in fact._asdict().items() if k not in _NOT_SHOWN},
            **(tell(self, fact) if tell else {}),
        }

    def name(self, reference: str) -> str:
        """What is meant by a reference, or a number."""
        return (self._names.name_of(reference) or "") if reference else ""

    def moved(self, moved: facts.Moved) -> Line:
        """Why an exit was taken, and the stop that it led to."""
        flow = self._plan_of(moved.plan_version) if moved.plan else self._flow
        if flow is None:
            return {"words": moved.told, "title": "", "sentence": ""}
        step, exit_name = moved.inner or (moved.step, moved.exit)
        to = moved.to
        if moved.plan:
            step = step.partition(WITHIN)[2]
            to = to.partition(WITHIN)[2] if to else None
        ran = Moved(step, exit_name, to, moved.why, moved.detail)
        led = flow.step_words(to or "")
        return {
            "words": moved.told or plain(why(ran, flow.machine.flow)),
            "title": led.title if led else "",
            "sentence": led.sentence if led else "",
        }

    def heard(self, heard: facts.Heard) -> Line:
        """What was heard, the beginning of it; or what was read."""
        flow = self._flow
        if heard.text or flow is None:
            texts = flow is not None and flow.machine.flow.channel == "text"
            return {"words": heard.text if texts or heard.role == "notice" else sample(heard.text)}
        stop, _, inner = heard.step.partition(WITHIN)
        plan = self._plan_of(heard.plan_version) if inner else None
        found = (plan or flow).prompt_of(inner or stop, heard.role)
        return {"words": prompt_words(found, flow.catalogue) if found is not None else ""}

    def rings(self, ring: facts.RingsPerson) -> Line:
        """Who is rung, with their group."""
        names = ", ".join(name for person in ring.people if (name := self.name(person)))
        group = self.name(ring.group)
        return {"words": f"{group} ({names})" if group else names}

    def rang(self, rang: facts.Rang) -> Line:
        """Why it was this agent."""
        return {**why_rung(rang, self._at_ms, self._names.name_of, self._shows)}

    def code(self, coded: facts.Coded) -> Line:
        """The code by its name."""
        return {"name": self._names.code_name(coded.code) if coded.code else ""}


_NOT_SHOWN = frozenset(
    {
        "values",
        "definition",
        "blocks",
        "inner",
        "told",
        "plan_version",
        "user",
        "queues",
        "weighed",
        "unnamed",
    }
)


def _named(field: str) -> Callable[[Story, Any], Line]:
    return lambda story, fact: {"words": story.name(getattr(fact, field))}


_TELL: Mapping[type[Fact], Callable[[Story, Any], Line]] = {
    facts.Moved: Story.moved,
    facts.Heard: Story.heard,
    facts.RingsPerson: Story.rings,
    facts.Rang: Story.rang,
    facts.Coded: Story.code,
    facts.Diverted: lambda s, f: {"words": " → ".join(w for w in (f.reason, s.name(f.to)) if w)},
    facts.WentOn: lambda _, f: {"words": f.flow_name},
    facts.RingsOut: _named("number"),
    facts.Music: _named("sound"),
    facts.Records: _named("mailbox"),
    facts.MessageLeft: lambda s, f: {"words": s.name(f"mailbox:{f.mailbox}")},
    facts.Booked: _named("caller"),
    facts.CallsBack: _named("number"),
    facts.Consults: _named("to"),
    facts.Joined: lambda s, f: {"words": s.name(f"agent:{f.colleague}" if f.colleague else f.to)},
    facts.ConsultOver: _named("to"),
    facts.Transferred: _named("to"),
    facts.Emergency: _named("to"),
    facts.EmergencyTaken: lambda _, f: {"words": f.by},
    facts.Attends: lambda _, f: {"words": f.by},
    facts.TakenOver: lambda _, f: {"words": f.by},
    facts.GivenBack: lambda s, f: {"words": f.by, "to": s.name(f.to)},
    facts.Steered: lambda s, f: {
        "words": f.by,
        "to": ", ".join(s.name(f"queue:{queue}") for queue in f.queues),
    },
}
