"""The live link: what is let in, what is commanded, what is watched, and the engine that stands in."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import (
    LIVE_FAULTS,
    NAMED,
    BenchSource,
    Fault,
    LiveSetup,
    ValveHardware,
)
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.idle import SweepPlan, fit_sweep
from inbetrieb_core.live import (
    LOADS,
    MOST_HZ,
    Controls,
    Guard,
    SweepRun,
    commanded,
    is_kill,
    newest_start_s,
)
from inbetrieb_core.logs import Trace
from inbetrieb_core.runsheet import RunInClock, readings_now, told_of, watch

from tests.examples import few

ENGINE = NAMED["port_four"]


class Stand:
    """A bench engine with somebody's hands on it."""

    def __init__(self, engine=ENGINE, coolant=20.0, **setup):
        setup["faults"] = tuple(
            Fault(f) if isinstance(f, str) else f for f in setup.get("faults", ())
        )
        self.source = BenchSource(
            engine,
            engine.spec,
            generate(engine.spec),
            LiveSetup(coolant, **setup),
            revision=1,
            tables="revision 1",
        )
        self.names = self.source.open().channels
        self.controls, self.rows = Controls(), []

    def set(self, seconds=0.0, **given):
        self.controls = commanded(self.controls, given)
        self.source.command(self.controls)
        for _ in range(round(seconds / 0.1)):
            self.rows.append(self.source.samples(0.1))
        return self

    def channels(self, since_s=-np.inf):
        rows = np.concatenate(self.rows)
        rows = rows[rows[:, 0] >= since_s]
        return {name: rows[:, i] for i, name in enumerate(self.names)}

    def last(self, name):
        return float(self.channels()[name][-1])

    def started(self, run_s=15.0):
        self.set(3.0, key=True)
        self.set(1.5, starter=True)
        return self.set(run_s, starter=False)


class GuardTests(SimpleTestCase):
    def test_a_flood_of_10_khz_is_thinned_and_said(self):
        guard, rows = Guard(2), np.column_stack([np.arange(0, 2, 1e-4), np.zeros(20_000)])
        kept = np.concatenate([guard.take(part) for part in np.array_split(rows, 10)])
        self.assertLessEqual(len(kept), 2 * MOST_HZ + 2)
        self.assertGreater(len(kept), 50)
        self.assertIn("beyond 30 a second", " ".join(guard.problems))

    def test_no_time_and_a_clock_set_back(self):
        guard = Guard(2)
        rows = np.array([[0.0, 1], [np.nan, 2], [0.1, np.inf], [0.05, 3], [-900.0, 4], [-899.9, 5]])
        kept = guard.take(rows)
        self.assertEqual(kept[:, 1].tolist()[2:], [4.0, 5.0])
        self.assertTrue(np.isnan(kept[1, 1]))
        self.assertAlmostEqual(kept[3, 0] - kept[2, 0], 0.1, 6)
        told = " ".join(guard.problems)
        for word in ("without a time", "out of order", "set 1 times"):
            self.assertIn(word, told)

    @settings(max_examples=few(60), deadline=None)
    @given(
        st.lists(
            st.floats(allow_nan=True, allow_infinity=True, width=32)
            | st.floats(0.0, 100.0),
            max_size=60,
        )
    )  # fmt: skip
    def test_whatever_comes_times_rise_and_are_no_denser_than_asked(self, times):
        guard = Guard(2)
        kept = guard.take(np.column_stack([np.array(times, dtype=float), np.ones(len(times))]))
        steps = np.diff(kept[:, 0])
        self.assertTrue(np.isfinite(kept[:, 0]).all())
        # Times of 1e38 have no room between them for a thirtieth of a second.
        if max(map(abs, filter(np.isfinite, times)), default=0.0) < 1e9:
            self.assertTrue((steps > 0.9 / MOST_HZ).all())


