"""Alerts: rules over live figures, looked at as time passes; what arose, was seen, and is over."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from callcore.centre.registry import Occasion, command, on
from callcore.centre.site import Site
from callcore.centre.topics import StandingAlert
from callcore.errors import EventRefused
from callcore.events import facts
from callcore.measures.alerts import AlertRule, said
from callcore.measures.figures import LATELY_MS
from callcore.measures.rows import QueueRow
from callcore.routing.events import Status


@on(Occasion.LOOK)
def look(site: Site, now_ms: int) -> None:
    """Let alerts arise, and be over."""
    local = datetime.fromtimestamp(now_ms / 1000, ZoneInfo(site.setup.time_zone))
    rules = {rule.id: rule for rule in site.setup.alerts}
    site.floor.watch.keep(rules)
    for rule in rules.values():
        value = figure(site, rule, now_ms) if rule.counts_at(local) else None
        stands = rule.id in site.floor.alerts
        stays = site.floor.watch.look(rule, rule.holds(value), stands, now_ms)
        if stays and not stands and value is not None:
            words = f"{_of(site, rule)}: {said(rule, value)}"
            _tell(site, facts.Alert(rule.id, rule.name, "arisen", words, rule.queue), now_ms)
        elif stands and not stays:
            _tell(site, facts.Alert(rule.id, rule.name, "over", queue=rule.queue), now_ms)
    for gone in sorted(site.floor.alerts.keys() - rules.keys()):
        _tell(site, facts.Alert(gone, _name(site, gone), "over"), now_ms)


@command("alert.see")
def see(site: Site, body: dict[str, Any], now_ms: int) -> None:
    """Somebody has seen an alert: it stands on no banner any more.

    Raises:
        EventRefused: it is over.
    """
    rule = str(body["rule"])
    if rule not in site.floor.alerts:
        raise EventRefused("not-now", "This alert is over.")
    fact = facts.Alert(rule, _name(site, rule), "seen", by=str(body["by"]))
    _tell(site, fact, now_ms)


def _tell(site: Site, fact: facts.Alert, now_ms: int) -> None:
    site.emit(fact, now_ms)
    site.dirty.add("strip")


def _name(site: Site, rule: str) -> str:
    arose = site.floor.alerts[rule][0].fact
    return arose.name if isinstance(arose, facts.Alert) else ""


def _of(site: Site, rule: AlertRule) -> str:
    queue = site.setup.queues.get(rule.queue)
    return queue.name if queue is not None else "All queues"


def figure(site: Site, rule: AlertRule, now_ms: int) -> float | None:
    """What a rule is over; None where there is no figure, or no such queue (any more)."""
    if rule.queue and rule.queue not in site.setup.queues:
        return None
    return _READ[rule.figure](site, rule.queue, now_ms)


def _waits_ms(site: Site, queue: str, now_ms: int) -> list[int]:
    queues = [queue] if queue else list(site.setup.queues)
    lines = (w for name in queues for w in site.router.waiting(name) if not w.callback)
    return [now_ms - w.entered_ms for w in lines]


def _agents(site: Site, queue: str, status: Status | None = None) -> float:
    return sum(
        a.status is not Status.OUT and (status is None or a.status is status)
        for a in site.router.agents.values()
        if not queue or queue in a.queues
    )


def _today(site: Site, queue: str) -> QueueRow:
    return site.figures.queue_total(queue) if queue else site.figures.centre_total()


def _level(site: Site, queue: str, row: QueueRow) -> float | None:
    known = site.setup.queues.get(queue)
    level = row.service_level(known.formula if known else "A")
    return None if level is None else 100 * level


def _expected(site: Site, queue: str, now_ms: int) -> float | None:
    if not queue or queue not in site.waits.lines:
        return None
    ahead = len(site.router.waiting(queue))
    found = site.waits.expected(queue, ahead, 0.0, site.router.at_work_for(queue), now_ms)
    return found.seconds if found else None


_READ: dict[str, Callable[[Site, str, int], float | None]] = {
    "waiting": lambda s, q, now: len(_waits_ms(s, q, now)),
    "longest": lambda s, q, now: max(_waits_ms(s, q, now), default=0) / 1000,
    "expected": _expected,
    "available": lambda s, q, _: _agents(s, q, Status.AVAILABLE),
    "signed_in": lambda s, q, _: _agents(s, q),
    "away": lambda s, q, _: _agents(s, q, Status.AWAY),
    "level": lambda s, q, _: _level(s, q, _today(s, q)),
    "level_now": lambda s, q, now: _level(s, q, s.figures.lately(q, now - LATELY_MS)),
    "abandoned": lambda s, q, _: _today(s, q).abandoned,
}


def standing(site: Site) -> dict[str, StandingAlert]:
    """The alerts that stand, as the strip shows them."""
    found: dict[str, StandingAlert] = {}
    teams = {rule.id: rule.teams for rule in site.setup.alerts}
    for rule, (arose, seen) in site.floor.alerts.items():
        if isinstance(arose.fact, facts.Alert):
            by = seen.fact.by if seen is not None and isinstance(seen.fact, facts.Alert) else ""
            found[rule] = {
                "name": arose.fact.name,
                "words": arose.fact.words,
                "queue": arose.fact.queue,
                "since_ms": arose.at_ms,
                "seen_by": by,
                "teams": list(teams.get(rule, ())),
            }
    return found
