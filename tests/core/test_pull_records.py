"""Pulls: found in logs, read from dynamometer files, and held against their limits."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import drawn_truth, simulate_pull
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.fuelling import propose, solve_map
from inbetrieb_core.pulls import (
    Ambient,
    Vehicle,
    correction_factor,
    find_pulls,
    passed_limits,
    pull_of_log,
    read_dynamometer,
    readings_of_pulls,
    supply_line,
    typed_pull,
)

from tests.examples import few

from .pull_parts import ENGINE, FEED, LIMITS, RPM, curve, record


class LimitTests(SimpleTestCase):
    def test_each_limit_is_seen_where_it_was_passed(self):
        def lump(height, base):
            return base + (height - base) * np.exp(-(((RPM - 5000) / 400) ** 2))

        for key, channels in (
            ("boost_kpa", {"map_kpa": lump(215, 180)}),
            ("leanest", {"lambda": lump(1.02, 0.85)}),
            ("exhaust_c", {"exhaust_c": lump(990, 800)}),
            ("charge_c", {"intake_c": lump(95, 40)}),
            ("duty_pct", {"pulse_ms": lump(23.0, 8.0)}),
            ("pressure_falls_kpa", {"fuel_pressure_kpa": lump(255, 300)}),
            ("knock", {"knock_count": np.cumsum(np.abs(RPM - 5000) < 250)}),
        ):
            with self.subTest(key):
                found = passed_limits(record(curve(), **channels), LIMITS, FEED)
                self.assertEqual([one.key for one in found], [key])
                self.assertTrue(4700 <= found[0].rpm <= 6500)
        self.assertEqual(passed_limits(record(curve(), map_kpa=190.0), LIMITS, FEED), ())
        with self.assertRaisesRegex(InputRefused, "is no limit"):
            replace(LIMITS, duty_pct=float("nan")).check()

    def test_knock_is_counted_the_same_way_whatever_logs_it(self):
        # By hand: three events at 4500 rpm, two at 4600; as a signal, as a counter, and as one that stood at 40 before.
        signal = 3.0 * (RPM == 4500) + 2.0 * (RPM == 4600)
        for counted in (signal, np.cumsum(signal), 40.0 + np.cumsum(signal)):
            pull = record(curve(), knock_count=counted)
            self.assertEqual(pull.knock_events.tolist(), signal.tolist())
            (found,) = passed_limits(pull, LIMITS, FEED)
            self.assertEqual((found.key, found.value, found.rpm), ("knock", 5.0, 4500.0))
        self.assertEqual(passed_limits(record(curve(), knock_count=40.0), LIMITS, FEED), ())
        # A bin without a reading loses no event.
        gap = np.where(RPM == 4500, np.nan, np.cumsum(signal))
        self.assertEqual(np.nansum(record(curve(), knock_count=gap).knock_events), 5.0)

    @given(st.lists(st.integers(0, 9), min_size=len(RPM), max_size=len(RPM)), st.integers(0, 900))
    def test_a_counter_shows_what_it_counted_wherever_it_began(self, events, began):
        events = np.array([0, *events[1:]], dtype=float)
        pull = record(curve(), knock_count=began + np.cumsum(events))
        self.assertEqual(pull.knock_events.tolist(), events.tolist())

    def test_a_pump_that_falls_away_is_a_stop_however_good_the_power(self):
        flow = RPM / RPM.max()
        weak = record(
            curve(2.0),
            map_kpa=101.0,
            pulse_ms=8.0,
            fuel_pressure_kpa=300 - 30 * np.clip(flow - 0.6, 0, 1) / 0.4,
        )
        line = supply_line([record(curve()), weak], FEED)
        self.assertTrue(line.stop)
        self.assertIn("STOP", line.sentence)
        sound = supply_line(
            [record(curve(), map_kpa=101.0, pulse_ms=8.0, fuel_pressure_kpa=298.0)], FEED
        )
        self.assertFalse(sound.stop)
        # 8 ms a cycle of 120/6.5 ms is 43 % duty: nearly twice the fuel is there.
        self.assertAlmostEqual(sound.ends_at, 85 / 43.3, delta=0.1)
        self.assertIn(
            "neither pulse nor fuel pressure", supply_line([record(curve())], FEED).sentence
        )


class FromLogTests(SimpleTestCase):
    def pulled(self, **more):
        truth = drawn_truth(ENGINE.spec, 3)
        return simulate_pull(ENGINE, ENGINE.spec, generate(ENGINE.spec), truth, seed=2, **more)

    def test_torque_of_the_rise_follows_the_brake(self):
        trace = self.pulled()
        (stretch,) = find_pulls(trace)
        measured = pull_of_log(trace, stretch)
        bare = self.pulled(brake=False)
        relative = pull_of_log(bare, find_pulls(bare)[0])
        self.assertEqual((measured.torque, relative.torque), ("measured", "relative"))
        n = min(len(measured.rpm), len(relative.rpm))
        ratio = (relative.channel("torque_nm")[:n] / measured.channel("torque_nm")[:n])[3:-3]
        self.assertLess(np.nanstd(ratio) / np.nanmean(ratio), 0.02)
        car = pull_of_log(bare, find_pulls(bare)[0], Vehicle(1200.0, 6.0, 0.3))
        self.assertAlmostEqual(car.channel("torque_nm")[20] / relative.channel("torque_nm")[20], 1200 * 1.05 * (0.3 / 6) ** 2, delta=0.01)  # fmt: skip

    def test_two_gears_are_two_pulls_and_slip_is_doubted(self):
        self.assertEqual(len(find_pulls(self.pulled(faults=("two_gears",)))), 2)
        slipped = self.pulled(faults=("slip",))
        self.assertIn("slip", pull_of_log(slipped, find_pulls(slipped)[0]).doubts[0])
        with self.assertRaises(LogRefused):
            pull_of_log(slipped, replace(find_pulls(slipped)[0], end_s=1.5))

    def test_full_load_of_pulls_corrects_the_map(self):
        calibration = generate(ENGINE.spec)
        engine = replace(
            ENGINE,
            truth=replace(ENGINE.truth, ve_scale=0.97 * ENGINE.truth.ve_scale, ve_speed=0.09),
        )
        table = calibration["ve"]
        pulls = []
        for number in range(2):
            trace = simulate_pull(
                engine,
                ENGINE.spec,
                calibration,
                drawn_truth(ENGINE.spec, 1),
                number=number,
                seed=number,
            )
            pulls.append(pull_of_log(trace, find_pulls(trace)[0]))
        fit = solve_map(readings_of_pulls(pulls, table), [a.points for a in table.axes])
        better = calibration.with_table(
            replace(table, values=propose(table, fit, authority=0.3).values)
        )
        missed = []
        for tables in (calibration, better):
            trace = simulate_pull(
                engine, ENGINE.spec, tables, drawn_truth(ENGINE.spec, 1), number=5, seed=9
            )
            pull = pull_of_log(trace, find_pulls(trace)[0])
            error = np.log(pull.channel("lambda") / pull.channel("lambda_target"))[4:-4]
            missed.append(100 * float(np.nanmean(np.abs(error))))
        print(
            f"\nfull load of a bench engine: {missed[0]:.1f} % off target before, {missed[1]:.1f} % after"
        )
        self.assertLess(missed[1], 2.5)
        self.assertLess(missed[1], 0.6 * missed[0])


class FileTests(SimpleTestCase):
    def csv(self, head, rows):
        return (head + "\n" + "\n".join(",".join(f"{v:.2f}" for v in row) for row in rows)).encode()

    def test_horsepower_and_foot_pounds_with_their_own_correction(self):
        rpm = np.arange(2000.0, 6500.0, 250.0)
        torque = curve(rpm=rpm)
        power = torque * rpm * math.pi / 30_000
        air = Ambient(30.0, 95.0, 40.0)
        factor = correction_factor("sae_j1349", air)
        # 1 lb·ft is 1.35582 N·m, 1 hp is 0.745700 kW (NIST SP 811, from memory).
        data = self.csv("Engine speed [rpm],Torque [lb-ft],Power [hp]", zip(rpm, torque * factor / 1.35582, power * factor / 0.7457, strict=True))  # fmt: skip
        found = read_dynamometer(data, corrected_by="sae_j1349", ambient=air)
        at = found.pull.channel("torque_nm")[list(found.pull.rpm).index(4000.0)]
        self.assertAlmostEqual(at, float(curve(rpm=np.array([4000.0]))[0]), delta=0.6)
        self.assertIn("is undone", " ".join(found.said))
        with self.assertRaisesRegex(InputRefused, "air of the test"):
            read_dynamometer(data, corrected_by="sae_j1349")
        kept = read_dynamometer(data)
        self.assertAlmostEqual(kept.pull.channel("torque_nm")[20] / at, factor, delta=0.02)

    def test_torque_and_power_that_contradict_each_other_are_refused(self):
        rpm = np.arange(2000.0, 6500.0, 250.0)
        wrong = self.csv(
            "rpm,Torque [Nm],Power [kW]",
            zip(rpm, curve(rpm=rpm), curve(rpm=rpm) * rpm / 5252, strict=True),
        )
        with self.assertRaisesRegex(LogRefused, "contradict each other"):
            read_dynamometer(wrong)
        with self.assertRaisesRegex(LogRefused, "needs engine speed"):
            read_dynamometer(b"time,boost\n1,2\n2,3\n3,4\n")

    @settings(max_examples=few(40), deadline=None)
    @given(
        st.lists(
            st.tuples(st.floats(allow_nan=True, width=32), st.floats(allow_nan=True, width=32)),
            max_size=8,
        )
    )
    def test_whatever_is_typed_becomes_a_pull_or_a_sentence(self, points):
        try:
            pull = typed_pull(points)
        except InputRefused as error:
            self.assertTrue(str(error))
        else:
            self.assertTrue(np.isfinite(pull.channel("torque_nm")).all())
