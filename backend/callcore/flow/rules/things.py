"""Things outside of the flow: missing, unfinished, or not what callers need."""

from __future__ import annotations

from collections.abc import Iterator

from callcore.flow.catalogue import QueueFacts
from callcore.flow.definition import (
    AnyStep,
    CheckHours,
    GoOn,
    LibrarySound,
    Message,
    Music,
    OfferCallback,
    Ring,
    SpokenText,
    TellWait,
    Times,
    WaitInQueue,
    prompts,
)
from callcore.flow.findings import Finding, Fix, position
from callcore.flow.parts import LANGUAGES
from callcore.flow.rules.walk import Walk
from callcore.flow.steps import NOT_WAITING


def missing(
    walk: Walk, step: AnyStep, reference: str | None, what: str, meets: str, fix: Fix | None = None
) -> Iterator[Finding]:
    """A reference that is open, or leads to something that is gone."""
    if walk.from_a_row(reference):
        return
    if walk.left_to_numbers(reference):
        if walk.all_numbers_name(reference):
            return
        yield Finding(
            f"{what}-left-to-numbers",
            "warns",
            step.id,
            "",
            f"Not every number names the {what}, and the input has no default: callers of those "
            f"that do not {meets}.",
            "Give the input a default.",
        )
        return
    gone = reference is not None
    yield Finding(
        f"missing-{what}",
        "blocks",
        step.id,
        "",
        (
            f"This stop's {what} does not exist any more: callers {meets}."
            if gone
            else f"No {what} is chosen: callers {meets}."
        ),
        f"Choose {'another' if gone else 'the'} {what}.",
        fix,
    )


def _queues(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, WaitInQueue | OfferCallback | TellWait):
            continue
        if walk.flow.purpose == "plan" and step.queue is None:
            continue
        reference = walk.counted(step.queue)
        facts = walk.catalogue.queues.get(reference or "")
        if facts is None:
            yield from missing(walk, step, step.queue, "queue", "would wait for nobody")
        elif not facts.finished:
            yield Finding(
                "unfinished-queue",
                "blocks",
                step.id,
                "",
                f"Queue “{facts.name}” is only a name so far: callers would wait for nobody.",
                "Set the queue up.",
                Fix(f"Set up {facts.name}…", goto=reference or ""),
            )
        elif not facts.members:
            yield Finding(
                "empty-queue",
                "warns",
                step.id,
                "",
                f"Nobody is a member of “{facts.name}”: callers would wait and never be answered.",
                "Add agents to the queue.",
                Fix(f"Open {facts.name}…", goto=reference or ""),
            )
        elif isinstance(step, WaitInQueue):
            yield from _served(step, facts, reference or "")
            if walk.flow.channel not in facts.channels:
                yield Finding(
                    "queue-of-another-channel",
                    "blocks",
                    step.id,
                    "",
                    f"“{facts.name}” takes no {_CHANNELS[walk.flow.channel]}: "
                    "whoever comes here would be let go at once.",
                    "Let the queue take them, or choose another.",
                    Fix(f"Open {facts.name}…", goto=reference or ""),
                )


_CHANNELS = {"voice": "calls", "text": "text messages"}


def _served(step: WaitInQueue, facts: QueueFacts, reference: str) -> Iterator[Finding]:
    """Callers whom nobody could ever take, or who would never be let go."""
    if facts.able == 0:
        yield Finding(
            "unskilled-queue",
            "warns",
            step.id,
            "",
            f"Nobody has the skills that “{facts.name}” asks for, even when it has widened: "
            "callers would wait and never be answered.",
            "Lower the levels, widen further, or teach somebody.",
            Fix(f"Open {facts.name}…", goto=reference),
        )
    if step.longest_wait_s is None and facts.longest_wait_s is None and not facts.lets_go:
        yield Finding(
            "waits-for-ever",
            "warns",
            step.id,
            "",
            f"“{facts.name}” has no longest wait: while nobody is signed in, callers wait until "
            "they hang up.",
            "Give the queue a longest wait, or let callers go on when nobody is signed in.",
            Fix(f"Open {facts.name}…", goto=reference),
        )


