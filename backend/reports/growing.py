"""The rows of the past grow with the journal: what is new in it is counted, and nothing twice."""

from __future__ import annotations

import logging
from collections import Counter
from collections.abc import Collection, Iterable, Iterator
from typing import Any

from django.db import connection, transaction
from django.db.models import F, Model, OuterRef, Subquery

from callcore.events import Happening
from callcore.events.codec import KINDS
from callcore.events.facts import AgentChanged
from callcore.measures import account, summary, tallies
from callcore.measures.account import Account
from callcore.measures.ledger import Ledger, Span
from callcore.measures.rows import COLUMNS, INTERVAL_MS, LONGEST
from callcore.measures.summary import Summary
from exchange.live import journal
from exchange.live.tables import add_to, copy_in
from reports.models import AgentSpan, ContactLine, Leg, Progress, QueueInterval, Stay, TallyInterval

log = logging.getLogger(__name__)

#: Kinds of events that something is counted of; all others are not even read.
KINDS_COUNTED = sorted({str(KINDS[fact]) for fact in (*account.TAKEN, *tallies.TAKEN, *summary.TAKEN)})
#: So many events are counted at once.
MOST_AT_ONCE = 20_000
_A_LITTLE = 2_000
#: Until when (ms) a state of a day lasted that was counted before the day after it.
_LEFT_OPEN = 0

_QUEUE_KEY = {
    "site": "text",
    "queue": "text",
    "at_ms": "bigint",
    "threshold_ms": "integer",
    "short_abandon_ms": "integer",
    "formula": "text",
}
_TALLY_KEY = {"site": "text", "what": "text", "thing": "text", "at_ms": "bigint", "detail": "text"}
_STAY = (
    "site",
    "contact",
    "number",
    "queue",
    "entered_ms",
    "left_ms",
    "up_front_ms",
    "wait_ms",
    "outcome",
    "late",
    "short",
    "agent",
)
_LEG = (
    "site",
    "contact",
    "number",
    "agent",
    "queue",
    "how",
    "offered_ms",
    "answered_ms",
    "ended_ms",
    "by",
    "wait_ms",
    "talk_ms",
    "hold_ms",
    "wrap_ms",
    "code",
    "coded",
)
_LINE = (
    "site",
    "contact",
    "number",
    "caller",
    "flow",
    "arrived_ms",
    "ended_ms",
    "ending",
    "keys",
    "recorded",
    "texts",
    "callback",
    "queue",
    "agent",
    "code",
    "queues",
    "agents",
    "codes",
    "wait_ms",
    "up_front_ms",
    "talk_ms",
    "hold_ms",
    "wrap_ms",
    "legs",
    "transferred",
)
_SPAN = ("site", "agent", "status", "reason", "from_ms", "until_ms")

#: All that is made of the journal, and by what moment a row is booked.
_BOOKED: dict[type[Model], str] = {
    QueueInterval: "at_ms",
    TallyInterval: "at_ms",
    Stay: "entered_ms",
    Leg: "offered_ms",
    ContactLine: "arrived_ms",
    AgentSpan: "from_ms",
}


def catch_up(site: str, most: int = 0, up_to: int | None = None, *, since_ms: int = 0) -> bool:
    """Count what the journal has more than was counted, up to a bound.

    Args:
        most: so many events, where not as many as usual. up_to: none behind this number.
        since_ms: intervals before it stand already.

    Returns:
        Whether there may be more to count.
    """
    most = most or MOST_AT_ONCE
    with transaction.atomic():
        Progress.objects.get_or_create(site=site)
        rows = Progress.objects.select_for_update(skip_locked=True)
        progress = rows.filter(site=site).first()
        if progress is None:  # somebody else is at it
            return False
        new, read_to = journal.after(site, progress.seq, KINDS_COUNTED, most, up_to)
        events = [numbered.event for numbered in new]
        if read_to == progress.seq:
            return False
        _count(site, events, progress.seq, since_ms)
        progress.seq = read_to
        progress.at_ms = max([progress.at_ms, *(event.at_ms for event in events)])
        progress.save()
    return len(new) == most


def freshen(site: str) -> None:
    """Count a little of what is new, for whoever looks now: the worker does the most of it."""
    catch_up(site, _A_LITTLE)


def count(site: str, events: list[Happening]) -> None:
    """Count events of contacts that nothing was counted of before, wherever they stand in the
    journal; `all_is_counted` follows, before anybody catches up."""
    _count(site, events, 0, 0, afresh=True)


def count_beside(site: str, events: list[Happening]) -> None:
    """Count a day that is over while what happens now is counted too. `join` follows the last one."""
    ledger = Ledger()
    ledger.take(events)
    spans = (span if span.until_ms else span._replace(until_ms=_LEFT_OPEN) for span in ledger.spans)
    _add_intervals(site, ledger, 0)
    _write_contacts(site, ledger, _named(events)[1])
    _copy_spans(site, spans)


