"""Reading and writing what the exchange must not forget."""

from __future__ import annotations

import logging
import uuid
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from datetime import timedelta
from typing import Any, NamedTuple

from django.db import DataError, IntegrityError, connection, transaction
from django.db.models import F, Max
from django.utils import timezone

from callcore.centre.standing import CONTACT, KINDS, Row
from callcore.events import Happening, Kind, Unreadable, encode, facts, read
from callcore.measures.rows import INTERVAL_MS
from callcore.people.crowd import CrowdSettings
from callcore.people.said import usual_unless
from exchange.live.earlier import Written
from exchange.live.rooms import make_room
from exchange.live.tables import as_json, copy_in, update_from
from exchange.models import Callback, Command, Contact, Journal, Lease, Standing, StandIns
from exchange.site_clock import SiteClock
from mailboxes import services as mailbox_services
from mailboxes.tasks import give_voice

log = logging.getLogger(__name__)

LEASE = timedelta(seconds=4)
#: Events of a past that is written while the exchange runs have numbers up to this one.
PAST_NUMBERS = 100_000_000
#: Who writes a past and who takes everything out take turns.
_PAST_LOCK = 20_260_917
#: How many talks of the past are read for who knows whom.
MOST_ACQUAINTANCES = 100_000


class LeaseLost(Exception):
    """Another exchange owns the site now; this one must not write another word."""


def take_lease(site: str, owner: uuid.UUID, where: str, lasts: timedelta = LEASE) -> Lease | None:
    """Take or renew the lease of a site; the holder's lease where somebody else has it."""
    now = timezone.now()
    with transaction.atomic():
        made, created = Lease.objects.select_for_update().get_or_create(
            site=site, defaults={"owner": owner, "where": where, "until": now + lasts}
        )
        if not created and made.owner != owner and made.until > now:
            return made
        made.owner, made.where, made.until = owner, where, now + lasts
        made.save()
    return None


def forget_old_commands(site: str) -> None:
    """Commands are kept for a day, for whoever looks into what was asked."""
    Command.objects.filter(site=site, asked_at__lt=timezone.now() - timedelta(days=1)).delete()


def give_up_lease(site: str, owner: uuid.UUID) -> None:
    """Let the next exchange begin at once."""
    Lease.objects.filter(site=site, owner=owner).update(until=timezone.now())


def write(
    site: str,
    owner: uuid.UUID,
    events: list[Happening],
    rows: list[Row],
    answers: Iterable[tuple[int, dict[str, Any]]],
) -> None:
    """Write events, how everything stands after them, and the answers that depend on them, all or
    nothing.

    Raises:
        LeaseLost: the site is not ours any more.
    """
    with transaction.atomic():
        ours = Lease.objects.select_for_update().filter(site=site, owner=owner)
        if not ours.exists():
            raise LeaseLost
        _write_events(site, events)
        _write_standing(site, rows)
        now = timezone.now()
        update_from(
            Command,
            {"id": "bigint", "answer": "jsonb", "answered_at": "timestamptz"},
            [(pk, as_json(answer), now) for pk, answer in answers],
        )


def write_past(site: str, events: list[Happening], *, messages: bool, beside: bool = False) -> None:
    """Write events of a day that is over, all or nothing.

    Args:
        messages: whether what callers said for mailboxes is kept. beside: the exchange runs, and has
            numbers from `leave_numbers_to_a_past` on; one day is written after the other.
    """
    with transaction.atomic():
        first = _after_past_numbers(len(events)) if beside else None
        _write_events(site, events, messages=messages, first=first)


def leave_numbers_to_a_past() -> None:
    """The numbers up to `PAST_NUMBERS` are left to days that are written later: what happened first
    is to have the lower number."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT setval(name, GREATEST(nextval(name), %s))"
            " FROM CAST(pg_get_serial_sequence(%s, 'seq') AS regclass) AS name",
            [PAST_NUMBERS, Journal._meta.db_table],
        )


def hold_still() -> None:
    """Until the end of the transaction nothing is taken out by `forget_what_was_written`, and no
    other day of a past is written."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_PAST_LOCK])


def _after_past_numbers(count: int) -> int:
    newest = Journal.objects.filter(seq__lte=PAST_NUMBERS).aggregate(newest=Max("seq"))["newest"] or 0
    if newest + count > PAST_NUMBERS:
        raise ValueError(f"a past may have {PAST_NUMBERS:,} events")
    return newest + 1


def own_since(site: str) -> int | None:
    """When the events begin (ms) that the exchange wrote itself, where numbers were left to a past;
    None where none were."""
    own = Journal.objects.filter(site=site, seq__gt=PAST_NUMBERS).order_by("seq")
    return own.values_list("at_ms", flat=True).first()


