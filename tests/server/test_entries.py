"""Kinds of entry: registered by their owner, strict however deep, and never lost."""

import copy

from django.test import SimpleTestCase
from pydantic import ValidationError

from server.basemaps.services import ENGINE
from server.config.append_only import AppendOnlyError
from server.entries.kinds import _REGISTERED, Kind, problems_of
from server.entries.models import Entry
from server.entries.reasons import REASON
from server.firststart.kinds import DONE, SETUP
from server.fuelling.kinds import PASS, TAKEN, TRANSIENTS
from server.handover.kinds import CLOSED, REOPENED
from server.hardware.kinds import AGREEMENT, INJECTORS, SENSOR, SUPPLY
from server.idle.kinds import AIR, HUNTING, LOAD, RETURN, STOP, SWEEP
from server.intake.kinds import INTAKE, VERDICT, verdict_key
from server.jobs.models import Job
from server.logbook.aside import LOG_ASIDE
from server.mornings.services import MORNINGS
from server.order.aside import ASIDE
from server.pulls.kinds import ASIDE as PULL_ASIDE
from server.pulls.kinds import CHECK, LIMITS, OPENED, PULL
from server.trigger.kinds import COIL, TIMING, TRIGGER
from server.wiring.kinds import OUTPUTS, PLAN, THREE_WIRE

from . import parts
from .base import FOUR, ApiTestCase