class CommandTests(SimpleTestCase):
    def test_what_is_not_given_stays_and_the_starter_needs_the_key(self):
        held = commanded(Controls(), {"key": True, "starter": True, "idle_valve_pct": 30.0})
        self.assertEqual(commanded(held, {"throttle_pct": 5.0}).idle_valve_pct, 30.0)
        self.assertIsNone(commanded(held, {"idle_valve_pct": None}).idle_valve_pct)
        self.assertFalse(commanded(held, {"key": False}).starter)

    def test_what_cannot_be_is_refused_each_with_its_sentence(self):
        for given_, word in (
            ({"throttle_pct": 140.0}, "The pedal must be between"),
            ({"idle_valve_pct": float("nan")}, "duty of the idle valve"),
            ({"lock_timing_deg": 90.0}, "locked advance"),
            ({"loads": ("winch",)}, "no load 'winch'"),
            ({"speed": 3}, "1, 4, 20"),
            ({"starter": True}, "with the key on"),
        ):
            with self.subTest(given_), self.assertRaisesRegex(InputRefused, word):
                commanded(Controls(), given_)

    def test_where_the_newest_start_begins(self):
        time = np.concatenate([np.arange(0, 10, 0.1), np.arange(20, 40, 0.1)])
        rpm = np.zeros(len(time))
        self.assertAlmostEqual(newest_start_s(time, rpm), 20.0)
        rpm[(time > 22) & (time < 24)] = 180
        self.assertAlmostEqual(newest_start_s(time, rpm), 20.0)
        rpm[(time > 30) & (time < 35)] = 180
        # The second attempt begins where the first came to rest.
        self.assertAlmostEqual(newest_start_s(time, rpm), 24.0, delta=0.11)


class KillTests(SimpleTestCase):
    def test_only_what_kills_and_nothing_else_is_everybodys(self):
        kill = {"injection": False, "ignition": False}
        self.assertTrue(is_kill(kill))
        for more in ({"throttle_pct": 40.0}, {"starter": True}, {"injection": True}, {"key": True}):
            with self.subTest(more):
                self.assertFalse(is_kill({**kill, **more}))
        self.assertFalse(is_kill({"injection": False}))


class RunInClockTests(SimpleTestCase):
    """Samples of known speed at 10 a second, given in parcels as a link does."""

    def fed(self, clock, begin_s, seconds, rpm, parcel=7):
        time = begin_s + 0.1 * np.arange(1, round(10 * seconds) + 1)
        for first in range(0, len(time), parcel):
            part = time[first : first + parcel]
            clock.count(part, np.full(len(part), float(rpm)))
        return begin_s + seconds

    def test_time_in_the_band_counts_to_the_second_whatever_the_parcels(self):
        for parcel in (1, 7, 50):
            clock = RunInClock()
            at = self.fed(clock, 0.0, 30.0, 2500, parcel)
            self.assertIsNone(clock.now)
            clock.switch(on=True)
            at = self.fed(clock, at, 60.0, 2400, parcel)
            at = self.fed(clock, at, 20.0, 1500, parcel)
            self.assertAlmostEqual(clock.now.counted_s, 60.0, delta=0.11)
            self.assertAlmostEqual(clock.now.outside_s, 20.0, delta=0.11)
            self.assertIn("0.3 min ran outside the band", clock.now.sentence)
            self.assertFalse(clock.now.inside)
            clock.switch(on=False)
            at = self.fed(clock, at, 300.0, 2500, parcel)
            clock.switch(on=True)
            at = self.fed(clock, at, 1139.0, 2600, parcel)
            self.assertFalse(clock.now.done)
            self.fed(clock, at, 1.5, 2600, parcel)
            self.assertTrue(clock.now.done)

    def test_a_gap_is_a_pause(self):
        clock = RunInClock()
        clock.switch(on=True)
        self.fed(clock, 0.0, 10.0, 2500)
        self.fed(clock, 500.0, 10.0, 2500)
        self.assertAlmostEqual(clock.now.counted_s, 20.0, delta=0.25)


