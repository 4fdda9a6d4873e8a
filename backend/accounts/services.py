"""People who sign in: made and changed here."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.contrib.auth.hashers import make_password
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db.models import QuerySet

from accounts.models import Role, User
from changelog.errors import Refused


def make_user(username: str, full_name: str, role: str, password: str | None) -> User:
    """A new person; without a password they cannot sign in yet."""
    _refuse_taken(username)
    user = User(username=username, full_name=full_name, role=role)
    set_password(user, password)
    user.save()
    return user


def rename(user: User, username: str) -> None:
    """Give a person another sign-in name; the user is not saved here."""
    if not username:
        needed = "A sign-in name cannot be taken away; delete the agent, or choose another name."
        raise Refused("not-valid", needed, status=400, fields={"username": [needed]})
    if username != user.username:
        _refuse_taken(username, besides=user)
        user.username = username


def _refuse_taken(username: str, besides: User | None = None) -> None:
    others = User.objects.filter(username__iexact=username)
    if others.exclude(pk=besides.pk if besides else None).exists():
        taken = f"The sign-in name {username} is taken."
        raise Refused("not-valid", taken, status=400, fields={"username": [taken]})


def set_password(user: User, password: str | None) -> None:
    """Set a password that is good enough; the user is not saved here."""
    if not password:
        if user.pk is None:
            user.set_unusable_password()
        return
    try:
        validate_password(password, user)
    except ValidationError as error:
        messages = list(error.messages)
        raise Refused("not-valid", messages[0], status=400, fields={"password": messages}) from None
    user.set_password(password)


def user_data(user: Any) -> dict[str, Any]:
    """A person as the interface shows them."""
    return {"username": user.username, "full_name": user.full_name, "role": user.role}


def one_password_for(usernames: Iterable[str], password: str) -> None:
    """Give people the same password, for a demo; worked out once, since that takes its time."""
    User.objects.filter(username__in=list(usernames)).update(password=make_password(password))


ROLES = Role


def supervisors() -> QuerySet[User]:
    """Everybody who supervises."""
    return User.objects.filter(role=Role.SUPERVISOR).order_by("full_name", "pk")


def any_users() -> bool:
    """Whether anybody has been set up."""
    return User.objects.exists()


def user_with(identity: Any) -> User | None:
    """The user with an id, for work that the worker does in their name."""
    return User.objects.filter(pk=identity).first()


def everybody() -> list[str]:
    """The sign-in names of all people."""
    return list(User.objects.values_list("username", flat=True))