def join(site: str) -> None:
    """What agents did last on days that `count_beside` has counted lasts until what they did next."""
    later = (
        AgentSpan.objects.filter(site=site, agent=OuterRef("agent"), from_ms__gte=OuterRef("from_ms"))
        .exclude(pk=OuterRef("pk"))
        # What lasted no time came before it.
        .exclude(until_ms=F("from_ms"))
    )
    with transaction.atomic():
        counted(site)
        AgentSpan.objects.filter(site=site, until_ms=_LEFT_OPEN).update(
            until_ms=Subquery(later.order_by("from_ms").values("from_ms")[:1])
        )


def all_is_counted(site: str) -> None:
    """What the journal has by now was counted."""
    seq, at_ms = journal.newest(site)
    Progress.objects.update_or_create(site=site, defaults={"seq": seq, "at_ms": at_ms})


def forget(site: str) -> None:
    """Nothing is counted any more; the journal's next events are the first."""
    counted(site)  # whoever counts at this moment has done so before what they wrote is taken out
    _forget_since(site, 0)
    Progress.objects.filter(site=site).update(
        seq=journal.newest(site)[0], at_ms=0, kept_from_ms=0, worded_from_ms=0
    )


def _forget_since(site: str, since_ms: int) -> None:
    for model, booked in _BOOKED.items():
        model.objects.filter(site=site, **{f"{booked}__gte": since_ms}).delete()


def rebuild(site: str) -> Iterator[int]:
    """Count anew all that was counted, from the first event on; tells after each step up to which
    number. Whoever counts meanwhile lets it be. Of a time whose contacts are not kept any more the
    rows stay as they are."""
    with transaction.atomic():
        counted_to, since_ms = counted(site), kept_from_ms(site)
        _forget_since(site, since_ms)
        Progress.objects.update_or_create(site=site, defaults={"seq": 0, "at_ms": 0})
        while catch_up(site, up_to=counted_to, since_ms=since_ms):
            yield Progress.objects.get(site=site).seq


def counted(site: str) -> int:
    """The number up to which everything is counted; nobody counts on in this transaction."""
    rows = Progress.objects.select_for_update().filter(site=site)
    return next(iter(rows.values_list("seq", flat=True)), 0)


def kept_from_ms(site: str) -> int:
    """From when on contacts are kept; 0 for all."""
    return next(iter(Progress.objects.filter(site=site).values_list("kept_from_ms", flat=True)), 0)


Rows = dict[str, Counter[tuple[Any, ...]]]


def everything(site: str) -> Rows:
    """All rows of a site without their own numbers, by table: to be compared."""
    found: Rows = {}
    for model in _BOOKED:
        columns = [field.name for field in model._meta.fields if field.name not in ("id", "site")]
        rows = model.objects.filter(site=site).values_list(*columns).iterator(chunk_size=5000)
        found[model._meta.model_name or ""] = Counter(map(_comparable, rows))
    return found


def _comparable(row: tuple[Any, ...]) -> tuple[Any, ...]:
    return tuple(tuple(cell) if isinstance(cell, list) else cell for cell in row)


def differences(before: Rows, after: Rows) -> list[str]:
    """The rows that are in one and not in the other, in words."""
    return [
        f"{name}, {said}: {row}"
        for name in after
        for said, rows in (
            ("only stood", before[name] - after[name]),
            ("only counted anew", after[name] - before[name]),
        )
        for row in rows.elements()
    ]


def _count(
    site: str, events: list[Happening], counted_to: int, since_ms: int, *, afresh: bool = False
) -> None:
    agents, contacts = _named(events)
    ledger = Ledger(_standing(site, agents))
    if counted_to:
        ledger.knew(journal.stories(contacts, counted_to, KINDS_COUNTED))
    ledger.take(events)
    for contact, error in ledger.broken.items():
        log.error("contact %s cannot be counted further", contact, exc_info=error)
    if not afresh:
        for model in (Stay, Leg, ContactLine):
            _take_out(model, contacts)
    _write(site, ledger, agents, contacts, since_ms)


def _named(events: Iterable[Happening]) -> tuple[set[str], set[str]]:
    """The agents whose state some events change, and their contacts."""
    agents = {event.agent for event in events if isinstance(event.fact, AgentChanged)}
    return agents, {event.contact for event in events if event.contact}


def _standing(site: str, agents: Collection[str]) -> Iterable[Span]:
    rows = AgentSpan.objects.filter(site=site, agent__in=agents, until_ms__isnull=True)
    return [Span(*row) for row in rows.values_list("agent", "status", "reason", "from_ms")]


