"""Kept things: created, changed and removed in one place, with every change recorded.

Each write is one transaction: lock, compare revisions, write, record. The
number of the recorded change is the revision of the whole configuration; an
advisory lock makes those numbers become visible in their order, and a
notification on commit wakes the exchange.
"""

from __future__ import annotations

import json
import uuid
from datetime import timedelta
from typing import Any, TypeVar

from django.core.exceptions import ObjectDoesNotExist
from django.core.serializers.json import DjangoJSONEncoder
from django.db import connection, models, transaction
from django.utils import timezone

from changelog import kinds
from changelog.errors import InUse, Refused, Stale
from changelog.models import Change

CONFIG_CHANNEL = "hazeridge_config"
_ORDER_LOCK = 4_702_110


class Kept(models.Model):
    """Base of everything that an administrator keeps."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    revision = models.PositiveIntegerField(default=1, editable=False)
    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True

    @property
    def title(self) -> str:
        """What people call it."""
        return str(getattr(self, "name", self.pk))


K = TypeVar("K", bound=Kept)


def snapshot(instance: Kept) -> dict[str, Any]:
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


def _linked(instance: Kept, name: str) -> list[Any]:
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
    user: Any,
    instance: K,
    revision: int | None,
    /,
    *,
    merge_within: timedelta | None = None,
    **values: Any,
) -> K:
    """Change a thing.

    Args:
        revision: the one that the author saw; None changes whatever stands.
        merge_within: changes of the same author that follow one another this
            closely are one entry of the log.

    Raises:
        Stale: it has another revision by now.
    """
    model = type(instance)
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


def remove(user: Any, instance: Kept) -> None:
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


def undo(user: Any, change_id: int) -> Change:
    """Take one recorded change back; that is a change of its own.

    Raises:
        Refused: the thing has been changed again since.
    """
    with transaction.atomic():
        past = Change.objects.select_for_update().get(pk=change_id)
        kind = kinds.kind_named(past.kind)
        newer = Change.objects.filter(object_id=past.object_id, id__gt=past.id).exists()
        if newer:
            raise Refused("changed-since", f"{past.title} has been changed again since.")
        if past.verb == "created":
            remove(user, kind.model._default_manager.get(pk=past.object_id))
        elif past.verb == "removed":
            create(user, kind.model, **_restorable(kind.model, past.before))
        else:
            try:
                instance = kind.model._default_manager.get(pk=past.object_id)
            except ObjectDoesNotExist:
                raise Refused("gone", f"{past.title} does not exist any more.") from None
            values = {k: v for k, v in past.before.items() if past.after.get(k) != v}
            change(user, instance, None, **_restorable(kind.model, values))
    return Change.objects.filter(object_id=past.object_id).latest("id")


def stale(current: Kept) -> Stale:
    """The refusal for somebody who edited an older revision of `current`."""
    last = Change.objects.filter(object_id=str(current.pk)).order_by("-id").first()
    by = last.by_name if last else "somebody"
    return Stale(
        f"{by} changed {current.title} while you were editing it.",
        current=current,
        by=by,
        at=last.at.isoformat() if last else "",
    )


def record(
    user: Any, instance: Kept, verb: str, before: dict[str, Any], after: dict[str, Any]
) -> Change:
    """Write one change into the log and wake the exchange. Must run in a transaction."""
    if not connection.in_atomic_block:
        raise RuntimeError("a change is recorded in the transaction that makes it")
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_ORDER_LOCK])
        made = Change.objects.create(
            by=user if getattr(user, "pk", None) else None,
            by_name=getattr(user, "full_name", "") or "Hazeridge",
            kind=kinds.kind_of(type(instance)).name,
            object_id=str(instance.pk),
            title=instance.title[:200],
            verb=verb,
            before=before,
            after=after,
            at=timezone.now(),
        )
        cursor.execute("SELECT pg_notify(%s, %s)", [CONFIG_CHANNEL, str(made.pk)])
    return made


def revision_in_database() -> int:
    """The number of the newest recorded change: the revision of the configuration."""
    newest = Change.objects.order_by("-id").values_list("id", flat=True).first()
    return newest or 0


def _merged(user: Any, instance: Kept, after: dict[str, Any], within: timedelta) -> bool:
    """Let the author's own last entry end in `after`, if it is recent enough."""
    last = Change.objects.filter(object_id=str(instance.pk)).order_by("-id").first()
    fits = last is not None and last.verb == "changed" and last.by_id == getattr(user, "pk", None)
    if not fits or last.after.keys() != after.keys() or timezone.now() - last.at > within:
        return False
    if any(
        last.after[name] != after[name] and last.before[name] == last.after[name] for name in after
    ):
        return False
    last.after = after
    last.save(update_fields=["after"])
    return True


def _locked(model: type[K], identity: Any) -> K:
    try:
        return model._default_manager.select_for_update(of=("self",)).get(pk=identity)
    except ObjectDoesNotExist:
        raise Refused("gone", "It does not exist any more.", status=404) from None


def _many(model: type[Kept]) -> set[str]:
    return {field.name for field in model._meta.many_to_many}


def _link(instance: Kept, values: dict[str, Any]) -> None:
    for name in _many(type(instance)) & values.keys():
        getattr(instance, name).set(values[name])


def _restorable(model: type[Kept], values: dict[str, Any]) -> dict[str, Any]:
    """Recorded values as the model takes them; links to things that are gone are left out."""
    result: dict[str, Any] = {}
    many = {field.name: field for field in model._meta.many_to_many}
    for name, value in values.items():
        if name in many:
            related = many[name].related_model
            result[name] = related._default_manager.filter(pk__in=value)
            continue
        field = next((f for f in model._meta.concrete_fields if f.attname == name), None)
        if field is None:
            message = "It was kept in an older form then, which cannot be brought back."
            raise Refused("older-form", message)
        result[name] = field.to_python(value) if not field.is_relation else value
    return result
