"""The sheet to type from: units and rounding, what changed, few values for a curve, other loads."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.basemaps.held import held_tables
from inbetrieb_core.errors import CoreError
from inbetrieb_core.sentences import plain
from inbetrieb_core.tables import DEFINITIONS, Provenance, apply
from inbetrieb_core.tables.controller_form import controller_form, offered_units
from inbetrieb_core.tables.edits import CellChange
from inbetrieb_core.tables.evidence import hits
from inbetrieb_core.tables.three_points import fit_points
from inbetrieb_core.tables.transfer import HeldTable, transfer_sheet

from tests.examples import asked

from .engines import FOUR

THREE = (-7.0, 18.0, 77.0)


def with_change(calibration, key, index, to):
    table = calibration[key]
    change = CellChange(index, (), float(table.values[index]), to)
    return calibration.with_table(apply(table, [change], Provenance("measured", "tried")))


def sheet(before, after, held, spec=FOUR):
    old = None if before is None else held_tables(before, spec)
    return {t.key: t for t in transfer_sheet(old, held_tables(after, spec), held)}


class FormTests(SimpleTestCase):
    def test_published_conversions(self):
        # Stoichiometric air–fuel ratio of petrol 14.7 (memory); 1 ms = 1000 µs; °F = 1.8·°C + 32;
        # 1 psi = 6.894757 kPa (NIST SP 811).
        for key, unit, value, shown in (
            ("lambda_target", "AFR", 0.9, 13.2),
            ("dead_time", "µs", 1.234, 1234.0),
            ("closed_loop_coolant", "°F", 70.0, 158.0),
            ("boost_cut", "psi", 170.0, 24.5),
            ("boost_cut", "bar", 170.0, 1.7),
            ("ve", "factor", 87.5, 0.875),
        ):
            step = {"AFR": 0.1, "µs": 1.0, "°F": 1.0, "psi": 0.5, "bar": 0.01, "factor": 0.001}[
                unit
            ]
            form = controller_form(key, unit, step)
            with self.subTest(key=key, unit=unit):
                self.assertTrue(form.known)
                self.assertAlmostEqual(form.shown(value), shown, places=6)
                self.assertIn(unit, offered_units(key))

    @settings(max_examples=asked(100), deadline=None)
    @given(st.floats(0.6, 1.3), st.sampled_from([0.001, 0.005, 0.01, 0.02]))
    def test_what_is_stored_is_within_half_a_step(self, value, step):
        form = controller_form("lambda_target", "lambda", step)
        self.assertLessEqual(abs(form.stored(value) - value), 0.5 * step + 1e-9)
        self.assertAlmostEqual(form.shown(form.stored(value)), form.shown(value))

    def test_an_unknown_unit_stays_canonical_and_is_said(self):
        form = controller_form("ve", "furlong", 1.0)
        self.assertEqual((form.known, form.unit), (False, "%"))
        calibration = generate(FOUR)
        table = sheet(None, calibration, {"ve": HeldTable(form)})["ve"]
        self.assertIn("not known", table.sentences[0])


class ChangeTests(SimpleTestCase):
    def setUp(self):
        self.calibration = generate(FOUR)
        self.held = {key: HeldTable(controller_form(key)) for key in DEFINITIONS}

    def test_the_first_sheet_is_everything_and_the_next_only_what_changed(self):
        first = sheet(None, self.calibration, self.held)
        self.assertEqual(set(first), set(self.calibration.tables))
        self.assertTrue(all(table.whole for table in first.values()))
        self.assertEqual(sheet(self.calibration, self.calibration, self.held), {})
        changed = with_change(self.calibration, "ve", (4, 5), 99.0)
        only = sheet(self.calibration, changed, self.held)
        self.assertEqual(list(only), ["ve"])
        (cell,) = only["ve"].cells
        self.assertEqual((cell.index, cell.value), ((4, 5), 99.0))
        self.assertAlmostEqual(cell.before, float(self.calibration["ve"].values[4, 5]))
        self.assertEqual(only["ve"].same, self.calibration["ve"].values.size - 1)

    def test_a_change_smaller_than_the_controllers_step_is_nothing_to_type(self):
        held = {"ve": HeldTable(controller_form("ve", "%", 1.0))}
        value = round(float(self.calibration["ve"].values[4, 5]))
        before = with_change(self.calibration, "ve", (4, 5), float(value))
        self.assertEqual(sheet(before, with_change(before, "ve", (4, 5), value + 0.3), held), {})
        self.assertIn("ve", sheet(before, with_change(before, "ve", (4, 5), value + 0.8), held))

    def test_other_breakpoints_mean_the_whole_table(self):
        other = generate(FOUR, {"map_kpa": [20, 60, 100]})
        table = sheet(self.calibration, other, self.held)["ve"]
        self.assertTrue(table.whole)
        self.assertIn("breakpoints changed", " ".join(table.sentences))

    def test_a_table_without_room_in_the_controller_is_said_first(self):
        held = {"ve": HeldTable(controller_form("ve"), (), (12, 12))}
        table = sheet(None, self.calibration, held)["ve"]
        self.assertTrue(table.too_large)
        self.assertIn("room for 12 × 12", table.sentences[0])

    def test_learned_trims_are_never_typed(self):
        self.assertNotIn("learned_trim", held_tables(self.calibration, FOUR))


class ThreePointTests(SimpleTestCase):
    def fit(self, key="cranking_fuel", points=THREE, step=1.0):
        table = generate(FOUR)[key]
        form = controller_form(key, DEFINITIONS[key].unit, step)
        return table, fit_points(table.axes[0].points, np.asarray(table.values), points, form)

    def test_residuals_are_what_the_controller_would_read(self):
        for key in ("prime_pulse", "cranking_fuel", "warm_up_enrichment", "idle_target"):
            table, fit = self.fit(key)
            self.assertEqual(len(fit.residuals), len(table.axes[0].points))
            for residual in fit.residuals:
                given = float(np.interp(residual.at_c, fit.points_c, fit.values))
                self.assertAlmostEqual(residual.given, given, places=6)
                self.assertAlmostEqual(residual.error, given - table.at(residual.at_c), places=6)

    def test_no_other_three_values_fit_better_within_the_temperatures(self):
        """Least squares: moving any value by a step makes the weighted error larger."""
        table, fit = self.fit(step=0.1)
        at = np.array(table.axes[0].points)
        edges = np.concatenate(([at[0]], (at[1:] + at[:-1]) / 2.0, [at[-1]]))
        weight = np.where((at < -7.0) | (at > 77.0), 0.05, 1.0) * np.diff(edges)

        def error(values):
            return float((weight * (np.interp(at, THREE, values) - table.values) ** 2).sum())

        best = error(fit.values)
        for i in range(3):
            for by in (-2.0, 2.0):
                moved = list(fit.values)
                moved[i] += by
                self.assertGreater(error(moved), best)

    def test_a_curve_that_is_three_points_already_is_met_exactly(self):
        calibration = generate(replace(FOUR, schools=replace(FOUR.schools, curve="three_point")))
        form = controller_form("cranking_fuel")
        held = {"cranking_fuel": HeldTable(form, THREE)}
        table = sheet(None, calibration, held)["cranking_fuel"]
        self.assertIsNone(table.fit)
        for cell, value in zip(table.cells, calibration["cranking_fuel"].values, strict=True):
            self.assertAlmostEqual(cell.value, value, places=6)

    def test_values_stay_within_the_curve_and_one_point_is_refused(self):
        table, fit = self.fit("warm_up_enrichment")
        self.assertTrue(
            all(table.values.min() <= v <= table.values.max() + 1.0 for v in fit.values)
        )
        with self.assertRaises(CoreError):
            self.fit(points=(20.0,))

    def test_what_is_off_is_said_within_and_beyond(self):
        held = {"cranking_fuel": HeldTable(controller_form("cranking_fuel", "%", 1.0), THREE)}
        said = plain(" ".join(sheet(None, generate(FOUR), held)["cranking_fuel"].sentences))
        self.assertIn("between −7 and 77 °C", said)
        self.assertIn("Beyond that", said)


class LoadTests(SimpleTestCase):
    def school(self, **schools):
        return replace(FOUR, schools=replace(FOUR.schools, **schools))

    def test_a_target_outside_the_fuel_equation_is_worked_into_the_table(self):
        calibration = generate(FOUR)
        held = held_tables(calibration, self.school(target="outside"))["ve"]
        pressures = calibration["ve"].axes[1].points
        for n, p in ((900.0, pressures[2]), (4300.0, pressures[-1])):
            i, j = (
                calibration["ve"].axes[0].points.index(n),
                pressures.index(p),
            )
            # The fuel is the same: VE / lambda.
            self.assertAlmostEqual(
                held.values[i, j],
                calibration["ve"].at(n, p) / calibration["lambda_target"].at(n, p),
            )
        self.assertIn("÷ lambda", held.note)

    def test_throttle_tables_rise_with_throttle_and_end_at_full_load(self):
        calibration = generate(FOUR)
        held = held_tables(calibration, self.school(load="throttle_angle"))
        fuel = held["ve"]
        self.assertEqual(fuel.axes[1].unit, "%")
        self.assertTrue((np.diff(fuel.values, axis=1) >= -1e-6).all())
        full = calibration["ve"].values[:, -1]
        self.assertTrue((np.abs(fuel.values[:, -1] / full - 1.0) < 0.06).all())
        self.assertLess(held["spark"].values[8, -1], held["spark"].values[8, 2])

    def test_a_meter_takes_the_place_of_the_fuel_table(self):
        held = held_tables(generate(FOUR), self.school(load="mass_flow"))
        self.assertNotIn("ve", held)
        axis = held["spark"].axes[1]
        self.assertEqual(axis.unit, "mg")
        # 0.55 l at 100 kPa, 20 °C and 93 % is about 610 mg (ideal gas).
        self.assertAlmostEqual(axis.points[-1], 0.935 * 550.0 * 1.188, delta=15.0)


class EvidenceTests(SimpleTestCase):
    def test_hits_sum_to_the_samples_within_and_lie_where_the_log_was(self):
        axes = generate(FOUR)["ve"].axes
        between = 0.5 * (axes[1].points[1] + axes[1].points[2])
        found = hits(axes, [np.full(40, 900.0), np.full(40, between)])
        self.assertAlmostEqual(found.sum(), 40.0)
        self.assertEqual(np.count_nonzero(found), 2)
        self.assertAlmostEqual(found[2, 1], 20.0)

    def test_samples_beyond_or_missing_count_nothing(self):
        axes = generate(FOUR)["ve"].axes
        found = hits(axes, [np.array([9000.0, np.nan, 900.0]), np.array([50.0, 50.0, np.inf])])
        self.assertEqual(found.sum(), 0.0)
        self.assertEqual(hits(axes[:1], [np.array([])]).shape, (16,))