STANDS = {"basis": "4x250.0/300", "turned": 0.0, "log_id": 3}
STEP = {
    "duty_pct": 30.0, "rpm": 800.0, "scatter_rpm": 3.0, "drift_rpm": 1.0, "length_s": 5.0,
    "direction": 1, "stalled": False,
}  # fmt: skip
FILM = {
    "share": 0.3, "share_error": 0.02, "time_s": 0.4, "time_error_s": 0.05, "steps": 8, "is_told": True, "sentence": "Told.",
}  # fmt: skip
#: One good value of every kind, as JSON.
GOOD = {
    LOG_ASIDE: {"log_id": 1, "aside": True, "reason": "The wideband hung in the wind."},
    TAKEN: {"number": 1, "cells": [[3, 2]], "revision": 2, "reason": ""},
    PASS: {
        "revision": 1,
        "table": "ve",
        "load_unit": "kPa",
        "axes": [[1000.0, 2000.0], [40.0, 80.0]],
        **{
            grid: [[1.0, 1.0], [1.0, 1.02]]
            for grid in ("factor", "error", "low", "high", "hits", "change", "values")
        },
        "state": [["done", "unseen"], ["locked", "step"]],
        "done_share": 0.5,
        "scatter": 1.0,
        "roughness": 0.01,
        "table_probability": 0.9,
        "authority": 0.1,
        "sentence": "One cell moves.",
        "logs": [
            {
                "log_id": 1,
                "name": "a drive",
                "revision": 1,
                "readings": 40,
                "delay": "It is late.",
                "layers": [
                    {
                        "key": "warm",
                        "title": "Warm",
                        "reason": "Cold.",
                        "seconds": 3.0,
                        "is_on": True,
                    }
                ],
            }
        ],
        "causes": [
            {
                "key": "dead-time",
                "title": "injector dead time",
                "unit": "ms",
                "probability": 0.1,
                "size": 0.1,
                "low": 0.0,
                "high": 0.2,
                "share": 0.1,
                "test": "Lamps on.",
            }
        ],
        "blocks": False,
        "cause_sentence": "Nothing.",
        "deciding_test": "",
        "not_told": ["supply"],
        "plan": [{"rpm": 2400.0, "load": 60.0, "seconds": 8.0, "why": "not visited yet"}],
    },  # fmt: skip
    TRANSIENTS: {
        "log_ids": [1],
        "revision": 1,
        "found": {
            "steps": [
                {
                    "time_s": 3.0,
                    "rpm": 2400.0,
                    "coolant_c": 88.0,
                    "from_pct": 5.0,
                    "to_pct": 20.0,
                    "rate_pct_s": 60.0,
                    "from_kpa": 30.0,
                    "to_kpa": 60.0,
                    "spike_pct": 8.0,
                    "lasts_s": 0.4,
                    "before_pct": 0.5,
                    "after_pct": -0.5,
                    "verdict": "lean",
                    "until_s": 7.0,
                }
            ],
            "film": FILM,
            "cold": [[20.0, FILM]],
            "enrichment": {
                "rates_pct_s": [50.0, 200.0],
                "percent": [8.0, 15.0],
                "fade_s": 0.5,
                "cold_c": [],
                "cold_pct": [],
                "sentence": "The film takes it.",
            },
            "overrun": {
                "overruns": 1,
                "cuts": 1,
                "begins_rpm": 1900.0,
                "delay_s": 0.5,
                "returns_rpm": 1500.0,
                "shortest_ms": 0.7,
                "bucks_rpm": None,
                "sentences": ["It is cut."],
            },
            "sentence": "One step goes lean.",
        },
    },  # fmt: skip
    LIMITS: parts.LIMITS,
    PULL: {
        "pull": {
            "rpm": [2000.0, 2100.0],
            "values": {"torque_nm": [100.0, None]},
            "torque": "measured",
            "seconds": 8.0,
            "origin": "log",
            "doubts": [],
        },
        "conditions": {
            "gear": "4",
            "ambient": {"temperature_c": 20.0, "pressure_kpa": 100.0, "humidity_pct": 50.0},
        },
        "revision": 1,
        "log_id": None,
        "begin_s": None,
        "passed": [
            {
                "key": "knock",
                "title": "Knock",
                "unit": "",
                "value": 3.0,
                "limit": 2.0,
                "rpm": 4000.0,
                "sentence": "It knocks.",
            }
        ],
        "stop": "",
    },  # fmt: skip
    OPENED: {"pull": 1, "reason": "The pump was changed."},
    PULL_ASIDE: {"pull": 1, "reason": "Wheels span in it."},
    CHECK: {"note": "seen"},
    CLOSED: {"note": "Sum 7f20."},
    REOPENED: {"parts": ["injectors", "fuel"], "reason": "Larger ones were fitted."},
    SETUP: {"fresh": True},
    DONE: {"values": [{"key": "oil_kpa", "value": 200.0}], "stopped": ["STOP."]},
    STOP: {"readings": [{"valve_pct": 31.0, "rpm": 780.0}], "stands": STANDS},
    RETURN: {
        "closings": [{"throttle_pct": 0.1, "rpm": 780.0}],
        "result": {
            "verdict": "untold",
            "throttle_spread_pct": None,
            "rpm_spread": None,
            "closings": [{"throttle_pct": 0.1, "rpm": 780.0}],
            "sentences": ["One tells nothing."],
        },
        "stands": STANDS,
    },
    SWEEP: {
        "result": {
            "told": True,
            "minimum_pct": 24.0,
            "maximum_pct": 72.0,
            "minimum_error_pct": 0.4,
            "maximum_error_pct": 0.4,
            "gain_rpm_per_pct": 25.0,
            "gain_error": 0.3,
            "hysteresis_pct": 0.1,
            "hysteresis_error_pct": 0.2,
            "inverted": False,
            "steps": [STEP],
            "sentences": ["It works."],
        },
        "start_s": None,
        "end_s": None,
        "stands": STANDS,
    },
    HUNTING: {
        "result": {
            "hunting": True,
            "period_s": 2.0,
            "amplitude_rpm": 80.0,
            "cause": "valve_loop",
            "loops": [{"channel": "idle_valve_pct", "share": 0.8, "leads_deg": 90.0}],
            "sentences": ["It hunts."],
        },
        "stands": STANDS,
    },
    AIR: {
        "result": {
            "breathed_gps": 2.0,
            "breathed_error_gps": 0.2,
            "known_gps": 1.9,
            "unmetered_gps": None,
            "unmetered_error_gps": 0.2,
            "told": False,
            "leaks": False,
            "sentences": ["As wanted."],
        },
        "stands": STANDS,
    },
    LOAD: {
        "result": {
            "load": "gear",
            "dip_rpm": 90.0,
            "recovers_s": 1.0,
            "stalled": False,
            "verdict": "good",
            "sentence": "Well answered.",
        },
        "stands": STANDS,
    },
    SENSOR: parts.COOLANT,
    INJECTORS: parts.INJECTORS,
    SUPPLY: parts.SUPPLY,
    AGREEMENT: {"pairs": parts.PAIRS},
    INTAKE: {},
    VERDICT: {"decision": "repair", "note": "Two holes.", "author": "anna"},
    TRIGGER: parts.TRIGGER,
    TIMING: {"readings": parts.READINGS, "offset_deg": 90.0, "raising_advances": True},
    COIL: parts.COIL,
    OUTPUTS: {},
    MORNINGS: {
        "parked": [{"parking": "a", "stood_h": 3.0, "coolant_c": 30.0, "ambient_c": 5.0}],
        "minima": [["2026-12-01", -4.0]],
    },
    ASIDE: {"aside": True, "reason": "sold to a farm"},
    REASON: {"reason": "Not what this is about.", "evidence": 2},
    ENGINE: FOUR,
    THREE_WIRE: {"name": "Grey plug", "wires": parts.WIRES},
}


def objects(data, path=()):
    """Yield the path of every object in JSON data."""
    if isinstance(data, dict):
        yield path
        for key, value in data.items():
            yield from objects(value, (*path, key))
    elif isinstance(data, list):
        for i, value in enumerate(data):
            yield from objects(value, (*path, i))


def at(data, path):
    for step in path:
        data = data[step]
    return data


