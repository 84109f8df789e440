"""The hot idle against bench engines whose valves, loops and troubles are drawn."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.air import flow_function
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import (
    NAMED,
    IdleLoops,
    IdleTrouble,
    ValveHardware,
    simulate_idle,
    sweep_duty,
)
from inbetrieb_core.charge import speed_density_gps
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.idle import (
    Closing,
    IdleFacts,
    StepResponse,
    StopReading,
    ValveFlow,
    air_step,
    carried_air,
    closings_of,
    fit_sweep,
    habits,
    idle_spark,
    judge_hunting,
    judge_idle_air,
    judge_load,
    judge_return,
    judge_stop,
    load_in_log,
    load_onset,
    loop_gains,
    mixture_cost,
    step_response,
    warm_idle,
)

from tests.examples import asked

KINDS = ("two_wire", "three_wire", "stepper", "electronic_throttle")
ENGINE = NAMED["port_four"]
TABLES = generate(ENGINE.spec)
V8 = NAMED["throttle_body_v8"]
V8_TABLES = generate(V8.spec)


def swept(valve, seed=0, dwell_s=5.0, step_pct=5.0, stop=2.0):
    middle = 0.5 * (valve.opens_pct + valve.full_pct)
    duty, seconds = sweep_duty(step_pct=step_pct, dwell_s=dwell_s, begin_pct=middle)
    log = simulate_idle(
        ENGINE, ENGINE.spec, TABLES, valve=valve, loops=IdleLoops(spark_gain=0.0), commanded=duty,
        trouble=IdleTrouble(stop=stop), seconds=seconds, seed=seed,
    )  # fmt: skip
    return log.channels


def idling(engine=ENGINE, tables=TABLES, seed=0, loops=None, trouble=None, seconds=40.0):
    return simulate_idle(
        engine, engine.spec, tables, loops=loops, trouble=trouble, seconds=seconds, seed=seed
    ).channels


class SweepTests(SimpleTestCase):
    def test_limits_hysteresis_and_direction_of_drawn_valves(self):
        draw = np.random.default_rng(41)
        off, held = [], 0
        for number in range(10):
            valve = ValveHardware(
                KINDS[number % 4], float(draw.uniform(5.0, 34.0)), float(draw.uniform(62.0, 94.0)),
                float(draw.choice([0.0, 2.0, 5.0])), bool(draw.random() < 0.4), float(draw.uniform(0.85, 1.15)),
            )  # fmt: skip
            found = fit_sweep(swept(valve, number))
            with self.subTest(valve=valve):
                self.assertTrue(found.told, found.sentences)
                self.assertEqual(found.inverted, valve.inverted)
                self.assertAlmostEqual(found.hysteresis_pct, valve.sticks_pct, delta=1.5)
            for told, width, truth in (
                (found.minimum_pct, found.minimum_error_pct, valve.opens_pct),
                (found.maximum_pct, found.maximum_error_pct, valve.full_pct),
            ):
                off.append(abs(told - truth))
                held += abs(told - truth) <= max(2.0, 1.5 * width)
        print(
            f"\nsweep: limits off by {np.median(off):.1f} %, most {max(off):.1f} %, of {len(off)}"
        )
        self.assertGreaterEqual(np.mean(np.array(off) <= 2.0), 0.9)
        self.assertGreaterEqual(held, 0.9 * len(off))

    def test_says_what_it_cannot_tell_instead_of_guessing(self):
        valve = ValveHardware()
        good = swept(valve, 1)
        few = {k: v[(good["time_s"] < 24.0)] for k, v in good.items()}
        moved = {**good, "throttle_pct": np.linspace(0.0, 8.0, good["rpm"].size)}
        for channels, words in (
            (swept(valve, 2, dwell_s=1.0), "too short"),
            (few, "openings are in it"),
            (moved, "throttle moved"),
            ({**good, "rpm": good["rpm"] * 0.0 + 800.0}, "does not reach the air"),
        ):
            found = fit_sweep(channels)
            with self.subTest(words=words):
                self.assertFalse(found.told)
                self.assertIn(words, found.sentences[0])
        stalled = fit_sweep(swept(valve, 3, stop=0.2))
        self.assertIsNone(stalled.minimum_pct)
        self.assertIn("stalled at", " ".join(stalled.sentences))
        with self.assertRaises(LogRefused):
            fit_sweep({"time_s": good["time_s"], "rpm": good["rpm"]})

    def test_an_end_that_was_not_reached_is_not_told(self):
        channels = swept(ValveHardware(opens_pct=20.0, full_pct=80.0), 4)
        low = channels["idle_valve_pct"] < 60.0
        found = fit_sweep({k: v[low] for k, v in channels.items()})
        self.assertIsNone(found.maximum_pct)
        self.assertIn("upper end was not reached", " ".join(found.sentences))

    def test_the_loop_is_made_from_how_speed_follows(self):
        channels = swept(ValveHardware(), 5)
        gains = step_response(channels).gains()
        quick = IdleLoops(gains.integral_pct_per_rpm_s, gains.direct_pct_per_rpm)
        found = judge_hunting(idling(loops=quick))
        self.assertFalse(found.hunting, found.sentences)
        with self.assertRaises(InputRefused):
            loop_gains(math.nan, 1.0)


class NoIdleTests(SimpleTestCase):
    def test_a_log_without_an_idle_says_what_it_holds_instead(self):
        log = idling()
        for changed, words in (
            ({"rpm": log["rpm"] * 0.0}, "it does not run"),
            ({"rpm": log["rpm"] + 2000.0}, "faster than 2200 1/min"),
            ({"throttle_pct": 30.0 * (np.arange(log["rpm"].size) % 2)}, "let it idle longer"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(LogRefused, words):
                judge_hunting({**log, **changed})


class StopTests(SimpleTestCase):
    def test_following_it_ends_within_the_band_in_three_turns(self):
        """Truth: air through stop and valve, a screw whose pitch nobody knows."""
        draw = np.random.default_rng(7)
        most = 0
        for _ in range(60):
            low, high = float(draw.uniform(0.0, 30.0)), float(draw.uniform(60.0, 100.0))
            inverted = bool(draw.random() < 0.3)
            needed, full = 1.0, float(draw.uniform(2.0, 3.6))
            stop = float(draw.uniform(-0.2, 0.98))
            per_turn = 0.55 * full * float(np.exp(draw.uniform(-0.9, 0.9)))
            readings: list[StopReading] = []
            turned = 0.0
            for tries in range(5):  # noqa: B007
                opening = min(1.0, max(0.0, (needed - stop) / full))
                duty = high - opening * (high - low) if inverted else low + opening * (high - low)
                readings.append(
                    StopReading(
                        duty + float(draw.normal(0.0, 0.4)) * (0 < duty < 99), 780.0, turned
                    )
                )
                advice = judge_stop(readings, minimum_pct=low, maximum_pct=high, inverted=inverted)
                if advice.is_true:
                    break
                turned = advice.by_turns if advice.turn == "open" else -advice.by_turns
                stop += turned * per_turn
            most = max(most, tries)
            self.assertTrue(advice.is_true, (readings, advice.sentences))
        self.assertLessEqual(most, 3)

    def test_an_end_is_a_mechanical_job_and_a_cold_engine_waits(self):
        self.assertIn("mechanical job", judge_stop([StopReading(100.0, 500.0)]).sentences[0])
        self.assertEqual(judge_stop([StopReading(40.0, 900.0, coolant_c=40.0)]).turn, "unknown")
        off = judge_stop([StopReading(40.0, 1200.0, target_rpm=800.0)])
        self.assertEqual(off.turn, "unknown")
        for bad in ([], [StopReading(math.nan, 800.0)], [StopReading(20.0, 9e9)]):
            with self.assertRaises(InputRefused):
                judge_stop(bad)
        with self.assertRaises(InputRefused):
            judge_stop([StopReading(20.0, 800.0)], minimum_pct=60.0, maximum_pct=40.0)


class ReturnTests(SimpleTestCase):
    def test_closings_are_found_in_a_log_and_judged(self):
        for rests, verdict in (
            ((0.0, 0.1, 0.05, 0.1, 0.0), "good"),
            ((0.0, 2.2, 0.4, 1.6, 0.1), "stop"),
        ):
            log = simulate_idle(
                ENGINE,
                ENGINE.spec,
                TABLES,
                seconds=54.0,
                rests_pct=rests,
                loops=IdleLoops(valve_integral=0.0),
            )
            found = closings_of(log.channels)
            self.assertGreaterEqual(len(found), 4)
            self.assertEqual(judge_return(found).verdict, verdict, judge_return(found).sentences)

    def test_few_tell_nothing_and_speed_alone_is_not_the_throttle(self):
        self.assertEqual(judge_return([Closing(0.0, 800.0)] * 3).verdict, "untold")
        speeds = [Closing(0.1, rpm) for rpm in (780.0, 900.0, 790.0, 860.0)]
        self.assertIn("The throttle itself comes back", judge_return(speeds).sentences[0])
        with self.assertRaises(InputRefused):
            judge_return([Closing(math.inf, 800.0)] * 4)


class HuntingTests(SimpleTestCase):
    def test_the_cause_is_right_and_a_steady_idle_raises_no_alarm(self):
        draw = np.random.default_rng(93)
        right = cases = alarms = 0
        for number in range(24):
            engine, tables = ((ENGINE, TABLES), (V8, V8_TABLES))[number % 2]
            what = (
                "none",
                "valve_loop",
                "spark_correction",
                "mixture_loop",
                "missing_cylinder",
                "load",
            )[number // 2 % 6]
            loops, trouble = IdleLoops(), IdleTrouble()
            if what == "valve_loop":
                loops = IdleLoops(float(draw.uniform(0.22, 0.4)), 0.0)
            elif what == "spark_correction":
                loops = IdleLoops(
                    spark_gain=float(draw.uniform(0.15, 0.3)),
                    spark_delay_s=float(draw.uniform(0.2, 0.35)),
                )
            elif what == "mixture_loop":
                loops = IdleLoops(mixture_gain=float(draw.uniform(200.0, 400.0)))
            elif what == "missing_cylinder":
                trouble = IdleTrouble(missing=float(draw.uniform(0.5, 1.0)))
            elif what == "load":
                trouble = IdleTrouble(
                    load_kpa=float(draw.uniform(14.0, 26.0)),
                    load_every_s=float(draw.uniform(7.0, 13.0)),
                )
            channels = idling(engine, tables, number, loops, trouble)
            if channels["rpm"].min() < 300.0:
                continue  # it died: nothing hunts
            found = judge_hunting(channels)
            if what == "none":
                alarms += found.hunting
                continue
            if not found.hunting and what != "missing_cylinder":
                self.assertLess(found.amplitude_rpm, 30.0)  # that is no hunting yet
                continue
            cases += 1
            right += found.cause == what
        print(f"\nhunting: cause right in {right} of {cases}, false alarms {alarms}")
        self.assertEqual(alarms, 0)
        self.assertGreaterEqual(cases, 10)
        self.assertGreaterEqual(right, 0.9 * cases)

    def test_the_rate_of_the_log_does_not_change_the_cause(self):
        for rate_hz in (5.0, 10.0, 50.0, 100.0):
            for cause, loops, trouble in (
                ("none", None, None),
                ("valve_loop", IdleLoops(0.3, 0.0), None),
                ("missing_cylinder", None, IdleTrouble(missing=0.8)),
            ):
                log = simulate_idle(
                    ENGINE,
                    ENGINE.spec,
                    TABLES,
                    loops=loops,
                    trouble=trouble,
                    rate_hz=rate_hz,
                    seed=2,
                )
                with self.subTest(rate_hz=rate_hz, cause=cause):
                    self.assertEqual(judge_hunting(log.channels).cause, cause)

    def test_a_period_is_that_of_the_swing(self):
        time = np.arange(0.0, 40.0, 0.05)
        noise = np.random.default_rng(3).normal(0.0, 4.0, time.size)
        for period in (0.8, 2.5, 6.0):
            swing = np.sin(2.0 * math.pi * time / period)
            channels = {
                "time_s": time, "rpm": 800.0 + 60.0 * swing + noise,
                "idle_valve_pct": 30.0 - 3.5 * np.cos(2.0 * math.pi * time / period),
            }  # fmt: skip
            found = judge_hunting(channels)
            self.assertTrue(found.hunting)
            self.assertEqual(found.cause, "valve_loop")
            self.assertAlmostEqual(found.period_s / period, 1.0, delta=0.1)
            self.assertAlmostEqual(found.amplitude_rpm, 60.0, delta=8.0)

    def test_what_it_cannot_read_is_said(self):
        with self.assertRaises(LogRefused):
            judge_hunting({"time_s": np.arange(100.0)})
        with self.assertRaises(LogRefused):
            judge_hunting({"time_s": np.arange(5.0), "rpm": np.full(5, 800.0)})


class AirTests(SimpleTestCase):
    def test_speed_density_is_the_ideal_gas(self):
        """A worked example of the ideal gas: 2.0 l, full of standard air, 1000 rpm: from memory."""
        spec = NAMED["port_four"].spec
        gps = speed_density_gps(spec, 100.0, 1000.0, 101.325, 15.0)
        self.assertAlmostEqual(gps, spec.displacement_l * 1.225 * 500.0 / 60.0, delta=0.01 * gps)

    def test_air_in_is_air_burnt_and_a_leak_is_named_within_its_width(self):
        draw = np.random.default_rng(5)
        told = held = 0
        for _ in range(300):
            true, leak = float(draw.uniform(1.0, 4.0)), float(draw.choice([0.0, 0.1, 0.5]))
            metered = true * (1.0 - leak)
            seen = judge_idle_air(
                true * float(np.exp(draw.normal(0.0, 0.06))),
                meter_gps=metered * (1.0 + 0.02 * float(draw.normal())),
            )
            if leak == 0.0:
                self.assertFalse(seen.leaks and seen.unmetered_gps < seen.unmetered_error_gps)
            if leak == 0.5:
                told += seen.leaks
                held += abs(seen.unmetered_gps - leak * true) <= seen.unmetered_error_gps
        self.assertGreater(told, 90)
        self.assertGreaterEqual(held, 0.9 * told)
        self.assertFalse(judge_idle_air(2.0, meter_gps=1.75).told)  # below a fifth
        self.assertIn("not told", " ".join(judge_idle_air(2.0).sentences))

    def test_orifice_flow_follows_the_isentropic_relation(self):
        """Against the compressible-flow relation in its Mach form (NACA report 1135, eq. 44 and 57)."""
        gamma = 1.4

        def by_mach(mach):
            return mach * (1.0 + 0.2 * mach**2) ** -3.0

        for ratio in (0.55, 0.7, 0.85, 0.95, 0.99):
            mach = math.sqrt(5.0 * (ratio ** (-(gamma - 1.0) / gamma) - 1.0))
            self.assertAlmostEqual(flow_function(ratio), by_mach(mach) / by_mach(1.0), delta=0.004)

    @given(
        st.lists(st.floats(0.0, 100.0), min_size=1, max_size=12),
        st.floats(0.5, 20.0),
        st.booleans(),
    )
    @settings(deadline=None, max_examples=asked(60))
    def test_carried_air_is_the_same_flow_wherever_the_other_can_give_it(
        self, openings, most, falls
    ):
        here = ValveFlow((0.0, 40.0, 100.0), (0.2, 3.0, 9.0))
        flows = (most, 0.1) if falls else (0.1, most)
        found = carried_air(openings, here, ValveFlow((0.0, 255.0), flows))
        there = ValveFlow((0.0, 255.0), flows)
        for flow, opening, short in zip(
            found.flows_gps, found.openings, found.short_gps, strict=True
        ):
            self.assertAlmostEqual(there.flow_at(opening) + short, flow, delta=0.011)
        for bad in (((0.0,), (1.0,)), ((0.0, 1.0), (1.0, 1.0)), ((0.0, 1.0), (math.nan, 1.0))):
            with self.assertRaises(InputRefused):
                carried_air([1.0], ValveFlow(*bad), here)


class RestTests(SimpleTestCase):
    def test_loads_in_a_log_and_by_hand(self):
        time = np.arange(0.0, 20.0, 0.1)
        rpm = np.where((time > 10.0) & (time < 11.5), 560.0, 800.0)
        found = load_in_log("gear", {"time_s": time, "rpm": rpm}, 10.0)
        self.assertAlmostEqual(found.dip_rpm, 240.0)
        self.assertAlmostEqual(found.recovers_s, 1.5, delta=0.2)
        self.assertEqual(found.verdict, "attention")
        self.assertEqual(judge_load("lamps_and_fan", 800.0, 770.0, 0.5).verdict, "good")
        self.assertTrue(judge_load("gear", 800.0, 0.0, None).stalled)
        with self.assertRaises(InputRefused):
            judge_load("gear", math.nan, 0.0, None)

    def test_a_load_is_found_where_speed_shows_it(self):
        rng = np.random.default_rng(4)
        for at_s, depth, back_s in rng.uniform((6, 45, 0.5), (25, 400, 3), (30, 3)):
            time = np.arange(0.0, 40.0, 1.0 / rng.integers(8, 30))
            falls = np.clip((time - at_s) / 0.4, 0.0, 1.0) * np.exp(
                -np.clip(time - at_s - 0.4, 0, None) / back_s
            )
            rpm = 820.0 - depth * falls + rng.normal(0.0, 4.0, len(time))
            rpm[rng.random(len(time)) < 0.02] = np.nan
            self.assertAlmostEqual(
                load_onset("gear", {"time_s": time, "rpm": rpm}), at_s, delta=0.4
            )
            found = load_in_log("gear", {"time_s": time, "rpm": rpm})
            self.assertAlmostEqual(found.dip_rpm, depth, delta=0.12 * depth + 12)
        with self.assertRaisesRegex(LogRefused, "never falls by more than 30 rpm"):
            load_in_log("gear", {"time_s": time, "rpm": rng.normal(820.0, 4.0, len(time))})

    def test_coming_to_a_stop_begins_where_idle_is_passed(self):
        time = np.arange(0.0, 30.0, 0.1)
        rpm = np.interp(time, [0, 8, 12, 12.8, 14], [2400, 2400, 850, 620, 850])
        channels = {"time_s": time, "rpm": rpm}
        found = load_in_log("coming_to_a_stop", channels)
        self.assertAlmostEqual(found.dip_rpm, 230.0, delta=5)
        self.assertAlmostEqual(load_onset("coming_to_a_stop", channels), 12.0, delta=0.2)
        with self.assertRaisesRegex(LogRefused, "never comes down"):
            load_in_log("coming_to_a_stop", {"time_s": time, "rpm": np.full(len(time), 850.0)})

    def test_spark_and_steps_of_air(self):
        clean, lopey = idle_spark(ENGINE.spec, 0.0), idle_spark(ENGINE.spec, 1.0)
        self.assertEqual((max(clean.correction_deg), max(lopey.correction_deg)), (5.0, 35.0))
        self.assertEqual(clean.correction_deg[4], 0.0)
        factors = air_step(np.array([-20.0, 20.0, 60.0, 85.0, 100.0]), 85.0, "bigger_cam").factors
        self.assertAlmostEqual(factors[3], 1.2)
        self.assertEqual(factors[0], 1.0)
        self.assertGreater(factors[2], 1.0)

    def test_one_verdict_needs_all_that_the_ladder_stands_on(self):
        steady, back = judge_hunting(idling()), judge_return([Closing(0.1, 800.0)] * 4)
        stop = judge_stop([StopReading(27.0, 800.0)])
        self.assertFalse(warm_idle(IdleFacts()).is_true)
        true = IdleFacts(stop, back, None, None, steady)
        self.assertTrue(warm_idle(true).is_true)
        self.assertTrue(
            warm_idle(IdleFacts(None, back, None, None, steady), has_valve=False).is_true
        )
        for facts in (
            IdleFacts(judge_stop([StopReading(99.0, 800.0)]), back, None, None, steady),
            IdleFacts(stop, back, None, None, steady, stale=frozenset({"hunting"})),
            IdleFacts(stop, back, None, judge_idle_air(3.0, meter_gps=1.2), steady),
        ):
            found = warm_idle(facts)
            self.assertEqual((found.is_true, found.is_refused), (False, True))


class HabitTests(SimpleTestCase):
    def test_leaner_saves_fuel_up_to_a_point_and_always_costs_air(self):
        air, fuel = mixture_cost(0.94, 1.05)
        self.assertGreater(air, 1.0)
        self.assertLess(fuel, 1.0)
        self.assertGreater(mixture_cost(1.1, 1.25)[1], 1.0)
        self.assertEqual(mixture_cost(0.95, 0.95), (1.0, 1.0))

    def test_the_follower_goes_by_what_the_sweep_told_and_the_fan_by_its_settings(self):
        told = {h.key: h.sentence for h in habits(StepResponse(30.0, 0.5, 0.3), 90.0, 85.0)}
        self.assertIn("10 % further open", told["follower"])
        self.assertIn("far enough apart", told["fan"])
        untold = {h.key: h.sentence for h in habits(None, 83.0, 81.5)}
        self.assertIn("valve sweep first", untold["follower"])
        self.assertIn("to and fro", untold["fan"])
