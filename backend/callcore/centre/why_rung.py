"""Why an agent was rung, or a contact waits, in words: what decided, who could have come, and who
could not."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from typing import TypedDict

from callcore.centre.contact_topics import Considered
from callcore.centre.facts import LANGUAGE
from callcore.events.facts import Rang
from callcore.flow.parts import LANGUAGES
from callcore.routing.events import Explained
from callcore.routing.router import DIRECT
from callcore.wording import length

#: What somebody or something is called, by its reference; None for what is gone.
NameOf = Callable[[str], str | None]
#: Whether a reader may know how an agent stood, by the agent's id; others are counted.
Shows = Callable[[str], bool]


class Why(TypedDict):
    """In a sentence what decided, and what was made of everybody else."""

    words: str
    considered: list[Considered]


_GONE = "somebody who is gone"
#: What was made of people, in the order in which it is told.
_MADE = {
    "eligible": "Could have come",
    "just_tried": "Had just let it pass",
    "others_preferred": "Wait while those who know the caller come first",
    "not_yet": "Come in later, as the queue widens",
    "ringing": "Rung already",
    "on_contact": "On a contact",
    "wrapping": "Wrapping up",
    "available": "Available",
    "away": "Away",
    "out": "Signed out",
}
_SKILL = "skill:"


def why_rung(rang: Rang, at_ms: int, name_of: NameOf, shows: Shows) -> Why:
    """What is known of a ring; nothing where it was not explained."""
    others = [(agent, why) for agent, why in rang.considered if why != "chosen"]
    figures = {
        agent: by.format(_value(rang.rule, value, at_ms))
        for agent, value in rang.weighed
        if (by := _OF_OTHERS.get(rang.rule))
    }
    could = 1 + sum(why == "eligible" for _, why in others) + dict(rang.unnamed).get("eligible", 0)
    return {
        "words": _decided(rang, at_ms, could),
        "considered": _groups(others, rang.unnamed, figures, name_of, shows),
    }


def why_waits(stand: Explained, name_of: NameOf, shows: Shows, *, rings: bool = False) -> Why:
    """How those stand whom a waiting contact might reach. See `Router.why_waits`.

    Args:
        rings: somebody is rung for it at this moment.
    """
    count = Counter(why for _, why in stand.considered) + Counter(dict(stand.unnamed))
    busy, free = sum(count[why] for why in _BUSY), count["available"]
    away = f"; {count['away']} more away" if count["away"] else ""
    if rings:
        words = "Rings at this moment"
    elif free:
        words = "Somebody is free who could take it"
    elif busy:
        words = f"{busy} who could take it {'are' if busy > 1 else 'is'} at work, and busy{away}"
    else:
        words = f"Nobody is at work who could take it{away}"
    return {"words": words, "considered": _groups(stand.considered, stand.unnamed, {}, name_of, shows)}


#: At work, with something in hand.
_BUSY = ("ringing", "on_contact", "wrapping")


def _groups(
    looked_at: Sequence[tuple[str, str]],
    unnamed: Sequence[tuple[str, int]],
    figures: Mapping[str, str],
    name_of: NameOf,
    shows: Shows,
) -> list[Considered]:
    """People by what was made of them.

    Args:
        figures: what stands in brackets after a name, by agent.
    """
    people: defaultdict[str, list[str]] = defaultdict(list)
    more = Counter(dict(unnamed))
    for agent, why in looked_at:
        if not shows(agent):
            more[why] += 1
            continue
        name, figure = name_of(f"agent:{agent}") or _GONE, figures.get(agent)
        people[why].append(f"{name} ({figure})" if figure else name)
    whys = sorted({*people, *more}, key=_place)
    return [{"words": _made(why, name_of), "people": people[why], "more": more[why]} for why in whys]


def _place(why: str) -> tuple[int, bool, str]:
    """The skills that somebody lacks stand before the states in which they are."""
    order = list(_MADE)
    return (order.index(why if why in _MADE else "ringing"), why in _MADE, why)


def _made(why: str, name_of: NameOf) -> str:
    if not why.startswith(_SKILL):
        return _MADE.get(why, why)
    skill = why.removeprefix(_SKILL)
    language = LANGUAGES.get(skill.removeprefix(LANGUAGE)) if skill.startswith(LANGUAGE) else None
    return f"Without enough {language or name_of(why) or 'of a skill that is gone'}"


def _value(rule: str, value: int, at_ms: int) -> str:
    """What the rule compared of somebody, as a figure."""
    return length(at_ms - value) if rule == "longest_idle" else str(abs(value))


def _decided(rang: Rang, at_ms: int, could: int) -> str:
    """What decided, in a sentence."""
    if not rang.considered:
        return ""
    if rang.rule == "longest_wait":
        return _was_first(rang)
    if rang.rule == "room":
        return "Writes already, and had room for one more"
    if rang.rule == "all":
        return "" if rang.queue.startswith(DIRECT) else "Everybody who could come is rung at once"
    if could == 1:
        whys = {*(why for _, why in rang.considered), *dict(rang.unnamed)}
        return "Knows the caller" if "others_preferred" in whys else "Nobody else could come"
    said = _DECIDED.get(rang.rule, "")
    value = dict(rang.weighed).get(rang.considered[0][0])
    by = "" if value is None else _BY_RULE.get(rang.rule, "").format(_value(rang.rule, value, at_ms))
    return f"{said}{by} of {could} who could" if said else ""


#: What each rule takes first, of those who could, and by which figure.
_DECIDED = {
    "longest_idle": "Idle longest",
    "fewest": "Fewest contacts today",
    "best_skill": "Best skill",
    "turn": "Next in turn",
    "listed": "First in the list",
}
_BY_RULE = {"longest_idle": ", {},", "fewest": ", {},", "best_skill": ", level {},"}
#: The same figure of the others.
_OF_OTHERS = {"longest_idle": "idle {}", "fewest": "{} today", "best_skill": "level {}"}


def _was_first(rang: Rang) -> str:
    if rang.among < 2:
        return "Came free while nobody else waited"
    priority = f"{rang.priority:.1f}".removesuffix(".0")
    return f"Came free, and this was first of {rang.among} who waited: priority {priority}"
