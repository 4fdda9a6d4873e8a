"""Names and words that several topics show."""

from __future__ import annotations

from callcore.centre.contact import Contact
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
    """What happened to a contact, in words."""

    def flow_of(fact: facts.Arrived | facts.WentOn) -> RunnableFlow | None:
        here = contact.flow
        if (here.version_id, here.flow_name) == (fact.version_id, fact.flow_name):
            return here
        if fact.version_id is None:
            return site.setup.ad_hoc(load(fact.definition), fact.flow_name)
        found = site.setup.flows.get(fact.flow)
        return found if found is not None and found.version_id == fact.version_id else None

    return Story(site.setup, flow_of, site.plans.get).lines(contact.story)
