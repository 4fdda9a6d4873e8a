"""People who sign in: made and changed here, and every change recorded."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.contrib.auth.hashers import make_password
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db.models import QuerySet
from django.utils import timezone

from accounts.models import Role, User
from accounts.things import Act, Values
from changelog import config_store
from changelog.kinds import RecordedKind
from web.errors import Refused


def make_user(by: Any, username: str, full_name: str, role: str, password: str | None) -> User:
    """A new person; without a password they cannot sign in yet.

    Args:
        by: who makes them; None for the first ones.
    """
    _refuse_taken(username)
    values = {"username": username, "full_name": full_name, "role": role}
    secret = _new_password(User(**values), password) if password else {"password": make_password(None)}
    return config_store.create(by, User, **values, **secret)


def change_user(
    by: Any, user: User, revision: int | None = None, *, password: str | None = None, **values: Any
) -> User:
    """Change a person.

    Args:
        revision: the one that the author saw; None changes whatever stands.
        password: a new one; empty leaves the old one.

    Raises:
        Refused: the sign-in name is taken, the password too weak, or nobody would be left to
            administer.
        Stale: somebody else changed the person in the meantime.
    """
    if values.get("username", user.username) != user.username:
        _refuse_taken(values["username"], besides=user)
    if password:
        values |= _new_password(user, password)
    return config_store.change(by, user, revision, **values)


def person_rule(user: Any, act: Act, thing: User | None, values: Values) -> str:
    """Nobody locks themself out, or changes what they may do themself."""
    if thing is None or thing.pk != user.pk:
        return ""
    if values.get("role", thing.role) != thing.role:
        return "Another administrator changes your role."
    if values.get("is_active", thing.is_active) != thing.is_active:
        return "Another administrator disables you."
    return ""


def check(kind: RecordedKind, thing: User, before: Values, after: Values) -> None:
    """Whatever way a person is changed, also by taking a change back: one administrator stays."""
    if kind.name != "user":
        return
    if not after:
        raise Refused("person-stays", "Nobody is deleted: the change log names them. Disable them.")
    if not _administers(before) or _administers(after):
        return
    others = User.objects.filter(role=Role.ADMINISTRATOR, is_active=True).exclude(pk=thing.pk)
    if not others.exists():
        raise Refused("last-administrator", f"{thing.title} is the only administrator.")


def _administers(recorded: Values) -> bool:
    return recorded.get("role") == Role.ADMINISTRATOR and bool(recorded.get("is_active"))


def prune_user(values: dict[str, Any]) -> list[str]:
    """A password is not recorded, only that it was set: it does not come back."""
    return ["the password from before"] if values.pop("password_set_at", None) else []


def sign_in_name(username: str) -> str:
    """A sign-in name that may be given to somebody who has one.

    Raises:
        Refused: it is empty: a sign-in name cannot be taken away.
    """
    if not username:
        needed = "A sign-in name cannot be taken away; delete the agent, or choose another name."
        raise Refused("not-valid", needed, status=400, fields={"username": [needed]})
    return username


def _refuse_taken(username: str, besides: User | None = None) -> None:
    others = User.objects.filter(username__iexact=username)
    other = others.exclude(pk=besides.pk if besides else None).first()
    if other is None:
        return
    taken = f"The sign-in name {username} is taken."
    if not other.is_active:
        taken = f"{username} is the sign-in name of {other.title}, who is disabled: enable them."
    raise Refused("not-valid", taken, status=400, fields={"username": [taken]})


def _new_password(user: User, password: str) -> dict[str, Any]:
    """What is kept of a password that is good enough."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        messages = list(error.messages)
        raise Refused("not-valid", messages[0], status=400, fields={"password": messages}) from None
    return {"password": make_password(password), "password_set_at": timezone.now()}


def user_data(user: Any) -> dict[str, Any]:
    """A person as the interface shows them."""
    return {"username": user.username, "full_name": user.full_name, "role": user.role}


def one_password_for(usernames: Iterable[str], password: str) -> None:
    """Give people the same password, for a demo; worked out once, since that takes its time."""
    User.objects.filter(username__in=list(usernames)).update(password=make_password(password))


ROLES = Role


def people() -> QuerySet[User]:
    """Everybody who signs in."""
    return User.objects.all()


def supervisors() -> QuerySet[User]:
    """Everybody who supervises."""
    return User.objects.filter(role=Role.SUPERVISOR).order_by("full_name", "pk")


def any_users() -> bool:
    """Whether anybody has been set up."""
    return User.objects.exists()


def user_with(identity: Any) -> User | None:
    """The user with an id, for work that the worker does in their name."""
    return User.objects.filter(pk=identity).first()


def names_of(numbers: list[int]) -> dict[int, str]:
    """What people are called."""
    found = User.objects.filter(pk__in=numbers)
    return {person.pk: person.full_name or person.username for person in found}


def everybody() -> list[str]:
    """The sign-in names of all people."""
    return list(User.objects.values_list("username", flat=True))
