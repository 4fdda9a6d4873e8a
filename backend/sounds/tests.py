import io
import tracemalloc
from unittest.mock import patch

import numpy as np
import psycopg
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import SimpleTestCase, TestCase

from callcore.flow.parts import LibrarySound
from sounds import services
from sounds.canonical import RATE_HZ, NotASound, canonical, louder
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

    def test_a_small_file_of_hours_or_of_many_channels_is_never_decoded_whole(self):
        """A FLAC of silence is a thousandth of what it stands for."""
        out = io.BytesIO()
        with soundfile.SoundFile(out, "w", 48_000, 8, format="FLAC") as file:
            for _ in range(320):
                file.write(np.zeros((48_000, 8), dtype="int16"))
        tracemalloc.start()
        with self.assertRaisesRegex(NotASound, "longer than 5 minutes"):
            canonical(out.getvalue())
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        self.assertLess(peak, 64 * 1024 * 1024)

    def test_the_engine_speaks_both_languages(self):
        for language, words in (("en", "Good morning."), ("cy", "Bore da.")):
            self.assertGreater(canonical(speak_aloud(words, language)).length_ms, 300)

    def test_hold_music_is_always_the_same(self):
        self.assertEqual(canonical(hold_music()).length_ms, 14_400)


class SoundTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def make(self, *recordings, name="Greeting"):
        rows = recordings or [{"language": "en", "text": "Good morning."}]
        return self.client.post("/api/v1/sounds", {"name": name, "recordings": rows}).json()

    def send(self, sound, data, **more):
        file = SimpleUploadedFile("greeting.wav", data)
        body = {"file": file, "revision": sound["revision"], **more}
        return self.client.post(f"/api/v1/sounds/{sound['id']}/upload", body, format="multipart")

    def test_a_text_is_spoken_once_and_again_when_it_or_its_speed_changes(self):
        sound = self.make()
        (first,) = sound["recordings"]
        self.assertGreater(first["length_ms"], 300)
        self.assertGreater(max(first["peaks"]), 5)
        with patch("sounds.services.speak_aloud", side_effect=EngineFailed("must not run")):
            self.assertEqual(services.speak("en", "Good morning.").pk, first["take"])
        url = f"/api/v1/sounds/{sound['id']}"
        rows = [{"language": "en", "text": "Good evening.", "speed": 120}]
        changed = self.client.patch(url, {"recordings": rows, "revision": 1}).json()
        slow = changed["recordings"][0]
        self.assertNotEqual(slow["take"], first["take"])
        self.assertGreater(slow["length_ms"], first["length_ms"])
        heard = self.client.get(f"/api/v1/takes/{slow['take']}")
        self.assertEqual((heard["Content-Type"], heard.content[:4]), ("audio/wav", b"RIFF"))

    def test_a_sound_has_a_recording_in_each_language_and_loses_what_is_left_out(self):
        english, welsh = {"language": "en", "text": "Hello."}, {"language": "cy", "text": "Helo."}
        sound = self.make(english, welsh)
        self.assertEqual([r["language"] for r in sound["recordings"]], ["en", "cy"])
        prompt = LibrarySound(sound=f"sound:{sound['id']}")
        by_language = [services.takes([prompt], language)[prompt] for language in ("en", "cy")]
        self.assertEqual(by_language, [r["take"] for r in sound["recordings"]])
        url = f"/api/v1/sounds/{sound['id']}"
        twice = self.client.patch(url, {"recordings": [welsh, welsh], "revision": 1})
        self.assertEqual(twice.status_code, 400)
        only = self.client.patch(url, {"recordings": [welsh], "revision": 1}).json()
        self.assertEqual([r["language"] for r in only["recordings"]], ["cy"])
        self.assertEqual(services.takes([prompt], "en")[prompt], by_language[1])

    def test_one_sound_at_the_most_is_the_centres_hold_music_and_queues_have_their_own(self):
        first, second = (
            self.client.post("/api/v1/sounds", {"name": name}).json() for name in ("Tide", "Gull")
        )
        for sound in (first, second):
            body = {"revision": sound["revision"], "hold_music": True}
            self.assertTrue(self.client.patch(f"/api/v1/sounds/{sound['id']}", body).json()["hold_music"])
        self.assertEqual(services.hold_music(), f"sound:{second['id']}")
        log = self.client.get("/api/v1/changes", {"object_id": first["id"]}).json()["results"]
        undone = self.client.post(f"/api/v1/changes/{log[0]['id']}/undo")
        self.assertEqual((undone.status_code, services.hold_music()[-36:]), (409, second["id"]))
        third = {"name": "Bell", "hold_music": True}
        self.assertTrue(self.client.post("/api/v1/sounds", third).json()["hold_music"])
        queue = {"name": "Bookings", "music": first["id"]}
        self.assertEqual(self.client.post("/api/v1/queues", queue).json()["music"], first["id"])
        uses = self.client.delete(f"/api/v1/sounds/{first['id']}").json()["uses"]
        self.assertEqual([use["how"] for use in uses], ["hold music"])

    def test_a_file_becomes_the_recording_and_the_text_can_take_its_place_again(self):
        sound = self.make()
        answer = self.send(sound, tone())
        row = answer.json()["recordings"][0]
        self.assertEqual((answer.status_code, row["source"]), (200, "file"))
        self.assertAlmostEqual(row["length_ms"], 500, delta=20)
        back = self.client.post(
            f"/api/v1/sounds/{sound['id']}/speak", {"language": "en", "revision": 2}
        ).json()["recordings"][0]
        self.assertEqual((back["source"], back["take"]), ("spoken", sound["recordings"][0]["take"]))

    def test_silence_at_both_ends_of_a_recording_is_left_out(self):
        silence = np.zeros(16_000)
        wave = np.concatenate([silence, np.sin(np.arange(16_000) / 20) / 2, silence])
        out = io.BytesIO()
        soundfile.write(out, wave, 16_000, format="WAV")
        row = self.send(self.make(), out.getvalue(), recorded=True).json()["recordings"][0]
        self.assertEqual(row["source"], "recorded")
        self.assertAlmostEqual(row["length_ms"], 1120, delta=30)
        out = io.BytesIO()
        soundfile.write(out, silence, 16_000, format="WAV")
        silent = self.send(self.make(name="Other"), out.getvalue(), recorded=True)
        self.assertIn("Nothing but silence", silent.json()["fields"]["file"][0])

    def test_a_sound_far_from_the_median_is_pointed_out_and_evened_out(self):
        for i in range(3):
            self.make({"language": "en", "text": f"Sailing number {i} leaves on time."}, name=f"S{i}")
        quiet = canonical(speak_aloud("This was recorded much too softly.", "en"))
        sound = self.send(self.make(name="Soft"), louder(quiet.wav, -20).wav).json()
        row = sound["recordings"][0]
        self.assertTrue(row["far"])
        self.assertLess(row["off"], -6)
        even = self.client.post(
            f"/api/v1/sounds/{sound['id']}/even", {"language": "en", "revision": 2}
        ).json()["recordings"][0]
        self.assertFalse(even["far"])

    def test_files_become_sounds_named_after_them(self):
        names = []
        for _ in range(2):
            file = SimpleUploadedFile("storm_notice-haven quay.flac", tone(kind="FLAC"))
            answer = self.client.post("/api/v1/sounds/files", {"file": file}, format="multipart")
            names.append(answer.json()["name"])
        self.assertEqual(names, ["Storm notice haven quay", "Storm notice haven quay 2"])

    def test_a_file_that_is_no_sound_or_too_large_changes_nothing(self):
        sound = self.make()
        answer = self.send(sound, b"%PDF-1.4 not a sound")
        self.assertEqual((answer.status_code, answer.json()["code"]), (400, "not-a-sound"))
        large = self.send(sound, b"RIFF" + bytes(10 * 1024 * 1024))
        self.assertEqual(large.json()["fields"]["file"], ["The file is larger than 10 MB."])
        self.assertEqual(self.client.get(f"/api/v1/sounds/{sound['id']}").json(), sound)

    def test_a_full_disk_is_said_and_nothing_is_half_done(self):
        rows = [{"language": "en", "text": "Hello."}]
        with patch.object(Take.objects, "get_or_create", side_effect=a_full_disk):
            answer = self.client.post("/api/v1/sounds", {"name": "G", "recordings": rows})
        self.assertEqual((answer.status_code, answer.json()["code"]), (507, "sound-store-full"))
        self.assertEqual(self.client.get("/api/v1/sounds").json()["count"], 0)

    def test_an_engine_that_fails_is_said(self):
        with patch("sounds.services.speak_aloud", side_effect=EngineFailed("it is away")):
            answer = self.client.post("/api/v1/speech", {"text": "Something new."})
        self.assertEqual((answer.status_code, answer.json()["code"]), (502, "speech-failed"))
        self.assertIn("it is away", answer.json()["detail"])

    def test_a_list_of_many_asks_the_database_no_more(self):
        self.make()
        with self.assertNumQueries(6):
            self.client.get("/api/v1/sounds")
        for i in range(20):
            self.make(name=f"Greeting {i}")
        with self.assertNumQueries(6):
            self.client.get("/api/v1/sounds")
