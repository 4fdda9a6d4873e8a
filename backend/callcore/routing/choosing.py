"""Who is eligible for a contact, and which of them is chosen. Pure: nothing is kept here."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from callcore.routing.events import QueueRule, Status

NO_SKILLS: Mapping[str, int] = MappingProxyType({})
#: The ways in which a queue chooses the next agent, in words.
WAYS: dict[str, str] = {
    "longest_idle": "longest idle first",
    "fewest": "fewest contacts today first",
    "best_skill": "best skill, then longest idle",
    "turn": "each in turn",
    "listed": "always from the top of the list",
    "all": "all at once, the first to answer",
}


@dataclass(slots=True)
class Agent:
    """An agent's live state. `next_status` is what they asked for while busy.

    `queues` are those they are a member of, those of this shift only (`extra`) included; `lines`
    all whose contacts may reach them, those that widen to them and lines of one contact included.
    `others` are contacts that they have besides the one in hand, `to_wrap` those that ended
    meanwhile and want their wrap-up after the one in hand; `room`: one more text fits.
    """

    id: str
    queues: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()
    status: Status = Status.OUT
    reason: str = ""
    since_ms: int = 0
    contact: str = ""
    queue: str = ""
    due_ms: int | None = None
    next_status: tuple[Status, str] | None = None
    skills: Mapping[str, int] = field(default_factory=lambda: NO_SKILLS)
    others: tuple[tuple[str, str], ...] = ()
    to_wrap: tuple[tuple[str, str], ...] = ()
    room: bool = False
    extra: tuple[str, ...] = ()
    #: In which order they became available, and in which they had room; 0 for neither.
    idle_rank: int = 0
    room_rank: int = 0


@dataclass(slots=True)
class Waiting:
    """A contact in a queue, also while it is with an agent (`agent`, `connected`).

    `agent` is who has it, or the first of those who ring (`ringing`).
    """

    id: str
    queue: str
    entered_ms: int
    sequence: int
    agent: str = ""
    connected: bool = False
    last_tried: str = ""
    priority: int | None = None
    callback: bool = False
    asks: tuple[tuple[str, int], ...] = ()
    preferred: tuple[str, ...] = ()
    ringing: tuple[str, ...] = ()
    text: bool = False
    inner: bool = False
    longest_ms: int | None = None
    #: Who let it pass in a line of its own: they are not rung for it again.
    passed: frozenset[str] = frozenset()


def lowered(contact: Waiting, rule: QueueRule, now_ms: int) -> int:
    """By how many levels the queue has widened for a contact."""
    waited_ms = now_ms - contact.entered_ms
    return sum(step.lower for step in rule.widening if step.after_ms <= waited_ms)


def let_in(contact: Waiting, rule: QueueRule, now_ms: int) -> frozenset[str]:
    """The agents who are no members, and are in by widening."""
    waited_ms = now_ms - contact.entered_ms
    found = (step.agents for step in rule.widening if step.after_ms <= waited_ms)
    return frozenset(agent for agents in found for agent in agents)


def open_to_all(contact: Waiting, rule: QueueRule) -> bool:
    """Whether nothing about a contact can rule anybody out: `ruled_out` need not be asked."""
    return not (rule.required_skills or rule.widening or contact.asks or contact.preferred or contact.passed)


def ruled_out(agent: Agent, contact: Waiting, rule: QueueRule, now_ms: int) -> str:
    """Why an agent cannot take a contact, their state apart; empty where they can."""
    if agent.id in contact.passed:
        return "just_tried"
    waited_ms = now_ms - contact.entered_ms
    outsider = rule.widening and contact.queue not in agent.queues
    if outsider and agent.id not in let_in(contact, rule, now_ms):
        return "not_yet"
    if contact.preferred and waited_ms < rule.prefer_ms and agent.id not in contact.preferred:
        return "others_preferred"
    asks = (*rule.required_skills, *contact.asks)
    if asks:
        less = lowered(contact, rule, now_ms)
        for skill, least in asks:
            if agent.skills.get(skill, 0) < max(1, least - less):
                return f"skill:{skill}"
    return ""


def considered(agent: Agent, chosen: Agent, contact: Waiting, rule: QueueRule, now_ms: int) -> str:
    """What a queue's choice made of an agent, in one word."""
    if agent is chosen:
        return "chosen"
    if agent.status is not Status.AVAILABLE:
        return str(agent.status)
    if agent.id == contact.last_tried:
        return "just_tried"
    return ruled_out(agent, contact, rule, now_ms) or "eligible"


