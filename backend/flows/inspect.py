"""Everything the editor shows of a definition, computed by the core in one go."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from callcore.flow import describe
from callcore.flow.blocks import Library, laid_size
from callcore.flow.catalogue import Catalogue, FlowFacts
from callcore.flow.checks import check
from callcore.flow.compare import compare
from callcore.flow.definition import Flow, SpokenText, all_prompts, exits, load, outside_numbers, prompts
from callcore.flow.fates import OWN_ARMS, Fates, arm_shares, fates, own_fate
from callcore.flow.steps import kinds_for
from flows.catalogue import catalogue_of
from phone_numbers import services as number_services
from phone_numbers.plan import national
from sounds import services as sound_services


def catalogue_around(
    flow: Flow, identity: str, flows: Mapping[str, FlowFacts], library: Library
) -> Catalogue:
    """What exists around a flow, with the real lengths of its texts.

    Args:
        identity: the flow's own id.
        flows: all flows, by reference.
        library: where its shared blocks are found.
    """
    texts = {(p.language, p.text) for p in all_prompts(flow) if isinstance(p, SpokenText)}
    called = number_services.calling(identity)
    return catalogue_of(flows)._replace(
        language=flow.language,
        channel=flow.channel,
        own=f"flow:{identity}",
        handed=called.handed,
        called=called.channels,
        national={number: national(number) for number in outside_numbers(flow)},
        spoken_ms=sound_services.spoken_ms(texts),
        laid=laid_size(flow, library),
    )


def inspect(
    flow: Flow,
    catalogue: Catalogue,
    in_force: Any | None,
    counts: Mapping[tuple[str, str], int] | None = None,
) -> dict[str, Any]:
    """Stops, arms, findings and what differs from the version in force, as plain data."""
    findings = check(flow, catalogue)
    chain = fates(flow, counts)
    shares = arm_shares(flow, counts or {})
    difference = compare(load(in_force), flow) if in_force is not None else None
    return {
        "order": [step.id for step in flow.steps],
        "stops": [_marked(_stop(step, catalogue, chain, shares)) for step in flow.steps],
        "kinds": kinds_for(flow.purpose, flow.channel),
        "findings": [_finding(finding, flow, catalogue) for finding in findings],
        "blocked": any(f.severity == "blocks" for f in findings),
        "changes": difference.size if difference is not None else None,
        "difference": difference._asdict() if difference is not None else None,
    }


def news(found: dict[str, Any], known: Mapping[str, str]) -> dict[str, Any]:
    """What was found, without the stops that whoever asks knows as they are.

    Args:
        known: the marks of stops that were told before, by their ids.
    """
    return {**found, "stops": [stop for stop in found["stops"] if known.get(stop["id"]) != stop["mark"]]}


def _marked(stop: dict[str, Any]) -> dict[str, Any]:
    """A stop with its mark: another one for whatever is told of it."""
    told = json.dumps(stop, sort_keys=True).encode()
    return {**stop, "mark": hashlib.blake2s(told, digest_size=6).hexdigest()}


def _stop(
    step: Any, catalogue: Catalogue, chain: Fates, shares: dict[tuple[str, str], float]
) -> dict[str, Any]:
    words = describe.stop(step, catalogue)
    ways = [(e.name, e.to, e.failure) for e in exits(step)]
    if step.kind in OWN_ARMS:
        ways.insert(0, (OWN_ARMS[step.kind], None, False))
    return {
        "id": step.id,
        "kind": step.kind,
        "title": words.title,
        "sentence": words.sentence,
        "name": words.name,
        "seconds": sum(catalogue.length_ms(p) for p in prompts(step)[:1]) / 1000,
        "place": words.name,
        "fate": own_fate(step),
        "fates": chain.ends[step.id],
        "reach": chain.reach[step.id],
        "exits": [
            {
                "name": name,
                "to": to,
                "failure": failure,
                "ends": to is None and name == OWN_ARMS.get(step.kind),
                "label": describe.exit_label(step, name, catalogue.channel),
                "share": shares.get((step.id, name), 0.0),
            }
            for name, to, failure in ways
        ],
    }


def _finding(finding: Any, flow: Flow, catalogue: Catalogue) -> dict[str, Any]:
    step = next((s for s in flow.steps if s.id == finding.step), None)
    name = describe.stop(step, catalogue).name if step else "The flow"
    fix = finding.fix
    return {
        **finding._asdict(),
        "name": name,
        "fix": {"label": fix.label, "patch": list(fix.patch), "goto": fix.goto} if fix else None,
    }
