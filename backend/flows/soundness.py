"""Whether the versions in force could still be published: what they refer to may have changed.

Looked at by the worker, off the path of the calls; what it found is kept, and the exchange is told.
"""

from __future__ import annotations

from typing import NamedTuple

from django.db import connection, transaction

from callcore.flow.checks import blocking, check
from changelog.config_store import CONFIG_CHANNEL
from flows import services
from flows.catalogue import catalogue_of
from flows.models import Unsound
from phone_numbers import services as number_services

#: What the configuration's channel says when it was looked at anew.
LOOKED_AT = "soundness"


class Finding(NamedTuple):
    """A version in force that could not be published any more: its flow, and why."""

    flow: str
    name: str
    message: str


def look() -> list[Finding]:
    """The versions in force that could not be published today."""
    around = catalogue_of(services.facts())
    callings = number_services.callings()
    found = []
    for version in services.versions_in_force([]):
        called = callings.get(version.flow, number_services.Callings())
        catalogue = around._replace(
            own=f"flow:{version.flow}",
            handed=called.handed,
            called=called.channels,
            language=version.definition.language,
            channel=version.definition.channel,
        )
        wrong = blocking(check(version.definition, catalogue))
        if wrong:
            words = f"version {version.number} in force is not sound any more: {wrong[0].message}"
            found.append(Finding(version.flow, version.flow_name, words))
    return found


def look_and_keep() -> None:
    """Look, keep what was found, and let the exchange know."""
    with transaction.atomic():
        found = {finding.flow: finding.message for finding in look()}
        Unsound.objects.exclude(flow__in=found).delete()
        for flow, message in found.items():
            Unsound.objects.update_or_create(flow_id=flow, defaults={"message": message})
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_notify(%s, %s)", [CONFIG_CHANNEL, LOOKED_AT])


def kept() -> list[Finding]:
    """What was found when it was looked at last."""
    rows = Unsound.objects.select_related("flow").order_by("flow__name")
    return [Finding(str(row.flow_id), row.flow.name, row.message) for row in rows]
