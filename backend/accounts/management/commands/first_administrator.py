"""`manage.py first_administrator`: whoever sets a new centre up. Others are made in the product."""

import getpass
import sys
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from accounts.services import ROLES, any_users, make_user
from web.errors import Refused


class Command(BaseCommand):
    help = (
        "Make the first person of an empty database, an administrator. The password is asked for, or "
        "read as one line where it is piped in."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("username", help="the name to sign in with")
        parser.add_argument("full_name", help="the name that others see")

    @transaction.atomic
    def handle(self, *args: Any, username: str, full_name: str, **options: Any) -> None:
        if any_users():
            raise CommandError("Somebody is set up already: an administrator adds people in the product.")
        password = getpass.getpass() if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
        if not password:
            raise CommandError("A password is needed.")
        try:
            user = make_user(None, username, full_name, str(ROLES.ADMINISTRATOR), password)
        except Refused as refused:
            raise CommandError(str(refused)) from refused
        self.stdout.write(f"{user.full_name} signs in as {user.username}.")
