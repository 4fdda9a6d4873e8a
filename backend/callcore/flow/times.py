"""How long callers are at a stop."""

from __future__ import annotations

from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import (
    AnyStep,
    Digits,
    Directory,
    Extension,
    FaxCheck,
    Menu,
    Message,
    Music,
    OfferCallback,
    Ring,
    Say,
    WaitInQueue,
)


def longest_s(step: AnyStep, exit_name: str, catalogue: Catalogue) -> float:
    """The longest time (s) of the flow's own at a stop: neither queues nor talks."""
    if isinstance(step, WaitInQueue):
        return 0.0
    longest = seconds(step, exit_name, catalogue)[1]
    return 0.0 if longest is None else longest


def seconds(step: AnyStep, exit_name: str, catalogue: Catalogue) -> tuple[float, float | None]:
    """The shortest and longest time at a stop that is left by an exit; talk is not counted."""
    heard = sum(catalogue.length_ms(p) for p in step.prompts()[:1]) / 1000
    if isinstance(step, Menu | Digits | Extension | Directory):
        tries = step.tries or 1
        silent = (heard + step.wait_s) * tries
        return (silent if exit_name in ("no_key", "no_digits") else 0.0), silent
    if isinstance(step, OfferCallback):
        return heard, heard + step.wait_s
    if isinstance(step, Music | FaxCheck):
        return (0.0 if exit_name == "fax" else float(step.seconds)), float(step.seconds)
    if isinstance(step, Ring):
        group = catalogue.groups.get(step.group or "")
        most = float(group.seconds if group else step.ring_s * max(1, len(step.people)))
        return (most if exit_name == "no_answer" else 0.0), most
    if isinstance(step, Message):
        facts = catalogue.mailboxes.get(step.mailbox or "")
        greeting = facts.greeting_ms / 1000 if facts else 0.0
        return greeting, greeting + (facts.longest_ms / 1000 if facts else 0.0)
    if isinstance(step, WaitInQueue):
        facts_of_queue = catalogue.queues.get(step.queue or "")
        wait = step.longest_wait_s or (facts_of_queue.longest_wait_s if facts_of_queue else 0)
        least = float(wait or 0) if exit_name == "waited" else 0.0
        return least, None if wait is None else float(wait)
    if isinstance(step, Say) or step.kind == "end":
        return heard, heard
    return 0.0, 0.0