def _plans(walk: Walk) -> Iterator[Finding]:
    if walk.flow.purpose == "plan":
        for step in walk.flow.steps:
            if step.kind in NOT_WAITING:
                yield Finding(
                    "not-while-waiting",
                    "blocks",
                    step.id,
                    "",
                    "A waiting plan cannot do this: its callers stand in a queue already.",
                    "Take the stop out, or put it into the flow before the queue.",
                )
        return
    for step in walk.flow.steps:
        if isinstance(step, WaitInQueue) and step.plan:
            yield from _plan_of(walk, step, step.plan)


def _plan_of(walk: Walk, step: WaitInQueue, plan: str) -> Iterator[Finding]:
    facts = walk.catalogue.flows.get(plan)
    if facts is None:
        yield from missing(walk, step, plan, "plan", "would wait to music only")
    elif facts.purpose != "plan":
        yield Finding(
            "no-plan",
            "blocks",
            step.id,
            "",
            f"“{facts.name}” is no waiting plan: callers would wait to music only.",
            "Choose a waiting plan.",
        )
    elif not facts.in_force:
        yield Finding(
            "plan-not-in-force",
            "warns",
            step.id,
            "",
            f"“{facts.name}” is not in force yet: callers wait to music only.",
            "Publish the waiting plan.",
            Fix(f"Open {facts.name}…", goto=plan),
        )


def _hours(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, CheckHours):
            continue
        reference = walk.counted(step.hours)
        facts = walk.catalogue.hours.get(reference or "")
        if facts is None:
            yield from missing(walk, step, step.hours, "hours", "would meet the failure rule")
        elif not facts.ever_open:
            yield Finding(
                "never-open",
                "warns",
                step.id,
                "",
                f"“{facts.name}” is never open: no caller takes the way “open”.",
                "Paint the hours.",
                Fix(f"Open {facts.name}…", goto=reference or ""),
            )


def _mailboxes(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Message):
            continue
        reference = walk.counted(step.mailbox)
        facts = walk.catalogue.mailboxes.get(reference or "")
        if facts is None:
            mend = _a_mailbox(walk, step)
            yield from missing(walk, step, step.mailbox, "mailbox", "could leave no message", mend)
        elif not facts.greeting:
            yield Finding(
                "no-greeting",
                "warns",
                step.id,
                "",
                f"“{facts.name}” has no greeting: callers hear a tone and do not know why.",
                "Give the mailbox a greeting.",
                Fix(f"Open {facts.name}…", goto=reference or ""),
            )


def _a_mailbox(walk: Walk, step: Message) -> Fix:
    """The first mailbox with a greeting, or else the way to a new one."""
    known = walk.catalogue.mailboxes
    if not known:
        return Fix("Make a mailbox…", goto="mailbox:new")
    reference = min(known, key=lambda ref: (not known[ref].greeting, known[ref].name))
    path = f"/steps/{position(walk.flow, step.id)}/mailbox"
    patch = {"op": "replace", "path": path, "value": reference}
    return Fix(f"Use {known[reference].name}", (patch,))


def _music(walk: Walk) -> Iterator[Finding]:
    """Hold music that is not there (any more): the usual music is played."""
    places = [(step.id, step.sound) for step in walk.flow.steps if isinstance(step, Music)]
    places += [(step.id, step.music) for step in walk.flow.steps if isinstance(step, WaitInQueue)]
    for where, sound in (*places, ("", walk.flow.music)):
        counted = walk.counted(sound)
        if counted and counted not in walk.catalogue.sounds:
            yield Finding(
                "missing-music",
                "warns",
                where,
                "",
                "The hold music does not exist any more: callers hear what else counts.",
                "Choose another, or none.",
            )