class StrictTests(SimpleTestCase):
    def test_every_registered_kind_is_looked_at(self):
        self.assertEqual(set(_REGISTERED.values()) - {PLAN}, set(GOOD))

    def test_what_is_good_is_read_and_written_alike(self):
        for kind, data in GOOD.items():
            with self.subTest(kind=kind.name):
                value = kind.read(data)
                self.assertEqual(kind.read(kind.plain(value)), value)

    def test_a_field_that_is_not_known_is_refused_however_deep_it_lies(self):
        asked = 0
        for kind, data in GOOD.items():
            plain = kind.plain(kind.read(data))
            for path in objects(plain):
                spoiled = copy.deepcopy(plain)
                at(spoiled, path)["misspelt"] = 1
                asked += 1
                with self.subTest(kind=kind.name, path=path):
                    with self.assertRaises(ValidationError) as refused:
                        kind.read(spoiled)
                    fields = [field for field, _ in problems_of(refused.exception)]
                    self.assertTrue(any(f.endswith("misspelt") for f in fields), fields)
        self.assertGreater(asked, 25)

    def test_a_value_of_another_kind_is_refused(self):
        for kind, data in GOOD.items():
            plain = kind.plain(kind.read(data))
            for field in plain:
                for wrong in ({"odd": 1}, "\x00", [[]]):
                    spoiled = {**plain, field: wrong}
                    with self.subTest(kind=kind.name, field=field, wrong=wrong):
                        try:
                            value = kind.read(spoiled)
                        except ValidationError:
                            continue
                        # Text may be any text, and nothing else may be what it was not.
                        self.assertEqual(wrong, "\x00")
                        self.assertEqual(kind.plain(value)[field], wrong)

    def test_no_object_at_all(self):
        for kind in GOOD:
            for wrong in (None, 3, "text", [], [1]):
                with self.subTest(kind=kind.name, wrong=wrong), self.assertRaises(ValidationError):
                    kind.read(wrong)

    def test_the_schema_names_the_fields_of_its_own_shape(self):
        for kind, data in GOOD.items():
            with self.subTest(kind=kind.name):
                schema = kind.json_schema()
                self.assertFalse(schema["additionalProperties"])
                self.assertLessEqual(set(data), set(schema["properties"]))
                self.assertLessEqual(set(schema.get("required", ())), set(schema["properties"]))

    def test_a_kind_has_one_owner(self):
        with self.assertRaisesRegex(RuntimeError, "owner already"):
            Kind("sensor", dict)


class VersionTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = Job.objects.get(pk=self.make_job()["id"])

    def test_versions_are_kept_and_the_newest_counts(self):
        first = SENSOR.read(parts.COOLANT)
        second = SENSOR.read({**parts.COOLANT, "name": "Another"})
        SENSOR.add(self.job, self.owner, first, "coolant")
        SENSOR.add(self.job, self.owner, second, "coolant")
        self.assertEqual(SENSOR.value(self.job, "coolant"), (second, 2))
        self.assertEqual([row.number for row in SENSOR.history(self.job, "coolant")], [2, 1])

    def test_what_was_removed_stays_in_the_history_and_may_come_back(self):
        value = SENSOR.read(parts.MAP)
        SENSOR.add(self.job, self.owner, value, "manifold_pressure")
        SENSOR.remove(self.job, self.owner, "manifold_pressure")
        self.assertIsNone(SENSOR.newest(self.job, "manifold_pressure"))
        self.assertEqual(SENSOR.newest_of_each(self.job), [])
        SENSOR.add(self.job, self.owner, value, "manifold_pressure")
        self.assertEqual(SENSOR.value(self.job, "manifold_pressure"), (value, 3))
        self.assertEqual(SENSOR.rows(self.job, "manifold_pressure").count(), 3)

    def test_keys_and_kinds_do_not_mix(self):
        SENSOR.add(self.job, self.owner, SENSOR.read(parts.MAP), "manifold_pressure")
        INJECTORS.add(self.job, self.owner, INJECTORS.read(parts.INJECTORS))
        VERDICT.add(self.job, self.owner, VERDICT.read(GOOD[VERDICT]), verdict_key(1))
        self.assertIsNone(SENSOR.value(self.job, "coolant"))
        self.assertIsNone(SUPPLY.value(self.job))
        self.assertIsNone(INTAKE.value(self.job))
        self.assertEqual(VERDICT.value(self.job, verdict_key(1))[1], 1)
        self.assertIsNone(VERDICT.value(self.job, verdict_key(2)))
        self.assertEqual(len(SENSOR.newest_of_each(self.job)), 1)

    def test_no_version_can_be_changed_or_deleted(self):
        row = SENSOR.add(self.job, self.owner, SENSOR.read(parts.MAP), "manifold_pressure")
        row.data = {}
        with self.assertRaises(AppendOnlyError):
            row.save()
        with self.assertRaises(AppendOnlyError):
            row.delete()
        self.assertEqual(Entry.objects.get(pk=row.pk).data["name"], "Plenum")

    def test_a_query_does_not_grow_with_versions(self):
        for i in range(12):
            SENSOR.add(
                self.job,
                self.owner,
                SENSOR.read({**parts.MAP, "name": f"n{i}"}),
                "manifold_pressure",
            )
        with self.assertNumQueries(1):
            rows = SENSOR.newest_of_each(self.job)
            self.assertEqual([row.created_by.username for row in rows], ["owner"])
