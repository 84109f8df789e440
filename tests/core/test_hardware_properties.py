"""What must hold for any sensor and any injector: curves turn round nowhere, and come back."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.injectors import DeadTimeCurve, differential_pressure_kpa, flow_at_pressure
from inbetrieb_core.injectors.flow import cm3_per_minute, duty_pct, pounds_per_hour
from inbetrieb_core.sensors.entry import LinearEntry, SensorEntry, TableEntry, ThermistorEntry
from inbetrieb_core.sensors.sheet import sensor_sheet, value_table
from inbetrieb_core.sensors.thermistor import beta_curve, divider_ohm, divider_v
from inbetrieb_core.sensors.transfers import Table, linear_from_points

from tests.examples import asked

many = settings(max_examples=asked(80), deadline=None, suppress_health_check=list(HealthCheck))


@st.composite
def rising_pairs(draw, low, high, first, last, least=2, most=9):
    """Draw points whose both members rise, well apart."""
    count = draw(st.integers(least, most))
    x = sorted(draw(st.lists(st.integers(0, 400), min_size=count, max_size=count, unique=True)))
    y = sorted(draw(st.lists(st.integers(0, 400), min_size=count, max_size=count, unique=True)))
    return [
        (low + (high - low) * a / 400.0, first + (last - first) * b / 400.0)
        for a, b in zip(x, y, strict=True)
    ]


class TableTransferTests(SimpleTestCase):
    @many
    @given(rising_pairs(0.1, 4.9, 0.0, 250.0, least=3), st.booleans(), st.floats(0.0, 1.0))
    def test_it_meets_its_points_turns_nowhere_and_comes_back(self, points, falls, share):
        if falls:
            points = [(x, 250.0 - y) for x, y in points]
        curve = Table(tuple(points), "V")
        for signal, value in points:
            self.assertAlmostEqual(curve.value(signal), value, places=7)
        signals = np.linspace(*curve.known, 60)
        values = np.array([curve.value(float(s)) for s in signals])
        steps = np.diff(values) * (-1.0 if falls else 1.0)
        self.assertGreaterEqual(float(steps.min()), -1e-9)
        at = curve.known[0] + share * (curve.known[1] - curve.known[0])
        self.assertAlmostEqual(
            curve.value(curve.signal(curve.value(at))), curve.value(at), places=5
        )

    @many
    @given(rising_pairs(0.1, 4.9, -40.0, 300.0, least=2, most=6))
    def test_a_line_through_many_points_is_that_of_least_squares(self, points):
        line = linear_from_points(points, "V")
        slope, offset = np.polyfit(*np.array(points).T, 1)
        self.assertAlmostEqual(line.slope, slope, delta=1e-6 * (1.0 + abs(slope)))
        self.assertAlmostEqual(line.offset, offset, delta=1e-5 * (1.0 + abs(offset)))
        self.assertAlmostEqual(sum(line.residuals), 0.0, places=6)


class ThermistorTests(SimpleTestCase):
    @many
    @given(
        st.floats(10.0, 40.0),
        st.floats(500.0, 20_000.0),
        st.floats(2500.0, 4500.0),
        st.floats(-35.0, 130.0),
    )
    def test_beta_is_its_definition(self, at, ohm, beta, celsius):
        """R = R₀·exp(β·(1/T − 1/T₀)): IEC 60539-1."""
        expected = ohm * math.exp(beta * (1.0 / (celsius + 273.15) - 1.0 / (at + 273.15)))
        curve = beta_curve(at, ohm, beta)
        self.assertAlmostEqual(curve.resistance_ohm(celsius) / expected, 1.0, places=6)
        self.assertAlmostEqual(curve.temperature_c(expected), celsius, places=5)

    @given(st.floats(10.0, 1e6), st.floats(100.0, 1e5), st.floats(3.0, 5.5))
    def test_the_divider_is_ohms_law_and_comes_back(self, ohm, pull_up, supply):
        volts = divider_v(ohm, pull_up, supply)
        self.assertAlmostEqual(volts, supply * ohm / (ohm + pull_up), places=9)
        self.assertAlmostEqual(divider_ohm(volts, pull_up, supply) / ohm, 1.0, places=6)

    @many
    @given(
        st.floats(600.0, 6000.0),
        st.floats(3000.0, 4200.0),
        st.sampled_from([1000.0, 2490.0, 4700.0]),
    )
    def test_colder_is_a_higher_voltage_whatever_the_pull_up(self, ohm, beta, pull_up):
        entry = SensorEntry(
            "coolant", "drawn", ThermistorEntry("thermistor", pull_up, ((20.0, ohm),), beta_k=beta)
        )
        transfer = entry.made()
        volts = [transfer.signal(float(c)) for c in range(-30, 121, 10)]
        self.assertEqual(volts, sorted(volts, reverse=True))
        for celsius in (-20.0, 20.0, 90.0):
            self.assertAlmostEqual(transfer.value(transfer.signal(celsius)), celsius, places=4)


class SheetTests(SimpleTestCase):
    @many
    @given(rising_pairs(0.2, 4.8, 15.0, 300.0, least=2, most=2))
    def test_a_sheet_of_any_pressure_sensor_is_finite_and_in_order(self, points):
        entry = SensorEntry(
            "manifold_pressure", "drawn", LinearEntry("linear", points=tuple(points))
        )
        try:
            sheet = sensor_sheet(entry)
        except InputRefused as refused:
            self.assertTrue(all(p.sentence.endswith(".") for p in refused.problems))
            return
        signals = [point.signal for point in sheet.curve]
        self.assertEqual(signals, sorted(signals))
        self.assertTrue(all(math.isfinite(point.value) for point in sheet.curve))
        for resolution in sheet.resolutions:
            self.assertGreater(resolution.step, 0.0)

    def test_finer_converters_resolve_four_times_finer(self):
        """Twelve bit against ten: 4095 counts to 1023 (definition)."""
        steps = {}
        for bits in (10, 12):
            entry = SensorEntry("manifold_pressure", "x", LinearEntry("linear", points=((0.4, 20.0), (4.65, 250.0))), adc_bits=bits)  # fmt: skip
            steps[bits] = min(r.step for r in sensor_sheet(entry).resolutions)
        self.assertAlmostEqual(steps[10] / steps[12], 4095 / 1023, places=3)

    @many
    @given(rising_pairs(0.3, 4.7, 5.0, 60.0, least=3, most=7))
    def test_a_value_table_reads_as_the_curve_does(self, points):
        entry = SensorEntry(
            "fuel_level", "drawn", TableEntry("table", tuple(points)), capacity_l=70.0
        )
        try:
            transfer = entry.made()
        except InputRefused:
            return
        for row in value_table(entry, "signal", [1.0, 2.0, 3.0]):
            self.assertAlmostEqual(row.value, transfer.value(row.at), places=6)


class InjectorTests(SimpleTestCase):
    @given(st.floats(50.0, 2000.0), st.floats(200.0, 500.0), st.floats(100.0, 900.0))
    def test_flow_follows_the_root_of_pressure_both_ways(self, flow, rated, actual):
        """Bernoulli; four times the pressure, twice the flow."""
        self.assertAlmostEqual(flow_at_pressure(flow, rated, 4.0 * rated), 2.0 * flow, places=6)
        there = flow_at_pressure(flow, rated, actual)
        self.assertAlmostEqual(flow_at_pressure(there, actual, rated), flow, places=6)

    @given(st.floats(50.0, 2000.0), st.floats(650.0, 900.0))
    def test_pounds_an_hour_and_back(self, flow, density):
        """One pound is 453.59237 g (NIST SP 811)."""
        pounds = pounds_per_hour(flow, density)
        self.assertAlmostEqual(pounds, flow * density / 1000.0 * 60.0 / 453.59237, places=6)
        self.assertAlmostEqual(cm3_per_minute(pounds, density), flow, places=6)

    @given(st.floats(200.0, 600.0), st.floats(20.0, 200.0))
    def test_a_referenced_rail_keeps_its_difference(self, rail, manifold):
        barometric = 100.0
        kept = differential_pressure_kpa(rail, manifold, barometric, manifold_referenced=True)
        self.assertAlmostEqual(kept, rail, places=6)
        falls = differential_pressure_kpa(rail, manifold, barometric, manifold_referenced=False)
        self.assertAlmostEqual(falls, rail + barometric - manifold, places=6)

    @many
    @given(rising_pairs(7.0, 16.0, 0.4, 4.0, least=3, most=7), st.floats(6.0, 18.0))
    def test_dead_time_never_rises_with_voltage(self, points, volt):
        volts = tuple(x for x, _ in points)
        times = tuple(sorted((y for _, y in points), reverse=True))
        assume(len(set(times)) == len(times))
        curve = DeadTimeCurve(volts, times)
        values = [float(v) for v in curve.on_axis([8.0, 10.0, 12.0, 13.0, 14.0, 15.0])[0]]
        self.assertEqual(values, sorted(values, reverse=True))
        self.assertTrue(all(v >= 0.0 for v in values))

    @given(st.floats(0.5, 30.0), st.floats(500.0, 9000.0))
    def test_duty_is_open_time_over_the_time_there_is(self, pulse, rpm):
        """One injection in 720°: 120 000/rpm ms (geometry)."""
        self.assertAlmostEqual(
            duty_pct(pulse, rpm, 1, 2), 100.0 * pulse / (120_000.0 / rpm), places=6
        )
