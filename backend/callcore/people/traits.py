"""What people are like: shares of all of them, and how long what they do takes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from callcore.people.distributions import Distribution, Exponential, Fixed, Lognormal
from callcore.people.profile import Profile, by_hours

#: Arrivals an hour by hour of a working day, at a load of 1.
USUAL_DAY = (
    4,
    2,
    2,
    2,
    4,
    10,
    40,
    90,
    170,
    220,
    240,
    230,
    200,
    190,
    200,
    210,
    200,
    170,
    120,
    80,
    50,
    30,
    16,
    8,
)
#: What a caller does at a stop, as a key of `CallerTraits.shares`: pressing nothing.
SILENCE = "silence"


class CallerTraits(NamedTuple):
    """Callers. Shares from 0 to 1.

    `patience`: the wait in a queue after which they hang up, at least `least_patience_s`. `talk`:
    how long they want to talk. `reacts`: from the end of a prompt to the first key. `robots`:
    who never press a key, and linger. `silent`: who let a menu's time pass once. `miskeyed`: keys
    that are wrong. `leaves`: who hang up at a menu. `called_back`: who want to be called back
    where that is offered. `speaks`: who say what they want where a stop listens; `misheard`: of
    those who speak, who are not understood.
    `shares`: by the name of a menu's stop, what its keys are chosen by (any positive figures).
    `choices`: in all other menus, what ways are chosen by, by their words; one that is not named
    has 1. `texts`: what people write where a flow asks them, by how many write it.
    """

    patience: Distribution = Exponential(150.0)
    least_patience_s: float = 5.0
    talk: Distribution = Lognormal(200.0, 0.66)
    reacts: Distribution = Exponential(2.0)
    robots: float = 0.02
    silent: float = 0.02
    miskeyed: float = 0.04
    leaves: float = 0.01
    called_back: float = 0.35
    speaks: float = 0.6
    misheard: float = 0.1
    shares: Mapping[str, Mapping[str, float]] = {}
    choices: Mapping[str, float] = {}
    texts: Mapping[str, float] = {}


class AgentTraits(NamedTuple):
    """Agents. Shares from 0 to 1.

    `answers`: how long they let it ring. `missed`: rings that they let pass. `wraps`: how long a
    wrap-up takes; `coded`: wrap-ups that get a code. `held`, `sent_on`, `asks`: contacts that are
    put on hold, sent on to another queue, and about which a colleague is asked. `works`, `rests`:
    from one break to the next, and its length. `shift`, `off`: at work, and until the next time.
    `shifts`: hours of the day (by the centre's clock) at which shifts begin, one of them for each
    agent; empty: at any time, and again after `off`. `days_off`: days on which they do not come.
    `codes`: what codes are chosen by, by their names (any positive figures; one that is not named
    has 1). `passes_as`: the code's name for what they have sent on; empty for any.
    """

    answers: Distribution = Lognormal(4.0, 0.4)
    missed: float = 0.04
    wraps: Distribution = Lognormal(25.0, 0.5)
    coded: float = 0.9
    held: float = 0.12
    sent_on: float = 0.04
    asks: float = 0.03
    works: Distribution = Lognormal(3300.0, 0.4)
    rests: Distribution = Lognormal(400.0, 0.4)
    shift: Distribution = Lognormal(6.5 * 3600, 0.2)
    off: Distribution = Lognormal(4500.0, 0.4)
    writes: Distribution = Lognormal(25.0, 0.4)
    shifts: Sequence[float] = ()
    days_off: float = 0.0
    codes: Mapping[str, float] = {}
    passes_as: str = ""


class Traits(NamedTuple):
    """Everybody, and when they come: by chance over the `profile`, or, where there are any, at the
    `moments` of a day (ms after midnight, in their order).

    `numbers`: what each number has of all callers (any positive figures, by its address); one that
    is not named has 1. `own`: agents who are otherwise, by their ids.
    """

    profile: Profile = by_hours(USUAL_DAY, 0.8, 0.5)
    callers: CallerTraits = CallerTraits()
    agents: AgentTraits = AgentTraits()
    numbers: Mapping[str, float] = {}
    own: Mapping[str, AgentTraits] = {}
    moments: Sequence[int] = ()

    def of_agent(self, agent: str) -> AgentTraits:
        """What one agent is like."""
        return self.own.get(agent, self.agents)


def textbook(profile: Profile, talk: Distribution, patience: Distribution | None) -> Traits:
    """People as the closed forms of waiting have them: nobody errs, rests or hesitates.

    Args:
        patience: None for callers who wait for ever.
    """
    forever = Fixed(24 * 3600.0)
    callers = CallerTraits(
        patience=patience or forever,
        least_patience_s=0.0,
        talk=talk,
        reacts=Fixed(0.0),
        robots=0,
        silent=0,
        miskeyed=0,
        leaves=0,
        called_back=0,
        speaks=0,
    )
    agents = AgentTraits(
        answers=Fixed(0.0),
        missed=0,
        wraps=Fixed(0.0),
        coded=0,
        held=0,
        sent_on=0,
        asks=0,
        works=forever,
        rests=Fixed(1.0),
        shift=Fixed(400 * 24 * 3600.0),
        off=Fixed(1.0),
    )
    return Traits(profile, callers, agents)
