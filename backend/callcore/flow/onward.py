"""Where an agent sends a contact, as a small flow, so that the one runner carries it out."""

from __future__ import annotations

from typing import Any, Literal

from callcore.flow.definition import AnyStep, End, Flow, GoOn, Message, Queue, Ring
from callcore.flow.parts import SpokenText

Channel = Literal["voice", "text"]
Language = Literal["en", "cy"]

#: A colleague or an outside number is rung this long before the contact goes back into line.
RING_S = 25
#: Nobody speaks with a mailbox or hears a ringing longer than this, in seconds.
_STAY_S = 3600
_SORRY: dict[Language, str] = {
    "en": "I am sorry, nobody can take your call now. Please call again later.",
    "cy": "Mae'n ddrwg gennyf, ni all neb gymryd eich galwad nawr. Ffoniwch eto nes ymlaen.",
}


def onward(target: str, back: str, channel: Channel = "voice", language: Language = "en") -> Flow:
    """What a transferred contact meets.

    Args:
        target: a reference (`queue:`, `agent:`, `group:`, `mailbox:`, `flow:`), or an E.164 number.
        back: the queue (a reference) that takes it where nobody answers; empty for none.
    """
    kind = target.partition(":")[0] if ":" in target else "number"
    last = End(id="sorry", prompt=SpokenText(text=_SORRY[language], language=language))
    # Without a queue to go back to, a ring group's own mailbox takes callers whom nobody takes.
    then = "back" if back else None if kind == "group" else "sorry"
    steps: tuple[AnyStep, ...]
    if kind == "queue":
        steps = (Queue(id="onward", queue=target, waited="sorry"), last)
    elif kind == "mailbox":
        steps = (Message(id="onward", mailbox=target),)
    elif kind == "flow":
        steps = (GoOn(id="onward", flow=target),)
    else:
        ring = Ring(
            id="onward", ring_s=RING_S, busy=then, no_answer=then, failed=then, **_whom(target)
        )  # fmt: skip
        steps = (ring, Queue(id="back", queue=back, waited="sorry"), last) if back else (ring, last)
    return Flow(
        start="onward", steps=steps, stay_limit_s=_STAY_S, channel=channel, language=language,
        failure_prompt=last.prompt,
    )  # fmt: skip


def aside(target: str) -> Flow:
    """What an agent's own call to a colleague, a queue or an outside number meets."""
    kind = target.partition(":")[0] if ":" in target else "number"
    if kind == "queue":
        return Flow(start="aside", steps=(Queue(id="aside", queue=target, waited="nobody"),
                                          End(id="nobody")))  # fmt: skip
    ring = Ring(
        id="aside", ring_s=RING_S, busy="nobody", no_answer="nobody", failed="nobody",
        **_whom(target),
    )  # fmt: skip
    return Flow(start="aside", steps=(ring, End(id="nobody")), stay_limit_s=_STAY_S)


def _whom(target: str) -> dict[str, Any]:
    kind = target.partition(":")[0]
    if kind == "group":
        return {"group": target}
    return {"people": (target,)} if kind == "agent" else {"number": target}
