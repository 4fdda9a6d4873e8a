"""Sounds: the library, speech on the spot, and the recordings themselves."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import ItemSerializer, ItemViewSet
from accounts.things import visible
from sounds import services
from sounds.engine import WORDS_PER_MINUTE
from sounds.models import Language, Sound, Take
from sounds.music import hold_music
from web.base import Form, View
from web.parts import PartSerializer
from web.problems import bad_request

LARGEST_UPLOAD = 10 * 1024 * 1024


class RecordingSerializer(PartSerializer):
    """One language of a sound. `off` is how far (LU) it is from the library's median."""

    language = serializers.ChoiceField(Language.choices)
    text = serializers.CharField(max_length=2000, allow_blank=True, default="")
    speed = serializers.IntegerField(min_value=80, max_value=300, default=WORDS_PER_MINUTE)
    source = serializers.ChoiceField(["spoken", "file", "recorded"], read_only=True)
    take = serializers.IntegerField(read_only=True, allow_null=True)
    length_ms = serializers.IntegerField(read_only=True)
    loudness = serializers.FloatField(read_only=True, allow_null=True)
    off = serializers.FloatField(read_only=True, allow_null=True)
    far = serializers.BooleanField(read_only=True)
    peaks = serializers.ListField(child=serializers.IntegerField(), read_only=True)


class SoundListSerializer(serializers.ListSerializer):
    """Measures all recordings of a page in one go, so that more rows need no more queries."""

    def to_representation(self, data: Any) -> Any:
        sounds = list(data)
        self.child.measured = services.measures(sounds)
        self.child.median = services.median_loudness()
        return [self.child.to_representation(sound) for sound in sounds]


