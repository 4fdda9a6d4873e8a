"""Work for the worker."""

from celery import shared_task
from django.conf import settings

from reports import growing, keeping, saved

#: So many steps at once; the next run goes on.
_MOST_STEPS = 20


@shared_task(expires=5)
def catch_up() -> None:
    """Count what has happened since the last time. Safe to run twice."""
    for _ in range(_MOST_STEPS):
        if not growing.catch_up(settings.EXCHANGE_SITE):
            return


@shared_task(expires=60)
def make_files() -> None:
    """Make the files of saved reports that are due. Safe to run twice."""
    saved.make_what_is_due()


@shared_task(expires=60)
def forget_what_is_old() -> None:
    """Take out what is kept no longer. Safe to run twice."""
    keeping.forget_what_is_old()
