"""What a flow asks while it runs for a contact: hours, figures, places in line, plans, people."""

from __future__ import annotations

from collections.abc import Sequence

from callcore.centre.site import Site
from callcore.directory.extensions import Dialled
from callcore.directory.names import Person
from callcore.flow.runner import GroupRule, Machine, MailboxRule, Place
from callcore.numbers.writing import NotANumber
from callcore.routing.choosing import Agent
from callcore.routing.events import Status

_BUSY = (Status.RINGING, Status.ON_CONTACT, Status.WRAPPING)


class SiteEnvironment:
    """The environment of one contact at a site. See `callcore.flow.state.Environment`."""

    __slots__ = ("_contact", "_site")

    def __init__(self, site: Site, contact: str) -> None:
        self._site = site
        self._contact = contact

    @property
    def silence_ends(self) -> bool:
        return self._site.setup.catalogue.silence_ends

    def open_at(self, reference: str, now_ms: int) -> tuple[bool, str] | None:
        return self._site.setup.open_at(reference, now_ms)

    def mailbox(self, reference: str) -> MailboxRule | None:
        return self._site.setup.mailbox(reference)

    def dial(self, digits: str) -> Dialled:
        return self._site.setup.dial(digits)

    def people(self) -> tuple[Person, ...]:
        return self._site.setup.people()

    def outside(self, typed: str) -> str | None:
        try:
            return self._site.setup.outside(typed)
        except NotANumber:
            return None

    def plan(self, queue: str, plan: str | None) -> str:
        """The key of the waiting plan that counts: the step's, else the queue's."""
        known = self._site.setup.queues.get(queue.partition(":")[2])
        wanted = plan.partition(":")[2] if plan else known.plan if known else ""
        flow = self._site.setup.flows.get(wanted)
        if flow is None or flow.machine.flow.purpose != "plan":
            return ""
        self._site.plans[flow.plan_key] = flow
        return flow.plan_key

    def plan_machine(self, key: str) -> Machine | None:
        flow = self._site.plans.get(key)
        return flow.machine.asking(self) if flow else None

    def overflow(self, queue: str, way: str) -> str:
        known = self._site.setup.queues.get(queue.partition(":")[2])
        return known.sends(way) if known is not None else ""

    def group(self, reference: str) -> GroupRule | None:
        """Whom a ring group rings for a caller who comes now."""
        group = self._site.setup.groups.get(reference.partition(":")[2])
        if group is None:
            return None
        agents = self._site.router.agents
        at_work = (agents.get(person) for person in group.people)
        busy = group.when_busy == "busy" and any(a and a.status in _BUSY for a in at_work)
        return group.rule(self._site.turns.get(group.id, ""), busy=busy)

    def place(self, reference: str) -> Place | None:
        """Where the contact stands in a queue, or would stand."""
        site, queue = self._site, reference.partition(":")[2]
        if queue not in site.setup.queues:
            return None
        line = [w for w in site.router.waiting(queue) if not w.connected]
        at = next((i for i, w in enumerate(line) if w.id == self._contact), len(line))
        waited_ms = site.now_ms - line[at].entered_ms if at < len(line) else 0
        able = site.router.at_work_for(queue, self._asks())
        expected = site.waits.expected(queue, at, waited_ms / 1000, able, site.now_ms)
        told = expected is not None and expected.may_be_told
        return Place(at + 1, expected.seconds if expected and told else None)

    def figure(self, reference: str | None, name: str) -> float | None:
        """A live figure of a queue or of the centre: a count, seconds, or percent."""
        site = self._site
        queue = reference.partition(":")[2] if reference else None
        if queue is not None and queue not in site.setup.queues:
            return None
        if name in ("position", "expected_wait"):
            return self._ahead(reference, name)
        if name in ("signed_in", "available"):
            agents = self._signed_in(queue)
            return sum(name == "signed_in" or a.status is Status.AVAILABLE for a in agents)
        if name in ("waiting", "longest_wait"):
            queues = [queue] if queue is not None else list(site.setup.queues)
            waiting = [w for q in queues for w in site.router.waiting(q) if not w.callback]
            if name == "waiting":
                return len(waiting)
            first = min((w.entered_ms for w in waiting), default=site.now_ms)
            return max(0, site.now_ms - first) // 1000
        row = site.figures.queue_total(queue) if queue else site.figures.centre_total()
        level = row.service_level(site.setup.queues[queue].formula if queue else "A")
        return None if level is None else round(level * 100, 1)

    def _ahead(self, reference: str | None, name: str) -> float | None:
        """A figure of the contact's own wait; None where it is not sure enough."""
        there = self.place(reference) if reference else None
        if there is None:
            return None
        return there.position if name == "position" else there.expected_s

    def _signed_in(self, queue: str | None) -> Sequence[Agent]:
        """Who is signed in and could take the contact, or anybody of the centre."""
        router = self._site.router
        if queue is None:
            return [a for a in router.agents.values() if a.status is not Status.OUT]
        return router.signed_in_for(queue, self._asks())

    def _asks(self) -> tuple[tuple[str, int], ...]:
        contact = self._site.contacts.get(self._contact)
        return contact.asks if contact else ()


def refuses(site: Site, queue: str, text: bool, now_ms: int) -> str:
    """Why a queue lets a contact in no more; empty where it does.

    At its closing time it still serves who waits already.
    """
    known = site.setup.queues.get(queue)
    if known is None:
        return ""
    if ("text" if text else "voice") not in known.channels:
        return "other_channel"
    if known.when_closed != "leave" or not known.hours:
        return ""
    asked = site.setup.open_at(f"hours:{known.hours}", now_ms)
    return "queue_closed" if asked is not None and not asked[0] else ""
