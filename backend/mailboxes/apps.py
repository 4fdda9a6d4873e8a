"""Mailboxes."""

from django.apps import AppConfig


class MailboxesConfig(AppConfig):
    name = "mailboxes"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from mailboxes import models, services
        from numbers_app import numbering

        register(Kind("mailbox", models.Mailbox, "Mailbox", "/wait/mailboxes"))
        register_use("agent", services.mailboxes_of_agent)
        register_use("queue", services.mailboxes_of_queue)
        register_use("sound", services.mailboxes_with_sound)
        register_use("mailbox", services.messages_in)
        numbering.register(services.extensions)
