"""Names and words that several topics show."""

from __future__ import annotations

from callcore.centre.contact import Contact
from callcore.centre.contact_topics import AttendedBy, ChatLine, SteeredBy
from callcore.centre.setup import RunnableFlow
from callcore.centre.site import Site
from callcore.centre.telling import Line, Story
from callcore.events import facts
from callcore.flow.definition import load


def agent_name(site: Site, agent_id: str) -> str:
    """An agent's name; empty for nobody."""
    known = site.setup.agents.get(agent_id)
    return known.name if known else ""


def lines(site: Site, contact: Contact) -> list[Line]:
    """What happened to a contact, in words. How others stood whom it could have reached is told in
    numbers: a topic goes to readers who reach different teams."""

    def flow_of(fact: facts.Arrived | facts.WentOn) -> RunnableFlow | None:
        for ran in (contact.flow, *contact.past):
            if (ran.version_id, ran.flow_name) == (fact.version_id, fact.flow_name):
                return ran
        if fact.version_id is None:
            return site.setup.ad_hoc(load(fact.definition), fact.flow_name)
        found = site.setup.flows.get(fact.flow)
        return found if found is not None and found.version_id == fact.version_id else None

    return Story(site.setup, flow_of, site.plans.get, lambda _: False).lines(contact.story)


def attended_by(contact: Contact, *, told: bool = False) -> list[AttendedBy]:
    """The supervisors at a contact; with `told` those of whom its agent knows."""
    return [
        {"by": one.by, "how": one.how, "since_ms": one.since_ms}
        for one in contact.attended.values()
        if not told or one.how != "listens"
    ]


def chat(site: Site, agent: str) -> dict[str, ChatLine]:
    """What an agent and their supervisors wrote to each other today, oldest first."""
    return {
        f"{event.at_ms}-{number}": {
            "at_ms": event.at_ms,
            "by": event.fact.by,
            "mine": not event.fact.user,
            "words": event.fact.words,
        }
        for number, event in enumerate(site.floor.chats.get(agent, ()))
        if isinstance(event.fact, facts.Said)
    }


def steered(site: Site, agent: str) -> SteeredBy | None:
    """What a supervisor had an agent do, while it counts."""
    event = site.floor.steered.get(agent)
    if event is None or not isinstance(event.fact, facts.Steered):
        return None
    fact = event.fact
    return {"by": fact.by, "act": fact.act, "reason": fact.reason, "at_ms": event.at_ms}
