"""A site's day up to now, as if the exchange had run it: by the simulator, with the stand-ins'
people, written as the exchange writes. The exchange then goes on from there."""

from __future__ import annotations

import random
import uuid
from collections.abc import Callable

from django.conf import settings

from callcore.centre import standing
from callcore.centre.parts import EVERYTHING
from callcore.centre.setup import Setup
from callcore.events import Happening
from callcore.people.streams import stream
from callcore.simulation.run import Plan, Run, midnight_of
from exchange.live import journal, reading
from exchange.models import Standing
from lookups.services import look_up

#: Events that are written at once.
_TOGETHER = 5_000


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
