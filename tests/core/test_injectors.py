"""Injector arithmetic against hand calculation, unit conversion and facts of the trade."""

import math

import pint
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.air import air_per_chamber_g
from inbetrieb_core.errors import CoreError, OutOfRangeError
from inbetrieb_core.fuel import Fuel
from inbetrieb_core.injectors import (
    ASSUMED_DEAD_TIME,
    DeadTimeCurve,
    cm3_per_minute,
    differential_pressure_kpa,
    duty_pct,
    flow_at_pressure,
    pounds_per_hour,
    reference_pulse_ms,
)


class PressureTests(SimpleTestCase):
    def test_square_root_law(self):
        # Bernoulli: four times the pressure, twice the flow.
        self.assertAlmostEqual(flow_at_pressure(440.0, 300.0, 1200.0), 880.0)
        self.assertAlmostEqual(flow_at_pressure(440.0, 300.0, 300.0), 440.0)

    def test_reference_of_the_regulator(self):
        self.assertEqual(differential_pressure_kpa(300, 40, 100, manifold_referenced=True), 300)
        self.assertEqual(differential_pressure_kpa(300, 40, 100, manifold_referenced=False), 360)
        # Boost eats into the flow of an unreferenced rail.
        self.assertEqual(differential_pressure_kpa(300, 180, 100, manifold_referenced=False), 220)

    def test_refuses_no_rating(self):
        with self.assertRaises(OutOfRangeError):
            flow_at_pressure(440.0, 0.0, 300.0)
        with self.assertRaises(OutOfRangeError):
            flow_at_pressure(440.0, 300.0, -1.0)


class FlowUnitTests(SimpleTestCase):
    def test_a_pound_an_hour(self):
        # 1 lb/h is about 10.5 cm³/min at 0.72 g/cm³: common practice, no source.
        self.assertAlmostEqual(cm3_per_minute(1.0, 720.0), 10.5, delta=0.01)

    def test_matches_pint(self):
        ureg = pint.UnitRegistry()
        flow = ureg.Quantity(440.0, "cm^3/min") * ureg.Quantity(745.0, "kg/m^3")
        self.assertAlmostEqual(
            pounds_per_hour(440.0, 745.0), flow.to("lb/hour").magnitude, places=9
        )

    @given(st.floats(1.0, 5000.0), st.floats(600.0, 900.0))
    def test_there_and_back(self, flow, density):
        self.assertTrue(math.isclose(cm3_per_minute(pounds_per_hour(flow, density), density), flow))


class ReferencePulseTests(SimpleTestCase):
    @given(
        st.floats(0.3, 8.0),
        st.integers(1, 8),
        st.integers(1, 2),
        st.floats(100.0, 2000.0),
        st.floats(0.0, 1.0),
    )
    def test_delivers_exactly_the_fuel_for_the_air(self, litres, count, injections, flow, ethanol):
        """Conservation: what all injectors pass in a cycle burns the cycle's air at lambda 1."""
        fuel = Fuel(ethanol)
        pulse = reference_pulse_ms(
            displacement_l=litres,
            injector_count=count,
            injections_per_cycle=injections,
            flow_cm3_min=flow,
            fuel=fuel,
        )
        fuel_g = pulse / 60_000.0 * flow * count * injections * fuel.density_kg_m3 / 1000.0
        air_g = air_per_chamber_g(100.0, 100.0, litres, 293.15)
        self.assertTrue(math.isclose(fuel_g * fuel.stoichiometric_afr, air_g, rel_tol=1e-9))

    def test_two_injections_halve_the_pulse(self):
        def pulse(injections):
            return reference_pulse_ms(
                displacement_l=2.0,
                injector_count=4,
                injections_per_cycle=injections,
                flow_cm3_min=400.0,
                fuel=Fuel(),
            )

        self.assertAlmostEqual(pulse(2), pulse(1) / 2)

    def test_refuses_no_flow(self):
        for flow, count in ((0.0, 4), (400.0, 0), (math.nan, 4)):
            with self.subTest(flow=flow, count=count), self.assertRaises(OutOfRangeError):
                reference_pulse_ms(
                    displacement_l=2.0,
                    injector_count=count,
                    injections_per_cycle=1,
                    flow_cm3_min=flow,
                    fuel=Fuel(),
                )


class DutyTests(SimpleTestCase):
    def test_four_stroke_formula(self):
        # pulse · rpm · injections / 1200: common practice, no source. 20 ms at 6000 rpm is full.
        self.assertAlmostEqual(duty_pct(20.0, 6000.0, 1), 100.0)
        self.assertAlmostEqual(duty_pct(10.0, 6000.0, 2), 100.0)

    def test_a_rotor_has_half_the_time(self):
        self.assertAlmostEqual(duty_pct(10.0, 6000.0, 1, turns_per_cycle=1), 100.0)


class DeadTimeTests(SimpleTestCase):
    CURVE = DeadTimeCurve((8.0, 10.0, 12.0, 14.0), (2.6, 1.7, 1.2, 0.9))

    def test_data_are_kept_and_marked(self):
        values, origins = self.CURVE.on_axis((8.0, 9.0, 14.0, 16.0, 6.5))
        self.assertEqual(values[0], 2.6)
        self.assertEqual(values[2], 0.9)
        self.assertEqual(origins, ("data", "interpolated", "data", "extrapolated", "extrapolated"))
        self.assertTrue(2.6 > values[1] > 1.7)
        self.assertLess(values[3], 0.9)
        self.assertGreater(values[4], 2.6)

    def test_several_times_longer_at_low_voltage(self):
        # Several times longer at 7 V than at 14 V: common practice, no source.
        low, usual = ASSUMED_DEAD_TIME.on_axis((7.0, 14.0))[0]
        self.assertGreater(low / usual, 2.5)

    @given(
        st.lists(st.floats(0.05, 4.0), min_size=2, max_size=8, unique=True),
        st.lists(st.floats(5.0, 18.0), min_size=1, max_size=20),
    )
    def test_a_falling_curve_stays_falling_and_within_its_data(self, times, axis):
        times = sorted(times, reverse=True)
        curve = DeadTimeCurve(tuple(7.0 + i for i in range(len(times))), tuple(times))
        axis = sorted(axis)
        values, origins = curve.on_axis(tuple(axis))
        for before, after in zip(values, values[1:], strict=False):
            self.assertGreaterEqual(before, after - 1e-9)
        for value, origin in zip(values, origins, strict=True):
            if origin == "interpolated":
                self.assertTrue(times[-1] - 1e-9 <= value <= times[0] + 1e-9)
            self.assertGreaterEqual(value, 0.0)

    def test_one_point_is_held(self):
        values, origins = DeadTimeCurve((12.0,), (1.1,)).on_axis((8.0, 16.0))
        self.assertEqual((values, origins), ((1.1, 1.1), ("held", "held")))

    def test_names_where_it_rises(self):
        self.assertEqual(DeadTimeCurve((8.0, 10.0), (1.0, 1.2)).rising_points(), (10.0,))
        self.assertEqual(self.CURVE.rising_points(), ())

    def test_refuses_what_is_no_curve(self):
        for volts, times in (
            ((8.0,), (1.0, 2.0)),
            ((), ()),
            ((10.0, 8.0), (1.0, 2.0)),
            ((8.0,), (-1.0,)),
            ((8.0,), (math.nan,)),
        ):
            with self.subTest(volts=volts), self.assertRaises(CoreError):
                DeadTimeCurve(volts, times)
