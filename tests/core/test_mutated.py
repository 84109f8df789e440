"""Files that somebody damaged, or made to do harm, through every reader: read or refused, never worse.

The files are whole ones of the project's own writers, mutated by a seeded generator. What is refused is
refused by an error of the core with a sentence; nothing takes long.
"""

import io
import random
import time
import zipfile

from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
from inbetrieb_core.errors import CoreError
from inbetrieb_core.logs import import_log, preview_log, read_track
from inbetrieb_core.pasted import PURPOSES, read_pasted
from inbetrieb_core.tables.file_sets import find_tables, write_csv_set, write_workbook
from inbetrieb_core.tables.files import read_calibration, write_csv, write_json
from inbetrieb_core.triggers.capture_file import read_capture
from inbetrieb_core.wiring import read_pin_list

from tests.examples import few
from tests.grown import grown_mb

from .engines import FOUR
from .tracks import gpx, nmea

#: So many mutations of each file; a hundred thousand of all with `EXAMPLES=125`. [–]
ROUNDS = few(80)
#: No file takes longer, on a busy machine. [s of processor time]
LONGEST_S = 2.0
#: No reader takes more than what the program stands on already. [MB]
MOST_MB = 300.0

#: What programs that read text have stumbled over.
POISON = (
    b"\x00", b"\xff\xfe", b"\xef\xbb\xbf", b"\xed\xa0\x80", b"NaN", b"1e999", b"-", b",,,,", b";" * 50,
    b'"', b"'" * 9, b"\r", b"\n\n\n", b"(" * 200, b"[ " * 200, b"9" * 400, b"<?xml version='1.0'?>",
    b"=1+1", b"\\u0000", b"{" * 300, b"\t" * 300,
)  # fmt: skip


def mutated(data, draw):
    """Return a file with one to four wounds."""
    result = bytearray(data)
    for _ in range(draw.randint(1, 4)):
        at = draw.randrange(len(result) + 1)
        kind = draw.randrange(6)
        if kind == 0 and result:
            result[min(at, len(result) - 1)] = draw.randrange(256)
        elif kind == 1:
            result[at:at] = draw.choice(POISON)
        elif kind == 2:
            del result[at : at + draw.randrange(1, 400)]
        elif kind == 3:
            result[at:at] = result[at : at + draw.randrange(1, 400)] * draw.randrange(1, 5)
        elif kind == 4:
            result = result[:at]
        else:
            end = at + draw.randrange(1, 60)
            result[at:end] = bytes(reversed(result[at:end]))
    return bytes(result)


def log_text(mark=",", decimal="."):
    run = simulate_start(
        NAMED["port_four"], FOUR, CALIBRATION, StartConditions(20.0, rate_hz=10.0, run_s=8.0)
    )
    names = list(run.channels)
    rows = zip(*(run.channels[name] for name in names), strict=True)
    lines = [mark.join(f"{value:.3f}".replace(".", decimal) for value in row) for row in rows]
    return "\n".join([mark.join(names), *lines]).encode()


CALIBRATION = generate(FOUR)
TABLES = tuple(CALIBRATION.tables.values())
EDGES = "time_s,level\n" + "\n".join(f"{i * 0.0021:.5f},{i % 2}" for i in range(400))
PINS = "pin\tability\tpull-up\tcurrent\nA1\tbattery supply\nA2\tanalogue input\t2490 ohm\nB1\tinjector\t\t4 A"  # fmt: skip
DRIVE = ([float(i) for i in range(40)], [30.0 + i for i in range(40)], [400.0] * 40)
PASTE = "Temp [°C];Res [kΩ]\n-20;15,46\n20;2,5\n100;0,186\n"
WANTED = PURPOSES["resistance"]


def as_text(reader):
    return lambda data: reader(data.decode("utf-8", "replace"))


