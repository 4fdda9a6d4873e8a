"""Sounds: the library, speech on the spot, and the recordings themselves."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from hazeridge.api.problems import bad_request
from hazeridge.api.views import KeptSerializer, KeptViewSet
from sounds import services
from sounds.models import Language, Sound, Take
from sounds.music import hold_music

LARGEST_UPLOAD = 10 * 1024 * 1024


class SoundSerializer(KeptSerializer):
    length_ms = serializers.IntegerField(source="take.length_ms", read_only=True, default=0)

    class Meta:
        model = Sound
        fields = [
            "id", "revision", "updated_at", "name", "language", "text", "uploaded", "take",
            "length_ms",
        ]  # fmt: skip
        read_only_fields = ["uploaded", "take"]

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        attrs = super().validate(attrs)
        uploaded = self.instance is not None and self.instance.uploaded
        text = attrs.get("text", self.instance.text if self.instance else "")
        if not uploaded and not text.strip() and "text" in attrs:
            raise serializers.ValidationError({"text": ["Type what is said."]})
        return attrs


class UploadSerializer(serializers.Serializer):
    file = serializers.FileField()
    revision = serializers.IntegerField(min_value=1)

    def validate_file(self, file: Any) -> Any:
        if file.size > LARGEST_UPLOAD:
            raise serializers.ValidationError("The file is larger than 10 MB.")
        return file


class SoundViewSet(KeptViewSet):
    area = "sounds"
    queryset = Sound.objects.select_related("take").defer("take__wav")
    serializer_class = SoundSerializer
    search_fields = ["name", "text"]
    ordering_fields = ["name", "language", "take__length_ms"]

    def make(self, values: dict[str, Any]) -> Sound:
        return services.make_sound(
            self.request.user,
            name=values["name"],
            language=values.get("language", Language.ENGLISH),
            text=values.get("text", ""),
        )

    def keep(self, instance: Sound, revision: int, values: dict[str, Any]) -> None:
        services.change_sound(self.request.user, instance, revision, **values)

    @extend_schema(request={"multipart/form-data": UploadSerializer}, responses=SoundSerializer)
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def upload(self, request: Request, pk: str | None = None) -> Response:
        """Use a file (WAV, FLAC, OGG, MP3; 10 MB, five minutes) as the recording."""
        form = UploadSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        data, revision = form.validated_data["file"].read(), form.validated_data["revision"]
        sound = self.get_object()
        with self.saying_what_stands(sound):
            services.upload(request.user, sound, revision, data)
        return Response(self._fresh(sound.pk))


class SpeechRequestSerializer(serializers.Serializer):
    text = serializers.CharField(max_length=2000)
    language = serializers.ChoiceField(Language.choices, default=Language.ENGLISH)


class SpeechSerializer(serializers.Serializer):
    take = serializers.IntegerField()
    length_ms = serializers.IntegerField()


class SpeechView(APIView):
    """Speak a text on the spot."""

    area = "sounds"

    @extend_schema(request=SpeechRequestSerializer, responses=SpeechSerializer)
    def post(self, request: Request) -> Response:
        form = SpeechRequestSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        take = services.speak(form.validated_data["language"], form.validated_data["text"])
        return Response({"take": take.pk, "length_ms": take.length_ms})


class TakeView(APIView):
    """A recording as a WAV. It never changes, so it may be kept for good."""

    area = "telephone"
    verb = "see"

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponse:
        if pk >= 2**63:
            raise bad_request("There is no such recording.")
        take = get_object_or_404(Take, pk=pk)
        return _wav(bytes(take.wav))


class MusicView(APIView):
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
