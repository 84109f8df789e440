"""Measurement files and bus logs over HTTP: in as logs, out again, each opened where it can do no harm."""

import random
import time

from django.core.files.uploadedfile import SimpleUploadedFile
from inbetrieb_core.errors import CoreError
from inbetrieb_core.logs import is_mdf, mdf_table

from server.config.bounded import bounded
from tests.core import test_measurement_files as files
from tests.core.tracks import driven, nmea
from tests.examples import few

from .base import ApiTestCase


class OpenFormatTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]

    def bring(self, **files):
        return self.client.post(
            f"/api/jobs/{self.job}/logs", {k: SimpleUploadedFile(f"{k}.bin", v) for k, v in files.items()}
        )  # fmt: skip

    def test_a_measurement_file_becomes_a_log_and_leaves_as_one(self):
        answer = self.bring(file=files.written([files.engine()]))
        self.assertEqual(answer.status_code, 201, answer.content)
        log = answer.json()["id"]
        for form, is_it in (("mdf", is_mdf), ("csv", lambda data: data.startswith(b"Time (s),"))):
            out = self.client.get(f"/api/jobs/{self.job}/logs/{log}/export?format={form}")
            self.assertTrue(is_it(out.content), out.content[:40])
            again = self.bring(file=out.content)
            self.assertEqual(again.status_code, 201, again.content)
        self.get(f"/jobs/{self.job}/logs/999/export", 404)

    def test_a_track_is_laid_on_a_log_and_the_log_stays(self):
        time_s, speed, rpm, altitude = driven(2)
        rows = "\n".join(f"{t:.1f},{n:.0f}" for t, n in zip(time_s, rpm, strict=True))
        log = self.bring(file=f"Time (s),RPM\n{rows}\n".encode()).json()
        path = f"/api/jobs/{self.job}/logs/{log['id']}/track"

        def lay(data, status, **more):
            answer = self.client.post(path, {"file": SimpleUploadedFile("t.nmea", data), **more})
            self.assertEqual(answer.status_code, status, answer.content)
            return answer.json()

        begun = time_s >= 60.0
        track = nmea(time_s[begun][::10], speed[begun][::10], altitude[begun][::10])
        laid = lay(track, 201)
        self.assertAlmostEqual(laid["lies"]["shift_s"], 60.0, delta=0.5)
        names = {channel["name"] for channel in laid["log"]["channels"]}
        self.assertLessEqual({"rpm", "speed_kmh", "altitude_m"}, names)
        self.assertIn("with a track", laid["log"]["name"])
        before = self.get(f"/jobs/{self.job}/logs/{log['id']}")
        self.assertEqual(
            [c["name"] for c in before["channels"]], [c["name"] for c in log["channels"]]
        )
        other = driven(77)
        stranger = nmea(other[0][::10], other[1][::10], other[3][::10])
        self.assertIn("Say at how many seconds", lay(stranger, 422)["detail"])
        self.assertEqual(lay(stranger, 201, begins_at_s="12,5")["lies"]["shift_s"], 12.5)
        for wrong in ("early", "nan", "1e9"):
            lay(track, 422, begins_at_s=wrong)
        self.assertIn("no track", lay(b"time,rpm\n", 422)["detail"])
        self.assertEqual(len(self.get(f"/jobs/{self.job}/logs")), 3)

    def test_a_bus_log_needs_what_names_its_signals(self):
        data = files.BusTests().logged("blf")
        alone = self.bring(file=data)
        self.assertEqual(alone.status_code, 422)
        self.assertIn("DBC", alone.json()["detail"])
        both = self.bring(file=data, dbc=files.DBC.encode())
        self.assertEqual(both.status_code, 201, both.content)
        wrong = self.bring(file=data, dbc=b"no database")
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("DBC", wrong.json()["detail"])

    def test_whatever_is_damaged_ends_in_time_with_a_sentence_or_a_table(self):
        """Some lead the library round in circles: it runs in a process of its own."""
        data, draw = files.written([files.engine(2.0)]), random.Random(5)
        for _ in range(few(10)):
            mutated = bytearray(data)
            for _ in range(draw.randint(1, 30)):
                mutated[draw.randrange(8, len(mutated))] = draw.randrange(256)
            began = time.monotonic()
            try:
                bounded(mdf_table, bytes(mutated), seconds=3)
            except CoreError as error:
                self.assertNotIn("Traceback", str(error))
            self.assertLess(time.monotonic() - began, 30.0)

    def test_a_damaged_one_is_refused_and_writes_nothing(self):
        answer = self.bring(file=b"MDF     4.10    " + b"\xff" * 4000)
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.get(f"/jobs/{self.job}/logs"), [])
