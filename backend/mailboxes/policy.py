"""Whose a mailbox is: who may change it, who may listen, and what never changes hands unasked."""

from __future__ import annotations

from typing import Any

from django.db.models import Q

from accounts.policy import may
from accounts.things import Act, Values, refusal
from agents.policy import not_of_team
from agents.services import agent_of, reached
from mailboxes.models import Mailbox, Message, Owner

#: What decides who hears the messages that lie in a mailbox.
_WHOSE = ("owner", "agent", "queue", "listeners")


def mailbox(user: Any, act: Act, thing: Mailbox | None, values: Values) -> str:
    """A person's mailbox is theirs: a supervisor changes what it says, never who hears it."""
    if reached(user) is None:
        return ""
    if thing is not None:
        words = _not_run_by(user, thing.owner, thing.agent, thing.queue)
        if words:
            return words
        moved = any(_differs(thing, name, values[name]) for name in _WHOSE if name in values)
        if thing.owner == Owner.PERSON and (moved or act == "delete"):
            return f"“{thing.name}” is a person's: only an administrator changes whose it is."
    owner = values.get("owner", thing.owner if thing else Owner.SHARED)
    agent = values.get("agent", thing.agent if thing else None)
    queue = values.get("queue", thing.queue if thing else None)
    return _not_run_by(user, owner, agent, queue)


def _differs(thing: Mailbox, name: str, value: Any) -> bool:
    now = getattr(thing, name)
    return set(now.all()) != set(value) if name == "listeners" else now != value


def _not_run_by(user: Any, owner: str, agent: Any, queue: Any) -> str:
    if owner == Owner.PERSON and agent is not None:
        return not_of_team(user, agent.team_id, agent.name)
    if owner == Owner.QUEUE and queue is not None:
        return refusal(user, "change", queue)
    return ""


def heard_by(user: Any) -> Q:
    """The mailboxes whose messages a person may listen to."""
    agent = agent_of(user)
    theirs = Q(pk__in=())
    if agent is not None:
        serves = Q(queue__members=agent) | Q(queue__teams__agents=agent)
        theirs = Q(owner=Owner.PERSON, agent=agent) | Q(owner=Owner.QUEUE) & serves
        theirs |= Q(listeners=agent)
    if may(user, "change", "mailboxes"):
        theirs |= Q(owner=Owner.SHARED)
        teams = reached(user)
        if teams is None:
            theirs |= Q(owner=Owner.QUEUE)
        else:
            run = Q(queue__teams__in=teams) | Q(queue__members__team__in=teams)
            theirs |= Q(owner=Owner.QUEUE) & (run | Q(queue__supervisors=user.pk))
    return theirs


def message(user: Any, act: Act, thing: Message | None, values: Values) -> str:
    """Whoever may listen to a message may also mark it."""
    heard = thing is not None and Mailbox.objects.filter(heard_by(user), pk=thing.mailbox_id)
    return "" if heard else "This message is not for you."


def messages(user: Any, rows: Any) -> Any:
    """The messages that a person may listen to."""
    mine = Mailbox.objects.filter(heard_by(user)).values("pk")
    return rows.filter(mailbox__in=mine)