class SoundSerializer(ItemSerializer):
    """A sound, with one recording a language."""

    recordings = RecordingSerializer(many=True, required=False)
    hold_music = serializers.BooleanField(
        required=False, help_text="The centre's hold music; any other is it no more."
    )

    measured: dict[int, Any] | None = None
    median: float | None = None

    class Meta:
        model = Sound
        fields = ["id", "revision", "updated_at", "name", "recordings", "hold_music"]
        list_serializer_class = SoundListSerializer

    def to_representation(self, instance: Sound) -> dict[str, Any]:
        measured, median = self.measured, self.median
        if measured is None:
            measured, median = services.measures([instance]), services.median_loudness()
        return {
            "id": str(instance.pk),
            "revision": instance.revision,
            "updated_at": instance.updated_at.isoformat(),
            "name": instance.name,
            "description": instance.description,
            "hold_music": instance.hold_music,
            "recordings": [
                _recording(language, row, measured, median)
                for language, row in sorted(instance.takes.items(), key=lambda r: r[0] != "en")
            ],
        }

    def validate_recordings(self, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        languages = [row["language"] for row in rows]
        if len(set(languages)) < len(languages):
            raise serializers.ValidationError("A language stands there twice.")
        return rows


def _recording(
    language: str, row: dict[str, Any], measured: dict[int, Any], median: float | None
) -> dict[str, Any]:
    length_ms, loudness, peaks = measured.get(row["take"], (0, None, []))
    off = None if loudness is None or median is None else round(loudness - median, 1)
    far = off is not None and abs(off) > services.FAR_FROM_MEDIAN
    return {
        **row,
        "language": language,
        "length_ms": length_ms,
        "loudness": loudness,
        "off": off,
        "far": far,
        "peaks": peaks,
    }


class SoundFileSerializer(Form):
    file = serializers.FileField()
    language = serializers.ChoiceField(Language.choices, default=Language.ENGLISH)

    def validate_file(self, file: Any) -> Any:
        if file.size > LARGEST_UPLOAD:
            raise serializers.ValidationError("The file is larger than 10 MB.")
        return file


class UploadSerializer(SoundFileSerializer):
    """`recorded`: it came from a microphone, and silence at both ends is left out."""

    revision = serializers.IntegerField(min_value=1)
    recorded = serializers.BooleanField(default=False)


class OneLanguageSerializer(Form):
    language = serializers.ChoiceField(Language.choices)
    revision = serializers.IntegerField(min_value=1)


class SoundViewSet(ItemViewSet):
    area = "sounds"
    queryset = Sound.objects.all()
    serializer_class = SoundSerializer
    search_fields = ["name", "takes"]
    ordering_fields = ["name", "updated_at"]

    def make(self, values: dict[str, Any]) -> Sound:
        user = self.request.user
        rows, about = values.get("recordings") or [], values.get("description", "")
        with transaction.atomic():
            sound = services.make_sound(user, values["name"], rows, about)
            if values.get("hold_music"):
                sound = services.change_sound(user, sound, sound.revision, hold_music=True)
        return sound

    def keep(self, instance: Sound, revision: int, values: dict[str, Any]) -> None:
        texts = values.pop("recordings", None)
        services.change_sound(self.request.user, instance, revision, texts, **values)

    @extend_schema(request={"multipart/form-data": UploadSerializer}, responses=SoundSerializer)
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def upload(self, request: Request, pk: str | None = None) -> Response:
        """Use a file (WAV, FLAC, OGG, MP3; 10 MB, five minutes) as the recording."""
        form = UploadSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = form.validated_data
        sound = self.get_object()
        with self.saying_what_stands(sound):
            services.upload(
                request.user,
                sound,
                values["revision"],
                values["file"].read(),
                values["language"],
                recorded=values["recorded"],
            )
        return Response(self._fresh(sound.pk))

    @extend_schema(request={"multipart/form-data": SoundFileSerializer}, responses=SoundSerializer)
    @action(detail=False, methods=["post"], parser_classes=[MultiPartParser])
    def files(self, request: Request) -> Response:
        """A new sound from a file, named after it."""
        form = SoundFileSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        file = form.validated_data["file"]
        made = services.import_file(request.user, file.name, file.read(), form.validated_data["language"])
        return Response(self._fresh(made.pk), status=201)

    @extend_schema(request=OneLanguageSerializer, responses=SoundSerializer)
    @action(detail=True, methods=["post"])
    def even(self, request: Request, pk: str | None = None) -> Response:
        """Bring a recording to the library's median loudness."""
        return self._one_language(request, services.even_out)

    @extend_schema(request=OneLanguageSerializer, responses=SoundSerializer)
    @action(detail=True, methods=["post"])
    def speak(self, request: Request, pk: str | None = None) -> Response:
        """Let the engine speak the text in place of a recording."""
        return self._one_language(request, services.speak_again)

    def _one_language(self, request: Request, act: Callable[..., Sound]) -> Response:
        form = OneLanguageSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        sound = self.get_object()
        with self.saying_what_stands(sound):
            act(request.user, sound, **form.validated_data)
        return Response(self._fresh(sound.pk))


class WordsSerializer(Form):
    text = serializers.CharField(max_length=2000)
    language = serializers.ChoiceField(Language.choices, default=Language.ENGLISH)
    speed = serializers.IntegerField(min_value=80, max_value=300, default=WORDS_PER_MINUTE)


class SpeechSerializer(Form):
    take = serializers.IntegerField()
    length_ms = serializers.IntegerField()
    peaks = serializers.ListField(child=serializers.IntegerField())


class SpeechView(View):
    """Speak a text on the spot."""

    area = "sounds"

    @extend_schema(request=WordsSerializer, responses=SpeechSerializer)
    def post(self, request: Request) -> Response:
        form = WordsSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        take = services.speak(**form.validated_data)
        return Response({"take": take.pk, "length_ms": take.length_ms, "peaks": take.peaks})


class TakeView(View):
    """A recording as a WAV. It never changes, so it may be kept for good."""

    area = "telephone"
    verb = "see"

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponse:
        if pk >= 2**63:
            raise bad_request("There is no such recording.")
        take = get_object_or_404(visible(request.user, Take.objects.all()), pk=pk)
        return _wav(bytes(take.wav))


class SpokenView(View):
    """Words as a WAV, spoken when first asked for: what a call says of its own values."""

    area = "telephone"
    verb = "see"
    asks = {"get": ("text", "language", "speed")}

    @extend_schema(parameters=[WordsSerializer], responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request) -> HttpResponse:
        form = WordsSerializer(data=request.query_params)
        form.is_valid(raise_exception=True)
        return _wav(bytes(services.speak(**form.validated_data).wav))


class ReminderView(View):
    """What the desk says to an agent who has not labelled a contact yet."""

    area = "desk"
    verb = "use"

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request) -> HttpResponse:
        return _wav(bytes(services.speak(text=REMINDER, language="en").wav))


REMINDER = "Please choose a wrap-up code."


class MusicView(View):
    """The music that callers hear while they wait."""

    area = "telephone"
    verb = "see"

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request) -> HttpResponse:
        return _wav(hold_music())


def _wav(data: bytes) -> HttpResponse:
    response = HttpResponse(data, content_type="audio/wav")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
