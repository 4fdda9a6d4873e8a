"""Sounds and their recordings."""

from django.db import models

from changelog.recorded import Described


class Language(models.TextChoices):
    ENGLISH = "en", "English"
    WELSH = "cy", "Welsh"


class Take(models.Model):
    """One recording in the canonical form: mono, 16 bits, 16 kHz WAV.

    `digest` names what it was made of (the words, or the uploaded file), so that
    the same words are spoken once. `loudness` is the integrated loudness in LUFS,
    None where it is too short or silent; `peaks` are for drawing, 0 to 100.
    """

    digest = models.CharField(max_length=64, unique=True)
    #: What a caller left: heard with its message by those it is for, and by nobody else.
    private = models.BooleanField(default=False)
    wav = models.BinaryField()
    length_ms = models.PositiveIntegerField()
    loudness = models.FloatField(null=True)
    peaks = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)


class Sound(Described):
    """A sound of the library.

    `takes` holds one recording a language:
    `{"en": {"text", "source": "spoken" | "file" | "recorded", "speed", "take"}}`,
    `speed` in words a minute, `take` the number of a `Take` or null.
    """

    name = models.CharField(max_length=80, unique=True)
    takes = models.JSONField(default=dict)
    #: Whether it is the centre's hold music: one is at the most.
    hold_music = models.BooleanField(default=False)

    class Meta:
        ordering = ["name"]
