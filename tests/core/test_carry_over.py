"""Carrying another engine's tables over, how near engines are, and moving breakpoints."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.basemaps.carry import carry_over, not_carried
from inbetrieb_core.basemaps.nearest import distance, distance_parts
from inbetrieb_core.bench import NAMED
from inbetrieb_core.bench.examples import example_calibration
from inbetrieb_core.engine import InjectorSet
from inbetrieb_core.tables import Provenance, Table, filled, make_axis
from inbetrieb_core.tables.align import aligned
from inbetrieb_core.tables.reaxe import interpolated, reaxe

from tests.examples import asked

from .engines import FOUR, ROTORS, SMALL_FOUR, V8_ETHANOL, plausible_engines


def scaled(calibration, key, factor):
    table = calibration[key]
    values = np.clip(table.values * factor, table.definition.lower, table.definition.upper).round(3)
    mark = filled(values.shape, Provenance("measured", "found on the road"))
    return calibration.with_table(Table(key, table.axes, values, mark))


class CarryTests(SimpleTestCase):
    def test_two_equal_engines_carry_every_value_over_as_it_is(self):
        source = scaled(scaled(generate(FOUR), "ve", 1.06), "cranking_fuel", 1.3)
        result = carry_over(generate(FOUR), FOUR, source, FOUR, "the twin")
        for key in ("ve", "cranking_fuel", "idle_valve", "lambda_target", "idle_target"):
            off = np.abs(result.calibration[key].values - source[key].values)
            self.assertLessEqual(off.max(), 0.51 * source[key].definition.resolution + 1e-9, key)
            self.assertEqual(result.calibration[key].provenance.flat[0].kind, "carried_over")

    def test_other_injectors_rescale_the_prime_by_the_reference_pulse(self):
        """The same fuel through twice the flow takes half the time."""
        double = replace(FOUR, injectors=InjectorSet(4, 780.0))
        source = scaled(generate(FOUR), "prime_pulse", 1.2)
        carried = carry_over(generate(double), double, source, FOUR, "x").calibration
        for celsius in (-10.0, 10.0):
            self.assertAlmostEqual(
                carried.at_coolant("prime_pulse", celsius),
                source.at_coolant("prime_pulse", celsius) / 2.0,
                delta=0.11,
            )
        # Shares do not know the injector.
        self.assertAlmostEqual(
            carried.at_coolant("cranking_fuel", 0.0),
            source.at_coolant("cranking_fuel", 0.0),
            delta=0.2,
        )

    def test_a_found_departure_arrives_at_another_size_and_torque_peak(self):
        other = replace(SMALL_FOUR, torque_peak_rpm=5000.0, rev_limit_rpm=7000.0)
        source = scaled(generate(FOUR), "ve", 1.08)
        result = carry_over(generate(other), other, source, FOUR, "x")
        base = generate(other)["ve"]
        ratio = result.calibration["ve"].values / base.values
        self.assertAlmostEqual(float(np.median(ratio)), 1.08, delta=0.01)
        report = next(table for table in result.tables if table.key == "ve")
        self.assertIn("torque peaks", report.sentence)

    def test_what_belongs_to_the_other_engine_is_not_carried_and_said(self):
        result = carry_over(generate(FOUR), FOUR, generate(V8_ETHANOL), V8_ETHANOL, "x")
        not_taken = {table.key: table.sentence for table in result.tables if not table.carried}
        for key in ("dead_time", "dwell", "rev_limit", "closed_loop_authority", "after_start_fade"):
            self.assertIn(key, not_taken)
        self.assertIn("injectors", not_taken["dead_time"])
        self.assertIn("injector dead time", not_carried(result))
        rotor = carry_over(generate(FOUR), FOUR, generate(ROTORS), ROTORS, "x")
        self.assertIn("nothing in common", next(t for t in rotor.tables if t.key == "ve").sentence)

    def test_no_more_advance_is_carried_and_none_under_boost(self):
        boosted = replace(FOUR, induction="boosted", boost_kpa=80.0, compression_ratio=8.8)
        source = scaled(generate(FOUR), "spark", 1.3)
        mine = generate(boosted)
        carried = carry_over(mine, boosted, source, FOUR, "x").calibration["spark"]
        self.assertTrue((carried.values <= mine["spark"].values + 1e-9).all())
        less = scaled(generate(FOUR), "spark", 0.8)
        carried = carry_over(mine, boosted, less, FOUR, "x").calibration["spark"]
        self.assertTrue((carried.values[:, 9:] == mine["spark"].values[:, 9:]).all())
        self.assertLess(carried.values[8, 4], mine["spark"].values[8, 4])

    def test_wild_departures_are_held(self):
        source = scaled(generate(FOUR), "cranking_fuel", 5.0)
        result = carry_over(generate(FOUR), FOUR, source, FOUR, "x")
        ratio = result.calibration["cranking_fuel"].values / generate(FOUR)["cranking_fuel"].values
        self.assertLessEqual(ratio.max(), 2.01)
        self.assertIn("held", next(t for t in result.tables if t.key == "cranking_fuel").sentence)

    @settings(max_examples=asked(25), suppress_health_check=[HealthCheck.too_slow], deadline=None)
    @given(plausible_engines(), plausible_engines())
    def test_what_nobody_found_out_moves_nothing_between_any_two_engines(self, first, second):
        mine = generate(first)
        result = carry_over(mine, first, generate(second), second, "x")
        # Generated from data alone nothing was found out there, so nothing moves here.
        for key, table in result.calibration.tables.items():
            off = np.abs(table.values - mine[key].values)
            self.assertLessEqual(off.max(), 0.51 * table.definition.resolution, key)

    def test_shipped_examples_hold_what_their_engine_really_breathes(self):
        for engine in NAMED.values():
            calibration = example_calibration(engine)
            self.assertEqual(calibration["ve"].provenance.flat[0].kind, "measured")
            self.assertFalse((calibration["ve"].values == generate(engine.spec)["ve"].values).all())


class DistanceTests(SimpleTestCase):
    @settings(max_examples=asked(60), deadline=None)
    @given(plausible_engines(), plausible_engines())
    def test_is_a_distance(self, first, second):
        self.assertAlmostEqual(distance(first, first), 0.0)
        self.assertGreaterEqual(distance(first, second), 0.0)
        self.assertAlmostEqual(distance(first, second), distance(second, first))
        parts = distance_parts(first, second)
        self.assertAlmostEqual(sum(part.amount for part in parts), distance(first, second))

    def test_the_same_family_is_nearer_than_another_cycle(self):
        family = replace(FOUR, cam="wild", displacement_l=2.0)
        self.assertLess(distance(FOUR, family), distance(FOUR, V8_ETHANOL))
        petrol = replace(V8_ETHANOL, ethanol_volume_share=0.0)
        self.assertLess(distance(FOUR, petrol), distance(FOUR, ROTORS))

    def test_injectors_and_schools_count_nothing(self):
        other = replace(
            FOUR,
            injectors=InjectorSet(4, 900.0),
            schools=replace(FOUR.schools, curve="three_point"),
        )
        self.assertEqual(distance(FOUR, other), 0.0)


class ReaxeTests(SimpleTestCase):
    def setUp(self):
        self.table = generate(FOUR)["ve"]

    def test_more_breakpoints_lose_nothing(self):
        down, across = self.table.axes
        axes = [
            make_axis(a.name, sorted({*a.points, *(p + 3.0 for p in a.points[:-1])}))
            for a in (down, across)
        ]
        report = reaxe(self.table, axes)
        self.assertLessEqual(report.worst, 0.051)
        self.assertIn("nothing is lost", report.sentence)

    def test_the_worst_loss_is_exact(self):
        """Against a fine grid: the reported worst difference is never exceeded, and is reached."""
        axes = [make_axis(a.name, sorted({*a.points[::3], a.points[-1]})) for a in self.table.axes]
        report = reaxe(self.table, axes)
        fine = [np.linspace(a.points[0], a.points[-1], 400) for a in self.table.axes]
        off = np.abs(interpolated(report.table, fine) - interpolated(self.table, fine))
        self.assertLessEqual(off.max(), report.worst + 1e-9)
        self.assertGreater(off.max(), 0.9 * report.worst)
        self.assertAlmostEqual(
            abs(report.table.at(*report.worst_at) - self.table.at(*report.worst_at)), report.worst
        )

    @settings(max_examples=asked(60), deadline=None)
    @given(st.lists(st.integers(400, 7000), min_size=2, max_size=20, unique=True))
    def test_values_are_those_a_controller_reads(self, speeds):
        axes = (make_axis("rpm", sorted(map(float, speeds))), self.table.axes[1])
        report = reaxe(self.table, axes)
        for i, rpm in enumerate(axes[0].points):
            held = self.table.at(rpm, axes[1].points[3])
            self.assertAlmostEqual(report.table.values[i, 3], held, delta=0.051)

    def test_cells_beyond_the_old_axes_are_held_marked_and_counted(self):
        axes = (self.table.axes[0], make_axis("map_kpa", (20.0, 60.0, 100.0, 180.0)))
        report = reaxe(self.table, axes)
        self.assertEqual(report.outside, 16)
        self.assertEqual(report.table.mark((3, 3)).kind, "assumed")
        self.assertEqual(report.table.values[3, 3], self.table.values[3, -1])
        self.assertEqual(report.table.mark((3, 0)), self.table.mark((3, 0)))

    def test_start_tables_on_their_union_read_the_same_everywhere(self):
        first = generate(FOUR, {"coolant_c": [-20, 0, 30, 80]})
        second = generate(FOUR, {"coolant_c": [-10, 20, 90]})
        both = aligned([first["cranking_fuel"], second["idle_target"], second["ve"]])
        self.assertEqual(both["cranking_fuel"].axes, both["idle_target"].axes)
        for celsius in np.linspace(-30.0, 100.0, 60):
            self.assertAlmostEqual(
                both["cranking_fuel"].at(celsius), first["cranking_fuel"].at(celsius), places=4
            )
            self.assertAlmostEqual(
                both["idle_target"].at(celsius), second["idle_target"].at(celsius), places=4
            )
