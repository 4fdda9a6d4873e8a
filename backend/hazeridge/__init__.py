"""The Django project."""

from hazeridge.celery import app as celery_app

__all__ = ["celery_app"]
