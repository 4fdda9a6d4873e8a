"""Sounds and their recordings."""

from django.db import models

from changelog.kept import Kept


class Language(models.TextChoices):
    ENGLISH = "en", "English"
    WELSH = "cy", "Welsh"


class Take(models.Model):
    """One recording in the canonical form: mono, 16 bits, 16 kHz WAV.

    `digest` names what it was made of (the words, or the uploaded file), so that
    the same words are spoken once.
    """

    digest = models.CharField(max_length=64, unique=True)
    wav = models.BinaryField()
    length_ms = models.PositiveIntegerField()
    made_at = models.DateTimeField(auto_now_add=True)


class Sound(Kept):
    """A sound of the library: spoken from its text, or uploaded with its text beside it."""

    name = models.CharField(max_length=80, unique=True)
    language = models.CharField(max_length=2, choices=Language.choices, default=Language.ENGLISH)
    text = models.TextField(max_length=2000, blank=True)
    uploaded = models.BooleanField(default=False)
    take = models.ForeignKey(Take, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["name"]
