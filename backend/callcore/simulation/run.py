"""One run: people meet a centre for some days, and what happens is counted.

The runner, the router and the measures are those of the live centre. Nothing is kept for show.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import datetime
from itertools import count
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from callcore.centre.centre import Centre
from callcore.centre.parts import Devices, Keeps
from callcore.centre.setup import Setup
from callcore.devices.fax import tone_after_ms
from callcore.devices.outside_line import SimulatedLine
from callcore.errors import EventRefused
from callcore.events import Happening
from callcore.measures.figures import Figures
from callcore.people.crowd import OWN, Crowd, CrowdSettings
from callcore.people.traits import Traits
from callcore.speech.recogniser import TypedSpeech

DAY_MS = 86_400_000
#: What a run keeps for people to look at.
NOTHING = Keeps(shown=False, explained=False, heard=False)
#: Nobody takes longer to go home.
_GOING_HOME_MS = 15 * 60_000
#: Longer than anybody simulates at once.
MOST_DAYS = 366
#: Answers a look-up of a contact: table and key; the row's cells, or None.
LookUp = Callable[[str, str], dict[str, Any] | None]


class Plan(NamedTuple):
    """What is simulated.

    Args:
        begins_ms: when (ms since the epoch); a centre that is empty.
        days: for how long. load: callers, of what the profile says. agents: how many come to
            work; None for all. warm_up_ms: what is not counted at the beginning. all_in_s: until
            when after the beginning all agents are there. roster: the seed by which those who work
            are chosen, so that runs of several seeds have the same; None for the run's own.
    """

    begins_ms: int
    days: float = 1.0
    traits: Traits = Traits()
    load: float = 1.0
    agents: int | None = None
    seed: int = 1
    warm_up_ms: int = 0
    all_in_s: float = 20.0
    roster: int | None = None


class Impossible(Exception):
    """A set-up, or a plan, that cannot be simulated; in words."""


def refuse(setup: Setup, plan: Plan) -> None:
    """Say why a plan cannot be simulated.

    Raises:
        Impossible: it cannot.
    """
    if not 0 < plan.days <= MOST_DAYS:
        raise Impossible("Between a moment and 366 days can be simulated.")
    if plan.warm_up_ms >= plan.days * DAY_MS:
        raise Impossible("The beginning that is not counted is as long as the whole.")
    if not 0 < plan.load <= 100:
        raise Impossible("The load lies above 0 and is 100 at the most.")
    if not (plan.traits.moments or any(map(any, plan.traits.profile.days))):
        raise Impossible("Nobody calls: the profile says 0 at every hour.")
    if not any(number.flow in setup.flows for number in setup.numbers.values()):
        raise Impossible("Nobody can call: no number is answered by a flow in force.")
    if not setup.queues:
        raise Impossible("There is no queue that is set up.")
    empty = sorted(queue.name for queue in setup.queues.values() if not queue.members)
    if len(empty) == len(setup.queues):
        raise Impossible(f"No queue has agents: {', '.join(empty)}.")


class Run:
    """A centre with its people on a clock that jumps from one event to the next.

    Args:
        look_up: nothing is found without it.
        new_id: names contacts, in the form of a UUID; without it they are counted.
        stands: lets the centre stand as one stood that was there before; without it, it is empty.
    """

    def __init__(
        self,
        setup: Setup,
        plan: Plan,
        look_up: LookUp | None = None,
        keeps: Keeps = NOTHING,
        new_id: Callable[[], str] | None = None,
        stands: Callable[[Centre], object] = lambda _centre: None,
    ) -> None:
        self.plan = plan
        numbers = count(1)
        new_id = new_id or (lambda: f"{next(numbers):036}")
        devices = Devices(new_id, SimulatedLine(), TypedSpeech(), tone_after_ms)
        self.centre = Centre(setup, plan.begins_ms, devices, keeps)
        stands(self.centre)
        agents = len(setup.agents) if plan.agents is None else plan.agents
        settings = CrowdSettings(True, plan.load, agents, plan.seed, traits=plan.traits, roster=plan.roster)
        # Only callers have names by which a crowd knows its own; whom agents ask has not.
        own = lambda: OWN + new_id()[len(OWN) :]  # noqa: E731
        self.crowd = Crowd(self.centre, settings, plan.begins_ms, own, plan.all_in_s)
        self._look_up = look_up or (lambda _table, _key: None)

    def until(self, end_ms: int) -> Iterator[list[Happening]]:
        """Let time pass; what has happened, moment by moment."""
        centre, crowd = self.centre, self.crowd
        while True:
            due_ms = centre.next_due_ms()
            meant_ms = crowd.next_due_ms()
            if meant_ms is not None and meant_ms < due_ms:
                due_ms = meant_ms
            now_ms = max(due_ms, centre.now_ms)
            if now_ms >= end_ms:
                return
            centre.advance(now_ms)
            crowd.advance(now_ms)
            if centre.asked:
                self._answer(now_ms)
                crowd.advance(now_ms)
            if centre.pending:
                yield centre.pending
                centre.pending.clear()
            centre.touched.clear()
            centre.timers.touched.clear()
            centre.dirty.clear()

    def close(self, end_ms: int) -> Iterator[list[Happening]]:
        """The end of it: callers hang up, agents finish and go home."""
        self.crowd.go_home(end_ms)
        if self.centre.pending:
            yield self.centre.pending
            self.centre.pending.clear()
        yield from self.until(end_ms + _GOING_HOME_MS)

    def _answer(self, now_ms: int) -> None:
        asked, self.centre.asked = self.centre.asked, []
        for contact, table, key in asked:
            with suppress(EventRefused):
                self.centre.looked_up(contact, self._look_up(table, key), now_ms)


def run(setup: Setup, plan: Plan, look_up: LookUp | None = None) -> Figures:
    """Simulate a plan; the figures of all of it but the beginning.

    Raises:
        Impossible: see `refuse`.
    """
    refuse(setup, plan)
    run, ends_ms = Run(setup, plan, look_up), plan.begins_ms + round(plan.days * DAY_MS)
    if not plan.warm_up_ms and ends_ms <= run.centre.day_ends_ms:
        # What the centre itself counts of its day is all of it.
        deque(run.until(ends_ms), maxlen=0)
        return run.centre.figures
    figures = Figures()
    figures.begin_day(plan.begins_ms + plan.warm_up_ms)
    for events in run.until(ends_ms):
        for event in events:
            figures.apply(event)
    return figures


def midnight_of(at_ms: int, zone: str) -> int:
    """The midnight at which the day of a moment begins, by a zone's clock (ms)."""
    local = datetime.fromtimestamp(at_ms / 1000, ZoneInfo(zone))
    begins = local.replace(hour=0, minute=0, second=0, microsecond=0)
    return round(begins.timestamp() * 1000)
