"""A site's past, as if the exchange had run it: by the simulator, with the stand-ins' people,
written as the exchange writes. Days that are over, each by itself and on all cores; and today up to
now, from where the exchange goes on."""

from __future__ import annotations

import gc
import multiprocessing
import os
import random
import uuid
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

from django.conf import settings
from django.db import connections, transaction

from callcore.centre import standing
from callcore.centre.parts import EVERYTHING, Keeps
from callcore.centre.setup import Setup
from callcore.events import Happening
from callcore.people.streams import stream
from callcore.people.traits import Traits
from callcore.simulation.run import DAY_MS, Plan, Run, midnight_of
from exchange.live import journal, reading
from exchange.live.rooms import make_room
from exchange.models import Standing
from lookups.services import look_up

_EXPLAINED = Keeps(shown=False, explained=True)
#: Events that are written at once.
_TOGETHER = 5_000


#: Messages of days that lie further back than this were heard and deleted.
_MESSAGES_KEPT = 0


class Day(NamedTuple):
    """A day that is over, as somebody wants it told.

    Args:
        ago: how many days before today. load, agents: as in a plan.
        altered: what was set up otherwise then.
    """

    ago: int
    load: float
    agents: int
    traits: Traits
    altered: Callable[[Setup, int], Setup] = lambda setup, _begins_ms: setup


#: Told of a site's events that were written, before they are kept.
Counting = Callable[[str, list[Happening]], object]


class WasReset(Exception):
    """What the exchange had written was taken out while its past was being made."""


def live_through_days(days: Sequence[Day], count: Counting) -> Iterator[int]:
    """Write days that are over; how many contacts each had, as it is ready.

    Nothing else may write for the site meanwhile. What a run that was stopped left is taken out.
    """
    if days:
        journal.forget_what_was_written(settings.EXCHANGE_SITE)
        yield from _made(days, reading.read(), count, since_ms=None)


def missing(days: Sequence[Day]) -> list[Day]:
    """Of days that are over, those for which numbers were left and of which nothing was written yet."""
    site, setup = settings.EXCHANGE_SITE, reading.read()
    known = [(begins, _end_of(begins, setup)) for begins in _starts(days, setup)]
    since_ms = journal.own_since(site)
    if since_ms is None:
        return []
    written = journal.days_written(site, known)
    return [
        day
        for day, (_, ends_ms), there in zip(days, known, written, strict=True)
        if ends_ms <= since_ms and not there
    ]


def fill_in(days: Sequence[Day], count: Counting) -> Iterator[int]:
    """Write days that are over while the exchange runs, where `journal.leave_numbers_to_a_past` came
    before its first event; how many contacts each had, as it is ready.

    Raises:
        WasReset: there is nothing any more that they would be the past of.
    """
    if days:
        yield from _made(days, reading.read(), count, since_ms=journal.own_since(settings.EXCHANGE_SITE))


