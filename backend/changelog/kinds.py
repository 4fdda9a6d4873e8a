"""The kinds of things whose changes are recorded: each registered by its app, once."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import Any, NamedTuple

from changelog.recorded import Recorded
from web.errors import Use

Values = dict[str, Any]


def always(before: Values, after: Values) -> bool:
    """The exchange runs on everything of the kind."""
    return True


def never(before: Values, after: Values) -> bool:
    """The exchange runs on nothing of the kind."""
    return False


def when(*names: str) -> Callable[[Values, Values], bool]:
    """The exchange runs on some fields of the kind."""
    return lambda before, after: any(before.get(n) != after.get(n) for n in names)


def nothing_gone(values: Values) -> list[str]:
    """Nothing of the kind refers to anything inside its JSON."""
    return []


class RecordedKind(NamedTuple):
    """What a kind is called, where it is edited, and what is never recorded.

    `runs`: whether the exchange must take up a change, by what was recorded before and after.
    `prune`: takes references to what is gone out of the values of an older state (in place), and
    says in words what it left out. `rights`: whether a change may take a right from somebody.
    """

    name: str
    model: type[Recorded]
    words: str
    page: str
    unrecorded: tuple[str, ...] = ()
    runs: Callable[[Values, Values], bool] = always
    prune: Callable[[Values], list[str]] = nothing_gone
    rights: bool = False


_kinds: dict[str, RecordedKind] = {}
#: Asked of every change before it is recorded, when no other can come between; they refuse.
_checks: list[Callable[[RecordedKind, Any, Values, Values], None]] = []
#: Told of every recorded change, within its transaction.
_listeners: list[Callable[[Any, RecordedKind, Any, Values, Values], None]] = []
#: Fields that hold numbers, and what these are called.
numbered: dict[str, Callable[[list[int]], dict[int, str]]] = {}
_users: dict[str, list[Callable[[str], list[Use]]]] = {}


def register(kind: RecordedKind) -> None:
    """Make a kind known. An unregistered one cannot be kept."""
    _kinds[kind.name] = kind


def register_check(check: Callable[[RecordedKind, Any, Values, Values], None]) -> None:
    """`check(kind, thing, before, after)` may refuse a change; no other change is under way."""
    _checks.append(check)


def register_listener(listen: Callable[[Any, RecordedKind, Any, Values, Values], None]) -> None:
    """`listen(user, kind, thing, before, after)` hears of every change, in its transaction."""
    _listeners.append(listen)


def check(kind: RecordedKind, thing: Any, before: Values, after: Values) -> None:
    """Ask all checks."""
    for one in _checks:
        one(kind, thing, before, after)


def tell(user: Any, kind: RecordedKind, thing: Any, before: Values, after: Values) -> None:
    """Tell all listeners."""
    for one in _listeners:
        one(user, kind, thing, before, after)


def kind_named(name: str) -> RecordedKind:
    """The registered kind; KeyError where there is none."""
    return _kinds[name]


def kind_of(model: type[Recorded]) -> RecordedKind:
    """The registered kind of a model."""
    return next(kind for kind in _kinds.values() if kind.model is model)


def all_kinds() -> list[RecordedKind]:
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


def register_numbers(field: str, name: Callable[[list[int]], dict[int, str]]) -> None:
    """A field holds numbers of what is no kept thing: `name(numbers)` says what they are called."""
    numbered[field] = name


def register_use(kind: str, find: Callable[[str], list[Use]]) -> None:
    """`find(id)` lists where things of `kind` are used by another app."""
    _users.setdefault(kind, []).append(find)


def uses(kind: str, identity: str) -> list[Use]:
    """Everything that uses one thing."""
    return [use for find in _users.get(kind, ()) for use in find(identity)]
