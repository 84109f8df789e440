"""Throttle steps, fuel on the walls, acceleration enrichment and overrun cut."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED
from inbetrieb_core.bench.drive import Leg, drawn_legs, simulate_drive
from inbetrieb_core.errors import LogRefused
from inbetrieb_core.fuelling import propose, sift, solve_map
from inbetrieb_core.logs import Trace
from inbetrieb_core.transients import (
    Drive,
    film_response,
    fit_film,
    into_cylinder,
    prepared,
    propose_enrichment,
    read_overrun,
    read_transients,
    throttle_steps,
    written_into,
)

from tests.examples import few

ENGINE = NAMED["port_four"]
STEP_S = 0.02


def stepped(seed, count=12):
    """Return pedals that open quickly and close slowly, drawn."""
    draw = np.random.default_rng(seed)
    legs = []
    for _ in range(count):
        rpm, low = float(draw.choice([1800, 2500, 3200])), float(draw.choice([3, 5, 7]))
        opens = float(draw.choice([8, 16, 30]))
        legs += [
            Leg(rpm, low, 5.0),
            Leg(rpm, low + opens, 5.5, float(draw.choice([0.15, 0.3, 0.8]))),
        ]
    return legs


def drawn_drive(share, time_s, *, late_s=0.0, steps=8, noise=0.004, hole=0.0, seed=0):
    """Return a drive whose walls are told: air steps in a first order, fuel follows air, no engine of ours."""
    draw = np.random.default_rng(seed)
    time = np.arange(0.0, 12.0 * steps + 8.0, STEP_S)
    pedal, air = np.full(time.shape, 5.0), np.full(time.shape, 1.0)
    for number in range(steps):
        at = 4.0 + 12.0 * number
        opens, quick = draw.uniform(6, 30), draw.uniform(0.1, 0.6)
        ramp = np.clip((time - at) / quick, 0, 1) - np.clip((time - at - 6.0) / 0.5, 0, 1)
        pedal += opens * ramp
        air += 0.06 * opens * ramp
    burnt = air.copy()
    film = share * time_s * air[0]
    for i in range(len(time)):  # the balance itself, step by step
        burnt[i] = (1 - share) * air[i] + film / time_s
        film += STEP_S * (share * air[i] - film / time_s)
    lean = np.log(air / burnt) + hole * (air > 1.3)
    error = np.interp(time - late_s, time, lean) + draw.normal(0, noise, len(time))
    return Drive(
        time, np.full(time.shape, 2400.0), pedal, 30.0 * air, np.full(time.shape, 88.0), error, 2.0 * air, air, np.zeros(time.shape)
    )  # fmt: skip


class FilmTests(SimpleTestCase):
    @settings(max_examples=few(40), deadline=None)
    @given(st.floats(0.02, 0.8), st.floats(0.1, 3.0))
    def test_a_step_answers_as_the_published_model_does(self, share, time_s):
        # C. F. Aquino, SAE 810494 (from memory): after a step 1 − X e^(−t/τ) goes into the cylinder.
        fuel = np.concatenate([np.zeros(1), np.ones(600)])
        burnt = into_cylinder(fuel, STEP_S, share, time_s)[1:]
        wanted = film_response(np.arange(600) * STEP_S, share, time_s)
        self.assertLess(np.abs(burnt - wanted).max(), 1e-9)
        # What was injected is burnt or lies on the walls.
        held = into_cylinder(np.full(50, 3.0), STEP_S, share, time_s)
        np.testing.assert_allclose(held, 3.0)

    def test_share_and_time_are_found_within_their_errors(self):
        draw, inside, told = np.random.default_rng(5), [], 0
        for seed in range(6):
            share, time_s = draw.uniform(0.12, 0.6), draw.uniform(0.15, 1.2)
            drive = drawn_drive(share, time_s, late_s=draw.uniform(-0.3, 0.3), seed=seed)
            film = fit_film([(drive, throttle_steps(drive))])
            told += film.is_told
            if film.is_told:
                self.assertAlmostEqual(film.share, share, delta=0.06 + 3 * film.share_error)
                self.assertLess(abs(film.time_s - time_s), 0.1 * time_s + 3 * film.time_error_s)
                inside.append(abs(film.share - share) <= 2 * film.share_error + 0.01)
        self.assertGreaterEqual(told, 5)
        self.assertGreater(np.mean(inside), 0.6)

    def test_no_walls_and_few_steps_tell_nothing(self):
        dry = drawn_drive(0.0, 0.3)
        film = fit_film([(dry, throttle_steps(dry))])
        self.assertFalse(film.is_told)
        few_steps = drawn_drive(0.4, 0.5, steps=1)
        self.assertIn(
            "steps can be read", fit_film([(few_steps, throttle_steps(few_steps))]).sentence
        )


class StepTests(SimpleTestCase):
    def test_a_lean_spike_has_its_size_and_a_hole_in_the_map_is_none(self):
        drive = drawn_drive(0.4, 0.4)
        opened = [s for s in throttle_steps(drive) if s.to_pct > s.from_pct]
        self.assertEqual({s.verdict for s in opened}, {"lean"})
        self.assertTrue(all(s.spike_pct > 4.0 and 0.05 < s.lasts_s < 2.0 for s in opened))
        holed = throttle_steps(drawn_drive(0.4, 0.4, hole=0.12))
        self.assertEqual({s.verdict for s in holed}, {"not_yet"})
        found = read_transients([drawn_drive(0.4, 0.4, hole=0.12)])
        self.assertIn("the map first", found.sentence)
        self.assertIsNone(found.enrichment)
        self.assertEqual({s.verdict for s in throttle_steps(drawn_drive(0.01, 0.3))}, {"answered"})

    def test_what_is_missing_is_named_and_no_step_is_none(self):
        times = np.arange(0.0, 20.0, 0.1)
        base = {"time_s": times, "rpm": np.full(200, 2000.0), "lambda": np.ones(200)}
        with self.assertRaisesRegex(LogRefused, "missing: throttle_pct, pulse_ms, map_kpa"):
            prepared(Trace(base), generate(ENGINE.spec))
        still = {name: np.full(200, value) for name, value in (("throttle_pct", 5.0), ("pulse_ms", 3.0), ("map_kpa", 40.0))}  # fmt: skip
        found = read_transients([prepared(Trace({**base, **still}), generate(ENGINE.spec))])
        self.assertIn("hold a speed, open quickly", found.sentence)
        self.assertIn("No overrun", found.overrun.sentences[0])

    def test_the_proposal_halves_the_spikes_of_a_bench_engine(self):
        # Its walls have a law of their own: share, time with vacuum and vapour, and a manifold that fills.
        calibration = generate(ENGINE.spec)
        for seed in range(2):  # the map first
            legs = [*drawn_legs(ENGINE.spec, 4, seed), *stepped(30 + seed, 6)]
            table = calibration["ve"]
            readings = sift(simulate_drive(ENGINE, ENGINE.spec, calibration, legs, seed=seed), calibration).readings  # fmt: skip
            fit = solve_map(readings, [axis.points for axis in table.axes])
            calibration = calibration.with_table(
                replace(table, values=propose(table, fit, authority=0.3).values)
            )

        def read(tables, seed):
            trace = simulate_drive(
                ENGINE, ENGINE.spec, tables, stepped(seed, 7), seed=seed, authority_pct=0
            )
            drive = prepared(trace, tables)
            return drive, [s for s in throttle_steps(drive) if s.verdict != "not_yet"]

        drive, steps = read(calibration, 1)
        film = fit_film([(drive, steps)])
        self.assertTrue(film.is_told, film.sentence)
        enrichment = propose_enrichment(film, [(drive, steps)])
        better = written_into(calibration, enrichment, "transients 1")
        spikes = [
            np.mean([max(0.0, s.spike_pct) for s in read(tables, 7)[1] if s.to_pct > s.from_pct])
            for tables in (calibration, better)
        ]
        print(f"\nlean spikes of a bench engine: {spikes[0]:.1f} % before, {spikes[1]:.1f} % after")
        self.assertLess(spikes[1], 0.65 * spikes[0])
        self.assertEqual(np.diff(enrichment.percent).min() > 0, True)


class OverrunTests(SimpleTestCase):
    def drive(self, *, bucks=0.0, cut=True):
        time = np.arange(0.0, 40.0, STEP_S)
        shut = (time > 10) & (time < 16)
        rpm = np.interp(time, [0, 10, 16, 17, 40], [3000, 3000, 1700, 2500, 2500])
        rpm = rpm + bucks * np.sin(2 * np.pi * 4 * time) * ((time > 10.8) & (time < 12.5))
        fuel = np.where((time > 10.8) & (time < 15.5) & cut, 0.0, np.where(shut, 0.45, 2.5))
        error = np.zeros(time.shape)
        return Drive(time, rpm, np.where(shut, 0.0, 12.0), np.where(shut, 20.0, 45.0), np.full(time.shape, 88.0), error, fuel, np.ones(time.shape), error)  # fmt: skip

    def test_where_it_begins_and_ends_and_whether_it_bucks(self):
        found = read_overrun(self.drive())
        self.assertEqual((found.overruns, found.cuts), (1, 1))
        self.assertAlmostEqual(found.delay_s, 0.8, delta=0.05)
        self.assertAlmostEqual(found.begins_rpm, 2827, delta=10)
        self.assertAlmostEqual(found.returns_rpm, 1808, delta=10)
        self.assertIsNone(found.bucks_rpm)
        self.assertIn("0.45 ms beyond dead time", " ".join(found.sentences))
        self.assertGreater(read_overrun(self.drive(bucks=120.0)).bucks_rpm, 80)
        self.assertIn("never cut", read_overrun(self.drive(cut=False)).sentences[0])


class ReturnOfFuelTests(SimpleTestCase):
    """Mixture after a cut, put in as a decay; walls that a cut dries are common practice, no source."""

    def drive(self, after, *, returns=4, noise=0.0, moves=False):
        time = np.arange(0.0, 14.0 * returns + 2.0, STEP_S)
        draw = np.random.default_rng(4)
        phase = np.mod(time, 14.0)
        cut = (phase > 4.0) & (phase < 7.0) & (time < 14.0 * returns)
        since = np.where((phase >= 7.0) & (time < 14.0 * returns), phase - 7.0, np.inf)
        # While it is cut, and shortly after, the exhaust is air and reads as lean as the sensor can.
        air = np.where(cut | (since < 0.3), 0.8, 0.0)
        error = air + after * np.exp(-since / 0.7) + noise * draw.standard_normal(time.size)
        pedal = np.where(cut, 0.0, 12.0 + 8.0 * (moves & (since < 1.0)))
        fuel = np.where(cut, 0.0, 2.2)
        whole = np.full(time.shape, 1.0)
        return Drive(time, 2200.0 * whole, pedal, 40.0 * whole, 88.0 * whole, error, fuel, whole, 0.0 * whole)  # fmt: skip

    def test_what_was_put_in_is_read(self):
        for after in (-0.25, 0.2, 0.35):
            found = read_overrun(self.drive(after, noise=0.02))
            self.assertEqual(found.returns_read, 4)
            within = np.linspace(0.5, 1.3, 41)
            expected = 100.0 * np.expm1(after * np.exp(-within / 0.7).mean())
            self.assertAlmostEqual(found.return_pct, expected, delta=2.0)
            said = f"too {'lean' if after > 0 else 'rich'} for a second"
            self.assertIn(said, " ".join(found.sentences))

    def test_a_mixture_that_stays_is_called_so_and_few_returns_say_nothing(self):
        self.assertIn("stays where it belongs", " ".join(read_overrun(self.drive(0.0, noise=0.02)).sentences))  # fmt: skip
        few_returns = read_overrun(self.drive(0.3, returns=2))
        self.assertIsNone(few_returns.return_pct)
        self.assertNotIn("As fuel returns", " ".join(few_returns.sentences))

    def test_a_pedal_that_opens_meanwhile_makes_a_spike_of_its_own(self):
        self.assertEqual(read_overrun(self.drive(0.3, moves=True)).returns_read, 0)
