"""Going on from where the run before stopped."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from callcore.centre import standing
from callcore.centre.centre import Centre
from callcore.centre.setup import RunnableFlow
from callcore.centre.standing import CONTACT
from callcore.flow.definition import load
from callcore.measures.acquaintances import KNOWN_MS
from exchange.live import earlier, journal, reading

#: An emergency that nobody took stands so long, across restarts.
_ALARM_MS = 24 * 3_600_000
#: An alert that stands longer is told anew after a restart.
_ALERT_MS = 30 * 24 * 3_600_000


def take_up(centre: Centre, site: str, now_ms: int) -> None:
    """Let a new centre stand as the site stood when the last round was written."""
    for met in journal.acquaintances(site, now_ms - KNOWN_MS):
        centre.acquaintances.met(*met)
    for event in journal.emergencies(site, now_ms - _ALARM_MS):
        centre.alarms.apply(event)
    for event in journal.alerts(site, now_ms - _ALERT_MS):
        centre.floor.apply(event)
    flow_of = _flow_of()
    rows = journal.standing(site)
    if not rows:
        _take_over(centre, site, flow_of, now_ms)
        return
    arrivals = [row.body["arrived_ms"] for row in rows if row.body and row.what == CONTACT]
    since = min([centre.day_begins_ms, *arrivals])
    centre.take_up(rows, journal.events_since(site, since), flow_of, now_ms)


def _flow_of() -> standing.FlowOf:
    """Makes flows ready as they were, each version once."""
    known: dict[Any, RunnableFlow] = {}

    def flow_of(data: Mapping[str, Any]) -> RunnableFlow:
        version = data["version"]
        if version is None:
            return reading.flow_of_draft(data["flow"], load(data["definition"]))
        blocks = data["blocks"] or {}
        key = (version, tuple(sorted(blocks.items())))
        if key not in known:
            known[key] = reading.flow_of_version(version, blocks)
        return known[key]

    return flow_of


def _take_over(centre: Centre, site: str, flow_of: standing.FlowOf, now_ms: int) -> None:
    """Take over what a version left that wrote no rows."""
    stories = journal.open_contacts(site)
    arrivals = [story[0].at_ms for story in stories.values() if story]

    def ran(body: dict[str, Any]) -> RunnableFlow:
        if body["version_id"] is None and not body["flow"]:
            return centre.setup.ad_hoc(load(body["definition"]), body["flow_name"])
        return flow_of(
            {
                "version": body["version_id"],
                "flow": body.get("flow", ""),
                "blocks": body.get("blocks", {}),
                "definition": body.get("definition"),
            }
        )

    earlier.take_over(
        centre,
        journal.events_since(site, min([centre.day_begins_ms, *arrivals])),
        stories,
        journal.last_agent_states(site),
        ran,
        now_ms,
    )