def _outside_numbers(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Ring):
            continue
        if not (step.number or step.people or step.group):
            yield Finding(
                "no-number",
                "blocks",
                step.id,
                "",
                "No number is given: nobody would be rung.",
                "Type the number.",
            )
        elif step.number and walk.comes_after(step.id, [step.id]):
            yield Finding(
                "outside-in-a-loop",
                "warns",
                step.id,
                "",
                "A caller can come here again and again: each time rings the outside number, at your cost.",
                "Lead what follows somewhere else.",
            )


def _at_any_hour(walk: Walk) -> Iterator[Finding]:
    """Outside numbers that are rung whatever the clock says."""
    seen: set[str] = set()
    todo = [walk.flow.start]
    while todo:
        at = todo.pop()
        step = walk.steps.get(at or "")
        if step is None or step.id in seen:
            continue
        seen.add(step.id)
        if isinstance(step, Ring) and step.number:
            yield Finding(
                "outside-at-any-hour",
                "warns",
                step.id,
                "",
                "Callers can come here at any hour, and each rings the outside number at your cost.",
                "Check the hours on the way, or accept it with the reason.",
            )
        if isinstance(step, CheckHours):
            todo.append(step.closed)
        elif isinstance(step, Times):
            todo.append(step.otherwise)
        else:
            todo.extend(way.to for way in walk.exits[step.id])


def _other_flows(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, GoOn):
            continue
        facts = walk.catalogue.flows.get(step.flow or "")
        if facts is None:
            yield from missing(walk, step, step.flow, "flow", "would be cut off")
        elif facts.purpose != "flow":
            yield Finding(
                "no-flow",
                "blocks",
                step.id,
                "",
                f"“{facts.name}” is no flow that contacts can go on in.",
                "Choose a flow.",
            )
        elif not facts.in_force:
            yield Finding(
                "flow-not-in-force",
                "blocks",
                step.id,
                "",
                f"“{facts.name}” is not in force yet: callers would be cut off.",
                "Publish that flow first.",
                Fix(f"Open {facts.name}…", goto=step.flow or ""),
            )
        elif facts.channel != walk.flow.channel:
            yield Finding(
                "other-channel",
                "blocks",
                step.id,
                "",
                f"“{facts.name}” is a {facts.channel} flow: these contacts cannot go on there.",
                "Choose a flow of the same channel.",
            )
        elif walk.catalogue.leads_back(step.flow or ""):
            yield Finding(
                "flows-in-a-circle",
                "blocks",
                step.id,
                "",
                f"“{facts.name}” leads back to this flow: a caller could be handed round for ever.",
                "Break the circle.",
            )


def _heard(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        for prompt in prompts(step):
            if isinstance(prompt, SpokenText):
                if not prompt.text:
                    yield Finding(
                        "empty-text",
                        "blocks",
                        step.id,
                        "",
                        "Nothing is said here: callers would hear silence.",
                        "Type what is said.",
                    )
            else:
                yield from _sound(walk, step, prompt)


def _sound(walk: Walk, step: AnyStep, prompt: LibrarySound) -> Iterator[Finding]:
    facts = walk.catalogue.sounds.get(walk.counted(prompt.sound) or "")
    if facts is None:
        yield from missing(walk, step, prompt.sound, "sound", "would hear silence")
    elif facts.takes and walk.flow.language not in facts.takes:
        other = LANGUAGES[next(iter(facts.takes))]
        yield Finding(
            "sound-in-other-language",
            "warns",
            step.id,
            "",
            f"“{facts.name}” is not there in {LANGUAGES[walk.flow.language]}: callers hear it in {other}.",
            "Add the language to the sound.",
            Fix(f"Open {facts.name}…", goto=walk.counted(prompt.sound) or ""),
        )


RULES = (_queues, _plans, _hours, _mailboxes, _music, _outside_numbers, _at_any_hour, _other_flows, _heard)
