"""The kinds of things whose changes are recorded: each registered by its app, once."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

from changelog.errors import Use

if TYPE_CHECKING:
    from changelog.kept import Kept


class Kind(NamedTuple):
    """What a kind is called, whether the exchange runs on it, and what is never recorded."""

    name: str
    model: type[Kept]
    words: str
    page: str
    unrecorded: tuple[str, ...] = ()


_kinds: dict[str, Kind] = {}
_users: dict[str, list[Callable[[str], list[Use]]]] = {}


def register(kind: Kind) -> None:
    """Make a kind known. An unregistered one cannot be kept."""
    _kinds[kind.name] = kind


def kind_named(name: str) -> Kind:
    """The registered kind; KeyError where there is none."""
    return _kinds[name]


def kind_of(model: type[Kept]) -> Kind:
    """The registered kind of a model."""
    return next(kind for kind in _kinds.values() if kind.model is model)


def all_kinds() -> list[Kind]:
    """Every kind, in the order of registration."""
    return list(_kinds.values())


def exists(reference: str) -> bool:
    """Whether a reference (`queue:id`) leads to something; a text that is none leads to itself."""
    name, _, identity = reference.partition(":")
    kind = _kinds.get(name)
    if kind is None or not identity:
        return True
    try:
        return kind.model._default_manager.filter(pk=uuid.UUID(identity)).exists()
    except ValueError:
        return False


def name_of(reference: str) -> str:
    """What a reference leads to is called; empty where there is no such thing."""
    name, _, identity = reference.partition(":")
    kind = _kinds.get(name)
    try:
        found = kind.model._default_manager.filter(pk=uuid.UUID(identity)).first() if kind else None
    except ValueError:
        return ""
    return found.title if found is not None else ""


def register_use(kind: str, find: Callable[[str], list[Use]]) -> None:
    """`find(id)` lists where things of `kind` are used by another app."""
    _users.setdefault(kind, []).append(find)


def uses(kind: str, identity: str) -> list[Use]:
    """Everything that uses one thing."""
    return [use for find in _users.get(kind, ()) for use in find(identity)]
