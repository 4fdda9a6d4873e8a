"""The worker's application."""

import ctypes
import os
import signal
from typing import Any

from celery import Celery
from celery.signals import beat_embedded_init, worker_process_init

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "hazeridge.settings")
app = Celery("hazeridge")
app.config_from_object("django.conf:settings", namespace="CELERY")
app.autodiscover_tasks()

#: Linux's prctl(2): the signal that a process gets when the one that started it ends.
_PR_SET_PDEATHSIG = 1


@worker_process_init.connect
@beat_embedded_init.connect
def end_with_the_worker(**_: Any) -> None:
    """A child of a worker that was killed would go on taking tasks for nobody."""
    ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
