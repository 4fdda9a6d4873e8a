"""Mailboxes, and the messages that callers leave in them."""

from django.conf import settings
from django.db import models

from changelog.recorded import Described


class Owner(models.TextChoices):
    SHARED = "shared", "Shared"
    PERSON = "person", "A person's"
    QUEUE = "queue", "A queue's"


class Mailbox(Described):
    """Where callers leave messages. `greeting` is a prompt as flows have them, or null.

    Its person, the queue's members and the listeners named here may listen.
    """

    name = models.CharField(max_length=80, unique=True)
    extension = models.CharField(max_length=6, blank=True)
    owner = models.CharField(max_length=6, choices=Owner.choices, default=Owner.SHARED)
    agent = models.ForeignKey(
        "agents.Agent", null=True, blank=True, on_delete=models.PROTECT, related_name="mailboxes"
    )
    queue = models.ForeignKey(
        "queues.Queue", null=True, blank=True, on_delete=models.PROTECT, related_name="mailboxes"
    )
    listeners = models.ManyToManyField("agents.Agent", blank=True, related_name="+")
    greeting = models.JSONField(null=True, blank=True)
    longest_s = models.PositiveSmallIntegerField(default=120)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["extension"], condition=~models.Q(extension=""), name="mailbox_extension"
            )
        ]


class Message(models.Model):
    """What a caller left. A deleted one can be restored."""

    mailbox = models.ForeignKey(Mailbox, on_delete=models.PROTECT, related_name="messages")
    contact = models.CharField(max_length=40)
    caller = models.CharField(max_length=20)
    number = models.CharField(max_length=16)
    left_at = models.DateTimeField()
    length_ms = models.PositiveIntegerField()
    take = models.ForeignKey("sounds.Take", null=True, on_delete=models.PROTECT, related_name="+")
    heard_at = models.DateTimeField(null=True)
    heard_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    deleted_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-left_at", "-id"]
        indexes = [models.Index(fields=["mailbox", "-left_at"], name="messages_of_mailbox")]
        constraints = [models.UniqueConstraint(fields=["contact", "left_at"], name="message_once")]
