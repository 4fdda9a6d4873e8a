"""Where an agent sends a contact, as a small flow, so that the one runner carries it out."""

from __future__ import annotations

from typing import Any, Literal

from callcore.flow.definition import AnyStep, End, Flow, GoOn, Message, OfferCallback, Ring, WaitInQueue
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

_OFFER: dict[Language, str] = {
    "en": "We can call you back, and you keep your place. Press 1 to be called back, or wait on.",
    "cy": "Gallwn eich ffonio'n ôl, a chadw'ch lle. Pwyswch 1 i gael galwad, neu arhoswch.",
}
_THANKS: dict[Language, str] = {
    "en": "Thank you. We will call you back. Goodbye.",
    "cy": "Diolch. Byddwn yn eich ffonio'n ôl. Hwyl fawr.",
}
#: The keys of the offers below begin with this, where those of plans are numbers.
OFFER = "offer."
OFFER_NAME = "Offer of a callback"


def callback_offers() -> dict[str, Flow]:
    """The waiting plans by which a supervisor has a callback offered, by key (`offer.en`)."""
    return {f"{OFFER}{language}": _offer(language) for language in _OFFER}


def _offer(language: Language) -> Flow:
    offer = OfferCallback(
        id="offer",
        prompt=SpokenText(text=_OFFER[language], language=language),
        thanks=SpokenText(text=_THANKS[language], language=language),
        other_number=False,
    )
    return Flow(start="offer", steps=(offer,), purpose="plan", language=language)


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
        steps = (WaitInQueue(id="onward", queue=target, waited="sorry"), last)
    elif kind == "mailbox":
        steps = (Message(id="onward", mailbox=target),)
    elif kind == "flow":
        steps = (GoOn(id="onward", flow=target),)
    else:
        ring = Ring(id="onward", ring_s=RING_S, busy=then, no_answer=then, failed=then, **_whom(target))
        steps = (ring, WaitInQueue(id="back", queue=back, waited="sorry"), last) if back else (ring, last)
    return Flow(
        start="onward",
        steps=steps,
        stay_limit_s=_STAY_S,
        channel=channel,
        language=language,
        failure_prompt=last.prompt,
    )


def consult(target: str) -> Flow:
    """What an agent's own call to a colleague, a queue or an outside number meets."""
    kind = target.partition(":")[0] if ":" in target else "number"
    if kind == "queue":
        wait = WaitInQueue(id="consult", queue=target, waited="nobody")
        return Flow(start="consult", steps=(wait, End(id="nobody")))
    ring = Ring(
        id="consult", ring_s=RING_S, busy="nobody", no_answer="nobody", failed="nobody", **_whom(target)
    )
    return Flow(start="consult", steps=(ring, End(id="nobody")), stay_limit_s=_STAY_S)


def _whom(target: str) -> dict[str, Any]:
    kind = target.partition(":")[0]
    if kind == "group":
        return {"group": target}
    return {"people": (target,)} if kind == "agent" else {"number": target}
