"""Work for the worker."""

from celery import shared_task

from sounds import services


@shared_task(expires=300)
def speak_ahead(texts: list[tuple[str, str]]) -> None:
    """Speak texts before somebody waits for them. Safe to run twice."""
    for language, text in texts:
        services.speak(language, text)