def days_written(site: str, days: Sequence[tuple[int, int]]) -> list[bool]:
    """Of days (from, until, ms), those on which somebody called. What is done after midnight by
    those who stayed late is of the day before."""
    within = {
        "arrived_ms__gte": min((begins for begins, _ in days), default=0),
        "arrived_ms__lt": max((ends for _, ends in days), default=0),
    }
    # No day of any zone begins within a quarter-hour.
    quarters = Contact.objects.filter(site=site, **within).annotate(quarter=F("arrived_ms") / INTERVAL_MS)
    starts = {quarter * INTERVAL_MS for quarter in quarters.values_list("quarter", flat=True).distinct()}
    return [any(begins <= start < ends for start in starts) for begins, ends in days]


def unwritable(site: str, events: list[Happening], rows: list[Row]) -> dict[str, Exception]:
    """The contacts whose events, or whose state, the database does not take, and why. Nothing is
    written."""
    by_contact: dict[str, list[Happening]] = {row.name: [] for row in rows if row.what == CONTACT}
    for event in events:
        by_contact.setdefault(event.contact, []).append(event)
    found: dict[str, Exception] = {}
    for contact, own in by_contact.items():
        try:
            with transaction.atomic():
                _write_events(site, own)
                _write_standing(site, [r for r in rows if r[:2] == (CONTACT, contact)])
                transaction.set_rollback(True)
        except (DataError, IntegrityError, TypeError, ValueError) as error:
            found[contact] = error
    return found


def _write_standing(site: str, rows: list[Row]) -> None:
    """Rows in the place of those of the same names: taking them out and putting them in by `COPY`
    is half the work of an upsert, and names alone would have the whole table read."""
    if not rows:
        return
    old = Standing.objects.filter(site=site, what__in=KINDS, name__in=[row.name for row in rows])
    old.delete()
    copy_in(
        Standing,
        ("site", "what", "name", "body"),
        ((site, r.what, r.name, as_json(r.body)) for r in rows if r.body is not None),
    )


def standing(site: str) -> list[Row]:
    """How everything of a site stands; nothing where it was never written."""
    found = Standing.objects.filter(site=site).values_list("what", "name", "body")
    return [Row(*row) for row in found]


def _write_events(
    site: str, events: list[Happening], *, messages: bool = True, first: int | None = None
) -> None:
    _write_contacts(site, events)
    make_room(h.at_ms for h in events)
    fields = ("site", "at_ms", "kind", "contact", "agent", "body")
    rows = ((site, h.at_ms, str(h.kind), h.contact, h.agent, as_json(encode(h.fact))) for h in events)
    if first is None:
        copy_in(Journal, fields, rows)
    else:
        copy_in(Journal, ("seq", *fields), ((seq, *row) for seq, row in enumerate(rows, first)))
    _write_callbacks(site, events)
    if messages:
        _keep_messages(events)


def _write_contacts(site: str, events: list[Happening]) -> None:
    begun: list[tuple[Any, ...]] = []
    for h in events:
        fact = h.fact
        if isinstance(fact, facts.Arrived):
            more = (fact.consult_of, fact.placed_by or None)
            begun.append((h.contact, site, fact.number, fact.caller, fact.flow, h.at_ms, "", *more))
        elif isinstance(fact, facts.Booked):
            kept = (fact.number, fact.caller, fact.flow)
            begun.append((h.contact, site, *kept, h.at_ms, "", "", None))
    copy_in(
        Contact,
        ("id", "site", "number", "caller", "flow", "arrived_ms", "ending", "consult_of", "placed_by"),
        begun,
    )
    update_from(
        Contact,
        {"id": "text", "ended_ms": "bigint", "ending": "text"},
        [(h.contact, h.at_ms, h.fact.ending) for h in events if isinstance(h.fact, facts.Ended)],
    )


def _write_callbacks(site: str, events: list[Happening]) -> None:
    """Callbacks as lists show them; what the exchange takes up again stands in the journal."""
    Callback.objects.bulk_create(
        Callback(
            contact=h.contact,
            site=site,
            origin=fact.origin,
            queue=fact.queue,
            number=fact.caller,
            booked_ms=h.at_ms,
            entered_ms=fact.entered_ms,
            next_ms=fact.next_ms,
            attempts=fact.attempts,
        )
        for h in events
        if isinstance(fact := h.fact, facts.Booked)
    )
    changes = [h for h in events if isinstance(h.fact, _CALLBACK_CHANGES)]
    callbacks = Callback.objects.in_bulk({h.contact for h in changes})
    for h in changes:
        if (callback := callbacks.get(h.contact)) is not None:
            for name, value in _callback_change(h).items():
                setattr(callback, name, value)
    Callback.objects.bulk_update(callbacks.values(), _CALLBACK_FIELDS)


