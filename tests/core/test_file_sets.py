"""Tables in sets of files, workbooks and pastes: what is read, and what is refused with which words."""

import io
import zipfile
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.tables import read_calibration, write_csv, write_json
from inbetrieb_core.tables.file_sets import (
    find_tables,
    write_csv_set,
    write_table_csv,
    write_workbook,
)
from inbetrieb_core.tables.files import CalibrationFileError
from inbetrieb_core.tables.grids import grid_of, read_grid_table
from inbetrieb_core.tables.regions import cells_of
from openpyxl import Workbook, load_workbook

from tests.examples import asked

from .engines import FOUR

BOOSTED = replace(FOUR, induction="boosted", boost_kpa=80.0, compression_ratio=8.8, cam_profiles=2)


def same(found, calibration):
    return {t.key for t in found} == set(calibration.tables) and all(
        t.axes == calibration[t.key].axes and np.allclose(t.values, calibration[t.key].values)
        for t in found
    )


def text_of(rows):
    return "\n".join("\t".join("" if c is None else str(c) for c in row) for row in rows)


class RoundTripTests(SimpleTestCase):
    def test_every_form_gives_every_table_back(self):
        calibration = generate(BOOSTED)
        tables = list(calibration.tables.values())
        for name, data in (
            ("set.zip", write_csv_set(tables)),
            ("book.xlsx", write_workbook(tables, "=HYPERLINK")),
            ("one.json", write_json(calibration, {})),
            ("one.csv", write_csv(calibration)),
        ):
            with self.subTest(name=name):
                found = find_tables(data, name)
                self.assertTrue(same(found.tables, calibration))
                self.assertEqual(found.passed_over, ())
        self.assertTrue(same(read_calibration(write_csv(calibration)).tables.values(), calibration))

    def test_the_same_calibration_gives_the_same_archive(self):
        tables = list(generate(FOUR).tables.values())
        self.assertEqual(write_csv_set(tables), write_csv_set(tables))

    def test_one_table_alone(self):
        table = generate(FOUR)["spark"]
        (found,) = find_tables(write_table_csv(table), "spark.csv").tables
        self.assertTrue(np.allclose(found.values, table.values))
        lone = find_tables(write_json(generate(FOUR), {}, [table]), "x.json").tables
        self.assertEqual([t.key for t in lone], ["spark"])

    def test_the_library_that_wrote_it_reads_the_workbook_by_itself(self):
        """openpyxl on its own: one sheet for each table, the grid as documented."""
        calibration = generate(FOUR)
        book = load_workbook(io.BytesIO(write_workbook(list(calibration.tables.values()), "x")))
        sheet = book["ve"]
        self.assertEqual(sheet["A1"].value, "ve [%]")
        self.assertEqual(sheet["B2"].value, calibration["ve"].axes[1].points[0])
        self.assertEqual(sheet["C4"].value, float(calibration["ve"].values[1, 1]))


class GridTests(SimpleTestCase):
    def paste(self, text, key=""):
        return read_grid_table(cells_of(text), key)

    @settings(max_examples=asked(60), deadline=None)
    @given(
        st.lists(st.integers(1, 16), min_size=2, max_size=8, unique=True),
        st.lists(st.integers(1, 20), min_size=2, max_size=8, unique=True),
        st.booleans(), st.booleans(), st.booleans(),
    )  # fmt: skip
    def test_any_way_a_table_stands_is_the_same_table(self, down, across, turned, falls, comma):
        rpm, load = [400.0 * n for n in sorted(down)], [10.0 * p for p in sorted(across)]
        values = [[20.0 + i + 0.5 * j for j in range(len(load))] for i in range(len(rpm))]
        rows = [["ve [%]", "map_kpa [kPa]"], ["rpm [rpm]", *load]]
        rows += [[n, *line] for n, line in zip(rpm, values, strict=True)]
        if turned:
            rows = [["ve [%]", "rpm [rpm]"], ["map_kpa [kPa]", *rpm]]
            rows += [[p, *(line[j] for line in values)] for j, p in enumerate(load)]
        if falls:
            rows = [*rows[:2], *reversed(rows[2:])]
        text = text_of(rows)
        read = self.paste(text.replace(".", ",") if comma else text)
        self.assertEqual(read.table.axes[0].points, tuple(rpm))
        self.assertEqual(read.table.axes[1].points, tuple(load))
        self.assertTrue(np.allclose(read.table.values, values))

    def test_units_in_the_heads_are_converted_and_said(self):
        # 14.5038 psi = 100 kPa, 212 °F = 100 °C (NIST SP 811).
        read = self.paste("lambda_target [AFR]\tmap [psi]\nrpm\t7.2519\t14.5038\n1000\t14.7\t12.5")
        self.assertAlmostEqual(read.table.axes[1].points[1], 100.0, places=3)
        self.assertAlmostEqual(float(read.table.values[0, 1]), 12.5 / 14.7, places=5)
        self.assertTrue(any("psi" in sentence for sentence in read.sentences))
        curve = self.paste("coolant [°F]\tvalue\n32\t180\n212\t60", "cranking_fuel")
        self.assertEqual(curve.table.axes[0].points, (0.0, 100.0))

    def test_air_fuel_ratios_are_recognised_by_their_size(self):
        read = self.paste("\t40\t100\n1000\t14,7\t13\n3000\t14,7\t12,5", "lambda_target")
        self.assertAlmostEqual(float(read.table.values[1, 1]), 12.5 / 14.7, places=5)
        self.assertIn("air–fuel", " ".join(read.sentences))

    def test_a_curve_may_lie_on_its_side(self):
        read = self.paste("-20\t0\t20\t80\n400\t300\t200\t90", "cranking_fuel")
        self.assertEqual(read.table.axes[0].points, (-20.0, 0.0, 20.0, 80.0))

    def test_a_single_number(self):
        self.assertEqual(float(self.paste("boost_cut [bar]\t1,7").table.values), 170.0)

    def test_bad_pastes_say_what_and_where(self):
        good = "ve [%]\tmap_kpa\nrpm\t40\t100\n"
        for text, key, words in (
            (good + "1000\t50\t60\n2000\t70", "", ("line 3", "1 values where the head has 2")),
            (good + "1000\t50\tsixty", "", ("'sixty'", "column 3")),
            (good + "1000\t50\t60\n1000\t55\t66", "", ("must rise",)),
            ("ve [%]\tmap_kpa\nrpm\t100\t40\t90\n1000\t5\t6\t7", "", ("must rise",)),
            (good + "1000\t50\t9e9", "", ("between 5 and 200",)),
            ("rpm\t40\t100\n1000\t50\t60", "", ("which table",)),
            ("nonsense", "ve", ("no rows",)),
            ("", "ve", ("empty",)),
            ("spark [°]\n1\t2", "ve", ("says spark",)),
            ("ve [furlong]\tmap_kpa\nrpm\t40\n1000\t50", "", ("'furlong'",)),
            ("0\t10\n20\tx", "cranking_fuel", ("line 2",)),
            ("boost_cut\tmuch", "", ("no number",)),
        ):
            with self.subTest(text=text), self.assertRaises(InputRefused) as caught:
                self.paste(text, key)
            for word in words:
                self.assertIn(word, str(caught.exception))

    def test_a_thousand_rows_are_refused(self):
        rows = "\n".join(f"{n}\t1\t2" for n in range(1000))
        with self.assertRaises(InputRefused):
            self.paste("ve [%]\tmap_kpa\nrpm\t40\t100\n" + rows)

    def test_grids_are_what_the_document_says(self):
        calibration = generate(FOUR)
        self.assertEqual(grid_of(calibration["overrun_delay"]), [["overrun_delay [s]", 0.5]])
        rows = grid_of(calibration["ve"])
        self.assertEqual(rows[0], ["ve [%]", "map_kpa [kPa]"])
        self.assertEqual(rows[1][:2], ["rpm [rpm]", 20.0])


