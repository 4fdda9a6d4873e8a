"""A contact's story in words, for whoever reads it later."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import Any

from django.core.exceptions import ObjectDoesNotExist

from callcore.centre.setup import RunnableFlow
from callcore.centre.telling import Line, Story
from callcore.centre.why_rung import Shows
from callcore.events import Happening, facts
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import load
from callcore.flow.onward import OFFER_NAME, callback_offers
from exchange.live import reading
from flows import services as flow_services
from flows.catalogue import catalogue_of
from phone_numbers.plan import national
from wrapup import services as wrapup_services

_PLACES = {"queue": "queues", "mailbox": "mailboxes", "flow": "flows", "group": "groups", "sound": "sounds"}


class KnownNames:
    """What things are called now. See `callcore.centre.telling.Names`."""

    def __init__(self, catalogue: Catalogue, codes: dict[str, str]) -> None:
        self._catalogue = catalogue
        self._codes = codes

    def name_of(self, reference: str) -> str | None:
        kind, found, _ = reference.partition(":")
        if not found:
            return national(reference)
        if kind in ("agent", "skill"):
            named = self._catalogue.agents if kind == "agent" else self._catalogue.skills
            return named.get(reference)
        known: Any = getattr(self._catalogue, _PLACES[kind]).get(reference) if kind in _PLACES else None
        return known.name if known is not None else None

    def code_name(self, code: str) -> str:
        return self._codes.get(code, "")


def told(events: Iterable[Happening], shows: Shows) -> list[Line]:
    """The lines of a contact, in words made from the versions that ran. See `Story` for `shows`."""
    catalogue = catalogue_of(flow_services.facts())
    codes = wrapup_services.code_names()

    @cache
    def version(number: int, blocks: tuple[tuple[str, int], ...]) -> RunnableFlow | None:
        try:
            return reading.flow_of_version(number, dict(blocks))
        except ObjectDoesNotExist:
            return None

    def flow_of(fact: facts.Arrived | facts.WentOn) -> RunnableFlow | None:
        if fact.version_id is not None:
            return version(fact.version_id, tuple(sorted(fact.blocks.items())))
        if fact.definition is None:
            return None
        return reading.runnable(load(fact.definition), "", fact.flow_name, catalogue)

    def plan_of(key: str) -> RunnableFlow | None:
        offer = callback_offers().get(key)
        if offer is not None:
            return reading.runnable(offer, key, OFFER_NAME, catalogue)
        return version(int(key), ()) if key.isdecimal() else None

    return Story(KnownNames(catalogue, codes), flow_of, plan_of, shows).lines(events)