def next_change_ms(contact: Waiting, rule: QueueRule, now_ms: int) -> int | None:
    """When the queue widens for a contact, or others than the preferred may take it."""
    moments = [contact.entered_ms + step.after_ms for step in rule.widening]
    if contact.preferred:
        moments.append(contact.entered_ms + rule.prefer_ms)
    return min((at for at in moments if at > now_ms), default=None)


def effective(contact: Waiting, rule: QueueRule, now_ms: int) -> float:
    """Base priority plus what it has grown by waiting."""
    base = rule.priority if contact.priority is None else contact.priority
    return base + rule.priority_growth * (now_ms - contact.entered_ms) / 60_000


#: What a queue's rule compares of an agent; the least comes first.
Compare = Callable[[Agent], int]


def choose(idle: list[Agent], rule: QueueRule, compare: Compare) -> Agent:
    """The one of the eligible agents whom the queue's rule takes; ties by the longest idle.

    Args:
        idle: eligible agents, the longest idle first; never empty.
    """
    return idle[0] if rule.distribution in _FIRST else min(idle, key=compare)


#: Rules by which the first of the idle is taken: their order says it already.
_FIRST = frozenset({"longest_idle", "all"})


def comparing(
    contact: Waiting, rule: QueueRule, handled: Mapping[str, int], members: tuple[str, ...], last: str
) -> Compare:
    """What the queue's rule compares: since when somebody is idle (ms), their contacts of today,
    their levels of the skills asked for (negative), their place after the last one or in the list.

    Args:
        handled: contacts of today, by agent.
        members: the queue's agents in the order of its list.
        last: the agent whom the queue took last.
    """
    return _COMPARES[rule.distribution](contact, rule, handled, members, last)


def _fewest(
    contact: Waiting, rule: QueueRule, handled: Mapping[str, int], members: tuple[str, ...], last: str
) -> Compare:
    return lambda agent: handled.get(agent.id, 0)


def _best_skill(
    contact: Waiting, rule: QueueRule, handled: Mapping[str, int], members: tuple[str, ...], last: str
) -> Compare:
    asked = [skill for skill, _ in (*rule.required_skills, *contact.asks)]
    return lambda agent: -sum(agent.skills.get(skill, 0) for skill in asked)


def _turn(
    contact: Waiting, rule: QueueRule, handled: Mapping[str, int], members: tuple[str, ...], last: str
) -> Compare:
    place = {member: at for at, member in enumerate(members)}
    begin = place.get(last, -1)
    # Who helps out from elsewhere stands behind the last member.
    count = len(members) + 1
    return lambda agent: (place.get(agent.id, count - 1) - begin - 1) % count


def _listed(
    contact: Waiting, rule: QueueRule, handled: Mapping[str, int], members: tuple[str, ...], last: str
) -> Compare:
    place = {member: at for at, member in enumerate(members)}
    return lambda agent: place.get(agent.id, len(members))


_Comparing = Callable[[Waiting, QueueRule, Mapping[str, int], tuple[str, ...], str], Compare]
_COMPARES: dict[str, _Comparing] = {
    "longest_idle": lambda *_: lambda agent: agent.since_ms,
    "fewest": _fewest,
    "best_skill": _best_skill,
    "turn": _turn,
    "listed": _listed,
    "all": lambda *_: lambda agent: 0,
}
