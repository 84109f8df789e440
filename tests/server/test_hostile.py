"""Whatever is sent, the answer is a sentence: never a 500, never half a write."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase

from server.calibration.models import Revision
from server.jobs.models import Job
from server.trials.models import Decision, Trial
from tests.examples import few

from .base import FOUR, ApiTestCase
from .parts import COOLANT, INJECTORS, SENSORS, SUPPLY

values = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(10**20), 10**20)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(max_size=12)
    | st.sampled_from(["", "NaN", "1e999", "../..", "<b>", "'; DROP TABLE x; --", "\x00", "𝛌"]),
    lambda inner: (
        st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=6), inner, max_size=4)
    ),
    max_leaves=8,
)


def bodies(*fields):
    """Draw JSON objects that use an endpoint's own field names with anything in them."""
    return st.dictionaries(st.sampled_from(fields) | st.text(max_size=5), values, max_size=6)


quick = settings(
    max_examples=few(30),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture],
)


quicker = settings(quick, max_examples=few(12))


class AnyJsonTests(HypothesisTestCase, ApiTestCase):
    """Every example finds the same job and trial, in a transaction of its own."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        first = cls()
        first.client = Client()
        first.client.force_login(cls.owner)
        cls.session = first.client.cookies["sessionid"].value
        cls.job = first.make_job()["id"]
        seen = {"observation": {"outcome": "no fire", "coolant_c": 5}}
        cls.trial = first.post(f"/jobs/{cls.job}/trials", seen)["id"]

    def setUp(self):
        """Nothing: see :meth:`setup_example`."""

    def setup_example(self):
        super().setup_example()
        self.client.cookies["sessionid"] = self.session

    def send(self, path, body):
        response = self.client.post(
            f"/api{path}", json.dumps(body), content_type="application/json"
        )
        self.assertLess(response.status_code, 500, (path, body, response.content))
        # Infinity and NaN are no JSON: a browser could not read the answer.
        json.loads(response.content, parse_constant=self.fail)
        if response.status_code >= 400:
            self.assert_problem(response.json())
            self.assertGreater(len(response.json()["detail"]), 5)
        return response

    @quick
    @given(bodies("name", "engine", "units", "axes", "override_reason", "note"))
    def test_new_job(self, body):
        self.send("/jobs", body)

    @quick
    @given(bodies(*FOUR, "cycle", "fuelling", "induction", "boost_kpa", "schools", "altitude_m"))
    def test_engine_data(self, body):
        self.send("/jobs/preview", {"engine": {**FOUR, **body}})

    @quick
    @given(st.sampled_from(sorted(FOUR)), st.floats(allow_nan=False, allow_infinity=False))
    def test_engine_data_of_any_size(self, field, number):
        if field not in ("injectors", "cam"):
            self.send("/jobs", {"name": "X", "engine": {**FOUR, field: number}})

    @quick
    @given(bodies("note", "based_on", "tables", "provenance"))
    def test_edit(self, body):
        self.send(f"/jobs/{self.job}/calibration", {"based_on": 1, "tables": {}, **body})

    @quick
    @given(values)
    def test_values_of_a_table(self, entry):
        body = {"based_on": 1, "tables": {"idle_valve": {"values": entry}}}
        self.send(f"/jobs/{self.job}/calibration", body)
        self.assertEqual(Revision.objects.filter(job=self.job).count(), 1)

    @quick
    @given(
        bodies("kind", "log_id", "observation", "revision", "ambient_c", "soak_h", "start_number")
    )
    def test_trial(self, body):
        self.send(f"/jobs/{self.job}/trials", body)

    @quick
    @given(bodies("outcome", "coolant_c", "cranking_s", "flare_rpm", "lambda_later", "ran_s"))
    def test_observation(self, body):
        self.send(
            f"/jobs/{self.job}/trials",
            {"observation": {"outcome": "started", "coolant_c": 5, **body}},
        )

    @quicker
    @given(bodies("fitting", "by_hand", "edits"), values)
    def test_wiring(self, entry, controller):
        fitting = {"fitting": {}} if "fitting" not in entry else {}
        for path in ("wiring", "wiring/preview"):
            body = {"controller": controller, "entry": {**fitting, **entry}}
            self.send(f"/jobs/{self.job}/{path}", body)
        self.send(
            f"/jobs/{self.job}/wiring", {"controller": "shipped:kutter-52", "entry": body["entry"]}
        )

    @quicker
    @given(bodies("ignition", "injection", "sensors", "outputs", "own", "injector_ohm", "bus"))
    def test_what_is_fitted(self, fitting):
        body = {"controller": "shipped:prahm-24", "entry": {"fitting": fitting}}
        self.send(f"/jobs/{self.job}/wiring/preview", body)

    @quicker
    @given(bodies("line", "reading", "unit", "good"), values, values)
    def test_wire_checks_and_reasons(self, body, number, reason):
        self.send(f"/jobs/{self.job}/wiring/checks", {"line": "coolant", **body})
        self.send(f"/jobs/{self.job}/wiring/sign-off", {"number": number})
        for gate in ("wiring", "trigger", "output-tests"):
            self.send(f"/jobs/{self.job}/{gate}/reason", {"reason": reason})

    @quicker
    @given(bodies("format", "name", "connectors", "pins", "tables", "crank_to_run_rpm"), st.text())
    def test_controllers(self, profile, text):
        self.send("/controllers", {"profile": {"format": "inbetrieb-controller/1", **profile}})
        self.send("/controllers/pin-list", {"text": text})

    @quicker
    @given(
        bodies(
            "kind",
            "pattern",
            "teeth",
            "missing",
            "edges_deg",
            "offset_deg",
            "firing_order",
            "filter_us",
        )
    )
    def test_trigger(self, trigger):
        for path in ("trigger", "trigger/preview"):
            self.send(f"/jobs/{self.job}/{path}", {"trigger": trigger})

    @quicker
    @given(
        bodies("readings", "raising_advances"), bodies("rpm", "commanded_deg", "seen_deg", "seed")
    )
    def test_timing(self, body, reading):
        self.send(f"/jobs/{self.job}/timing", {"readings": [reading], **body})
        self.send(f"/jobs/{self.job}/timing/preview", body)
        self.send(f"/jobs/{self.job}/bench/light", {"rpm": 900, "commanded_deg": 10, **reading})

    @quicker
    @given(
        bodies("name", "coil", "points", "provenance"),
        bodies("resistance_ohm", "inductance_mh", "current_a"),
    )
    def test_dwell(self, dwell, coil):
        self.send(f"/jobs/{self.job}/dwell", {"dwell": {"name": "x", "coil": coil, **dwell}})

    @quicker
    @given(
        bodies("output", "heard", "dip_v", "made_safe", "note"),
        bodies("settings", "fan_on_c", "idle_hz"),
    )
    def test_outputs(self, test, settings_sent):
        known = {"output": "coil_1", "heard": "works", "made_safe": True}
        self.send(f"/jobs/{self.job}/output-tests", {**known, **test})
        self.send(f"/jobs/{self.job}/outputs", {"settings": settings_sent})

    @quicker
    @given(
        bodies("name", "wires"),
        st.lists(bodies("name", "open_v", "ground_ohm", "plugged_v"), max_size=4),
    )
    def test_three_wire(self, body, wires):
        self.send(f"/jobs/{self.job}/three-wire", {"name": "x", "wires": wires, **body})
        self.send("/three-wire/identify", {"wires": wires})

    @quicker
    @given(
        bodies("engine", "coolant_c", "crank_s", "faults", "seed"),
        bodies("upload_id", "name", "choice"),
    )
    def test_captures(self, bench, read):
        self.send(f"/jobs/{self.job}/bench/captures", {"crank_s": 2, **bench})
        self.send(f"/jobs/{self.job}/captures/read", {"upload_id": "0" * 64, **read})

    @quick
    @given(bodies("changes", "note"))
    def test_decisions(self, body):
        before = Decision.objects.count()
        response = self.send(f"/jobs/{self.job}/trials/{self.trial}/accept", body)
        self.assertEqual(Decision.objects.count() - before, int(response.status_code == 201))

    @quick
    @given(
        bodies("coolant_c", "ambient_c", "engine", "faults", "seed", "rate_hz", "run_s", "revision")
    )
    def test_bench_start(self, body):
        self.send(f"/jobs/{self.job}/bench/starts", {"coolant_c": 20, "run_s": 1, **body})

    @quick
    @given(bodies("temperature", "pressure", "mixture"))
    def test_units(self, body):
        self.send(f"/jobs/{self.job}/units", {"units": body})

    @quick
    @given(
        st.sampled_from(SENSORS),
        bodies(
            "function", "name", "transfer", "provenance", "adc_bits", "capacity_l", "freeze_rpm"
        ),
        bodies("kind", "points", "slope", "offset", "pull_up_ohm", "beta_k", "supply_v"),
        bodies("of", "axis"),
    )
    def test_sensors(self, sensor, changes, transfer, more):
        sensor = {**sensor, "transfer": {**sensor["transfer"], **transfer}, **changes}
        self.send(f"/jobs/{self.job}/sensors", {"sensor": sensor})
        self.send("/sensors/preview", {"sensor": sensor, **more})
        self.send("/library", {"sensor": sensor})

    @quick
    @given(
        st.lists(st.lists(st.floats(allow_nan=False), min_size=2, max_size=2), max_size=6),
        st.sampled_from(["thermistor", "table", "linear", "frequency"]),
        st.floats(allow_nan=False),
        st.sampled_from([s["function"] for s in SENSORS]),
    )
    def test_sensors_of_any_size(self, points, kind, pull_up, function):
        transfer = {"kind": kind, "points": points}
        if kind == "thermistor":
            transfer["pull_up_ohm"] = pull_up
        self.send(
            "/sensors/preview",
            {"sensor": {"function": function, "name": "x", "transfer": transfer}},
        )

    @quick
    @given(
        st.dictionaries(
            st.sampled_from([s["function"] for s in SENSORS]) | st.text(max_size=4),
            values,
            max_size=4,
        ),
        bodies("ambient_c", "barometric_kpa", "altitude_m", "soak_h", "meter_v", "ethanol_pct"),
        bodies("faults", "seed"),
    )
    def test_key_on(self, readings, around, bench):
        self.send(f"/jobs/{self.job}/sensors", {"sensor": COOLANT})
        self.send(f"/jobs/{self.job}/key-on", {"readings": readings, "circumstances": around})
        self.send(f"/jobs/{self.job}/bench/key-on", {"circumstances": around, **bench})
        self.send(f"/jobs/{self.job}/key-on/1/override", {"reason": around})

    @quick
    @given(
        bodies(
            *INJECTORS,
            "flow_unit",
            "fluid",
            "rated_pressure_kpa",
            "report",
            "resistance_ohm",
            "driver",
            "signals",
        ),
        bodies(
            *SUPPLY,
            "regulator",
            "rail_pressure_kpa",
            "line_loss_kpa",
            "voltage_v",
            "prime",
            "decay",
        ),
    )
    def test_injectors_and_supply(self, injectors, supply):
        for kind, body in (
            ("injectors", {**INJECTORS, **injectors}),
            ("supply", {**SUPPLY, **supply}),
        ):
            self.send(f"/jobs/{self.job}/{kind}/preview", {kind: body})
            self.send(f"/jobs/{self.job}/{kind}", {kind: body})

    @quick
    @given(
        st.sampled_from(
            ["flow", "rated_pressure_kpa", "resistance_ohm", "smallest_open_ms", "target_power_kw"]
        ),
        st.floats(allow_nan=False),
        st.lists(st.tuples(st.floats(allow_nan=False), st.floats(allow_nan=False)), max_size=5),
    )
    def test_injectors_and_supply_of_any_size(self, field, number, pairs):
        self.send(
            f"/jobs/{self.job}/injectors/preview", {"injectors": {**INJECTORS, field: number}}
        )
        dead = {"voltage_v": [p[0] for p in pairs], "dead_time_ms": [[p[1] for p in pairs]]}
        self.send(
            f"/jobs/{self.job}/injectors/preview", {"injectors": {**INJECTORS, "dead_time": dead}}
        )
        self.send(
            f"/jobs/{self.job}/supply/preview",
            {"supply": {**SUPPLY, "prime": pairs, "decay": pairs}},
        )
        rows = [{"voltage_v": 13.5, "pressure_kpa": p, "flow_l_h": q} for p, q in pairs]
        self.send(f"/jobs/{self.job}/supply/preview", {"supply": {**SUPPLY, "readings": rows}})

    @quick
    @given(
        bodies(
            "lambda_measured", "lambda_target", "pulse_ms", "battery_v", "trim_pct", "pressure_kpa"
        ),
        st.lists(st.lists(st.floats(allow_nan=False), max_size=3), max_size=5),
        st.text(max_size=60),
        bodies("closed_v", "open_v", "dead_zone_pct", "signal_hz", "rpm", "last_pct"),
    )
    def test_small_sheets(self, point, pairs, text, numbers):
        good = {"lambda_measured": 1.0, "lambda_target": 1.0, "pulse_ms": 3.0, "battery_v": 14.0}
        self.send(f"/jobs/{self.job}/injectors/infer", {"points": [{**good, **point}]})
        self.send(f"/jobs/{self.job}/agreement/preview", {"pairs": pairs})
        self.send(f"/jobs/{self.job}/agreement", {"pairs": pairs})
        self.send("/pasted", {"purpose": "resistance", "text": text})
        self.send("/throttle-capture", {"closed_v": 0.5, "open_v": 4.5, **numbers})
        self.send("/ethanol-share", {"signal_hz": 90, **numbers})

    @quick
    @given(st.text(max_size=40), st.binary(max_size=80))
    def test_uploads_and_mappings(self, mapping, data):
        for path in ("logs", "logs/preview", "import"):
            response = self.client.post(
                f"/api/jobs/{self.job}/{path}",
                {"file": SimpleUploadedFile("x.csv", data), "mapping": mapping, "name": mapping},
            )
            self.assertLess(response.status_code, 500)

    @quick
    @given(st.text(max_size=20), st.integers(-(2**70), 2**70))
    def test_addresses_and_queries(self, text, number):
        for path in (
            f"/jobs/{number}",
            f"/jobs/{self.job}/trials/{number}",
            f"/jobs/{self.job}/calibration?revision={number}",
            f"/jobs/{self.job}/calibration/diff?first={number}&second=1",
            f"/jobs/{self.job}/export?format=csv&revision={number}",
            f"/jobs/{self.job}/sensors/coolant/table.csv?axis={number}",
            f"/jobs/{self.job}/sensors/{number}/versions",
        ):
            self.assertLess(self.client.get(f"/api{path}").status_code, 500, path)
        response = self.client.get(f"/api/jobs/{self.job}/export", {"format": text})
        self.assertLess(response.status_code, 500)


class NothingHalfWrittenTests(ApiTestCase):
    def test_json_without_end_beside_a_file(self):
        """Nested deeper, or with more digits, than a parser takes."""
        job = self.make_job()["id"]
        for text in ("[" * 3000, "9" * 5000, '{"time": ' + "9" * 5000 + "}"):
            for path, field in (
                (f"/jobs/{job}/logs", "mapping"),
                (f"/jobs/{job}/logs/preview", "mapping"),
                (f"/jobs/{job}/pulls/from-file", "conditions"),
                ("/library/file/take", "numbers"),
            ):
                response = self.client.post(
                    f"/api{path}", {"file": SimpleUploadedFile("x.csv", b"time,rpm\n"), field: text}
                )
                self.assertEqual(422, response.status_code, (path, response.content))

    def test_a_failure_in_the_middle_of_a_write_leaves_nothing(self):
        from unittest.mock import patch

        broken = patch(
            "server.order.services.add_first_revision", side_effect=RuntimeError("disk full")
        )
        with broken, self.assertLogs("server.config.problems", "ERROR"):
            self.post("/jobs", {"name": "X", "engine": FOUR}, status=500)
        self.assertEqual((Job.objects.count(), Revision.objects.count()), (0, 0))

        job = self.make_job()["id"]
        seen = {"outcome": "no fire", "coolant_c": 5}
        trial = self.post(f"/jobs/{job}/trials", {"observation": seen})["id"]
        broken = patch(
            "server.trials.decisions.Decision.objects.create", side_effect=RuntimeError("x")
        )
        with broken, self.assertLogs("server.config.problems", "ERROR"):
            self.post(f"/jobs/{job}/trials/{trial}/accept", {}, status=500)
        self.assertEqual(Revision.objects.filter(job=job).count(), 1)
        self.assertEqual(Trial.objects.count(), 1)

        broken = patch("server.logbook.services.write_samples", side_effect=RuntimeError("x"))
        with broken, self.assertLogs("server.config.problems", "ERROR"):
            self.post(f"/jobs/{job}/bench/starts", {"coolant_c": 20, "run_s": 1}, status=500)
        self.assertEqual(self.get(f"/jobs/{job}/logs"), [])

    def test_text_is_kept_as_text(self):
        name = "<script>alert(1)</script> Zoë’s \u202e boat"
        job = self.make_job(note=name)
        self.assertEqual(self.get(f"/jobs/{job['id']}")["note"], name)

    def test_old_uploads_are_dropped_and_new_ones_kept(self):
        import os
        import time

        from server.accounts.services import workshop_of
        from server.logbook import uploads

        workshop = workshop_of(self.owner)
        old = uploads.keep(workshop, b"old")
        path = uploads._folder(workshop) / old
        os.utime(path, (time.time() - 2 * uploads.KEPT_S,) * 2)
        new = uploads.keep(workshop, b"new")
        self.assertFalse(path.exists())
        self.assertEqual(uploads.fetch(workshop, new), b"new")
