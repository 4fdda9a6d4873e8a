"""`manage.py simulate`: days of the set-up in force, with made-up people, in seconds."""

from __future__ import annotations

import argparse
import json
import time
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connections

from callcore.centre.setup import Setup
from callcore.measures.rows import QueueRow
from callcore.simulation.intervals import Estimate, estimate
from callcore.simulation.replications import MOST_RUNS, Outcome, replications
from callcore.simulation.run import Impossible, Plan, midnight_of, refuse
from exchange import past
from exchange.live import journal, reading
from lookups.services import look_up
from reports import history

_USUAL_RUNS = 10
#: Ten years.
MOST_PAST_DAYS = 3_653

#: What is said of a queue: its name in the answer, in words, how it is written, and how it comes.
_FIGURES: tuple[tuple[str, str, str, Callable[[QueueRow, Any], float | None]], ...] = (
    ("offered", "offered", "{:.0f}", lambda row, _: row.offered),
    ("answered", "answered", "{:.0f}", lambda row, _: row.answered),
    ("abandoned", "hung up", "{:.1f}", lambda row, _: row.abandoned),
    ("average_wait_s", "average wait, s", "{:.1f}", lambda row, _: _seconds(row.average_wait_ms)),
    ("service_level", "level, %", "{:.1f}", lambda row, formula: _percent(row, formula)),
)


def _seconds(ms: float | None) -> float | None:
    return None if ms is None else ms / 1000


def _percent(row: QueueRow, formula: Any) -> float | None:
    level = row.service_level(formula)
    return None if level is None else 100 * level


