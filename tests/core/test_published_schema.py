"""The published schema of calibration files, checked by a reference implementation of JSON Schema draft 2020-12."""

import json

from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.tables import DEFINITIONS
from inbetrieb_core.tables.files import read_calibration, write_json
from inbetrieb_core.tables.schema import calibration_schema
from jsonschema import Draft202012Validator

from tests.examples import asked

from .engines import FOUR
from .test_definitions import tables, with_table

VALIDATOR = Draft202012Validator(calibration_schema())
PLAIN = json.loads(write_json(generate(FOUR), {"job": "Heron"}))


def refused(document):
    return [error.message for error in VALIDATOR.iter_errors(document)]


class PublishedSchemaTests(SimpleTestCase):
    def test_it_is_a_schema_and_names_every_table(self):
        Draft202012Validator.check_schema(calibration_schema())
        parts = calibration_schema()["properties"]
        named = {*parts["tables"]["properties"], *parts["settings"]["properties"]}
        self.assertEqual(set(DEFINITIONS), named)

    @settings(max_examples=asked(60), deadline=None)
    @given(tables())
    def test_whatever_is_written_fits_it(self, table):
        self.assertEqual([], refused(json.loads(write_json(with_table(table), {}))))

    def test_a_file_of_another_hand_needs_no_origins(self):
        bare = json.loads(json.dumps(PLAIN))
        for table in bare["tables"].values():
            table.pop("provenance", None)
            table.pop("unit", None)
        self.assertEqual([], refused(bare))
        found = read_calibration(json.dumps(bare).encode())
        self.assertEqual(
            PLAIN["tables"]["cranking_fuel"]["values"], found["cranking_fuel"].values.tolist()
        )

    @given(st.sampled_from(("format", "version", "axis", "table", "values", "origin")))
    def test_what_is_no_calibration_does_not(self, part):
        wrong = json.loads(json.dumps(PLAIN))
        fuel = wrong["tables"]["cranking_fuel"]
        match part:
            case "format" | "version":
                wrong[part] = "other"
            case "axis":
                fuel["axes"][0]["name"] = "map_kpa"
            case "table":
                wrong["tables"]["colour"] = fuel
            case "values":
                fuel["values"] = ["a"]
            case "origin":
                fuel["provenance"]["legend"][0]["kind"] = "guessed"
        self.assertNotEqual([], refused(wrong))
