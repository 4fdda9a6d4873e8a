import io
from unittest.mock import patch

import numpy as np
import psycopg
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import SimpleTestCase, TestCase

from sounds import services
from sounds.canonical import RATE_HZ, NotASound, canonical
from sounds.engine import EngineFailed, speak_aloud
from sounds.models import Take
from sounds.music import hold_music
from testkit import people


def tone(seconds=0.5, rate=44_100, channels=2, kind="WAV") -> bytes:
    wave = np.sin(np.arange(round(seconds * rate)) / 20)[:, None].repeat(channels, axis=1)
    out = io.BytesIO()
    soundfile.write(out, wave, rate, format=kind)
    return out.getvalue()


def a_full_disk(*_args, **_kwargs):
    raise OperationalError("no space") from psycopg.errors.DiskFull("no space")


class CanonicalTests(SimpleTestCase):
    def test_common_formats_become_one_form_of_the_same_length(self):
        for kind in ("WAV", "FLAC", "OGG", "MP3"):
            with self.subTest(kind):
                made = canonical(tone(kind=kind))
                samples, rate = soundfile.read(io.BytesIO(made.wav), dtype="int16", always_2d=True)
                self.assertEqual((rate, samples.shape[1]), (RATE_HZ, 1))
                self.assertAlmostEqual(made.length_ms, 500, delta=80)

    def test_what_is_no_sound_is_refused(self):
        for data in (b"", b"not a sound at all", b"RIFF\x00\x00\x00\x00WAVE", tone()[:30]):
            with self.subTest(data[:12]), self.assertRaises(NotASound):
                canonical(data)

    def test_a_sound_of_more_than_five_minutes_is_refused(self):
        with self.assertRaisesRegex(NotASound, "longer than 5 minutes"):
            canonical(tone(seconds=301, rate=8000, channels=1))

    def test_the_engine_speaks_both_languages(self):
        for language, words in (("en", "Good morning."), ("cy", "Bore da.")):
            self.assertGreater(canonical(speak_aloud(words, language)).length_ms, 300)

    def test_hold_music_is_always_the_same(self):
        self.assertEqual(canonical(hold_music()).length_ms, 14_400)


class SoundTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def make(self, text="Good morning."):
        return self.client.post("/api/v1/sounds", {"name": "Greeting", "text": text}).json()

    def upload(self, sound, data):
        file = SimpleUploadedFile("greeting.wav", data)
        body = {"file": file, "revision": sound["revision"]}
        return self.client.post(f"/api/v1/sounds/{sound['id']}/upload", body, format="multipart")

    def test_a_text_is_spoken_once_and_again_when_it_changes(self):
        sound = self.make()
        self.assertGreater(sound["length_ms"], 300)
        with patch("sounds.services.speak_aloud", side_effect=EngineFailed("must not run")):
            self.assertEqual(services.speak("en", "Good morning.").pk, sound["take"])
        body = {"text": "Good evening.", "revision": 1}
        changed = self.client.patch(f"/api/v1/sounds/{sound['id']}", body).json()
        self.assertNotEqual(changed["take"], sound["take"])
        heard = self.client.get(f"/api/v1/takes/{changed['take']}")
        self.assertEqual(heard["Content-Type"], "audio/wav")
        self.assertEqual(heard.content[:4], b"RIFF")

    def test_a_file_becomes_the_recording(self):
        sound = self.make()
        answer = self.upload(sound, tone())
        self.assertEqual(answer.status_code, 200)
        self.assertTrue(answer.json()["uploaded"])
        self.assertAlmostEqual(answer.json()["length_ms"], 500, delta=20)

    def test_a_file_that_is_no_sound_changes_nothing(self):
        sound = self.make()
        answer = self.upload(sound, b"%PDF-1.4 not a sound")
        self.assertEqual((answer.status_code, answer.json()["code"]), (400, "not-a-sound"))
        now = self.client.get(f"/api/v1/sounds/{sound['id']}").json()
        self.assertEqual((now["take"], now["revision"]), (sound["take"], 1))

    def test_a_full_disk_is_said_and_nothing_is_half_done(self):
        with patch.object(Take.objects, "get_or_create", side_effect=a_full_disk):
            answer = self.client.post("/api/v1/sounds", {"name": "Greeting", "text": "Hello."})
        self.assertEqual((answer.status_code, answer.json()["code"]), (507, "sound-store-full"))
        self.assertEqual(self.client.get("/api/v1/sounds").json()["count"], 0)

    def test_an_engine_that_fails_is_said(self):
        with patch("sounds.services.speak_aloud", side_effect=EngineFailed("it is away")):
            answer = self.client.post("/api/v1/speech", {"text": "Something new."})
        self.assertEqual((answer.status_code, answer.json()["code"]), (502, "speech-failed"))
        self.assertIn("it is away", answer.json()["detail"])
