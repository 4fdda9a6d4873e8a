"""What other apps may ask of the exchange's tables."""

from __future__ import annotations

from django.conf import settings

from exchange.models import StandIns


def settle_stand_ins(*, on: bool, agents: int, seed: int = 1) -> None:
    """Switch the simulated callers and agents of this site, before the exchange starts."""
    StandIns.objects.update_or_create(
        site=settings.EXCHANGE_SITE, defaults={"on": on, "agents": agents, "seed": seed}
    )
