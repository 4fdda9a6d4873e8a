"""Work for the worker."""

from celery import shared_task

from mailboxes import services


@shared_task(expires=3600)
def give_voice(contacts: list[str]) -> None:
    """Make the sound of messages that were just left. Safe to run twice."""
    services.give_voice(contacts)


@shared_task(expires=30)
def catch_up() -> None:
    """Make the sound of messages that still have none."""
    services.give_voice(services.silent())
