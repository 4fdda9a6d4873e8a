"""How long what happened is kept: contacts with all that was written of them, messages, the words
of texts. Figures stay for ever; whatever goes, goes by whole days of the centre."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet

from exchange import retention
from mailboxes import services as mailbox_services
from reports import growing
from reports.models import ContactLine, KeepingRules, Progress
from reports.period import midnight_ms
from web.clock import site_now

#: There is one row of rules.
RULES_ID = 1
#: Shorter than this nothing is kept: today's and late codes, open threads and callbacks need it.
LEAST_DAYS, MOST_DAYS = 7, 3660
#: So many contacts, events, texts or messages are taken out at once.
_AT_ONCE = 2_000
#: One go takes no longer than this (s): the worker has figures to count as well.
_GO_S = 10.0
#: A count of what would go stops here.
MOST_COUNTED = 100_000


class Counts(NamedTuple):
    """How many contacts, messages and texts with words."""

    contacts: int
    messages: int
    texts: int


def rules() -> KeepingRules:
    """The rules; everything is kept while nobody has set any."""
    return KeepingRules.objects.filter(pk=RULES_ID).first() or KeepingRules(pk=RULES_ID)


def begin_of(days: int) -> int:
    """The midnight of the centre that lies so many whole days back (ms)."""
    zone = settings.CENTRE_TIME_ZONE
    today = site_now().astimezone(ZoneInfo(zone)).date()
    return midnight_ms(today - timedelta(days=days), zone)


def would_go(rule: KeepingRules) -> Counts:
    """What some rules, set or not, would take out now, each up to `MOST_COUNTED` and one more."""
    site = settings.EXCHANGE_SITE
    contacts = messages = texts = 0
    if rule.contacts_days is not None:
        contacts = _count(retention.old_contacts(site, begin_of(rule.contacts_days)))
    if rule.messages_days is not None:
        messages = _count(mailbox_services.old_messages(begin_of(rule.messages_days)))
    if rule.texts_days is not None:
        before_ms = begin_of(rule.texts_days)
        texts = _count(retention.worded_texts(site, _progress(site).worded_from_ms, before_ms))
    return Counts(contacts, messages, texts)


def _count(rows: QuerySet[Any]) -> int:
    return rows.order_by()[: MOST_COUNTED + 1].count()


def forget_what_is_old() -> None:
    """Take out what the rules keep no longer, as far as there is time; the next go goes on."""
    rule, site, until = rules(), settings.EXCHANGE_SITE, time.monotonic() + _GO_S
    if rule.contacts_days is not None:
        _forget_contacts(site, begin_of(rule.contacts_days), until)
    if rule.texts_days is not None:
        _forget_words(site, begin_of(rule.texts_days), until)
    if rule.messages_days is not None:
        before_ms = begin_of(rule.messages_days)
        _in_steps(lambda: mailbox_services.forget_messages(before_ms, _AT_ONCE), until)


def _progress(site: str) -> Progress:
    return Progress.objects.get_or_create(site=site)[0]


def _forget_contacts(site: str, before_ms: int, until: float) -> None:
    # Counted first: what is taken out before it is counted would be in no figure.
    while growing.catch_up(site):
        if time.monotonic() > until:
            return
    with transaction.atomic():
        growing.counted(site)
        known = _progress(site)
        known.kept_from_ms = max(known.kept_from_ms, before_ms)
        known.save(update_fields=["kept_from_ms"])

    def step() -> int:
        with transaction.atomic():
            gone = retention.forget_contacts(site, before_ms, _AT_ONCE)
            ContactLine.objects.filter(site=site, contact__in=gone).delete()
        return len(gone)

    _in_steps(step, until)
    _in_steps(lambda: retention.forget_the_rest(site, before_ms, _AT_ONCE), until)


def _forget_words(site: str, before_ms: int, until: float) -> None:
    since_ms = _progress(site).worded_from_ms
    if since_ms < before_ms and _in_steps(
        lambda: retention.forget_words(site, since_ms, before_ms, _AT_ONCE), until
    ):
        Progress.objects.filter(site=site).update(worded_from_ms=before_ms)


def _in_steps(step: Callable[[], int], until: float) -> bool:
    """Take steps until nothing is left, or time is over; whether nothing is left."""
    while step() == _AT_ONCE:
        if time.monotonic() > until:
            return False
    return True
