"""The checker: what would go wrong for a caller, before one meets it.

Each rule (see `callcore.flow.rules`) is a generator over a `Walk` of the flow;
`check` runs all of them and sorts worst first. Every rule is linear in the
number of exits.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import Flow
from callcore.flow.findings import SEVERITIES, Finding
from callcore.flow.rules import comparing, forks, listening, menus, things, values, ways
from callcore.flow.rules.walk import Walk

RULES: tuple[Callable[[Walk], Iterator[Finding]], ...] = (
    *ways.RULES,
    *things.RULES,
    *forks.RULES,
    *comparing.RULES,
    *values.RULES,
    *menus.RULES,
    *listening.RULES,
)


def check(flow: Flow, catalogue: Catalogue) -> list[Finding]:
    """Every finding, worst first, accepted ones after the others, in the order of the steps."""
    walk = Walk(flow, catalogue)
    reasons = {(a.code, a.step, a.exit): a.reason for a in flow.accepted}
    found = [_with_reason(f, reasons) for rule in RULES for f in rule(walk)]
    order = {step.id: i for i, step in enumerate(flow.steps)}
    return sorted(
        found, key=lambda f: (SEVERITIES.index(f.severity), bool(f.accepted), order.get(f.step, -1))
    )


def _with_reason(finding: Finding, reasons: dict[tuple[str, str, str], str]) -> Finding:
    """Only what does not block can be let be."""
    if finding.severity == "blocks" or not reasons:
        return finding
    reason = reasons.get((finding.code, finding.step, finding.exit), "")
    return finding._replace(accepted=reason)


def blocking(findings: list[Finding]) -> list[Finding]:
    """The findings that keep a flow from being published."""
    return [f for f in findings if f.severity == "blocks"]
