"""Trial calls on paper: run from the editor, saved, and run again before publishing."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from agents import groups
from agents import services as agent_services
from callcore.centre.facts import directory
from callcore.directory.extensions import dial
from callcore.flow import describe, expectation, trial
from callcore.flow.blocks import laid_out
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import Flow as Definition
from callcore.flow.expectation import Expectation
from callcore.flow.runner import GroupRule, Machine, MadeUp, MailboxRule
from callcore.flow.trial import Result
from callcore.flow.trial_setup import Setup, setup_of
from changelog import config_store
from flows.models import Flow, Trial
from lookups.services import look_up
from mailboxes import services as mailbox_services
from opening_hours import services as hours_services
from phone_numbers import numbering
from phone_numbers.plan import NotANumber, read
from web.clock import site_now
from web.errors import Refused


class Outcome(NamedTuple):
    """A saved trial and what was otherwise than expected; passed where that is nothing."""

    id: str
    name: str
    differences: list[str]
    ending: str
    seconds: float

    @property
    def passed(self) -> bool:
        """Whether all is as expected."""
        return not self.differences


class Stage:
    """Everything that trials of one definition need, read once for all of them."""

    def __init__(self, written: Definition, flow: Definition, catalogue: Catalogue, library: Any) -> None:
        self.written = written
        self.flow = flow
        self.catalogue = catalogue
        self.now_ms = round(site_now().timestamp() * 1000)
        self._rows: dict[tuple[str, str], Mapping[str, Any] | None] = {}
        plans = hours_services.plans()
        boxes = {m.id: m for m in mailbox_services.settings()}
        plan = {held.extension: f"{held.kind}:{held.id}" for held in numbering.plan()}
        in_groups = {g.id: g for g in groups.settings()}
        people = directory(agent_services.agents().values(), in_groups.values())

        def open_at(reference: str, now_ms: int) -> tuple[bool, str] | None:
            found = plans.get(reference)
            return hours_services.ask(found, now_ms) if found is not None else None

        def mailbox(reference: str) -> MailboxRule | None:
            box = boxes.get(reference.partition(":")[2])
            return MailboxRule(box.greeting, box.longest_ms) if box else None

        def waiting_plan(queue: str, wanted: str | None) -> str:
            facts = catalogue.queues.get(queue)
            return wanted or (facts.plan if facts else "")

        def elsewhere(reference: str) -> tuple[Definition, Definition] | None:
            if reference not in others:
                found = library(reference, None)
                others[reference] = found and (found, laid_out(found, library))
            return others[reference]

        def ring_group(reference: str) -> GroupRule | None:
            known = in_groups.get(reference.partition(":")[2])
            return known.rule() if known else None

        others: dict[str, tuple[Definition, Definition] | None] = {}
        self._elsewhere = elsewhere
        machines: dict[str, Machine | None] = {}

        def plan_machine(reference: str) -> Machine | None:
            if reference not in machines:
                found = library(reference, None)
                known = found is not None and found.purpose == "plan"
                machine = Machine(found, catalogue.length_ms, self._around) if known else None
                machines[reference] = machine
            return machines[reference]

        self._around = MadeUp(
            open_at,
            mailbox,
            dial=lambda digits: dial(plan, digits),
            people=lambda: people,
            plan=waiting_plan,
            plan_machine=plan_machine,
            outside=_outside,
            group=ring_group,
            silence_ends=catalogue.silence_ends,
        )

    def run(self, setup: Setup, *, hold: bool = False) -> Result:
        """One trial."""
        call = trial.Trial(
            self.written,
            self.flow,
            self.catalogue,
            setup,
            self._around,
            self._look_up,
            self.now_ms,
            self._elsewhere,
        )
        return call.run(hold=hold)

    def _look_up(self, table: str, key: str) -> Mapping[str, Any] | None:
        asked = (table.partition(":")[2], key)
        if asked not in self._rows:
            self._rows[asked] = look_up(*asked)
        return self._rows[asked]

    @property
    def names(self) -> dict[str, str]:
        """The names of the stops, by id."""
        return {s.id: describe.stop(s, self.catalogue).name for s in self.written.steps}


def _outside(typed: str) -> str | None:
    try:
        return read(typed)
    except NotANumber:
        return None


def run_all(flow: Flow, stage: Stage) -> list[Outcome]:
    """Every saved trial of a flow on a definition."""
    names = stage.names
    outcomes = []
    for saved in flow.trials.all():
        result = stage.run(setup_of(saved.setup))
        want = Expectation.model_validate(saved.expected)
        differing = expectation.differences(want, result, names)
        outcomes.append(Outcome(str(saved.pk), saved.name, differing, result.ending, result.seconds))
    return outcomes


def save(user: Any, flow: Flow, name: str, setup: Setup, stage: Stage) -> Trial:
    """Keep a trial with what happens now as what is expected.

    Raises:
        Refused: the call is not over, or the name is taken.
    """
    result = stage.run(setup)
    if not result.ending:
        raise Refused("not-over", "This call is not over: give it its last keys first.")
    if flow.trials.filter(name=name).exists():
        message = f"There is a trial “{name}” already."
        raise Refused("not-valid", message, status=400, fields={"name": [message]})
    expected = expectation.expected(result).model_dump(mode="json")
    return config_store.create(
        user, Trial, flow=flow, name=name, setup=setup.model_dump(mode="json"), expected=expected
    )


def expect_now(user: Any, saved: Trial, stage: Stage) -> Trial:
    """What happens now is what is expected from now on."""
    result = stage.run(setup_of(saved.setup))
    expected = expectation.expected(result).model_dump(mode="json")
    return config_store.change(user, saved, None, expected=expected)


def stage_of(written: Definition, catalogue: Catalogue, library: Any) -> Stage:
    """What trials of a definition need.

    Args:
        library: the shared blocks, as `callcore.flow.blocks` takes them.
    """
    return Stage(written, laid_out(written, library), catalogue, library)