class WatchTests(SimpleTestCase):
    """On channels of their own making, not of the engine that stands in."""

    def lines(self, seconds=15.0, **values):
        time = np.arange(0.0, seconds, 0.04)
        usual = {"rpm": 900, "oil_pressure_kpa": 300, "battery_v": 14, "coolant_c": 60, "lambda": 0.95,
                 "map_kpa": 40, "throttle_pct": 0, "fuel_pressure_kpa": 300, "idle_target_rpm": 900}  # fmt: skip
        channels = {k: np.full(len(time), float(v)) for k, v in {**usual, **values}.items()}
        found = watch({"time_s": time, **channels}, rail_kpa=300.0, rev_limit_rpm=6000.0)
        return {line.key: line for line in found}

    def test_a_sound_engine_raises_nothing(self):
        self.assertEqual({line.level for line in self.lines().values()}, {"good"})

    def test_every_stop_names_its_limit_and_its_reading(self):
        for key, value, also, words in (
            ("oil_pressure_kpa", 20, {}, ("20", "100")),
            ("rpm", 2900, {}, ("2900", "2400", "Fuel off")),
            ("rpm", 6300, {"throttle_pct": 30}, ("6300", "6000")),
            ("battery_v", 15.6, {}, ("15.6", "15")),
            ("coolant_c", 112, {}, ("112", "105")),
            ("lambda", 1.25, {"map_kpa": 80}, ("1.25", "1.15")),
        ):
            with self.subTest(key):
                line = self.lines(**{key: value}, **also)[key]
                self.assertEqual(line.level, "stop")
                for word in words:
                    self.assertIn(word, line.sentence)

    def test_a_flicker_a_fresh_start_and_an_engine_at_rest_are_no_alarm(self):
        self.assertNotEqual(
            self.lines(seconds=4.0, oil_pressure_kpa=20)["oil_pressure_kpa"].level, "stop"
        )
        self.assertEqual(self.lines(rpm=0, oil_pressure_kpa=0)["oil_pressure_kpa"].level, "none")
        self.assertEqual(self.lines(**{"lambda": 1.25})["lambda"].level, "good")

    def test_readings_of_a_key_on_with_a_known_leak(self):
        for leak_s in (40.0, 300.0, 3000.0):
            time = np.arange(0.0, 22.0, 0.04)
            rise = 300.0 * (1.0 - np.exp(-time / 0.3))
            pressure = np.where(time < 2.0, rise, 300.0 * np.exp(-(time - 2.0) / leak_s))
            found = readings_now(
                {"time_s": time, "rpm": 0 * time, "fuel_pressure_kpa": pressure.round(1)}
            )
            self.assertAlmostEqual(found["to_pressure_s"], 0.9, delta=0.06)
            truth = 300.0 * (1.0 - np.exp(-60.0 / leak_s))
            self.assertAlmostEqual(found["fall_kpa"], truth, delta=0.05 * truth + 1.0)

    def test_whoever_lets_go_of_the_starter_has_not_lost_the_reading(self):
        time = np.arange(0.0, 20.0, 0.04)
        turns = time < 10.0
        rpm = np.where(turns, 210.0, 210.0 * np.exp(-(time - 10.0) / 0.2))
        oil = np.where(turns, 80.0, 80.0 * np.exp(-(time - 10.0) / 0.3))
        found = readings_now({"time_s": time, "rpm": rpm, "oil_pressure_kpa": oil})
        self.assertAlmostEqual(found["oil_kpa"], 80.0, delta=4.0)
        self.assertAlmostEqual(found["cranking_rpm"], 210.0, delta=8.0)
        late = {"time_s": np.append(time, 45.0), "rpm": np.append(rpm, 0.0), "oil_pressure_kpa": np.append(oil, 0.0)}  # fmt: skip
        self.assertIsNone(readings_now(late)["cranking_rpm"])

    def test_a_slow_pump_is_told_its_prime_time(self):
        told = told_of("key_1", {"rail_kpa": 300.0, "to_pressure_s": 2.2}, wanted_kpa=300.0)
        self.assertIn("let the pump run 3 s", told[0])
        self.assertEqual(told_of("fluids", {}, wanted_kpa=300.0), ())


