"""Mailboxes."""

from django.apps import AppConfig


class MailboxesConfig(AppConfig):
    name = "mailboxes"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from changelog.kinds import RecordedKind, register, register_use
        from mailboxes import models, policy, services
        from phone_numbers import numbering

        register(RecordedKind("mailbox", models.Mailbox, "Mailbox", "/wait/mailboxes", prune=services.prune))
        register_use("agent", services.mailboxes_of_agent)
        register_use("queue", services.mailboxes_of_queue)
        register_use("sound", services.mailboxes_with_sound)
        register_use("mailbox", services.messages_in)
        numbering.register(services.extensions)
        say(models.Mailbox, ThingRule(policy.mailbox))
        say(models.Message, ThingRule(policy.message, policy.messages))
