"""Wrap-up codes and the sets that queues use."""

from django.db import models

from changelog.recorded import Described


class Code(Described):
    """How an agent labels their part of a contact; `digits` are for a desk phone's keypad."""

    name = models.CharField(max_length=80, unique=True)
    digits = models.CharField(max_length=6, unique=True)
    group = models.CharField(max_length=80, blank=True)
    long_label = models.CharField(max_length=300, blank=True)
    #: Not offered any more; what was labelled with it keeps it.
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ["digits"]


class CodeSet(Described):
    """A collection of codes."""

    name = models.CharField(max_length=80, unique=True)
    codes = models.ManyToManyField(Code, related_name="sets")

    class Meta:
        ordering = ["name"]
