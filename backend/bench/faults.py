"""`./run faults`: kill -9 of each process and server in turn, while the centre is at work.

Before each kill there are waiting callers, a callback, a message and a wrap-up to lose. After
it, whatever was killed must be back by itself and all of them still be there.
"""

from __future__ import annotations

from bench.centre import alone, do, may, notes, queue_named, until

# isort: split
# The line above sets Django up.

import os
import signal
import sys
import time
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from django.conf import settings
from django.db import connection

from agents.services import agents
from callcore.events import Kind
from exchange.models import Callback, Contact, Journal
from exchange.snapshots import snapshot
from exchange.watching import seen
from mailboxes.services import silent

NUMBER, MAILBOX = "+442079460210", "4800"
#: How many wait, besides one for each kill; and how many of them ask to be called back.
CALLERS, BOOKED = 12, 2


class Promises(NamedTuple):
    """What callers and agents were promised."""

    waiting: list[str]
    callbacks: set[str]
    messages: int
    codes: int


def _arrives() -> str:
    contact = str(uuid.uuid4())
    do("call.place", contact=contact, number=NUMBER, caller="+447700900417", flow="", draft=False)
    return contact


def _presses(contact: str, keys: str) -> None:
    for key in keys:
        may("call.key", contact=contact, key=key)


def _phase(contact: str) -> tuple[str, str]:
    """Where a call is: its phase, and the stop."""
    call = (seen(f"call.{contact}") or {"data": {"call": {}}})["data"]["call"]
    return call.get("phase", ""), call.get("step", "")


def _leaves_a_message() -> None:
    """A caller who dials a mailbox's extension, and speaks a while."""
    contact = _arrives()
    until("the menu", lambda: _phase(contact) == ("listening", "main-menu"))
    _presses(contact, "0")
    until("the extension is asked for", lambda: _phase(contact)[1] == "extension")
    _presses(contact, MAILBOX)
    until("the recording", lambda: _phase(contact)[0] == "recording")
    time.sleep(2)
    _presses(contact, "#")


def _books_a_callback(contact: str) -> None:
    """A waiting caller who takes the offer as soon as it comes."""

    def booked() -> bool:
        _presses(contact, "1#")
        return Callback.objects.filter(origin=contact).exists()

    until("the callback is booked", booked, 120)


def _waiting(queue: str) -> list[str]:
    floor = snapshot("floor") or {"data": {"queues": {}}}
    return [w["contact"] for w in floor["data"]["queues"].get(queue, {}).get("waiting", [])]


def _promises(queue: str) -> Promises:
    site = settings.EXCHANGE_SITE
    counted = Journal.objects.filter(site=site)
    open_calls = Contact.objects.filter(site=site, ended_ms=None, consult_of="").exclude(
        pk__in=Callback.objects.values("contact")
    )
    waiting = [pk for pk in _waiting(queue) if open_calls.filter(pk=pk).exists()]
    return Promises(
        waiting,
        set(Callback.objects.filter(ended_ms=None).values_list("contact", flat=True)),
        counted.filter(kind=str(Kind.MESSAGE_LEFT)).count(),
        counted.filter(kind=str(Kind.CODED)).count(),
    )


def _wrapping_up() -> str:
    """An agent who has just ended a call, and not labelled it yet."""
    agent = next(a.id for a in agents().values() if a.name == "Nerys Vaughan")
    may("agent.sign_in", agent=agent)
    may("agent.available", agent=agent)
    until("the agent rings", lambda: may("agent.answer", agent=agent))
    do("agent.away", agent=agent, reason="Lunch")
    do("agent.end", agent=agent)
    return agent


def _kill(pid: int, dead: Callable[[], bool]) -> None:
    os.kill(pid, signal.SIGKILL)
    until("it is dead", dead, 10)


def _postmaster() -> int:
    with connection.cursor() as cursor:
        cursor.execute("SHOW data_directory")
        folder = Path(cursor.fetchone()[0])
    return int((folder / "postmaster.pid").read_text().split("\n", 1)[0])


def _pid(name: str) -> int:
    found = notes()
    if name == "redis":
        return int(found["redis_pid"])
    return _postmaster() if name == "postgresql" else int(found["pids"][name])


def _gone(pid: int) -> bool:
    status = Path(f"/proc/{pid}/stat")
    return not status.exists() or status.read_text().rsplit(")", 1)[1].split()[0] == "Z"


def _try(name: str, queue: str) -> bool:
    """Kill one thing, and compare what was promised with what is there afterwards."""
    _leaves_a_message()
    agent = _wrapping_up()
    time.sleep(1.5)
    before = _promises(queue)
    pid = _pid(name)
    began = time.monotonic()
    _kill(pid, lambda: _gone(pid))
    connection.close()
    until("the exchange answers", lambda: may("agent.wrap_up", agent=agent, code="") or True)
    back_s = time.monotonic() - began
    until("it was started again", lambda: _pid(name) != pid)
    until("the floor shows who waits", lambda: len(_waiting(queue)) >= len(before.waiting))
    time.sleep(1.5)
    after = _promises(queue)
    until("messages have their sound", lambda: not silent(), 90)
    lost = [
        words
        for words, holds in {
            "waiting callers in their order": after.waiting == before.waiting,
            "callbacks": before.callbacks <= after.callbacks,
            "messages": after.messages >= before.messages,
            "the wrap-up": after.codes == before.codes + 1,
        }.items()
        if not holds
    ]
    found = f"{len(after.waiting)} waiting, {len(after.callbacks)} callbacks, {after.messages} messages"
    said = "nothing lost" if not lost else "LOST: " + ", ".join(lost)
    print(f"  {name:<11} answers again after {back_s:4.1f} s; {found}; {said}", flush=True)
    if lost:
        print(f"    before {before}\n    after  {after}")
    return not lost


def main(words: list[str]) -> int:
    """Kill everything in turn."""
    alone()
    names = words or ["exchange", "postgresql", "redis", "worker", "web"]
    queue = queue_named("Bookings")
    print("kill -9 while callers wait, with a callback, a message and a wrap-up open")
    callers = [_arrives() for _ in range(CALLERS + len(names) + BOOKED)]
    for contact in callers:
        until("the menu", lambda who=contact: _phase(who)[1] == "main-menu")
        _presses(contact, "1")
    until("they wait", lambda: len(_waiting(queue)) >= CALLERS)
    for contact in callers[-BOOKED:]:
        _books_a_callback(contact)
    good = [_try(name, queue) for name in names]
    return 0 if all(good) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
