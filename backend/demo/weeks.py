"""The four weeks before today at Ostrel Island Ferries, and what happened on some days of them.
Everything in it is made up."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

from callcore.centre.facts import DiversionFacts
from callcore.centre.setup import Setup
from callcore.numbers.plan import Diversion
from callcore.people.said import traits_of
from callcore.people.traits import AgentTraits, Traits
from demo import scenario
from exchange.past import Day

DAYS = 28
_SATURDAY = 5
#: How many weeks ago it was, and on which weekday (Monday is 0).
STORM_DAY, LINE_DOWN, FEW_AT_WORK = (2, 3), (1, 1), (1, _SATURDAY)
#: In a storm everybody asks whether the boats sail.
_STORM_LOAD = 1.5
#: Until so many days ago the main menu's words named a key that led elsewhere.
WORDS_MENDED = 16
_MISKEYED_BEFORE = 0.22
#: Lets rings pass; and those who pass on much of what they are asked.
_MISSES, _PASS_ON = "Emil Novak", ("Anwen Lloyd", "Samir Patel", "Luca Romano")
_MAIN_LINE = "+442079460210"


def days(today: date, setup: Setup) -> list[Day]:
    """The days before today, the longest ago first."""
    traits = traits_of(scenario.PEOPLE)
    traits = traits._replace(own=_own_ways(traits.agents, setup))
    return [_day(today, ago, traits) for ago in range(DAYS, 0, -1)]


def day_of(today: date, story: tuple[int, int]) -> date:
    """The day of a story: so many weeks before this week, on a weekday."""
    weeks, weekday = story
    monday = today - timedelta(days=today.weekday())
    return monday + timedelta(days=weekday - 7 * weeks)


def storm_closure(today: date) -> dict[str, Any]:
    """The exception of the hours by which boats can sail."""
    day = day_of(today, STORM_DAY).isoformat()
    return {"name": "Storm from the west", "day": day, "yearly": False, "spans": []}


def _own_ways(usual: AgentTraits, setup: Setup) -> Mapping[str, AgentTraits]:
    by_name = {agent.name: agent.id for agent in setup.agents.values()}
    ways = {by_name[_MISSES]: usual._replace(missed=0.35)} if _MISSES in by_name else {}
    passing = usual._replace(sent_on=0.4)
    return ways | {by_name[name]: passing for name in _PASS_ON if name in by_name}


def _day(today: date, ago: int, traits: Traits) -> Day:
    day = today - timedelta(days=ago)
    if ago > WORDS_MENDED:
        traits = traits._replace(callers=traits.callers._replace(miskeyed=_MISKEYED_BEFORE))
    few = day == day_of(today, FEW_AT_WORK)
    agents = scenario.AT_WORK * 2 // 5 if few else scenario.AT_WORK
    altered: dict[date, Callable[[Setup, int], Setup]] = {day_of(today, LINE_DOWN): _line_down}
    load = scenario.LOAD * (_STORM_LOAD if day == day_of(today, STORM_DAY) else 1)
    return Day(ago, load, agents, traits, altered.get(day, _as_set_up))


def _as_set_up(setup: Setup, _begins_ms: int) -> Setup:
    return setup


def _line_down(setup: Setup, begins_ms: int) -> Setup:
    """From 10:00 to 13:30 the main line was broken, and its calls went to the after-hours flow."""
    begins = datetime.fromtimestamp(begins_ms / 1000, UTC) + timedelta(hours=10)
    flow = next((f for f in setup.flows.values() if f.flow_name == "After hours"), None)
    if flow is None:
        return setup
    rule = Diversion(
        "line-down",
        "The main line is broken",
        frozenset({_MAIN_LINE}),
        "flow",
        flow.flow_id,
        begins,
        begins + timedelta(hours=3, minutes=30),
    )
    return replace(setup, diversions=(DiversionFacts(rule, ("Main line",), "After hours"),))
