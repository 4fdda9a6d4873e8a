"""People and things that tests begin with."""

from __future__ import annotations

from typing import Any

from rest_framework.test import APIClient

from accounts.models import Role, User
from agents.models import Agent
from agents.services import make_agent
from callcore.flow.definition import Flow as Definition
from callcore.flow.definition import load
from changelog import config_store
from flows.models import Flow
from flows.services import make_flow
from phone_numbers.models import Number
from queues.models import Queue

PASSWORD = "a-calm-crossing"  # noqa: S105  of nobody


def person(role: str = Role.ADMINISTRATOR, name: str = "") -> User:
    """A user of a role, named after it."""
    username = name or role
    user = User(username=username, full_name=username.title(), role=role)
    user.set_unusable_password()
    user.save()
    return user


def client_of(user: User | None) -> APIClient:
    """A client that is signed in as `user`."""
    client = APIClient()
    if user is not None:
        client.force_login(user, "django.contrib.auth.backends.ModelBackend")
    return client


def agent(admin: User, name: str, extension: str, *, password: str | None = None) -> Agent:
    """An agent with a sign-in."""
    username = name.split()[0].lower()
    return make_agent(admin, name=name, extension=extension, username=username, password=password)


def queue(admin: User, name: str = "Bookings", *members: Agent, **values: Any) -> Queue:
    """A queue that is set up."""
    values = {"finished": True, **values}
    return config_store.create(admin, Queue, name=name, members=list(members), **values)


def flow(admin: User, data: dict[str, Any], name: str = "Main line") -> Flow:
    """A flow with a draft."""
    loaded: Definition = load(data)
    return make_flow(admin, name, loaded)


def number(admin: User, answered_by: Flow | None, address: str = "+442079460210") -> Number:
    """A number and the flow that answers it."""
    return config_store.create(admin, Number, address=address, label="Main line", flow=answered_by)
