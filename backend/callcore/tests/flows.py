"""Flows that the core's tests share."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from callcore.flow.catalogue import Catalogue, HoursFacts, QueueFacts
from callcore.flow.definition import (
    CheckHours,
    End,
    Flow,
    Menu,
    MenuArm,
    Say,
    SpokenText,
    WaitInQueue,
    dump,
    load,
)

BOOKINGS = "queue:bookings"
OFFICE = "hours:office"
WORLD = Catalogue(
    queues={BOOKINGS: QueueFacts("Bookings", True, 2, 900)}, hours={OFFICE: HoursFacts("Office hours", True)}
)


def text(words: str) -> SpokenText:
    return SpokenText(text=words)


def main_line(**changes: object) -> Flow:
    """Greeting, a menu of two keys, a queue, a farewell: nothing wrong with it."""
    flow = Flow(
        start="hello",
        steps=(
            Say(id="hello", prompt=text("Thank you for calling Ostrel Island Ferries."), next="menu"),
            Menu(
                id="menu",
                name="Main menu",
                prompt=text("For bookings, press 1. For today's sailings, press 2."),
                arms=(
                    MenuArm(key="1", label="Bookings", next="wait"),
                    MenuArm(key="2", label="Sailing today", next="bye"),
                ),
                no_key="bye",
            ),
            WaitInQueue(id="wait", queue=BOOKINGS, waited="bye"),
            End(id="bye", label="Sailings heard", prompt=text("All boats sail today.")),
        ),
    )
    return flow.model_copy(update=changes)


def with_hours(**changes: object) -> Flow:
    """The main line behind a Check hours."""
    flow = main_line()
    check = CheckHours(id="open", hours=OFFICE, open="hello", closed="bye")
    steps = (check.model_copy(update=changes), *flow.steps)
    return flow.model_copy(update={"start": "open", "steps": steps})


def with_step(flow: Flow, step_id: str, **changes: object) -> Flow:
    """The same flow with one step changed."""
    steps = tuple(s.model_copy(update=changes) if s.id == step_id else s for s in flow.steps)
    return flow.model_copy(update={"steps": steps})


def short_line(queue_id: Any) -> dict[str, Any]:
    """A sound flow: greeting, one key to a queue, another to an ending."""
    words = {"kind": "text", "language": "en"}
    return dump(
        load(
            {
                "start": "hello",
                "steps": [
                    {"kind": "say", "id": "hello", "prompt": {**words, "text": "Hello."}, "next": "menu"},
                    {
                        "kind": "menu",
                        "id": "menu",
                        "no_key": "bye",
                        "wait_s": 5,
                        "tries": 1,
                        "prompt": {**words, "text": "For bookings, press 1."},
                        "arms": [{"key": "1", "label": "Bookings", "next": "wait"}],
                    },
                    {"kind": "queue", "id": "wait", "queue": f"queue:{queue_id}", "waited": "bye"},
                    {"kind": "end", "id": "bye"},
                ],
            }
        )
    )


def patched(flow: Flow, patch: Iterable[Mapping[str, Any]]) -> Flow:
    """Apply the few operations that fixes use (add, replace, remove)."""
    data: Any = dump(flow)
    for change in patch:
        *path, last = change["path"].strip("/").split("/")
        place = data
        for part in path:
            place = place[int(part)] if isinstance(place, list) else place[part]
        if isinstance(place, list):
            if change["op"] == "remove":
                place.pop(int(last))
            else:
                place.append(change["value"])
        else:
            place[last] = change["value"]
    return load(data)
