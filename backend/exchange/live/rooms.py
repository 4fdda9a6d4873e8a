"""The journal's rooms: a table a month, so that what is new stays small, and what is old can go
without a row being looked at."""

from __future__ import annotations

import logging
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from functools import partial

from django.db import DatabaseError, connection, transaction

from exchange.models import Journal

log = logging.getLogger(__name__)

#: A clock that runs fast gets no rooms further ahead than this; its events stand in the last one.
_FURTHEST = timedelta(days=800)

_DAY_MS = 86_400_000
#: Days whose months have been seen to.
_days: set[int] = set()


def make_room(moments_ms: Iterable[int]) -> None:
    """See to it that the months of some moments have their table.

    Args:
        moments_ms: since the epoch; what has no table of its own is kept in a common one.
    """
    for day in {at_ms // _DAY_MS for at_ms in moments_ms} - _days:
        _look_after(*_month(day * _DAY_MS))
        # A table that is taken back with what was to be written is made again.
        transaction.on_commit(partial(_days.add, day))


def _month(at_ms: int) -> tuple[str, int, int]:
    """A month of UTC: its name, its first moment (ms), and the first of the next."""
    begins = datetime.fromtimestamp(at_ms / 1000, UTC).replace(
        day=1, hour=0, minute=0, second=0, microsecond=0
    )
    ends = (begins + timedelta(days=32)).replace(day=1)
    return begins.strftime("%Y_%m"), _ms(begins), _ms(ends)


def _ms(moment: datetime) -> int:
    return round(moment.timestamp() * 1000)


def _look_after(name: str, begins: int, ends: int) -> None:
    if begins > _ms(datetime.now(UTC) + _FURTHEST):
        return
    whole = Journal._meta.db_table
    room = f"{whole}_{name}"
    try:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SELECT to_regclass(%s)", [room])
            if cursor.fetchone()[0] is not None:
                return
            # Made by itself and then attached: readers of the journal wait for neither.
            cursor.execute(f'CREATE TABLE "{room}" (LIKE "{whole}" INCLUDING DEFAULTS)')
            cursor.execute(
                f'ALTER TABLE "{whole}" ATTACH PARTITION "{room}" FOR VALUES FROM ({begins:d}) TO ({ends:d})'
            )
    except DatabaseError as error:
        # The first room goes on to the end of its month, and the common one may hold some already.
        why = str(error).splitlines()[0]
        log.info("%s has no room of its own in the journal (%s)", name, why)
