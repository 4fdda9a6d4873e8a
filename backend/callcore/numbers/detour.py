"""A diversion as a small flow, so that the one runner carries it out."""

from __future__ import annotations

from callcore.flow.definition import AnyStep, End, Flow, GoOn, Message, Ring
from callcore.numbers.plan import Diversion

#: Nobody rings or talks to a mailbox longer than this, in seconds.
_STAY_S = 3600


def detour(diversion: Diversion, normal: str) -> Flow:
    """What a diverted caller meets.

    Args:
        normal: the id of the flow that answers without the diversion; may be empty.
    """
    if diversion.where == "mailbox":
        steps: tuple[AnyStep, ...] = (Message(id="diverted", mailbox=f"mailbox:{diversion.target}"),)
    elif diversion.where == "flow":
        steps = (GoOn(id="diverted", flow=f"flow:{diversion.target}"),)
    else:
        ring = Ring(
            id="diverted",
            number=diversion.target,
            ring_s=diversion.ring_s,
            busy="then",
            no_answer="then",
            failed="then",
        )
        steps = (ring, _then(diversion, normal))
    return Flow(start="diverted", steps=steps, stay_limit_s=_STAY_S)


def _then(diversion: Diversion, normal: str) -> AnyStep:
    if diversion.then == "mailbox":
        return Message(id="then", mailbox=f"mailbox:{diversion.then_target}")
    flow = diversion.then_target if diversion.then == "flow" else normal
    if diversion.then in ("flow", "normal") and flow:
        return GoOn(id="then", flow=f"flow:{flow}")
    return End(id="then")