def _starts(days: Sequence[Day], setup: Setup) -> list[int]:
    midnight_ms = midnight_of(journal.site_clock(settings.EXCHANGE_SITE).now_ms(), setup.time_zone)
    # Half a day more, so that an hour that was put back or forward leaves the date as it is.
    return [midnight_of(midnight_ms - d.ago * DAY_MS + DAY_MS // 2, setup.time_zone) for d in days]


def _end_of(begins_ms: int, setup: Setup) -> int:
    return midnight_of(begins_ms + DAY_MS + DAY_MS // 2, setup.time_zone)


def _made(days: Sequence[Day], setup: Setup, count: Counting, *, since_ms: int | None) -> Iterator[int]:
    """Days as they are ready. `since_ms`: the exchange runs, and its own events begin then; None where
    nothing else writes."""
    site = settings.EXCHANGE_SITE
    seed = journal.crowd_settings(site).seed
    starts = _starts(days, setup)
    make_room(starts)
    turns = _Turns()
    global _write
    _write = lambda n: _write_day(  # noqa: E731
        site, setup, days[n], starts[n], seed, lambda write: turns.take(n, write), count, since_ms
    )
    workers = min(os.cpu_count() or 1, len(days))
    if workers == 1 or connections["default"].in_atomic_block:
        yield from map(_work, range(len(days)))
        return
    # Forked: a setup holds functions, which no pipe carries; connections are each one's own.
    connections.close_all()
    with multiprocessing.get_context("fork").Pool(workers) as pool:
        yield from pool.imap_unordered(_work, range(len(days)))


class _Turns:
    """Days are made side by side and written one after the other: the journal is in order."""

    def __init__(self) -> None:
        context = multiprocessing.get_context("fork")
        self._changed, self._next = context.Condition(), context.Value("i", 0)

    def take(self, number: int, write: Callable[[], None]) -> None:
        """Write, once all before have written."""
        with self._changed:
            self._changed.wait_for(lambda: self._next.value == number)
            write()
            self._next.value += 1
            self._changed.notify_all()


#: What the processes of a pool do; they are forked from the one that set it.
_write: Callable[[int], int] | None = None


def _work(number: int) -> int:
    assert _write is not None
    # A day is hundreds of thousands of things that all stay: looking through them for what could go
    # again and again is a fifth of the time.
    gc.disable()
    try:
        return _write(number)
    finally:
        gc.enable()
        gc.collect()


def _write_day(
    site: str,
    setup: Setup,
    day: Day,
    begins_ms: int,
    seed: int,
    in_turn: Callable[[Callable[[], None]], None],
    count: Counting,
    since_ms: int | None,
) -> int:
    setup = day.altered(setup, begins_ms)
    plan = Plan(begins_ms, 1.0, day.traits, day.load, day.agents, seed + day.ago, roster=seed)
    ends_ms = _end_of(begins_ms, setup)
    chance = stream(plan.seed, "ids")
    run = Run(setup, plan, look_up, keeps=_EXPLAINED, new_id=lambda: _name(chance))
    events = [event for some in run.until(ends_ms) for event in some]
    arrived = run.centre.figures.arrived
    events += [event for some in run.close(ends_ms) for event in some]

    def write() -> None:
        with transaction.atomic():
            beside = since_ms is not None
            journal.hold_still()
            if beside and journal.own_since(site) != since_ms:
                raise WasReset
            journal.write_past(site, events, messages=day.ago <= _MESSAGES_KEPT, beside=beside)
            count(site, events)

    in_turn(write)
    return arrived


def there_is_one() -> bool:
    """Whether this site has run before."""
    return Standing.objects.filter(site=settings.EXCHANGE_SITE).exists()


def live_through_today(progress: Callable[[int], object]) -> int:
    """Let the stand-ins work from midnight until now.

    Args:
        progress: told how far it is, in percent.

    Returns:
        How many contacts there were.
    """
    site = settings.EXCHANGE_SITE
    setup, now_ms = reading.read(), journal.site_clock(site).now_ms()
    plan = _plan(setup, now_ms)
    chance = stream(plan.seed, "ids")
    run = Run(setup, plan, look_up, keeps=EVERYTHING, new_id=lambda: _name(chance))
    owner = uuid.uuid4()
    journal.take_lease(site, owner, "the demo's past")
    waiting: list[Happening] = []
    for events in run.until(now_ms):
        waiting += events
        if len(waiting) >= _TOGETHER:
            journal.write(site, owner, waiting, [], [])
            waiting.clear()
            progress(round(100 * (events[-1].at_ms - plan.begins_ms) / (now_ms - plan.begins_ms)))
    run.centre.touched |= {*run.centre.contacts, *run.centre.over, *run.centre.router.agents}
    journal.write(site, owner, waiting, standing.changed(run.centre), [])
    journal.give_up_lease(site, owner)
    return run.centre.figures.arrived


def _plan(setup: Setup, now_ms: int) -> Plan:
    usual = journal.crowd_settings(settings.EXCHANGE_SITE)
    begins_ms = midnight_of(now_ms, setup.time_zone)
    return Plan(begins_ms, 1.0, usual.traits, usual.load, usual.agents, usual.seed)


def _name(chance: random.Random) -> str:
    """A contact's name as all of them are."""
    return str(uuid.UUID(int=chance.getrandbits(128), version=4))