#: By what is read: the reader and a whole file.
READERS = {
    "log with commas": (import_log, log_text()),
    "log with decimal commas": (import_log, log_text(";", ",")),
    "head of a log": (preview_log, log_text("\t")),
    "capture": (read_capture, EDGES.encode()),
    "calibration, JSON": (read_calibration, write_json(CALIBRATION, {})),
    "calibration, CSV": (read_calibration, write_csv(CALIBRATION)),
    "calibration, set": (find_tables, write_csv_set(TABLES)),
    "calibration, workbook": (find_tables, write_workbook(TABLES, "Heron")),
    "track, NMEA": (read_track, nmea(*DRIVE)),
    "track, GPX": (read_track, gpx(*DRIVE)),
    "pin list": (as_text(read_pin_list), PINS.encode()),
    "paste": (as_text(lambda text: read_pasted(text, WANTED)), PASTE.encode()),
}


class MutatedFileTests(SimpleTestCase):
    def read(self, reader, data, name, number):
        began = time.process_time()
        try:
            reader(data)
            said = None
        except CoreError as error:
            said = str(error)
        took = time.process_time() - began
        with self.subTest(name, number=number):
            self.assertLess(took, LONGEST_S)
            if said is not None:
                self.assertGreater(len(said), 8)
                said.encode("utf-8")  # it can be sent
                for word in ("Traceback", "codec", "polars", "openpyxl", "object at 0x"):
                    self.assertNotIn(word, said)
        return said is None

    def test_whole_files_are_read(self):
        for name, (reader, data) in READERS.items():
            with self.subTest(name):
                self.assertTrue(self.read(reader, data, name, 0))

    def test_damaged_ones_are_read_or_refused(self):
        for name, (reader, data) in READERS.items():
            draw = random.Random(name)

            def all_of_it(name=name, reader=reader, data=data, draw=draw):
                for number in range(ROUNDS):
                    self.read(reader, mutated(data, draw), name, number)

            grown = grown_mb(all_of_it)
            with self.subTest(name):
                self.assertLess(grown, MOST_MB)

    def test_poison_alone_and_nothing_at_all(self):
        for name, (reader, _) in READERS.items():
            for number, data in enumerate((b"", b"\n", *POISON, POISON[-1] * 50)):
                self.read(reader, data, name, number)


class ExplodingArchiveTests(SimpleTestCase):
    def archive(self, **members):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, data in members.items():
                archive.writestr(name.replace("__", "."), data)
        return out.getvalue()

    def refused(self, data):
        began = time.process_time()
        with self.assertRaises(CoreError):
            find_tables(data)
        self.assertLess(time.process_time() - began, LONGEST_S)

    def test_what_unpacks_to_gigabytes_is_not_unpacked(self):
        self.refused(self.archive(ve__csv=b"0," * 150_000_000))

    def test_many_members(self):
        self.refused(self.archive(**{f"t{i}__csv": b"1" for i in range(30_000)}))

    def test_sizes_that_lie(self):
        data = bytearray(self.archive(ve__csv=b"0," * 2_000_000))
        at = data.rfind(b"PK\x01\x02")
        data[at + 24 : at + 28] = (10).to_bytes(4, "little")  # it says that it is small
        self.refused(bytes(data))

    def test_a_version_that_nobody_knows(self):
        data = bytearray(self.archive(ve__csv=b"0,1\n2,3"))
        data[data.rfind(b"PK\x01\x02") + 6] = 128
        self.refused(bytes(data))

    def test_a_member_without_a_name(self):
        data = bytearray(self.archive(v__csv=b"0,1"))
        at = data.rfind(b"PK\x01\x02")
        data[at + 28 : at + 30] = b"\0\0"  # no letter of its name, all of them of a comment
        data[at + 32 : at + 34] = (len("v.csv")).to_bytes(2, "little")
        self.refused(bytes(data))

    def test_a_workbook_in_a_workbook(self):
        book = write_workbook(TABLES, "Heron")
        self.refused(self.archive(**{"xl/workbook__xml": book, "[Content_Types]__xml": b"<x/>"}))
