"""The change log."""

from django.conf import settings
from django.db import models


class Change(models.Model):
    """Who changed what, when, from what to what. Never changed itself."""

    id = models.BigAutoField(primary_key=True)
    at = models.DateTimeField(db_index=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    by_name = models.CharField(max_length=150)
    kind = models.CharField(max_length=40)
    object_id = models.CharField(max_length=40, db_index=True)
    title = models.CharField(max_length=200)
    verb = models.CharField(max_length=20)
    before = models.JSONField()
    after = models.JSONField()
    #: Of a change that takes another back: what it did not bring back, in words.
    left_out = models.JSONField(default=list)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["kind", "-id"], name="changes_of_kind")]
