"""The pump: its curve, the margin over the whole range, prime and residual pressure."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.engine import InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.logs import Trace
from inbetrieb_core.supply import (
    PUMPS,
    DeadTimeEntry,
    InjectorEntry,
    Line,
    PumpCurve,
    Supply,
    SupplyEntry,
    full_load,
    judge_decay,
    judge_prime,
    prime_readings,
    supply_margin,
    supply_sheet,
)

from .engines import FOUR

AXIS_V = (8.0, 10.0, 12.0, 14.0, 16.0)
DATA = DeadTimeEntry((8.0, 12.0, 14.0), ((2.4, 1.2, 0.9),))
ENTRY = InjectorEntry("Port injectors", 4, 390.0, dead_time=DATA, provenance="data_sheet")
TURBO = replace(FOUR, induction="boosted", boost_kpa=100.0, injectors=InjectorSet(4, 720.0))


def problems_of(case, action):
    with case.assertRaises(InputRefused) as refused:
        action()
    return {p.field: p.sentence for p in refused.exception.problems}


class PumpTests(SimpleTestCase):
    CURVE = PumpCurve(PUMPS[1].readings)

    def test_goes_through_its_readings_and_falls(self):
        for row in PUMPS[1].readings:
            self.assertAlmostEqual(
                self.CURVE.flow_l_h(row.voltage_v, row.pressure_kpa)[0], row.flow_l_h
            )
        flows = [self.CURVE.flow_l_h(13.0, p)[0] for p in range(150, 1300, 50)]
        self.assertEqual(flows, sorted(flows, reverse=True))
        self.assertEqual(flows[-1], 0.0)

    def test_beyond_its_data_is_said(self):
        self.assertFalse(self.CURVE.flow_l_h(12.7, 350.0)[1])
        self.assertTrue(self.CURVE.flow_l_h(10.0, 350.0)[1])
        self.assertTrue(self.CURVE.flow_l_h(13.5, 650.0)[1])

    def test_what_reaches_the_rail_balances_pump_and_line(self):
        supply = SupplyEntry("P", PUMPS[1].readings, line_loss_kpa=60.0, line_loss_at_l_h=150.0)
        margin = supply_sheet(FOUR, supply).margin
        flow = margin.lines[-1].available_l_h
        loss = 60.0 * (flow / 150.0) ** 2
        self.assertAlmostEqual(self.CURVE.flow_l_h(13.5, 300.0 + loss)[0], flow, places=3)
        self.assertAlmostEqual(margin.pump_pressure_kpa, 300.0 + loss, places=3)


class MarginTests(SimpleTestCase):
    def of(self, spec, pump=PUMPS[0], **more):
        return supply_margin(spec, Supply(PumpCurve(pump.readings), Line(), **more))

    def test_ethanol_needs_more_and_is_listed_beside_petrol(self):
        blend = replace(TURBO, ethanol_volume_share=0.85)
        petrol, own = self.of(blend).lines
        self.assertEqual((petrol.fuel, own.fuel), ("petrol", "85 % ethanol"))
        ratio = max(own.demand_l_h) / max(petrol.demand_l_h)
        self.assertGreater(ratio, 1.25)
        self.assertLess(ratio, 1.55)

    def test_where_it_ends_is_where_demand_crosses_supply(self):
        spec = replace(TURBO, ethanol_volume_share=0.85, boost_kpa=150.0)
        margin = self.of(spec)
        own = margin.lines[-1]
        self.assertEqual(margin.level, "short")
        self.assertIn("goes lean there", margin.sentences[0])
        at_end = full_load(spec, own.ends_at_rpm)
        self.assertAlmostEqual(at_end.fuel_l_h / own.available_l_h, 1.0, delta=0.02)
        self.assertLess(own.ends_at_boost_kpa, 150.0)

    def test_a_small_engine_has_plenty(self):
        margin = self.of(FOUR)
        self.assertEqual(margin.level, "good")
        self.assertIsNone(margin.lines[0].ends_at_rpm)
        self.assertIsNone(margin.lines[0].ends_at_boost_kpa)

    def test_without_a_return_the_line_is_missing_at_the_rail(self):
        dead_head = supply_margin(
            FOUR, Supply(PumpCurve(PUMPS[0].readings), Line(40.0, 50.0), returns=False)
        )
        most = max(dead_head.lines[-1].demand_l_h)
        self.assertAlmostEqual(dead_head.rail_drop_kpa, 40.0 * (most / 50.0) ** 2, places=6)
        self.assertEqual(dead_head.level, "attention")

    def test_boost_raises_what_the_pump_works_against_only_if_referenced(self):
        self.assertAlmostEqual(self.of(TURBO).pump_pressure_kpa, 400.0)
        fixed = replace(TURBO, manifold_referenced=False, rail_pressure_kpa=400.0)
        self.assertAlmostEqual(self.of(fixed).pump_pressure_kpa, 400.0)


class PrimeTests(SimpleTestCase):
    @given(st.floats(0.1, 2.0), st.floats(200.0, 450.0))
    def test_finds_the_time_constant_of_an_exponential_rise(self, tau, final):
        times = np.arange(0.0, 8 * tau, tau / 5)
        rows = [(float(t), float(final * (1 - math.exp(-t / tau)))) for t in times]
        result = judge_prime(rows, final)
        self.assertAlmostEqual(result.time_constant_s / tau, 1.0, delta=0.02)
        self.assertAlmostEqual(result.built_s / (tau * math.log(20.0)), 1.0, delta=0.03)
        self.assertGreaterEqual(result.prime_s, result.built_s + 0.5 - 1e-9)
        self.assertLess(result.prime_s, result.built_s + 1.01)

    def test_verdicts(self):
        def rise(final, tau):
            return [(t / 4, final * (1 - math.exp(-t / 4 / tau))) for t in range(1, 60)]

        self.assertEqual(judge_prime(rise(300, 0.4), 300).level, "good")
        self.assertIn("switch the key on twice", judge_prime(rise(300, 2.0), 300).sentence)
        self.assertEqual(judge_prime(rise(200, 0.4), 300).level, "fault")
        self.assertIn("regulator", judge_prime(rise(380, 0.4), 300).sentence)

    def test_from_a_log(self):
        time = np.arange(0.0, 6.0, 0.05)
        rail = np.where(time > 1.0, 300.0 * (1 - np.exp(-(time - 1.0) / 0.5)), 0.0)
        rows = prime_readings(Trace({"time_s": time, "fuel_pressure_kpa": rail}))
        self.assertLess(rows[0][0], 0.1)
        self.assertAlmostEqual(judge_prime(rows, 300.0).time_constant_s, 0.5, delta=0.05)
        with self.assertRaisesRegex(InputRefused, "does not rise"):
            prime_readings(Trace({"time_s": time, "fuel_pressure_kpa": 0 * time}))
        with self.assertRaisesRegex(InputRefused, "no fuel pressure"):
            prime_readings(Trace({"time_s": time, "rpm": 0 * time}))

    def test_refusals(self):
        for rows, words in (
            ([(0.0, 10.0)], "two readings"),
            ([(0.0, 10.0), (0.0, 20.0)], "same seconds"),
            ([(0.0, 0.1), (1.0, 3.0)], "bar"),
            ([(-1.0, 10.0), (1.0, 300.0)], "from 0 on"),
            ([(0.0, 300.0), (1.0, 250.0)], "does not rise"),
            ([(0.0, math.nan), (1.0, 250.0)], "plain numbers"),
        ):
            with self.subTest(words), self.assertRaisesRegex(InputRefused, words):
                judge_prime(rows, 300.0)


class DecayTests(SimpleTestCase):
    @staticmethod
    def fall(half):
        return [(t, 300.0 * 0.5 ** (t / half)) for t in (0.0, 0.5, 1.0, 2.0, 5.0, 10.0)]

    def test_half_life_and_verdict(self):
        for half, verdict in ((60.0, "good"), (8.0, "leak"), (0.4, "check_valve")):
            result = judge_decay(self.fall(half))
            with self.subTest(half=half):
                self.assertEqual(result.verdict, verdict)
                self.assertAlmostEqual(result.half_minutes / half, 1.0, delta=0.05)
        self.assertIn("clamp", judge_decay(self.fall(8.0)).sentence)
        self.assertIsNone(judge_decay([(0.0, 300.0), (10.0, 300.0)]).half_minutes)

    def test_refuses_a_rise(self):
        with self.assertRaisesRegex(InputRefused, "rises after key-off"):
            judge_decay([(0.0, 200.0), (5.0, 300.0)])
        with self.assertRaisesRegex(InputRefused, "Begin with"):
            judge_decay([(0.0, 18.0), (5.0, 14.0)])
