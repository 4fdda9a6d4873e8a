"""The waiting plans by which a supervisor has a callback offered to somebody who waits."""

from __future__ import annotations

from dataclasses import replace

from callcore.centre.setup import RunnableFlow, Setup
from callcore.flow.onward import OFFER_NAME, callback_offers


def offer_plans(setup: Setup) -> dict[str, RunnableFlow]:
    """The plans by their keys, one a language."""
    return {
        key: replace(setup.ad_hoc(offer, OFFER_NAME), flow_id=key) for key, offer in callback_offers().items()
    }
