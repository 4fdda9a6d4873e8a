"""Work for the worker."""

from celery import shared_task

from lookups import services


@shared_task(expires=3600)
def run_import(name: str, table_id: str, revision: int) -> None:
    """Take a file's rows in. A second run finds no file and changes nothing."""
    services.run_import(name, table_id, revision)
