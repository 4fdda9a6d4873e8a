"""Callers and agents who behave: a day's traffic for a set-up, beside real participants.

They use the centre as everybody does: calls and texts arrive, keys are pressed, agents answer.
Whoever works at a simulated agent's desk takes the agent over, and nobody who works themself is
taken over by the crowd: which agents are stood in for stands with their states. Nobody is asked
again and again: who is touched by something looks at it, and what they mean to do stands in a
diary.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from functools import partial
from typing import NamedTuple
from zoneinfo import ZoneInfo

from callcore.centre.handlers.agent_session import desk_gone
from callcore.centre.handlers.messaging import arrives
from callcore.centre.handlers.telephone import place_call
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.people.caller import SECOND, TEXTS, Caller
from callcore.people.diary import Diary
from callcore.people.moments import Moments
from callcore.people.profile import Arrivals
from callcore.people.streams import stream
from callcore.people.traits import Traits
from callcore.people.worker import Worker
from callcore.routing.events import Status

#: Contacts of the crowd are known by how their ids begin.
OWN = "51a05100-"
#: Between them agents come to work.
_ALL_IN_S = 20.0
_DAY_MS = 86_400_000
#: What people do to one another at one moment has an end.
_MOST_AT_ONCE = 10_000


class CrowdSettings(NamedTuple):
    """Whether there is a crowd, how many call (1: as the profile says), how many agents work, and
    what they all are like."""

    on: bool = False
    load: float = 1.0
    agents: int = 0
    seed: int = 1
    fax: bool = True
    traits: Traits = Traits()
    #: The seed by which those who work are chosen, where it is not that of all else.
    roster: int | None = None


def _uuid() -> str:
    # Not from the seed: the same seed a second time must not bring the same contacts.
    return OWN + str(uuid.uuid4())[9:]


class Crowd:
    """The simulated callers and agents of one site.

    Args:
        new_id: names contacts; a simulation, which nothing outlives, counts them.
        all_in_s: how long it takes until all agents have come to work.
    """

    def __init__(
        self,
        site: Site,
        settings: CrowdSettings,
        now_ms: int,
        new_id: Callable[[], str] = _uuid,
        all_in_s: float = _ALL_IN_S,
    ) -> None:
        self.site = site
        self.settings = settings
        self._new_id = new_id
        self._diary = Diary()
        self._callers: dict[str, Caller] = {}
        self._workers: dict[str, Worker] = {}
        #: Who is there already when the crowd begins: they look first of all.
        self._unseen: set[str] = set()
        self._count = 0
        self._arrivals: Arrivals | Moments | None = None
        if settings.on:
            self._begin(now_ms, all_in_s)
        # Whom an earlier crowd left behind.
        for agent in sorted(site.stood_in - self._workers.keys()):
            self._worker(agent).goes_home(now_ms)

    # Beginning and ending

    def _begin(self, now_ms: int, all_in_s: float) -> None:
        known = sorted(self.site.setup.agents.values(), key=lambda a: (a.name, a.id))
        roster = self.settings.seed if self.settings.roster is None else self.settings.roster
        chance = stream(roster, "who works")
        for chosen in chance.sample(known, min(self.settings.agents, len(known))):
            if not self._works_themself(chosen.id):
                self._comes_to_work(chosen.id, now_ms, round(all_in_s * SECOND))
        for contact in self.site.contacts:
            if contact.startswith(OWN):
                self._count += 1
                self._callers[contact] = self._somebody(contact, self._count)
                self._unseen.add(contact)
        zone = ZoneInfo(self.site.setup.time_zone)
        traits, load = self.settings.traits, self.settings.load
        chance = stream(self.settings.seed, "arrivals")
        if traits.moments:
            self._arrivals = Moments(traits.moments, chance, zone, load, now_ms)
        else:
            self._arrivals = Arrivals(traits.profile, chance, zone, load, now_ms)
        self._expect_next(now_ms)

    def _comes_to_work(self, agent: str, now_ms: int, within_ms: int) -> None:
        worker = self._workers[agent] = self._worker(agent)
        state = self.site.router.agents.get(agent)
        self.site.stand_in(agent, True)
        if state is None or state.status is Status.OUT:
            worker.comes(now_ms, within_ms)
        else:
            worker.goes_on(now_ms)
            self._unseen.add(agent)

    def _worker(self, agent: str) -> Worker:
        chance = stream(self.settings.seed, "agent", agent)
        own = self.settings.traits.of_agent(agent)
        return Worker(agent, self.site, self._diary, chance, own, self._talk_of)

    def _talk_of(self, contact: str) -> float | None:
        caller = self._callers.get(contact)
        return caller.talk_s if caller is not None else None

    def _works_themself(self, agent_id: str) -> bool:
        """Whether a person has signed in to work as an agent."""
        agent = self.site.router.agents.get(agent_id)
        known = agent is not None and agent.status is not Status.OUT
        return known and agent_id not in self.site.stood_in

    def release(self, agent: str) -> None:
        """Somebody works at this agent's desk themself."""
        self._workers.pop(agent, None)
        self.site.stand_in(agent, False)

    def is_alone(self, now_ms: int) -> None:
        """No person is there, as while no exchange runs: callers who spoke with one hang up, and nothing
        rings at a desk that nobody has open."""
        for contact_id, contact in list(self.site.contacts.items()):
            if contact_id.startswith(OWN) and contact.agent and contact.agent not in self.site.stood_in:
                self._safely(partial(self.site.command, "call.hang_up", {"contact": contact_id}), now_ms)
        for agent in sorted(self.site.router.agents.keys() - self.site.stood_in):
            self._safely(partial(desk_gone, self.site, "desk", agent), now_ms)

    def go_home(self, now_ms: int) -> None:
        """Callers hang up and want no call back, agents end what they do and sign out."""
        self.settings = self.settings._replace(on=False)
        self._diary.clear()
        self._callers.clear()
        for contact_id, contact in list(self.site.contacts.items()):
            back = contact.callback
            if (back.origin if back else contact_id).startswith(OWN):
                leaving = "callback.cancel" if back else "call.hang_up"
                leave = partial(self.site.command, leaving, {"contact": contact_id})
                self._safely(leave, now_ms)
        self._workers.clear()
        for agent in sorted(self.site.stood_in):
            self._worker(agent).goes_home(now_ms)

    # As time passes

    def next_due_ms(self) -> int | None:
        """When `advance` must be called at the latest."""
        return self._diary.next_ms()

    def advance(self, now_ms: int) -> None:
        """Do what is due by now, and let those look whom something has touched."""
        for _ in range(_MOST_AT_ONCE):
            self._look(now_ms)
            task = self._diary.take(now_ms)
            if task is None:
                return
            self._safely(task, now_ms)

    def _look(self, now_ms: int) -> None:
        touched = self.site.touched
        if self._unseen:
            touched, self._unseen = touched | self._unseen, set()
        if not touched:
            return
        callers, workers = self._callers, self._workers
        for name in sorted([name for name in touched if name in callers]):
            self._safely(callers[name].look, now_ms, name)
            if name not in self.site.contacts:
                del callers[name]
        for name in sorted([name for name in touched if name in workers]):
            self._safely(workers[name].look, now_ms)

    def _safely(self, act: Callable[[int], object], now_ms: int, contact: str = "") -> None:
        """What is refused is let be; a fault of ours costs the contact that it is about."""
        try:
            act(now_ms)
        except EventRefused:
            return
        except Exception as error:  # noqa: BLE001  as in `Site.surviving`, on a hot path
            self.site.broke(contact, "a stand-in", error, now_ms)

    # Arrivals

    def _expect_next(self, now_ms: int) -> None:
        """Write the next caller down; where nobody comes for a day, look again then."""
        tomorrow_ms = now_ms + _DAY_MS
        at_ms = self._arrivals.before(tomorrow_ms) if self._arrivals else None
        if at_ms is not None:
            self._diary.at(at_ms, self._arrives)
        else:
            self._diary.at(tomorrow_ms, self._expect_next)

    def _arrives(self, now_ms: int) -> None:
        self._expect_next(now_ms)
        setup = self.site.setup
        numbers = sorted(
            (
                n
                for n in setup.numbers.values()
                if n.address.startswith("+") and n.applies_at(now_ms).flow in setup.flows
            ),
            key=lambda n: n.address,
        )
        if not numbers:
            return
        self._count += 1
        chance = stream(self.settings.seed, "call", self._count)
        shares = [self.settings.traits.numbers.get(n.address, 1.0) for n in numbers]
        if sum(shares) <= 0:
            return
        number = chance.choices(numbers, shares)[0]
        contact, caller = self._new_id(), f"+4477009{chance.randint(0, 999):05}"
        if number.channel == "text":
            body = {
                "contact": contact,
                "number": number.address,
                "caller": caller,
                "text": chance.choice(TEXTS),
            }
            contact = str(arrives(self.site, body, None, now_ms)["contact"])
        else:
            place_call(self.site, contact, number.address, caller, None, now_ms)
        self._callers[contact] = self._somebody(contact, self._count)

    def _somebody(self, contact: str, number: int) -> Caller:
        chance = stream(self.settings.seed, "caller", number)
        return Caller(contact, self.site, self._diary, chance, self.settings.traits.callers)