_States = Callback.State
_CALLBACK_CHANGES = (facts.CallsBack, facts.NotReached, facts.Answered, facts.Ended)
_CALLBACK_FIELDS = ("state", "agent", "tried", "next_ms", "ended_ms")
_ENDS = {"not_reached": _States.NOT_REACHED, "cancelled": _States.CANCELLED}


def _callback_change(h: Happening) -> dict[str, Any]:
    """What an event changes in a callback's row."""
    fact = h.fact
    if isinstance(fact, facts.CallsBack):
        return {"state": _States.CALLING, "agent": h.agent, "tried": fact.attempt}
    if isinstance(fact, facts.NotReached):
        return {"state": _States.WAITING, "agent": "", "next_ms": fact.next_ms}
    if isinstance(fact, facts.Ended):
        return {"state": _ENDS.get(fact.ending, _States.DONE), "ended_ms": h.at_ms}
    return {"state": _States.TALKING}


def _keep_messages(events: list[Happening]) -> None:
    """Messages are kept with the events that tell of them: neither is there without the other."""
    left = {h.contact for h in events if isinstance(h.fact, facts.MessageLeft)}
    if not left:
        return
    rows = Contact.objects.filter(pk__in=left).values_list("pk", "caller", "number")
    callers = {pk: (caller, number) for pk, caller, number in rows}
    silent = mailbox_services.keep_messages(events, callers)
    # Without the queue of tasks the worker catches up by itself: nothing here must wait for it.
    transaction.on_commit(lambda: give_voice.apply_async((silent,), retry=False), robust=True)


def open_commands(site: str) -> list[Command]:
    """Commands that wait for an answer, in their order."""
    now = timezone.now()
    found = Command.objects.filter(site=site, answered_at__isnull=True, expires_at__gt=now)
    return list(found.order_by("id"))


def events_since(site: str, at_ms: int) -> Iterable[Happening]:
    """The stream from a moment on, in order."""
    rows = Journal.objects.filter(site=site, at_ms__gte=at_ms).order_by("seq")
    return _happenings(rows.values_list(*_READ).iterator(chunk_size=5000))


class Numbered(NamedTuple):
    """An event with its number in the journal."""

    seq: int
    event: Happening


def after(
    site: str, seq: int, kinds: Collection[str], most: int, up_to: int | None = None
) -> tuple[list[Numbered], int]:
    """The next events of some kinds behind one, in order; none behind `up_to`, where it is said.

    Returns:
        The events, and the number up to which all of these kinds have been read.
    """
    rows = Journal.objects.filter(site=site, seq__gt=seq)
    if up_to is None:
        # Asked before they are read: what is written meanwhile is left for the next time.
        up_to = rows.aggregate(newest=Max("seq"))["newest"] or seq
    rows = rows.filter(seq__lte=up_to, kind__in=kinds).order_by("seq")
    chosen = list(rows.values_list(*_READ)[:most])
    read_to = chosen[-1][0] if len(chosen) == most else max(seq, up_to)
    return [Numbered(row[0], event) for row in chosen for event in _happenings([row])], read_to


def stories(contacts: Collection[str], up_to: int, kinds: Collection[str]) -> Iterable[Happening]:
    """What was written of some contacts up to the event of a number, in order."""
    rows = Journal.objects.filter(contact__in=contacts, seq__lte=up_to, kind__in=kinds)
    return _happenings(rows.order_by("seq").values_list(*_READ).iterator(chunk_size=5000))


def of_agent(
    site: str, agent: str, kinds: Collection[str], since_ms: int, until_ms: int, most: int
) -> Iterable[Happening]:
    """What was written of an agent within some time, of some kinds, in order."""
    rows = Journal.objects.filter(site=site, kind__in=kinds, agent=agent)
    rows = rows.filter(at_ms__gte=since_ms, at_ms__lt=until_ms).order_by("seq")
    return _happenings(rows.values_list(*_READ)[:most])


def newest(site: str) -> tuple[int, int]:
    """Number and moment (ms) of the newest event; zeros where there is none."""
    last = Journal.objects.filter(site=site).order_by("-seq").values_list("seq", "at_ms").first()
    return last or (0, 0)


