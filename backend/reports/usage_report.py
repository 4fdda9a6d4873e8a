"""What is used, and how much: numbers, callbacks, mailboxes, diversions, outside lines."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from callcore.measures.sums import added, figures_of
from callcore.measures.tallies import Counted
from mailboxes.services import facts as mailbox_facts
from phone_numbers.plan import national
from phone_numbers.services import numbers as known_numbers
from queues.services import settings as queue_settings
from reports.period import Period
from reports.tally_rows import Told, tallies

#: How contacts of a number end; what is not among them is told as ended by us.
_ENDINGS = ("person", "hung_up", "message", "elsewhere", "callback")


def report(period: Period) -> dict[str, Any]:
    """The report; see `UsageReportSerializer` for its shape."""
    used = numbers(period)
    return {
        "begin_ms": period.begin_ms,
        "end_ms": period.end_ms,
        "numbers": used,
        "numbers_total": total_of(used),
        "callbacks": _callbacks(period),
        "mailboxes": _mailboxes(period),
        "diversions": sum(told.count for told in tallies(Counted.DIVERSION, period)),
        "outside": _outside(period),
        "told_waits": _told_waits(period),
    }


def _by_thing(what: Counted, period: Period) -> dict[str, dict[str, Told]]:
    found: defaultdict[str, dict[str, Told]] = defaultdict(dict)
    for told in tallies(what, period):
        found[told.thing][told.detail] = told
    return found


def _count(details: dict[str, Told], name: str) -> int:
    return details[name].count if name in details else 0


def numbers(period: Period) -> list[dict[str, Any]]:
    """Each number: how many called it, and how that ended; the most used first."""
    labels = {number.address: number.label for number in known_numbers().values()}
    used = _by_thing(Counted.NUMBER, period)
    rows = []
    for address in sorted({*labels, *used}):
        details = used.get(address, {})
        ended = {name: told for name, told in details.items() if name != "arrived"}
        parts = {
            "arrived": _count(details, "arrived"),
            **{name: _count(details, name) for name in _ENDINGS},
            "ended": sum(t.count for name, t in ended.items() if name not in _ENDINGS),
            "over": sum(told.count for told in ended.values()),
            "lasted_ms": sum(told.ms for told in ended.values()),
        }
        rows.append(
            {
                "number": national(address),
                "address": address,
                "label": labels.get(address, "A number that is gone"),
                **parts,
                **figures_of("numbers", parts),
            }
        )
    return sorted(rows, key=lambda row: -row["arrived"])


def total_of(rows: Sequence[dict[str, Any]]) -> dict[str, Any]:
    """Several numbers together: parts add up, the average is worked out anew from them."""
    whole = added("numbers", rows)
    return {"number": "", "address": "", "label": "All", **whole, **figures_of("numbers", whole)}


def _callbacks(period: Period) -> list[dict[str, Any]]:
    names = {q.id: q.name for q in queue_settings()}
    return [
        {
            "queue_name": names.get(queue, "A queue that is gone"),
            **{name: _count(details, name) for name in ("booked", "reached", "not_reached", "cancelled")},
            "until_reached_ms": details["reached"].ms / details["reached"].count
            if "reached" in details
            else None,
        }
        for queue, details in _by_thing(Counted.CALLBACK, period).items()
    ]


def _told_waits(period: Period) -> list[dict[str, Any]]:
    names = {q.id: q.name for q in queue_settings()}
    rows = []
    for queue, details in _by_thing(Counted.TOLD, period).items():
        told = sum(one.count for one in details.values())
        rows.append(
            {
                "queue_name": names.get(queue, "A queue that is gone"),
                "told": told,
                **{name: _count(details, name) for name in ("as_told", "sooner", "later")},
                "as_told_share": _count(details, "as_told") / told,
                "off_ms": sum(one.ms for one in details.values()) / told,
                "off_longest_ms": max(one.longest_ms for one in details.values()),
            }
        )
    return sorted(rows, key=lambda row: -row["told"])


def _mailboxes(period: Period) -> list[dict[str, Any]]:
    names = {ref.partition(":")[2]: box.name for ref, box in mailbox_facts().items()}
    return [
        {
            "name": names.get(told.thing, "A mailbox that is gone"),
            "messages": told.count,
            "average_ms": told.ms / told.count,
            "longest_ms": told.longest_ms,
        }
        for told in sorted(tallies(Counted.MAILBOX, period), key=lambda told: -told.count)
    ]


def _outside(period: Period) -> list[dict[str, Any]]:
    return [
        {
            "number": national(number),
            "rung": sum(told.count for told in details.values()),
            "answered": _count(details, "answered"),
            "talk_ms": sum(told.ms for told in details.values()),
        }
        for number, details in _by_thing(Counted.OUTSIDE, period).items()
    ]
