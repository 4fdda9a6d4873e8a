"""What machines and queues ask while they run: figures, places in line, waiting plans, staff."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from callcore.flow import runner
from callcore.routing.events import Status
from numbers_app.plan import NotANumber, read

if TYPE_CHECKING:
    from callcore.routing.choosing import Agent
    from exchange.live.engine import Engine


_BUSY = (Status.RINGING, Status.ON_CONTACT, Status.WRAPPING)


def around(engine: Engine) -> runner.Around:
    """What a machine of this site asks."""
    config = engine.config
    return runner.Around(
        config.open_at, config.mailbox, partial(figure, engine), config.dial, config.people,
        partial(_plan, engine), partial(_plan_machine, engine), partial(place, engine), _outside,
        partial(_then, engine), partial(_group, engine), config.world.silence_ends,
    )  # fmt: skip


def _plan(engine: Engine, queue: str, plan: str | None) -> str:
    """The key of the waiting plan that counts: the step's, else the queue's."""
    known = engine.config.queues.get(queue.partition(":")[2])
    wanted = plan.partition(":")[2] if plan else known.plan if known else ""
    script = engine.config.scripts.get(wanted)
    if script is None or script.machine.flow.purpose != "plan":
        return ""
    key = str(script.version_id)
    engine.plans[key] = script
    return key


def _then(engine: Engine, queue: str, way: str) -> str:
    known = engine.config.queues.get(queue.partition(":")[2])
    return known.sends(way) if known is not None else ""


def _group(engine: Engine, reference: str) -> runner.GroupRule | None:
    """Whom a ring group rings for a caller who comes now."""
    group = engine.config.groups.get(reference.partition(":")[2])
    if group is None:
        return None
    at_work = (engine.router.agents.get(person) for person in group.people)
    busy = group.when_busy == "busy" and any(a is not None and a.status in _BUSY for a in at_work)
    return group.rule(engine.turns.get(group.id, ""), busy=busy)


def _plan_machine(engine: Engine, key: str) -> runner.Machine | None:
    script = engine.plans.get(key)
    return script.machine if script else None


def place(engine: Engine, reference: str) -> runner.Place | None:
    """Where the contact that is being run stands in a queue, or would stand."""
    queue = reference.partition(":")[2]
    if queue not in engine.config.queues:
        return None
    line = [w for w in engine.router.waiting(queue) if not w.connected]
    at = next((i for i, w in enumerate(line) if w.id == engine.serving), len(line))
    waited_ms = engine.now_ms - line[at].entered_ms if at < len(line) else 0
    served = engine.contacts.get(engine.serving)
    able = engine.router.at_work_for(queue, served.asks if served else ())
    expected = engine.waits.expected(queue, at, waited_ms / 1000, able, engine.now_ms)
    told = expected is not None and expected.may_be_told
    return runner.Place(at + 1, expected.seconds if expected and told else None)


def refuses(engine: Engine, queue: str, text: bool, now_ms: int) -> str:
    """Why a queue lets a contact in no more; empty where it does.

    At its closing time it still serves who waits already.
    """
    known = engine.config.queues.get(queue)
    if known is None:
        return ""
    if ("text" if text else "voice") not in known.channels:
        return "other_channel"
    if known.when_closed != "leave" or not known.hours:
        return ""
    asked = engine.config.open_at(f"hours:{known.hours}", now_ms)
    return "queue_closed" if asked is not None and not asked[0] else ""


def _signed_in(engine: Engine, queue: str | None) -> list[Agent]:
    """Who is signed in and could take the contact that is being run, or anybody of the centre."""
    if queue is None:
        return [a for a in engine.router.agents.values() if a.status is not Status.OUT]
    served = engine.contacts.get(engine.serving)
    return engine.router.signed_in_for(queue, served.asks if served else ())


def figure(engine: Engine, reference: str | None, name: str) -> float | None:
    """A live figure of a queue or of the centre: a count, seconds, or percent."""
    queue = reference.partition(":")[2] if reference else None
    if queue is not None and queue not in engine.config.queues:
        return None
    if name in ("position", "expected_wait"):
        return _ahead(engine, reference, name)
    if name in ("signed_in", "available"):
        agents = _signed_in(engine, queue)
        return sum(name == "signed_in" or a.status is Status.AVAILABLE for a in agents)
    if name in ("waiting", "longest_wait"):
        queues = [queue] if queue is not None else list(engine.config.queues)
        waiting = [w for q in queues for w in engine.router.waiting(q) if not w.callback]
        if name == "waiting":
            return len(waiting)
        first = min((w.entered_ms for w in waiting), default=engine.now_ms)
        return max(0, engine.now_ms - first) // 1000
    row = engine.fold.queue_total(queue) if queue else engine.fold.centre_total()
    level = row.service_level(engine.config.queues[queue].formula if queue else "A")
    return None if level is None else round(level * 100, 1)


def _ahead(engine: Engine, reference: str | None, name: str) -> float | None:
    """A figure of the contact's own wait; None where it is not sure enough."""
    there = place(engine, reference) if reference else None
    if there is None:
        return None
    return there.position if name == "position" else there.expected_s


def _outside(typed: str) -> str | None:
    """A number as it can be rung; None for what is none."""
    try:
        return read(typed)
    except NotANumber:
        return None
