"""Kept things: created, changed and removed in one place, with every change recorded.

Each write is one transaction: lock, compare revisions, write, record. The
number of the recorded change is the revision of the whole configuration; an
advisory lock makes those numbers become visible in their order, and a
notification on commit wakes the exchange.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Any, NamedTuple, TypeVar

from django.core.exceptions import ObjectDoesNotExist
from django.core.serializers.json import DjangoJSONEncoder
from django.db import connection, models, transaction
from django.utils import timezone

from changelog import kinds
from changelog.models import Change
from changelog.recorded import ConfigItem, Described, Recorded
from web.errors import InUse, Refused, Stale

__all__ = [
    "CONFIG_CHANNEL",
    "QUIET",
    "TAKE_UP",
    "ConfigItem",
    "Described",
    "Newest",
    "Recorded",
    "change",
    "create",
    "newest_of",
    "record",
    "remove",
    "revision_in_database",
    "snapshot",
    "undo",
]

CONFIG_CHANNEL = "hazeridge_config"
#: What the channel says, with the number of the change: whether the exchange runs on it or not.
TAKE_UP, QUIET = "take-up", "quiet"
_ORDER_LOCK = 4_702_110


K = TypeVar("K", bound=Recorded)


def snapshot(instance: Recorded) -> dict[str, Any]:
    """Everything that is recorded of a thing, as plain JSON data."""
    kind = kinds.kind_of(type(instance))
    skipped = {"revision", "updated_at", *kind.unrecorded}
    data = {
        field.attname: field.value_from_object(instance)
        for field in instance._meta.concrete_fields
        if field.attname not in skipped
    }
    for field in instance._meta.many_to_many:
        if field.name not in skipped:
            data[field.name] = sorted(str(pk) for pk in _linked(instance, field.name))
    return json.loads(json.dumps(data, cls=DjangoJSONEncoder))


def _linked(instance: Recorded, name: str) -> list[Any]:
    return list(getattr(instance, name).values_list("pk", flat=True))


def create(user: Any, model: type[K], /, **values: Any) -> K:
    """Make a new thing and record it."""
    with transaction.atomic():
        instance = model(**{k: v for k, v in values.items() if k not in _many(model)})
        instance.save(force_insert=True)
        _link(instance, values)
        record(user, instance, "created", {}, snapshot(instance))
    return instance


def change(
    user: Any, instance: K, revision: int | None, /, *, merge_within: timedelta | None = None, **values: Any
) -> K:
    """Change a thing.

    Args:
        revision: the one that the author saw; None changes whatever stands.
        merge_within: changes of the same author that follow one another this
            closely are one entry of the log.

    Raises:
        Stale: it has another revision by now.
    """
    model = instance._meta.concrete_model
    with transaction.atomic():
        current = _locked(model, instance.pk)
        if revision is not None and current.revision != revision:
            raise stale(current)
        before = snapshot(current)
        for name, value in values.items():
            if name not in _many(model):
                setattr(current, name, value)
        _link(current, values)
        after = snapshot(current)
        if after != before:
            current.revision += 1
            current.save()
            if not (merge_within and _merged(user, current, after, merge_within)):
                record(user, current, "changed", before, after)
    return current


def remove(user: Any, instance: Recorded) -> None:
    """Delete a thing that nothing uses.

    Raises:
        InUse: with everything that does.
    """
    kind = kinds.kind_of(type(instance))
    with transaction.atomic():
        current = _locked(type(instance), instance.pk)
        used = kinds.uses(kind.name, str(current.pk))
        if used:
            raise InUse(current.title, used)
        before = snapshot(current)
        record(user, current, "removed", before, {})
        current.delete()


def undo(user: Any, change_id: int, ask: Callable[..., None] | None = None) -> Change:
    """Take one recorded change back; that is a change of its own.

    What an older state refers to and is gone by now is left out, and said in the new change.

    Args:
        ask: `ask(user, act, thing, values)` refuses what the person may not do to the thing.

    Raises:
        Refused: the thing has been changed again since.
    """
    left_out: list[str] = []
    with transaction.atomic():
        past = Change.objects.select_for_update().get(pk=change_id)
        kind = kinds.kind_named(past.kind)
        newer = Change.objects.filter(object_id=past.object_id, id__gt=past.id).exists()
        if newer:
            raise Refused("changed-since", f"{past.title} has been changed again since.")
        if past.verb == "removed":
            values = _restorable(kind, past.before, left_out)
            _ask(ask, user, "make", kind.model, values)
            create(user, kind.model, **values)
        elif past.verb == "created":
            thing = _standing(past, kind)
            _ask(ask, user, "delete", thing, {})
            remove(user, thing)
        else:
            changed = {k: v for k, v in past.before.items() if past.after.get(k) != v}
            values = _restorable(kind, changed, left_out)
            thing = _standing(past, kind)
            _ask(ask, user, "change", thing, values)
            change(user, thing, None, **values)
        undone = Change.objects.filter(object_id=past.object_id).latest("id")
        undone.left_out = left_out
        undone.save(update_fields=["left_out"])
    return undone


def _ask(ask: Callable[..., None] | None, *about: Any) -> None:
    if ask is not None:
        ask(*about)


def _standing(past: Change, kind: kinds.RecordedKind) -> Any:
    try:
        return kind.model._default_manager.get(pk=past.object_id)
    except ObjectDoesNotExist:
        raise Refused("gone", f"{past.title} does not exist any more.") from None


def stale(current: Recorded) -> Stale:
    """The refusal for somebody who edited an older revision of `current`."""
    last = Change.objects.filter(object_id=str(current.pk)).order_by("-id").first()
    by = last.by_name if last else "somebody"
    return Stale(
        f"{by} changed {current.title} while you were editing it.",
        current=current,
        by=by,
        at=last.at.isoformat() if last else "",
    )


def record(user: Any, instance: Recorded, verb: str, before: dict[str, Any], after: dict[str, Any]) -> Change:
    """Write one change into the log and wake the exchange. Must run in a transaction."""
    if not connection.in_atomic_block:
        raise RuntimeError("a change is recorded in the transaction that makes it")
    kind = kinds.kind_of(type(instance))
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_ORDER_LOCK])
        # From here on no other change can be recorded: what must be unique can be looked for.
        kinds.check(kind, instance, before, after)
        made = Change.objects.create(
            by=user if getattr(user, "pk", None) else None,
            by_name=getattr(user, "full_name", "") or "Hazeridge",
            kind=kind.name,
            object_id=str(instance.pk),
            title=instance.title[:200],
            verb=verb,
            before=before,
            after=after,
            at=timezone.now(),
        )
        word = TAKE_UP if kind.runs(before, after) else QUIET
        cursor.execute("SELECT pg_notify(%s, %s)", [CONFIG_CHANNEL, f"{word} {made.pk}"])
    kinds.tell(user, kind, instance, before, after)
    return made


def revision_in_database() -> int:
    """The number of the newest recorded change: the revision of the configuration."""
    newest = Change.objects.order_by("-id").values_list("id", flat=True).first()
    return newest or 0


class Newest(NamedTuple):
    """The newest change of things of a kind: its number, and when it was; 0 and None for none."""

    number: int
    at: datetime | None


def newest_of(*names: str) -> dict[str, Newest]:
    """The newest change of things of each kind."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT name, coalesce(id, 0), at FROM unnest(%s::text[]) AS name LEFT JOIN LATERAL ("
            "SELECT id, at FROM changelog_change WHERE kind = name ORDER BY id DESC LIMIT 1"
            ") AS newest ON true",
            [list(names)],
        )
        return {name: Newest(number, at) for name, number, at in cursor.fetchall()}


