"""Today's counts on the map of a flow, and of the waits in a queue."""

from __future__ import annotations

from collections.abc import Mapping

from callcore.centre.site import Site
from callcore.centre.topics import FlowTopic, QueueTopic
from callcore.measures.figures import WAIT_BIN_MS


def flow(site: Site, flow_id: str) -> FlowTopic:
    """Callers by stop now, and today's by arm and ending."""
    here: dict[str, int] = {}
    for contact in site.contacts.values():
        plan = site.plans.get(contact.state.plan)
        if plan is not None and plan.flow_id == flow_id and contact.state.inner is not None:
            here[contact.state.inner.step] = here.get(contact.state.inner.step, 0) + 1
        if contact.flow.flow_id == flow_id:
            stop = contact.state.step.partition(".")[0]
            here[stop] = here.get(stop, 0) + 1
    arms: Mapping[tuple[str, str], int] = site.figures.arms.get(flow_id, {})
    return {
        "here": here,
        "arms": {f"{step} {exit_name}": count for (step, exit_name), count in arms.items()},
        "endings": dict(site.figures.endings.get(flow_id, {})),
    }


def waits_of(site: Site, queue_id: str) -> QueueTopic | None:
    """Today's waits in a queue, counted by how long they were."""
    if queue_id not in site.setup.queues:
        return None
    found = site.figures.waits.get(queue_id)
    row = site.figures.queue_total(queue_id)
    return {
        "waits": {
            "threshold_s": site.setup.queues[queue_id].threshold_s,
            "answered_in_time": row.answered - row.answered_late,
            "answered_late": row.answered_late,
            "abandoned_in_time": row.abandoned - row.abandoned_late,
            "abandoned_late": row.abandoned_late,
            "bin_ms": WAIT_BIN_MS,
            "answered": _by_bin(found.answered) if found else {},
            "abandoned": _by_bin(found.abandoned) if found else {},
        }
    }


def _by_bin(counts: Mapping[int, int]) -> dict[str, int]:
    return {str(number): count for number, count in counts.items()}
