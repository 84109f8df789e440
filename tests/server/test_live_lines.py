"""A live session that listens to a logger of one's own, over a file and over a socket."""

import json
import runpy
import shutil
import socket
import tempfile
import threading
import time
from pathlib import Path

from django.test import SimpleTestCase, TransactionTestCase, override_settings
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.live import Controls

from server.live import hosts
from server.live.lines import LineSource
from server.live.models import LiveSession
from server.logbook.models import Log

from .base import PASSWORD

ROOT = Path(__file__).parents[2]


def sample(number):
    return json.dumps({"time_s": number / 10.0, "rpm": 900 + number, "coolant_c": 20.0}).encode() + b"\n"  # fmt: skip


class PlaceCase(SimpleTestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        self.place = self.folder / "lines"


class SourceTests(PlaceCase):
    def heard(self, source, wanted):
        rows = []
        ends = time.monotonic() + 5.0
        while len(rows) < wanted and time.monotonic() < ends:
            rows += source.samples(0.1).tolist()
            time.sleep(0.02)
        return rows

    def test_a_file_is_followed_from_its_end_on(self):
        self.place.write_bytes(sample(1) * 50)
        source = LineSource(self.place)
        sender = threading.Timer(
            0.2, lambda: self.place.open("ab").write(sample(60) + sample(61)[:20])
        )
        sender.start()
        opened = source.open()
        self.assertEqual(opened.channels, ("time_s", "rpm", "coolant_c"))
        self.assertEqual(opened.stand_in, "")
        self.assertEqual([row[1] for row in self.heard(source, 1)], [960.0])
        with self.place.open("ab") as out:
            out.write(sample(61)[20:] + sample(62))
        self.assertEqual([row[1] for row in self.heard(source, 2)], [961.0, 962.0])
        source.close()

    def test_a_socket_sends_and_is_never_commanded(self):
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as server:
            server.bind(str(self.place))
            server.listen(1)

            def send():
                with server.accept()[0] as one:
                    for number in range(5):
                        one.sendall(sample(number))
                    time.sleep(0.5)

            threading.Thread(target=send, daemon=True).start()
            source = LineSource(self.place)
            source.open()
            self.assertEqual(len(self.heard(source, 5)), 5)
            source.command(Controls())
            with self.assertRaisesMessage(InputRefused, "only sends"):
                source.command(Controls(key=True))
            source.close()

    def test_nobody_there_and_nothing_sent_are_told(self):
        with self.assertRaisesMessage(LogRefused, "No logger sends"):
            LineSource(self.folder / "none").open()
        self.place.write_bytes(b"")
        with self.assertRaisesMessage(LogRefused, "sends nothing"):
            LineSource(self.place).open()


class SessionTests(TransactionTestCase):
    def test_a_log_that_is_sent_becomes_a_session_and_a_log_again(self):
        from django.contrib.auth.models import User

        from server.accounts.services import register

        register(username="anna", password=PASSWORD, workshop="Shed")
        self.client.force_login(User.objects.get(username="anna"))

        def ask(path, body):
            return self.client.post(f"/api{path}", body, content_type="application/json")

        job = ask("/jobs", {"name": "Heron", "engine": {"displacement_l": 2.2, "chambers": 4, "injectors": {"flow_cm3_min": 390}}}).json()["id"]  # fmt: skip
        answer = ask(f"/jobs/{job}/live", {"source": "lines"})
        self.assertEqual(answer.status_code, 404)
        self.assertIn("INBETRIEB_LIVE_LINES", answer.json()["detail"])
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        place = folder / "lines"
        place.write_bytes(b"")
        send = runpy.run_path(str(ROOT / "examples" / "send_lines.py"))["main"]
        sender = threading.Thread(target=send, args=(str(ROOT / "demo" / "kranich-morning.csv"), str(place), "40"), daemon=True)  # fmt: skip
        with override_settings(LIVE_LINES=str(place)):
            sender.start()
            opened = ask(f"/jobs/{job}/live", {"source": "lines"})
            self.assertEqual(opened.status_code, 201, opened.content)
            number = opened.json()["id"]
            self.assertIn("rpm", opened.json()["channels"])
            refused = ask(f"/jobs/{job}/live/{number}/command", {"key": True})
            self.assertEqual(refused.status_code, 422, refused.content)
            # In tests nothing asks a host by itself.
            host = hosts.host_of(LiveSession.objects.get(job=job, number=number).pk)
            while sender.is_alive():
                host.pump(0.1)
                time.sleep(0.05)
            host.pump(0.1)
            closed = ask(f"/jobs/{job}/live/{number}/close", {}).json()
        self.assertIsNotNone(closed["log_id"], closed)
        log = Log.objects.get(pk=closed["log_id"])
        self.assertGreater(log.sample_count, 100)
        self.assertEqual(log.origin, "live")
