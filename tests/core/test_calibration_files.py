"""Calibrations as files: round trips and refusals."""

import json
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import CoreError, InputRefused
from inbetrieb_core.sentences import plain
from inbetrieb_core.tables import (
    CalibrationFileError,
    CellChange,
    Provenance,
    apply,
    calibration_difference,
    expanded_provenance,
    from_plain,
    read_calibration,
    to_plain,
    write_csv,
    write_json,
)

from tests.examples import asked

from .engines import FOUR, ROTORS


def same(first, second):
    assert set(first.tables) == set(second.tables)
    for key in first.tables:
        a, b = first[key], second[key]
        if a.axes != b.axes or not np.array_equal(a.values, b.values):
            return False
        # Files hold the canonical text of a reason, not its quantities.
        for mark, other in zip(a.provenance.flat, b.provenance.flat, strict=True):
            if replace(mark, reason=plain(mark.reason)) != replace(
                other, reason=plain(other.reason)
            ):
                return False
    return True


class RoundTripTests(SimpleTestCase):
    def test_json_and_csv_give_the_same_calibration_back(self):
        for spec in (FOUR, ROTORS):
            calibration = generate(spec)
            self.assertTrue(
                same(read_calibration(write_json(calibration, {"job": "x"})), calibration)
            )
            self.assertTrue(same(read_calibration(write_csv(calibration)), calibration))

    def test_plain_form_with_a_mark_per_cell_is_read_too(self):
        calibration = generate(FOUR)
        plain = to_plain(calibration)
        for table in plain.values():
            table["provenance"] = expanded_provenance(table["provenance"])
        self.assertTrue(same(from_plain(plain), calibration))

    def test_without_provenance_cells_count_as_carried_over(self):
        plain = to_plain(generate(FOUR))
        for table in plain.values():
            del table["provenance"]
        kinds = {mark.kind for mark in from_plain(plain)["ve"].provenance.flat}
        self.assertEqual(kinds, {"carried_over"})

    def test_a_formula_in_a_note_stays_text_in_a_spreadsheet(self):
        calibration = generate(FOUR)
        mark = Provenance("assumed", '=HYPERLINK("http://x")', "+1")
        table = apply(calibration["idle_valve"], (CellChange((0,), (-30.0,), 95.0, 50.0),), mark)
        text = write_csv(calibration.with_table(table)).decode()
        self.assertNotIn(',"=HYPERLINK', text)
        self.assertEqual(read_calibration(text.encode())["idle_valve"].mark((0,)), mark)

    def test_difference_lists_only_what_changed(self):
        calibration = generate(FOUR)
        table = apply(
            calibration["spark"],
            (CellChange((2, 3), (900.0, 50.0), 0.0, 12.0),),
            Provenance("measured", "timing light"),
        )
        changes = calibration_difference(calibration, calibration.with_table(table))
        self.assertEqual({key: len(cells) for key, cells in changes.items()}, {"spark": 1})


class RefusalTests(SimpleTestCase):
    def test_wrong_files_get_a_sentence(self):
        good = json.loads(write_json(generate(FOUR), {}))
        for data, words in (
            (b"\xff\xfe\x00", "UTF-8"),
            (b"\r\x00", "neither JSON nor CSV|first line"),
            (b"{", "JSON"),
            (b"hello", "first line must name"),
            (json.dumps({"format": "other"}).encode(), "format"),
            (json.dumps({**good, "version": 9}).encode(), "version 9"),
            (
                json.dumps({"format": good["format"], "version": 1, "tables": []}).encode(),
                "no tables",
            ),
            (b"[" * 100_000, "first line"),
            (b'{"version": ' + b"9" * 5000 + b"}", "cannot be read as JSON"),
            (b"x" * (5 * 1024 * 1024), "larger"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(CalibrationFileError, words):
                read_calibration(data)

    def test_broken_tables_are_named_one_by_one(self):
        plain = to_plain(generate(FOUR))
        del plain["ve"]
        plain["spark"]["values"] = "nonsense"
        plain["idle_valve"]["values"][0] = 400.0
        plain["dead_time"]["values"][0] = 10**400  # a whole number that no float holds
        plain["prime_pulse"]["axes"][0]["points"][1] = -99.0
        with self.assertRaises(InputRefused) as caught:
            from_plain(plain)
        fields = {problem.field for problem in caught.exception.problems}
        self.assertEqual(
            fields,
            {f"tables.{key}" for key in ("ve", "spark", "idle_valve", "prime_pulse", "dead_time")},
        )

    @settings(max_examples=asked(80), deadline=None)
    @given(
        st.one_of(
            st.binary(max_size=300),
            st.recursive(
                st.none() | st.floats() | st.text(max_size=5),
                lambda inner: (
                    st.lists(inner, max_size=4)
                    | st.dictionaries(
                        st.sampled_from(["tables", "ve", "axes", "values", "points"]), inner
                    )
                ),
                max_leaves=12,
            ).map(
                lambda value: json.dumps(
                    {"format": "inbetrieb-calibration", "version": 1, "tables": value}
                ).encode()
            ),
        )
    )
    def test_hostile_files_are_refused_never_a_crash(self, data):
        with self.assertRaises(CoreError):
            read_calibration(data)
