"""What was written of contacts, taken out once it is old: a batch at a time, whole contacts."""

from __future__ import annotations

from django.db import connection, transaction
from django.db.models import Exists, OuterRef, QuerySet

from callcore.events import Kind
from exchange.models import Callback, Contact, Journal


def old_contacts(site: str, before_ms: int) -> QuerySet[Contact]:
    """The contacts that came and ended before a moment, and of which nothing was written since."""
    later = Journal.objects.filter(contact=OuterRef("pk"), at_ms__gte=before_ms)
    old = Contact.objects.filter(site=site, arrived_ms__lt=before_ms, ended_ms__lt=before_ms)
    return old.filter(~Exists(later)).order_by("arrived_ms")


def worded_texts(site: str, since_ms: int, before_ms: int) -> QuerySet[Journal]:
    """Texts of some time whose words are still there."""
    rows = Journal.objects.filter(site=site, at_ms__gte=since_ms, at_ms__lt=before_ms)
    return rows.filter(kind=str(Kind.TEXTED), body__has_key="words")


def forget_contacts(site: str, before_ms: int, most: int) -> list[str]:
    """Take out some of the old contacts with everything that was written of them; which."""
    with transaction.atomic():
        gone = list(old_contacts(site, before_ms).values_list("pk", flat=True)[:most])
        Journal.objects.filter(contact__in=gone).delete()
        Callback.objects.filter(contact__in=gone).delete()
        Contact.objects.filter(pk__in=gone).delete()
    return gone


def forget_the_rest(site: str, before_ms: int, most: int) -> int:
    """Take out some of what was written before a moment and is of no contact; how many events."""
    old = Journal.objects.filter(site=site, at_ms__lt=before_ms, contact="")
    numbers = list(old.order_by("at_ms").values_list("seq", flat=True)[:most])
    return Journal.objects.filter(seq__in=numbers).delete()[0] if numbers else 0


def forget_words(site: str, since_ms: int, before_ms: int, most: int) -> int:
    """Take the words out of some texts: that one was written, by whom and when, stays; how many."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE exchange_journal SET body = body - 'words' WHERE seq IN ("
            "SELECT seq FROM exchange_journal WHERE site = %s AND kind = %s AND at_ms >= %s"
            " AND at_ms < %s AND body ? 'words' LIMIT %s)",
            [site, str(Kind.TEXTED), since_ms, before_ms, most],
        )
        return cursor.rowcount
