"""What other apps may ask of mailboxes, and what happens to messages."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime
from typing import Any

from django.db import connection, transaction
from django.db.models import Count, Q, QuerySet

from callcore.centre.facts import MailboxSettings
from callcore.events import Happening
from callcore.events.facts import MessageLeft
from callcore.flow.catalogue import MailboxFacts
from callcore.flow.parts import AnyPrompt, LibrarySound, SpokenText
from changelog.config_store import CONFIG_CHANNEL
from changelog.kinds import exists
from changelog.reading import Unreadable, readable
from mailboxes.models import Mailbox, Message
from mailboxes.policy import heard_by
from mailboxes.voices import said_by
from phone_numbers.numbering import Held
from sounds import services as sound_services
from web.clock import site_now
from web.errors import Refused, Use

#: What the exchange is told when messages were heard or deleted: it runs on their counts only.
MESSAGES = "messages"


def prompt_of(data: dict[str, Any] | None) -> AnyPrompt | None:
    """A kept greeting as the core's prompt."""
    if data is None:
        return None
    if data["kind"] == "sound":
        return LibrarySound.model_validate(data)
    return SpokenText.model_validate(data)


def settings(left_out: list[Unreadable] | None = None) -> list[MailboxSettings]:
    """Every mailbox; those that cannot be read are named in `left_out`."""
    unheard = Q(messages__heard_at__isnull=True, messages__deleted_at__isnull=True)
    rows = Mailbox.objects.annotate(new=Count("messages", filter=unheard & Q(messages__isnull=False)))
    return readable(rows, _settings_of, left_out)


def unheard() -> dict[str, int]:
    """How many messages nobody has heard yet, by mailbox."""
    rows = Message.objects.filter(heard_at=None, deleted_at=None).order_by().values("mailbox")
    return {str(row["mailbox"]): row["n"] for row in rows.annotate(n=Count("pk"))}


def _settings_of(m: Mailbox) -> MailboxSettings:
    return MailboxSettings(str(m.pk), m.name, prompt_of(m.greeting), m.longest_s * 1000, m.new)


def greetings() -> list[AnyPrompt]:
    """Every greeting."""
    found = readable(Mailbox.objects.all(), lambda m: prompt_of(m.greeting), None)
    return [greeting for greeting in found if greeting is not None]


def facts() -> dict[str, MailboxFacts]:
    """Every mailbox as a flow sees it, by reference."""
    rows = readable(Mailbox.objects.all(), lambda m: (m, prompt_of(m.greeting)), None)
    lengths = sound_services.lengths([prompt for _, prompt in rows if prompt is not None])
    return {
        f"mailbox:{m.pk}": MailboxFacts(
            m.name, prompt is not None, lengths.get(prompt, 0) if prompt else 0, m.longest_s * 1000
        )
        for m, prompt in rows
    }


def keep_messages(events: Iterable[Happening], callers: dict[str, tuple[str, str]]) -> list[str]:
    """Keep the messages among events, in the transaction that writes the events.

    Args:
        callers: caller and number of each contact.

    Returns:
        The contacts whose messages want a voice.
    """
    left = [(e, e.fact) for e in events if isinstance(e.fact, MessageLeft)]
    if not left:
        return []
    known = {str(pk) for pk in Mailbox.objects.values_list("pk", flat=True)}
    made = Message.objects.bulk_create(
        [
            Message(
                mailbox_id=fact.mailbox,
                contact=e.contact,
                caller=callers[e.contact][0],
                number=callers[e.contact][1],
                left_at=datetime.fromtimestamp(e.at_ms / 1000, UTC),
                length_ms=fact.length_ms,
            )
            for e, fact in left
            if fact.mailbox in known
        ],
        ignore_conflicts=True,
    )
    return [message.contact for message in made]


def silent() -> list[str]:
    """The contacts whose messages have no sound yet."""
    return list(Message.objects.filter(take__isnull=True).values_list("contact", flat=True)[:200])


