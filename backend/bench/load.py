"""`./run load`: contacts that arrive faster than any centre's, through the real exchange.

Every contact is a command in the database, as from a trunk; it rings, is greeted, and hangs up
eight seconds later. Nothing may be lost, and no answer later than a second: an answer is written
with the events that it tells of.
"""

from __future__ import annotations

from bench.centre import alone, until

# isort: split
# The line above sets Django up.

import re
import sys
import time
import uuid
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection
from django.db.models import F, Max
from django.utils import timezone

from exchange.commands import COMMAND_CHANNEL
from exchange.models import Command, Contact, Journal, Lease

RATE, SECONDS, BATCH_S, STAY_S = 200, 60, 0.05, 8.0
NUMBER = "+442079460210"
#: The oldest event that may still be unwritten, in seconds.
LATEST_S = 1.0


def _put(commands: list[Command]) -> None:
    Command.objects.bulk_create(commands)
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, '')", [COMMAND_CHANNEL])


def _command(kind: str, **body: Any) -> Command:
    expires = timezone.now() + timedelta(minutes=5)
    return Command(site=settings.EXCHANGE_SITE, kind=kind, body=body, expires_at=expires)


def _memory_mb() -> int:
    """What the exchange holds in memory now, in MB; its lease says which process it is."""
    where = Lease.objects.get(site=settings.EXCHANGE_SITE).where
    number = re.search(r"process (\d+)", where)
    said = Path(f"/proc/{number[1]}/status").read_text() if number else ""
    return round(int(re.search(r"VmRSS:\s+(\d+)", said)[1]) / 1024)  # type: ignore[index]


def _arrivals(rate: int, seconds: int) -> tuple[list[str], list[int]]:
    """Let contacts arrive evenly, and hang up after their stay.

    Returns:
        Their ids, and the exchange's memory after each tenth of the time, in MB.
    """
    made: list[str] = []
    memory: list[int] = []
    gone = 0
    began = time.monotonic()
    while gone < rate * seconds:
        passed = time.monotonic() - began
        due = min(round(passed * rate), rate * seconds)
        leaving = min(max(0, round((passed - STAY_S) * rate)), len(made))
        new = [str(uuid.uuid4()) for _ in range(due - len(made))]
        batch = [
            _command(
                "call.place", contact=contact, number=NUMBER, caller="+447700900417", flow="", draft=False
            )
            for contact in new
        ]
        batch += [_command("call.hang_up", contact=contact) for contact in made[gone:leaving]]
        made += new
        gone = max(gone, leaving)
        if batch:
            _put(batch)
        if passed > (len(memory) + 1) * seconds / 10:
            memory.append(_memory_mb())
        time.sleep(BATCH_S)
    return made, memory


def main(words: list[str]) -> int:
    """Run it, and say what came of it."""
    alone()
    rate = int(words[0]) if words else RATE
    seconds = int(words[1]) if len(words) > 1 else SECONDS
    print(f"{rate} contacts a second for {seconds} s, each hangs up after {STAY_S:.0f} s")
    made, memory = _arrivals(rate, seconds)
    asked = Command.objects.filter(kind__in=("call.place", "call.hang_up"))
    until("every command is answered", lambda: not asked.filter(answered_at=None).exists(), 120)
    refused = asked.filter(answer__has_key="refused").count()
    written = Contact.objects.filter(pk__in=made)
    lost = len(made) - written.count()
    open_still = written.filter(ended_ms=None).count()
    late = asked.annotate(late=F("answered_at") - F("asked_at")).aggregate(most=Max("late"))["most"]
    tenth = asked.annotate(late=F("answered_at") - F("asked_at")).order_by("-late")
    p99 = tenth.values_list("late", flat=True)[tenth.count() // 100].total_seconds()
    print(
        f"  arrived {len(made)}, written {len(made) - lost}, lost {lost}, refused {refused}, "
        f"not ended {open_still}"
    )
    print(f"  events written {Journal.objects.count()}")
    print(f"  from asked to written: 99 % within {p99:.2f} s, the latest {late.total_seconds():.2f} s")
    print(f"  memory of the exchange after each tenth, MB: {' '.join(map(str, memory))}")
    good = lost == refused == open_still == 0 and late.total_seconds() <= LATEST_S
    print("  nothing lost, never more than a second behind" if good else "  NOT GOOD ENOUGH")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