def acquaintances(site: str, since_ms: int) -> Iterable[tuple[str, str, int]]:
    """Callers and the agents who spoke with them since a moment: caller, agent, when (ms)."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT c.caller, j.agent, j.at_ms FROM exchange_journal j JOIN exchange_contact c"
            " ON c.id = j.contact WHERE j.site = %s AND j.kind = %s AND j.at_ms >= %s"
            " AND c.consult_of = '' ORDER BY j.at_ms DESC LIMIT %s",
            [site, str(Kind.ANSWERED), since_ms, MOST_ACQUAINTANCES],
        )
        return cursor.fetchall()


def emergencies(site: str, since_ms: int) -> list[Happening]:
    """What happened about emergencies since a moment, in order."""
    kinds = (str(Kind.EMERGENCY), str(Kind.EMERGENCY_TAKEN))
    rows = Journal.objects.filter(site=site, kind__in=kinds, at_ms__gte=since_ms).order_by("seq")
    return list(_happenings(rows.values_list(*_READ)))


def alerts(site: str, since_ms: int) -> list[Happening]:
    """What became of alerts since a moment, in order."""
    rows = Journal.objects.filter(site=site, kind=str(Kind.ALERT), at_ms__gte=since_ms)
    return list(_happenings(rows.order_by("seq").values_list(*_READ)))


def open_contacts(site: str) -> dict[str, list[Written]]:
    """The events of every contact that has not ended, as an earlier version wrote them, by
    contact, oldest contact first."""
    ids = list(
        Contact.objects.filter(site=site, ended_ms__isnull=True)
        .order_by("arrived_ms")
        .values_list("pk", flat=True)
    )
    stories: dict[str, list[Written]] = {contact: [] for contact in ids}
    for row in Journal.objects.filter(contact__in=ids).order_by("seq").iterator():
        stories[row.contact].append(_written(row))
    return stories


def _written(row: Journal) -> Written:
    return Written(row.at_ms, Kind(row.kind), row.contact, row.agent, row.body)


def crowd_settings(site: str) -> CrowdSettings:
    """What simulated callers and agents the site has; none where nobody ever asked for them."""
    row = StandIns.objects.filter(site=site).first()
    if row is None:
        return CrowdSettings()
    traits = usual_unless(row.people)
    traits = traits._replace(callers=traits.callers._replace(misheard=row.misheard / 100))
    return CrowdSettings(row.on, row.load, row.agents, row.seed, row.fax, traits)


def site_clock(site: str) -> SiteClock:
    """How the site's clock runs."""
    row = StandIns.objects.filter(site=site).first()
    return SiteClock(row.speed, row.clock_from_ms, row.clock_since_ms) if row else SiteClock()


#: What others have made of a site's events, and forget with them.
forgotten_with: list[Callable[[str], None]] = []


def forget_what_was_written(site: str) -> None:
    """Every contact, callback and event of a site goes, and what was made of them."""
    with transaction.atomic():
        hold_still()
        for model in (Journal, Contact, Callback, Standing):
            model.objects.filter(site=site).delete()
        for forget in forgotten_with:
            forget(site)


def forget_everything(site: str) -> None:
    """Every contact, callback and event of a site goes, and its clock is the wall's again."""
    with transaction.atomic():
        forget_what_was_written(site)
        StandIns.objects.filter(site=site).update(speed=1, clock_from_ms=0, clock_since_ms=0)


def story(contact: str) -> list[Happening]:
    """Everything that was written of one contact."""
    rows = Journal.objects.filter(contact=contact).order_by("seq")
    return list(_happenings(rows.values_list(*_READ)))


def last_agent_states(site: str) -> list[Written]:
    """The newest state of every agent who has one, as an earlier version wrote it."""
    rows = Journal.objects.filter(site=site, kind=str(Kind.AGENT)).order_by("agent", "-seq").distinct("agent")
    return [_written(row) for row in rows]


#: The columns that events are read of; a model's instance a row would take as long again.
_READ = ("seq", "at_ms", "kind", "contact", "agent", "body")


def _happenings(rows: Iterable[tuple[Any, ...]]) -> Iterator[Happening]:
    """Events; what only a later version understands is left out, with a line in the log."""
    for seq, *written in rows:
        try:
            yield read(*written)
        except (Unreadable, TypeError) as error:
            log.warning("event %s of the journal is stepped over: %s", seq, error)


def agent_states(site: str, since_ms: int) -> Iterable[Happening]:
    """Every change of an agent's state since a moment, in order."""
    rows = (
        Journal.objects.filter(site=site, kind=str(Kind.AGENT), at_ms__gte=since_ms)
        .order_by("seq")
        .values_list("at_ms", "agent", "body__status")
    )
    for at_ms, agent, status in rows.iterator(chunk_size=5000):
        yield Happening(at_ms, "", agent, facts.AgentChanged(status))
