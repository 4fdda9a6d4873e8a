"""People who sign in: made and changed here."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError

from accounts.models import Role, User
from changelog.errors import Refused


def make_user(username: str, full_name: str, role: str, password: str | None) -> User:
    """A new person; without a password they cannot sign in yet."""
    if User.objects.filter(username__iexact=username).exists():
        taken = f"The sign-in name {username} is taken."
        raise Refused("not-valid", taken, status=400, fields={"username": [taken]})
    user = User(username=username, full_name=full_name, role=role)
    set_password(user, password)
    user.save()
    return user


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


ROLES = Role


def any_users() -> bool:
    """Whether anybody has been set up."""
    return User.objects.exists()