class StandInTests(SimpleTestCase):
    def test_nothing_comes_with_the_key_off(self):
        stand = Stand().set(1.0)
        self.assertEqual(sum(map(len, stand.rows)), 0)
        stand.set(1.0, key=True)
        self.assertGreater(sum(map(len, stand.rows)), 10)

    def test_without_plugs_it_turns_quicker_fires_nothing_and_builds_oil_pressure(self):
        for engine in NAMED.values():
            with self.subTest(engine.key):
                with_plugs = Stand(engine, fresh=True).set(2.0, key=True, injection=False)
                with_plugs.set(4.0, starter=True)
                without = Stand(engine, fresh=True).set(2.0, key=True, plugs_out=True)
                without.set(8.0, starter=True)
                quick, slow = (np.median(s.channels()["rpm"][-25:]) for s in (without, with_plugs))
                self.assertGreater(quick, 1.04 * slow)
                self.assertLess(without.channels()["rpm"].max(), 330.0)
                oil = without.channels()["oil_pressure_kpa"]
                self.assertLess(oil[:60].max(), 10.0)  # dry galleries fill first
                self.assertGreater(oil[-1], 30.0)

    def test_it_starts_idles_revs_takes_loads_and_stops_by_the_kill_switch(self):
        for engine in NAMED.values():
            with self.subTest(engine.key):
                # A cold wet manifold floods when its pedal is let go at once.
                cold = 40.0 if engine.spec.wet_manifold else 20.0
                stand = Stand(engine, coolant=cold).started()
                target = stand.last("idle_target_rpm")
                self.assertAlmostEqual(stand.last("rpm"), target, delta=150)
                stand.set(4.0, throttle_pct=8.0)
                self.assertGreater(stand.last("rpm"), 1500)
                stand.set(5.0, throttle_pct=0.0)
                stand.set(8.0, loads=("gear", "lamps"))
                self.assertAlmostEqual(stand.last("rpm"), target, delta=250)
                stand.set(4.0, injection=False, ignition=False)
                self.assertEqual(stand.last("rpm"), 0.0)

    def test_every_load_that_is_offered_slows_the_engine(self):
        stand = Stand(coolant=85.0).started(20.0)
        held = {"idle_valve_pct": stand.last("idle_valve_pct"), "lock_timing_deg": 12.0}
        free = stand.set(5.0, **held).last("rpm")
        for load in LOADS:
            with self.subTest(load):
                self.assertLess(stand.set(4.0, loads=(load,)).last("rpm"), free - 20)
                stand.set(5.0, loads=())

    def test_each_fault_shows_where_it_should(self):
        seen = {
            "no_oil_pressure": lambda s: s.started().last("oil_pressure_kpa") < 10,
            "low_oil_pressure": lambda s: s.started().last("oil_pressure_kpa") < 70,
            "charging": lambda s: s.started().last("battery_v") > 15,
            "leak_down": lambda s: readings_now(s.set(14.0, key=True).channels())["fall_kpa"] > 60,
            "bogus_wideband": lambda s: np.ptp(s.started(20.0).channels(18.0)["lambda"]) == 0.0,
            "air_leak": lambda s: (
                s.started(45.0).last("idle_valve_pct")
                < Stand().started(45.0).last("idle_valve_pct") - 5
            ),
        }
        for fault, shows in seen.items():
            with self.subTest(fault):
                self.assertTrue(shows(Stand(faults=[fault])))
                if fault != "air_leak":
                    self.assertFalse(shows(Stand()))
        self.assertLessEqual(set(seen), set(LIVE_FAULTS))

    def test_a_base_timing_that_is_off_shows_at_the_light_and_costs_speed(self):
        off, true = Stand(faults=[Fault("base_timing", -8.0)]).started(), Stand().started()
        for stand, wanted in ((off, -8.0), (true, 0.0)):
            seen, locked = stand.set(0.2, lock_timing_deg=12.0).source.light()
            self.assertAlmostEqual(seen - locked, wanted, delta=1.0)
        held = {"idle_valve_pct": 40.0, "lock_timing_deg": 14.0}
        self.assertLess(off.set(6.0, **held).last("rpm"), true.set(6.0, **held).last("rpm") - 50)
        with self.assertRaisesRegex(InputRefused, "Lock the timing"):
            true.set(0.1, lock_timing_deg=None).source.light()

    def test_a_return_that_sticks_comes_to_rest_apart(self):
        rests = []
        stand = Stand(faults=["sticking_return"]).set(1.0, key=True)
        for _ in range(6):
            stand.set(0.3, throttle_pct=20.0)
            rests.append(stand.set(0.3, throttle_pct=0.0).last("throttle_pct"))
        self.assertGreater(np.ptp(rests), 0.5)

    def test_a_leak_at_one_port_leans_that_cylinder_alone(self):
        # What the sensor sees is the mean of four; the manifold pressure hardly moves.
        leaky, sound = (
            Stand(faults=f).started(25.0).set(6.0, idle_valve_pct=45.0)
            for f in (["port_leak"], [])
        )  # fmt: skip
        mean = [float(np.mean(s.channels()["lambda"][-100:])) for s in (leaky, sound)]
        self.assertGreater(mean[0], mean[1] + 0.03)

    def test_the_same_hands_give_the_same_samples(self):
        first, again = Stand(seed=4).started(3.0), Stand(seed=4).started(3.0)
        np.testing.assert_array_equal(np.concatenate(first.rows), np.concatenate(again.rows))

    def test_air_in_is_air_burnt(self):
        # Conservation of mass, no source: what flows past the throttle leaves through the cylinders.
        stand = Stand(coolant=85.0).started(20.0)
        plant = stand.source._plant
        came_g, drawn_g, breathe = 0.0, [], plant.breathe
        plant.breathe = lambda seconds: drawn_g.append(breathe(seconds)) or drawn_g[-1]
        for _ in range(400):
            before_s, rate_gps = plant.time_s, plant.air_inflow_gps(plant.time_s)
            plant.event()
            came_g += rate_gps * (plant.time_s - before_s)
        self.assertEqual(len(drawn_g), 400)
        self.assertAlmostEqual(came_g / sum(drawn_g), 1.0, delta=0.01)

    def test_impossible_beginnings_are_refused(self):
        for setup, word in (
            ({"faults": ["sabotage"]}, "no fault 'sabotage'"),
            ({"coolant": 300.0}, "coolant_c"),
            ({"valve": ValveHardware(opens_pct=70.0, full_pct=72.0)}, "at least 10 %"),
            ({"stop": 9.0}, "stop"),
        ):
            with self.subTest(setup), self.assertRaisesRegex(InputRefused, word):
                Stand(**setup)


