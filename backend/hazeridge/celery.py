"""The worker's application."""

import os

from celery import Celery

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "hazeridge.settings")
app = Celery("hazeridge")
app.config_from_object("django.conf:settings", namespace="CELERY")
app.autodiscover_tasks()
