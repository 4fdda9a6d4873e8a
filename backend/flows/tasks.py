"""Work for the worker."""

from celery import shared_task

from flows import soundness


@shared_task(expires=600)
def look_whether_sound() -> None:
    """Look at the versions in force. Safe to run twice."""
    soundness.look_and_keep()
