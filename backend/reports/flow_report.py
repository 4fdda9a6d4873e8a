"""What callers do in a flow: which arms they take, what they press, where they leave, and how long
it takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Any

from callcore.measures.tallies import Counted
from flows.services import flow_names
from flows.stops import StopNames, definition_of, stops_of
from reports.period import Period
from reports.tally_rows import Told, tallies

#: Exits by which a menu tells that nobody understood it.
MISSES = ("no_key", "wrong_key")
#: A menu is worth a sentence where so many of its callers, of so many, did not find their way.
_TOLD_SHARE, _TOLD_FROM = 0.05, 40


def report(flow: str, period: Period) -> dict[str, Any]:
    """The report; see `FlowReportSerializer` for its shape."""
    stops = stops_of(flow)
    arms: defaultdict[str, list[Told]] = defaultdict(list)
    for arm in tallies(Counted.ARM, period, [flow]):
        arms[arm.detail.partition(" ")[0]].append(arm)
    ends: defaultdict[str, list[Told]] = defaultdict(list)
    for end in tallies(Counted.END, period, [flow]):
        ends[end.detail.partition(" ")[0]].append(end)
    keys: defaultdict[str, list[Told]] = defaultdict(list)
    for key in tallies(Counted.KEY, period, [flow]):
        keys[key.detail.partition(" ")[0]].append(key)
    known = [name for name in stops if name in arms or name in ends]
    met = {name for name in arms.keys() | ends.keys() if "." not in name}
    gone = sorted(met - stops.keys() - {""})
    rows = [_stop(name, stops.get(name), arms[name], ends[name], keys[name]) for name in (*known, *gone)]
    return {
        "flow": flow,
        "name": flow_names([flow]).get(flow, "A flow that is gone"),
        "begin_ms": period.begin_ms,
        "end_ms": period.end_ms,
        "callers": sum(told.count for told in arms.get("", ())),
        "ends": [
            {"ending": ending, "count": count, "share": None}
            for ending, count in sorted(_all(ends).items(), key=lambda found: -found[1])
        ],
        "stops": rows,
        "definition": definition_of(flow),
        "sentence": _sentence(rows),
    }


def _all(ends: Mapping[str, Sequence[Told]]) -> dict[str, int]:
    """All ends of a flow's contacts, wherever they were."""
    found: defaultdict[str, int] = defaultdict(int)
    for own in ends.values():
        for end in own:
            found[end.detail.partition(" ")[2]] += end.count
    return found


def _stop(
    stop: str, known: StopNames | None, arms: Sequence[Told], ends: Sequence[Told], keys: Sequence[Told]
) -> dict[str, Any]:
    if known is not None and known.kind == "block":
        # Its own stops are counted beside it; out of it lead only its own exits.
        arms = [arm for arm in arms if arm.detail.partition(" ")[2] in known.exits]
    left = sum(arm.count for arm in arms)
    came = left + sum(end.count for end in ends)
    ms = sum(told.ms for told in (*arms, *ends))
    order = known.exits if known else ()
    name = known.name if known else "A stop of an earlier version"
    return {
        "stop": stop,
        "name": name,
        "sentence": known.sentence if known and known.sentence != name else "",
        "kind": known.kind if known else "",
        "callers": came,
        "average_ms": ms / came if came else None,
        "longest_ms": max((told.longest_ms for told in (*arms, *ends)), default=0),
        "arms": [_arm(arm, known, came) for arm in sorted(arms, key=lambda a: _place(a, order))],
        "ends": [
            {
                "ending": end.detail.partition(" ")[2],
                "count": end.count,
                "share": end.count / came if came else None,
            }
            for end in sorted(ends, key=lambda end: -end.count)
        ],
        "keys": [
            {
                "key": key.detail.partition(" ")[2],
                "count": key.count,
                "has_arm": f"key:{key.detail.partition(' ')[2]}" in order,
            }
            for key in sorted(keys, key=lambda key: -key.count)
        ],
    }


def _place(arm: Told, order: Sequence[str]) -> int:
    """Where an exit stands in the author's order; those by which a stop is tried again at last."""
    name = arm.detail.partition(" ")[2]
    return order.index(name) if name in order else len(order)


def _arm(arm: Told, known: StopNames | None, came: int) -> dict[str, Any]:
    name = arm.detail.partition(" ")[2]
    return {
        "exit": name,
        "label": known.called(name) if known else name,
        "count": arm.count,
        "share": arm.count / came if came else None,
        "misses": name in MISSES,
    }


def _sentence(rows: Sequence[dict[str, Any]]) -> str:
    """Names the menu where most keys miss, or where most callers leave."""
    menus = [row for row in rows if row["kind"] == "menu" and row["callers"] >= _TOLD_FROM]
    lost = []
    for row in menus:
        pressed = sum(key["count"] for key in row["keys"])
        wrong = sum(key["count"] for key in row["keys"] if not key["has_arm"])
        if pressed:
            lost.append((wrong / pressed, wrong, row))
    worst = max(lost, key=lambda found: found[0], default=None)
    if worst and worst[0] >= _TOLD_SHARE:
        share, wrong, row = worst
        key = max((k for k in row["keys"] if not k["has_arm"]), key=lambda k: k["count"])
        return (
            f"{share * 100:.0f} % of the keys pressed at “{row['name']}” lead nowhere "
            f"({wrong:,}), mostly {key['key']}."
        )
    leaving = [
        (end["count"] / row["callers"], end["count"], row)
        for row in menus
        for end in row["ends"]
        if end["ending"] == "hung_up"
    ]
    most = max(leaving, key=lambda found: found[0], default=None)
    if most and most[0] >= _TOLD_SHARE:
        return f"{most[1]:,} callers hang up at “{most[2]['name']}” ({most[0] * 100:.0f} %)."
    return ""
