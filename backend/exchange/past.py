"""A site's past, as if the exchange had run it: by the simulator, with the stand-ins' people,
written as the exchange writes. Days that are over, each by itself and on all cores; and today up to
now, from where the exchange goes on."""

from __future__ import annotations

import gc
import multiprocessing
import os
import random
import time
import uuid
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import NamedTuple

from django.conf import settings
from django.db import connections, transaction

from callcore.centre import standing
from callcore.centre.centre import Centre
from callcore.centre.parts import EVERYTHING, Keeps
from callcore.centre.setup import Setup
from callcore.events import Happening
from callcore.people.streams import stream
from callcore.people.traits import Traits
from callcore.simulation.run import DAY_MS, Plan, Run, midnight_of
from exchange.live import journal, reading
from exchange.live.rooms import make_room
from exchange.live.taking_up import take_up
from exchange.models import Standing
from lookups.services import look_up

_EXPLAINED = Keeps(shown=False, explained=True)
#: Events that are written at once.
_TOGETHER = 5_000
#: Where nothing was written for so long (ms of the site's clock), the stand-ins have lived on.
AWAY_MS = 5 * 60_000
#: They do for so long at the most, by our own clock.
_PATIENCE_S = 30.0


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


def missed_ms() -> int:
    """For how long (ms of the site's clock) nothing was written that stand-ins could have done; 0
    where there are none."""
    site = settings.EXCHANGE_SITE
    if not (there_is_one() and journal.crowd_settings(site).on):
        return 0
    return journal.site_clock(site).now_ms() - journal.newest(site)[1]


def live_through_today(progress: Callable[[int], object]) -> int:
    """Let the stand-ins work from midnight until now.

    Args:
        progress: told how far it is, in percent.

    Returns:
        How many contacts there were.
    """
    site = settings.EXCHANGE_SITE
    setup, now_ms = reading.read(), journal.site_clock(site).now_ms()
    begins_ms = midnight_of(now_ms, setup.time_zone)
    written = _Written(_run(setup, begins_ms, journal.crowd_settings(site).seed), uuid.uuid4())
    for at_ms in written.until(now_ms):
        progress(round(100 * (at_ms - begins_ms) / (now_ms - begins_ms)))
    journal.give_up_lease(site, written.owner)
    return written.run.centre.figures.arrived


def live_on(owner: uuid.UUID) -> None:
    """Let the stand-ins have worked on while no exchange ran, be it stopped or broken off: nobody is
    found at a contact of hours. If it stopped before yesterday they went home then, and today begins anew.
    Where that takes too long, they go on from where they are by then.

    Args:
        owner: whoever holds the lease of the site.
    """
    if missed_ms() <= AWAY_MS:
        return
    site, setup = settings.EXCHANGE_SITE, reading.read()
    now_ms, (_, since_ms) = journal.site_clock(site).now_ms(), journal.newest(site)
    today_ms = midnight_of(now_ms, setup.time_zone)
    if since_ms < midnight_of(today_ms - DAY_MS // 2, setup.time_zone):
        _Written(_goes_on(setup, since_ms), owner).went_home(since_ms)
        since_ms = today_ms
    began = time.monotonic()
    for _ in _Written(_goes_on(setup, since_ms), owner).until(now_ms):
        if time.monotonic() - began > _PATIENCE_S:
            return


def _goes_on(setup: Setup, begins_ms: int) -> Run:
    """A run from how the site stands; its people are the same, and draw anew."""
    seed = journal.crowd_settings(settings.EXCHANGE_SITE).seed
    stands = partial(take_up, site=settings.EXCHANGE_SITE, now_ms=begins_ms)
    run = _run(setup, begins_ms, seed + begins_ms, stands)
    run.crowd.is_alone(begins_ms)
    return run


def _run(
    setup: Setup, begins_ms: int, seed: int, stands: Callable[[Centre], object] = lambda _centre: None
) -> Run:
    usual = journal.crowd_settings(settings.EXCHANGE_SITE)
    plan = Plan(begins_ms, 1.0, usual.traits, usual.load, usual.agents, seed, roster=usual.seed)
    chance = stream(seed, "ids")
    return Run(setup, plan, look_up, EVERYTHING, lambda: _name(chance), stands)


class _Written:
    """A run that is written as the exchange writes: whenever it is broken off, one goes on from there."""

    def __init__(self, run: Run, owner: uuid.UUID) -> None:
        self.run, self.owner = run, owner
        self._site = settings.EXCHANGE_SITE
        self._waiting: list[Happening] = []
        #: Whom a row was written of: where they are gone, that is written too.
        self._known = {*run.centre.contacts, *run.centre.over}

    def until(self, end_ms: int) -> Iterator[int]:
        """Let time pass; the moments (ms) up to which it was written."""
        for events in self.run.until(end_ms):
            self._waiting += events
            if len(self._waiting) >= _TOGETHER:
                yield self._write()
        self._write()

    def went_home(self, at_ms: int) -> None:
        """The end of it."""
        for events in self.run.close(at_ms):
            self._waiting += events
        self._write()

    def _write(self) -> int:
        centre = self.run.centre
        there = {*centre.contacts, *centre.over}
        centre.touched |= {*there, *self._known, *centre.router.agents}
        self._known = there
        journal.take_lease(self._site, self.owner, "the stand-ins' past")
        journal.write(self._site, self.owner, self._waiting, standing.changed(centre), [])
        self._waiting.clear()
        return centre.now_ms


def _name(chance: random.Random) -> str:
    """A contact's name as all of them are."""
    return str(uuid.UUID(int=chance.getrandbits(128), version=4))