def _merged(user: Any, instance: Recorded, after: dict[str, Any], within: timedelta) -> bool:
    """Let the author's own last entry end in `after`, if it is recent enough."""
    last = Change.objects.filter(object_id=str(instance.pk)).order_by("-id").first()
    fits = last is not None and last.verb == "changed" and last.by_id == getattr(user, "pk", None)
    if not fits or last.after.keys() != after.keys() or timezone.now() - last.at > within:
        return False
    if any(last.after[name] != after[name] and last.before[name] == last.after[name] for name in after):
        return False
    last.after = after
    last.save(update_fields=["after"])
    return True


def _locked(model: type[K], identity: Any) -> K:
    try:
        return model._default_manager.select_for_update(of=("self",)).get(pk=identity)
    except ObjectDoesNotExist:
        raise Refused("gone", "It does not exist any more.", status=404) from None


def _many(model: type[Recorded]) -> set[str]:
    return {field.name for field in model._meta.many_to_many}


def _link(instance: Recorded, values: dict[str, Any]) -> None:
    for name in _many(type(instance)) & values.keys():
        getattr(instance, name).set(values[name])


def _restorable(kind: kinds.RecordedKind, values: dict[str, Any], left_out: list[str]) -> dict[str, Any]:
    """Recorded values as the model takes them, without what refers to things that are gone."""
    model = kind.model
    values = json.loads(json.dumps(values))
    left_out += kind.prune(values)
    result: dict[str, Any] = {}
    many = {field.name: field for field in model._meta.many_to_many}
    for name, value in values.items():
        if name in many:
            related = many[name].related_model
            result[name] = related._default_manager.filter(pk__in=value)
            gone = len(value) - len(result[name])
            if gone:
                left_out.append(f"{gone} of its {name.replace('_', ' ')}, gone by now")
            continue
        field = next((f for f in model._meta.concrete_fields if f.attname == name), None)
        if field is None:
            message = "It was kept in an older form then, which cannot be brought back."
            raise Refused("older-form", message)
        result[name] = _linked_value(field, value, left_out)
    return result


def _linked_value(field: Any, value: Any, left_out: list[str]) -> Any:
    """A field's value; a link to what is gone is left open, where it may be."""
    if not field.is_relation:
        return field.to_python(value)
    if value is None or field.related_model._default_manager.filter(pk=value).exists():
        return value
    called = field.verbose_name
    if not field.null or field.remote_field.on_delete is models.CASCADE:
        raise Refused("gone", f"The {called} that it belonged to does not exist any more.")
    left_out.append(f"its {called}, gone by now")
    return None