def give_voice(contacts: list[str]) -> None:
    """Let the stand-in for callers' voices speak messages that have no sound yet."""
    for message in Message.objects.filter(contact__in=contacts, take__isnull=True):
        text = said_by(message.contact, message.length_ms)
        about = f"{message.contact} {message.left_at.isoformat()}"
        message.take = sound_services.speak_in_private("en", text, about)
        message.save(update_fields=["take"])


def mailboxes_for(user: Any) -> QuerySet[Mailbox]:
    """The mailboxes that a user may listen to."""
    return Mailbox.objects.filter(pk__in=Mailbox.objects.filter(heard_by(user)).values("pk"))


def mark(user: Any, message: Message, what: str) -> Message:
    """`heard`, `new`, `deleted` or `restored`; the exchange is told, for the counts."""
    now = site_now()
    with transaction.atomic():
        message = Message.objects.select_for_update(of=("self",)).get(pk=message.pk)
        if what == "heard":
            message.heard_at, message.heard_by = message.heard_at or now, user
        elif what == "new":
            message.heard_at, message.heard_by = None, None
        elif what in ("deleted", "restored"):
            message.deleted_at = now if what == "deleted" else None
        else:
            raise Refused("no-such-mark", "A message cannot be that.", status=400)
        message.save()
        _tell_of_messages()
    return message


def _tell_of_messages() -> None:
    """Let the exchange count what is unheard."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CONFIG_CHANNEL, MESSAGES])


def old_messages(before_ms: int) -> QuerySet[Message]:
    """The messages that were left before a moment, heard or not."""
    before = datetime.fromtimestamp(before_ms / 1000, UTC)
    return Message.objects.filter(left_at__lt=before).order_by("left_at")


def forget_messages(before_ms: int, most: int) -> int:
    """Take out some of the old messages with their sounds, for good; how many."""
    with transaction.atomic():
        old = list(old_messages(before_ms).values_list("pk", "take")[:most])
        Message.objects.filter(pk__in=[pk for pk, _ in old]).delete()
        sound_services.forget_private([take for _, take in old if take is not None])
        if old:
            _tell_of_messages()
    return len(old)


def extensions() -> list[Held]:
    """The extensions of mailboxes."""
    rows = Mailbox.objects.exclude(extension="").values_list("extension", "pk", "name")
    return [Held(extension, "mailbox", str(pk), name) for extension, pk, name in rows]


def prune(values: dict[str, Any]) -> list[str]:
    """Take a greeting whose sound is gone out of an older state of a mailbox."""
    greeting = values.get("greeting") or {}
    if greeting.get("kind") != "sound" or exists(greeting.get("sound") or ""):
        return []
    values["greeting"] = None
    return ["the greeting, whose sound is gone"]


def mailboxes_of_agent(agent_id: str) -> list[Use]:
    """The mailboxes of a person, or that they listen to."""
    found = Mailbox.objects.filter(Q(agent=agent_id) | Q(listeners=agent_id)).distinct()
    return [Use("mailbox", str(m.pk), m.name, "mailbox") for m in found]


def mailboxes_of_queue(queue_id: str) -> list[Use]:
    """The mailboxes of a queue."""
    found = Mailbox.objects.filter(queue=queue_id)
    return [Use("mailbox", str(m.pk), m.name, "mailbox") for m in found]


def mailboxes_with_sound(sound_id: str) -> list[Use]:
    """The mailboxes that greet with a sound."""
    found = Mailbox.objects.filter(greeting__sound=f"sound:{sound_id}")
    return [Use("mailbox", str(m.pk), m.name, "greeting") for m in found]


def messages_in(mailbox_id: str) -> list[Use]:
    """That a mailbox holds messages, which keep it from being deleted."""
    count = Message.objects.filter(mailbox=mailbox_id, deleted_at__isnull=True).count()
    if not count:
        return []
    words = "1 message" if count == 1 else f"{count} messages"
    return [Use("mailbox", mailbox_id, words, "kept in it")]


def search(text: str) -> list[Use]:
    """Mailboxes whose name holds a text."""
    found = Mailbox.objects.filter(name__icontains=text)[:5]
    return [Use("mailbox", str(m.pk), m.name, "mailbox") for m in found]