def _write(
    site: str, ledger: Ledger, agents: Collection[str], contacts: Collection[str], since_ms: int
) -> None:
    _add_intervals(site, ledger, since_ms // INTERVAL_MS)
    _write_contacts(site, ledger, contacts)
    _write_spans(site, ledger, agents, since_ms)


def _add_intervals(site: str, ledger: Ledger, begins: int) -> None:
    add_to(
        QueueInterval,
        _QUEUE_KEY,
        COLUMNS,
        LONGEST,
        [
            (
                site,
                key.queue,
                key.interval * INTERVAL_MS,
                *key.limits,
                *(getattr(row, name) for name in COLUMNS),
            )
            for key, row in ledger.rows.items()
            if key.interval >= begins
        ],
    )
    add_to(
        TallyInterval,
        _TALLY_KEY,
        ("count", "ms", "longest_ms"),
        ("longest_ms",),
        [
            (
                site,
                str(t.what),
                t.thing[:40],
                t.interval * INTERVAL_MS,
                t.detail[:200],
                amount.count,
                amount.ms,
                amount.longest_ms,
            )
            for t, amount in ledger.tallies.items()
            if t.interval >= begins
        ],
    )


def _write_contacts(site: str, ledger: Ledger, contacts: Collection[str]) -> None:
    copy_in(Stay, _STAY, (row for c in contacts for row in _stays(site, c, ledger.accounts[c])))
    copy_in(Leg, _LEG, (row for c in contacts for row in _legs(site, c, ledger.accounts[c])))
    copy_in(
        ContactLine,
        _LINE,
        (
            _line(site, c, ledger.summaries[c], ledger.accounts[c])
            for c in contacts
            if not ledger.summaries[c].inner
        ),
    )


def _write_spans(site: str, ledger: Ledger, agents: Collection[str], since_ms: int) -> None:
    standing = AgentSpan.objects.filter(site=site, agent__in=agents, until_ms__isnull=True)
    standing.filter(from_ms__gte=since_ms).delete()
    _copy_spans(site, (span for span in ledger.spans if span.from_ms >= since_ms))


def _copy_spans(site: str, spans: Iterable[Span]) -> None:
    copy_in(
        AgentSpan,
        _SPAN,
        ((site, s.agent, s.status[:12], s.reason[:80], s.from_ms, s.until_ms) for s in spans),
    )


def _take_out(model: type[Stay | Leg | ContactLine], contacts: Collection[str]) -> None:
    """Rows of contacts, by their index: a list of thousands would have the whole table read."""
    table = model._meta.db_table
    with connection.cursor() as cursor:
        # Only names of our own models stand in it.
        cursor.execute(
            f'DELETE FROM "{table}" USING unnest(%s::text[]) AS old(name) WHERE contact = old.name',  # noqa: S608
            [list(contacts)],
        )


def _stays(site: str, contact: str, known: Account) -> Iterator[tuple[Any, ...]]:
    for number, stay in enumerate(known.stays):
        yield (
            site,
            contact,
            number,
            stay.queue,
            stay.entered_ms,
            stay.left_ms or None,
            stay.up_front_ms,
            stay.wait_ms,
            str(stay.outcome),
            stay.late,
            stay.short,
            stay.agent,
        )


def _legs(site: str, contact: str, known: Account) -> Iterator[tuple[Any, ...]]:
    for number, leg in enumerate(known.legs):
        home = leg.home
        waited_ms = home.wait_ms if home is not None and leg.how == "queue" else 0
        yield (
            site,
            contact,
            number,
            leg.agent,
            leg.queue,
            str(leg.how),
            home.entered_ms if home is not None else leg.answered_ms,
            leg.answered_ms,
            leg.ended_ms or None,
            leg.by[:12],
            waited_ms,
            leg.talk_ms,
            leg.held_ms,
            leg.wrap_ms,
            leg.code or "",
            leg.code is not None,
        )


def _line(site: str, contact: str, known: Summary, counted: Account) -> tuple[Any, ...]:
    stays, legs = counted.stays, counted.legs
    last = legs[-1] if legs else None
    queue = (last.queue if last else "") or (stays[-1].queue if stays else "")
    return (
        site,
        contact,
        known.number[:20],
        known.caller[:20],
        known.flow,
        known.arrived_ms,
        known.ended_ms or None,
        known.ending[:20],
        known.keys,
        known.recorded,
        known.texts,
        known.callback,
        queue,
        last.agent if last else "",
        next((leg.code for leg in reversed(legs) if leg.code), ""),
        sorted({stay.queue for stay in stays if stay.queue} | {leg.queue for leg in legs if leg.queue}),
        sorted({leg.agent for leg in legs}),
        sorted({leg.code for leg in legs if leg.code}),
        max((stay.wait_ms for stay in stays), default=0),
        stays[0].up_front_ms if stays else 0,
        sum(leg.talk_ms for leg in legs),
        sum(leg.held_ms for leg in legs),
        sum(leg.wrap_ms for leg in legs),
        len(legs),
        any(leg.by == "transferred" for leg in legs),
    )
