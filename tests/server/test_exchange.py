"""Parts as files: out of one workshop and into another, beside its own, nothing taken that was not chosen."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.errors import CoreError

from server.accounts.services import register
from server.hardware.exchange import read_parts

from .base import ApiTestCase

INJECTORS = {"name": "Grey 440", "count": 4, "flow": 440.0, "rated_pressure_kpa": 300.0, "dead_time": {"voltage_v": [10.0, 14.0], "dead_time_ms": [[1.4, 0.9]]}}  # fmt: skip
PUMP = {"name": "In-tank 255", "readings": [[300.0, 240.0], [400.0, 200.0]]}


class ExchangeTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.post("/library", {"injectors": INJECTORS})

    def file(self, **changes):
        document = json.loads(self.client.get("/api/library/file").content)
        document["parts"][0] |= {"source": "Measured by Anna", "licence": "CC0"}
        return json.dumps({**document, **changes}).encode()

    def send(self, data, way="look", client=None, **fields):
        file = SimpleUploadedFile("parts.json", data, "application/json")
        return (client or self.client).post(f"/api/library/file/{way}", {"file": file, **fields})

    def other(self):
        register(username="bruno", password="sehr-geheim-7", workshop="Other shed")
        client = Client()
        client.login(username="bruno", password="sehr-geheim-7")
        return client

    def test_out_of_one_workshop_and_into_another(self):
        data, other = self.file(), self.other()
        seen = self.send(data, client=other).json()
        self.assertEqual(["new"], [part["state"] for part in seen])
        self.assertEqual(("Measured by Anna", "CC0"), (seen[0]["source"], seen[0]["licence"]))
        self.assertEqual({"taken": 1}, self.send(data, "take", other, numbers="[0]").json())
        again = json.loads(other.get("/api/library/file").content)["parts"][0]
        self.assertEqual(json.loads(data)["parts"][0], again)

    def test_the_same_name_stands_side_by_side_and_nothing_is_replaced_unasked(self):
        data = json.loads(self.file())
        data["parts"][0]["part"]["flow"] = 460.0
        data = json.dumps(data).encode()
        seen = self.send(data).json()[0]
        self.assertEqual("differs", seen["state"])
        self.assertEqual([("flow", "460.0 cm³/min", "440.0 cm³/min")], [(d["field"], d["file"], d["own"]) for d in seen["differs"]])  # fmt: skip
        self.assertEqual({"taken": 0}, self.send(data, "take", numbers="[]").json())
        self.assertEqual("differs", self.send(data).json()[0]["state"])
        self.send(data, "take", numbers="[0]")
        self.assertEqual("same", self.send(data).json()[0]["state"])
        # What is kept by hand under that name again is nobody else's data any more.
        self.post("/library", {"injectors": INJECTORS})
        kept = json.loads(self.client.get("/api/library/file").content)["parts"][0]
        self.assertEqual(("", ""), (kept["source"], kept["licence"]))

    def test_what_is_no_part_is_told_and_nothing_is_kept(self):
        before = self.client.get("/api/library/file").content
        for data, words in (
            (b"\xff\xfe{", "no JSON"),
            (b"[1]", "no file of parts"),
            (self.file(version=7), "version 7"),
            (self.file(parts=[]), "1 to 200"),
            (self.file(parts=[{"kind": "wheel"}]), "Part 1 is neither"),
            (self.file(parts=[{"kind": ["sensor"]}]), "Part 1 is neither"),
            (self.file(parts=[{"kind": "sensor", "part": {"name": 3}}]), "cannot be read"),
            (self.file(parts=[{"kind": "injectors", "part": {**INJECTORS, "flow": -4.0}}]), "Part 1 (Grey 440)"),
        ):  # fmt: skip
            for way in ("look", "take"):
                answer = self.send(data, way, numbers="[0]")
                self.assertEqual(422, answer.status_code, answer.content)
                self.assertIn(words, answer.json()["detail"])
        for numbers in ("[5]", "0", "x", "[true]", "[-1]"):
            self.assertEqual(422, self.send(self.file(), "take", numbers=numbers).status_code)
        self.assertEqual(before, self.client.get("/api/library/file").content)


class AnyFileTests(SimpleTestCase):
    @given(st.recursive(st.none() | st.booleans() | st.floats() | st.text(max_size=5), lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(["kind", "part", "parts", "format", "version", "name", "flow", "source"]), inner, max_size=4), max_leaves=8))  # fmt: skip
    def test_any_json_is_read_or_refused_with_a_sentence(self, value):
        for document in (value, {"format": "inbetrieb-parts", "version": 1, "parts": value}, {"format": "inbetrieb-parts", "version": 1, "parts": [{"kind": "supply", "part": value}]}):  # fmt: skip
            try:
                read_parts(json.dumps(document).encode())
            except CoreError as error:
                self.assertRegex(str(error), r"\.$")
