"""What a contact hears while nobody speaks with it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from callcore.flow.inputs import resolved
from callcore.flow.steps import Music, Queue
from callcore.waiting.music import Places, heard

if TYPE_CHECKING:
    from exchange.live.contact import Live
    from exchange.live.engine import Engine


def music_take(engine: Engine, contact: Live) -> int | None:
    """The recording of the hold music that counts for a contact now; None for the built-in one."""
    machine = contact.script.machine
    facts = engine.config.world.sounds.get(music_of(engine, contact))
    # A sound that is gone, or was never recorded, is music all the same.
    return (facts.heard(machine.flow.language).take or None) if facts else None


def music_of(engine: Engine, contact: Live) -> str:
    """The sound that counts as a contact's hold music now, or empty."""
    state, machine = contact.state, contact.script.machine
    plan = engine.plans.get(state.plan or contact.plan) if state.inner is not None else None
    inner = plan.machine.steps.get(state.inner.step) if plan and state.inner else None
    outer = machine.steps.get(state.step)
    stops = [stop.sound for stop in (inner, outer) if isinstance(stop, Music)]
    stops += [outer.music] if isinstance(outer, Queue) else []
    flows = [plan.machine.flow.music if plan else None, machine.flow.music]
    queue = engine.config.queues.get(contact.home)
    places = Places(
        _first(contact, stops), _first(contact, flows), queue.music if queue else None,
        engine.config.music,
    )  # fmt: skip
    return heard(places)


def _first(contact: Live, sounds: list[str | None]) -> str | None:
    return next((found for s in sounds if s and (found := resolved(s, contact.state.values))), None)