class LiveSweepTests(SimpleTestCase):
    def drive(self, stand, plan, held=True):
        """Step the valve as the host of a session does; return the sweep and its log."""
        begin = stand.last("time_s")
        run = SweepRun(plan, begin, stand.last("idle_valve_pct"), stand.last("rpm"))
        if held:
            stand.set(lock_timing_deg=stand.last("spark_deg"))
        while run.state == "running":
            duty = run.duty_pct(stand.last("time_s"), stand.last("rpm"))
            stand.set(0.5, idle_valve_pct=duty)
            stand.rows = [np.concatenate(stand.rows)]
        return run, Trace(stand.channels(begin))

    def test_limits_of_all_kinds_of_valve(self):
        # Drawn apart from those of the idle's own tests: other limits, other engines.
        for engine, valve in (
            ("port_four", ValveHardware("two_wire", 19.0, 71.0, 2.0)),
            ("throttle_body_v8", ValveHardware("three_wire", 27.0, 80.0)),
            ("twin_rotor", ValveHardware("stepper", 12.0, 66.0)),
            ("port_four", ValveHardware("electronic_throttle", 15.0, 85.0, 1.0)),
        ):
            with self.subTest(valve.kind):
                stand = Stand(NAMED[engine], 85.0, valve=valve, stop=2.1).started(15.0)
                run, trace = self.drive(stand, SweepPlan())
                found = fit_sweep(trace.channels)
                self.assertEqual(run.state, "done")
                self.assertTrue(found.told, found.sentences)
                self.assertAlmostEqual(found.minimum_pct, valve.opens_pct, delta=2.5)
                self.assertAlmostEqual(found.maximum_pct, valve.full_pct, delta=2.5)

    def test_a_spark_that_leaves_its_idle_region_is_seen_and_nothing_is_told(self):
        valve = ValveHardware("stepper", 12.0, 66.0)
        stand = Stand(NAMED["twin_rotor"], 85.0, valve=valve, stop=1.9).started(15.0)
        _, trace = self.drive(stand, SweepPlan(), held=False)
        found = fit_sweep(trace.channels)
        self.assertFalse(found.told)
        self.assertIn("Speed jumps between", found.sentences[0])

    def test_a_stall_ends_it(self):
        stand = Stand(coolant=85.0, stop=0.2).started(12.0)
        run, _ = self.drive(stand, SweepPlan(step_pct=10.0, dwell_s=3.0))
        self.assertEqual(run.state, "stalled")
        self.assertIn("stalled", run.sentence)

    def test_a_standing_engine_and_a_plan_that_is_none_are_refused(self):
        for plan, rpm, word in (
            (SweepPlan(), 0.0, "Start the engine first"),
            (SweepPlan(low_pct=50.0, high_pct=52.0), 900.0, "at least two steps"),
            (SweepPlan(step_pct=0.0), 900.0, "A step"),
            (SweepPlan(step_pct=1.0, dwell_s=60.0), 900.0, "half an hour"),
        ):
            with self.subTest(word), self.assertRaisesRegex(InputRefused, word):
                SweepRun(plan, 0.0, 30.0, rpm)