class Command(BaseCommand):
    help = (
        "Simulate the set-up in force with the stand-ins' people. Nothing is recorded, but with "
        "--into-history."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--days", type=float, default=1.0, help="how long a run is")
        parser.add_argument("--runs", type=_runs, help="each with a seed of its own; 10")
        parser.add_argument("--seed", type=int, default=1, help="the seed of the first run")
        parser.add_argument("--load", type=float, default=1.0, help="callers, of the usual")
        parser.add_argument("--agents", type=_agents, help="how many work; as many as stand-ins do")
        parser.add_argument("--workers", type=int, help="how many run side by side; as many as fit")
        parser.add_argument("--json", action="store_true", help="figures for programs")
        parser.add_argument(
            "--into-history",
            action="store_true",
            help="record it as the days before today: on a site that has no past",
        )
        parser.add_argument("--afresh", action="store_true", help="with it: take out first what was recorded")

    def handle(self, *args: object, **said: Any) -> None:
        if said["into_history"]:
            self._into_history(said)
        elif said["afresh"]:
            raise CommandError("--afresh goes with --into-history.")
        else:
            self._simulate(said)

    def _into_history(self, said: dict[str, Any]) -> None:
        """Days before today and today up to now, recorded as if the exchange had run."""
        if said["runs"] is not None or said["json"] or said["workers"]:
            raise CommandError("--runs, --workers and --json do not go with --into-history.")
        began, days = time.monotonic(), said["days"]
        if not days.is_integer() or not 1 <= days <= MOST_PAST_DAYS:
            raise CommandError(f"A past has 1 to {MOST_PAST_DAYS:,} whole days.")
        plan = _plan(setup := reading.read(), said)
        try:
            refuse(setup, plan._replace(days=1.0))
            if past.there_is_one():
                if not said["afresh"]:
                    raise history.Refused("This site has a past. To take it out first, say --afresh.")
                history.forget()
            lived = [
                past.Day(ago, plan.load, plan.agents or len(setup.agents), plan.traits)
                for ago in range(int(days), 0, -1)
            ]
            before, today = history.live_through(lived, self._tell_progress)
        except (Impossible, history.Refused) as error:
            raise CommandError(str(error)) from None
        except KeyboardInterrupt:
            history.forget()
            raise CommandError("Stopped. Nothing was kept.", returncode=130) from None
        self.stderr.write("")
        took_s = time.monotonic() - began
        self.stdout.write(f"{before + today:,} contacts recorded in {took_s:,.0f} s.")

    def _tell_progress(self, words: str) -> None:
        self.stderr.write(f"\r{words}  ", ending="")

    def _simulate(self, said: dict[str, Any]) -> None:
        setup = reading.read(promoting=False)
        said["runs"] = said["runs"] or _USUAL_RUNS
        plan = _plan(setup, said)
        if said["workers"] != 1:
            # Every process has connections of its own.
            connections.close_all()
        began = time.monotonic()
        try:
            outcomes = self._outcomes(setup, plan, said)
        except Impossible as error:
            raise CommandError(str(error)) from None
        except KeyboardInterrupt:
            raise CommandError("Stopped. Nothing was kept.", returncode=130) from None
        figures = _figures(setup, outcomes)
        if said["json"]:
            self.stdout.write(json.dumps(figures, indent=2, ensure_ascii=False))
            return
        self._tell(figures)
        contacts = sum(outcome.arrived for outcome in outcomes)
        took_s = time.monotonic() - began
        self.stdout.write(f"{contacts} contacts in {took_s:.1f} s, {contacts / took_s:.0f} a second")

    def _outcomes(self, setup: Setup, plan: Plan, said: dict[str, Any]) -> list[Outcome]:
        done: list[Outcome] = []
        for outcome in replications(setup, plan, said["runs"], look_up, said["workers"]):
            done.append(outcome)
            self.stderr.write(f"\r{len(done)} of {said['runs']} runs", ending="")
        self.stderr.write("")
        return sorted(done)

    def _tell(self, figures: dict[str, Any]) -> None:
        heads = [f"{words:>20}" for _, words, _, _ in _FIGURES]
        self.stdout.write(f"{'':26}" + "".join(heads))
        for name, row in [*figures["queues"].items(), ("Centre", figures["centre"])]:
            cells = [_cell(row[key], form) for key, _, form, _ in _FIGURES]
            self.stdout.write(f"{name[:25]:26}" + "".join(f"{cell:>20}" for cell in cells))
        runs = figures["runs"]
        self.stdout.write(f"Means of {runs} runs, each with its 95 % interval." if runs > 1 else "One run.")


def _runs(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= MOST_RUNS:
        raise argparse.ArgumentTypeError(f"Between 1 and {MOST_RUNS:,} runs can be made.")
    return int(text)


def _agents(text: str) -> int:
    if not text.isdigit() or int(text) < 1:
        raise argparse.ArgumentTypeError("One or more agents are needed.")
    return int(text)


def _plan(setup: Setup, said: dict[str, Any]) -> Plan:
    usual = journal.crowd_settings(settings.EXCHANGE_SITE)
    agents = said["agents"] if said["agents"] is not None else usual.agents
    begins_ms = midnight_of(journal.site_clock(settings.EXCHANGE_SITE).now_ms(), setup.time_zone)
    return Plan(
        begins_ms, said["days"], usual.traits, said["load"], agents or None, said["seed"], roster=usual.seed
    )


def _figures(setup: Setup, outcomes: list[Outcome]) -> dict[str, Any]:
    queues = sorted(setup.queues.values(), key=lambda queue: queue.name)
    return {
        "runs": len(outcomes),
        "queues": {
            queue.name: _estimates([o.queues[queue.id] for o in outcomes], queue.formula) for queue in queues
        },
        "centre": _estimates([o.centre for o in outcomes], "A"),
    }


def _estimates(rows: list[QueueRow], formula: Any) -> dict[str, Any]:
    found = {}
    for key, _, _, figure in _FIGURES:
        seen = [value for row in rows if (value := figure(row, formula)) is not None]
        found[key] = _as_json(estimate(seen)) if seen else None
    return found


def _as_json(said: Estimate) -> dict[str, float | None]:
    return {"mean": said.mean, "half_of_95_percent_interval": said.half if said.runs > 1 else None}


def _cell(said: dict[str, float | None] | None, form: str) -> str:
    if said is None or said["mean"] is None:
        return "–"
    half = said["half_of_95_percent_interval"]
    return form.format(said["mean"]) + (f" ± {form.format(half)}" if half is not None else "")