class HostileFileTests(SimpleTestCase):
    def refused(self, data, name="x", words=()):
        with self.assertRaises(CalibrationFileError) as caught:
            find_tables(data, name)
        for word in words:
            self.assertIn(word, str(caught.exception))

    def archive(self, **members):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, data in members.items():
                archive.writestr(name, data)
        return out.getvalue()

    def test_junk_bombs_and_torn_archives(self):
        self.refused(b"", words=("no table",))
        self.refused(b"\xff\xfe\x00", words=("UTF-8",))
        self.refused(b"PK\x03\x04 torn", words=("damaged",))
        self.refused(b"x" * (5 * 1024 * 1024), words=("larger",))
        self.refused(self.archive(**{"ve.csv": "0" * 30_000_000}), words=("more than",))
        self.refused(self.archive(**{f"{n}.csv": "1" for n in range(100)}), words=("more than",))
        self.refused(self.archive(**{"xl/workbook.xml": "<a/>"}), words=("damaged or locked",))
        self.refused(b'{"format": "another"}', words=("format",))

    def test_what_can_be_read_is_read_and_the_rest_is_named(self):
        good = write_table_csv(generate(FOUR)["ve"])
        found = find_tables(
            self.archive(**{
                "maps/ve.csv": good, "ve.csv": good, "notes.txt": "hello", "spark.csv": b"\xff\xfe",
                "unknown.csv": "a,b\n1,2",
            }),
            "set.zip",
        )  # fmt: skip
        self.assertEqual([t.key for t in found.tables], ["ve"])
        said = " ".join(found.passed_over)
        for word in ("notes.txt", "spark.csv", "unknown", "twice"):
            self.assertIn(word, said)

    def test_a_workbook_with_formulas(self):
        """A formula has no value until a spreadsheet program computed it; that is said, not guessed."""
        book = Workbook()
        sheet = book.active
        sheet.title = "idle_target"
        for row in (
            ["idle_target [rpm]", None],
            ["coolant_c [°C]", "value"],
            [0, 1000],
            [80, "=B3-150"],
        ):
            sheet.append(row)
        spark = book.create_sheet("cranking_air")
        for row in (["cranking_air [%]", None], ["coolant_c [°C]", "value"], [0, 20], [80, 8]):
            spark.append(row)
        out = io.BytesIO()
        book.save(out)
        found = find_tables(out.getvalue(), "book.xlsx")
        self.assertEqual([t.key for t in found.tables], ["cranking_air"])
        said = " ".join((*found.understood, *found.passed_over))
        self.assertIn("1 cells are formulas", said)
        self.assertIn("open the workbook, save it", said)

    def test_names_and_reasons_cannot_become_formulas(self):
        calibration = generate(FOUR)
        mark = calibration["ve"].mark((0, 0))
        table = calibration["ve"]
        marks = table.provenance.copy()
        marks[0, 0] = replace(mark, reason="=cmd|' /C calc'!A0")
        evil = type(table)("ve", table.axes, table.values, marks)
        book = load_workbook(io.BytesIO(write_workbook([evil], "=1+1")))
        cells = [c for sheet in book for row in sheet.iter_rows() for c in row]
        self.assertFalse([c.value for c in cells if c.data_type == "f"])
