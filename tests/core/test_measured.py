"""What a log measured: curves that follow it, limits on either side, rich or lean."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.starts import POINTS, StartSetting, judge_log
from inbetrieb_core.starts.acceptance import acceptance_of
from inbetrieb_core.starts.measured_curve import curve_changes
from inbetrieb_core.starts.model import StartFigures
from inbetrieb_core.tables import Provenance, apply

from .engines import FOUR
from .traces import RIGHT_MIXTURE, start_trace

CALIBRATION = generate(FOUR)
TABLE = CALIBRATION["warm_up_enrichment"]
MARK = Provenance("assumed", "for the test")
few = settings(max_examples=40, deadline=None)
places = st.lists(st.floats(-20.0, 70.0), min_size=3, max_size=25)


class CurveTests(SimpleTestCase):
    """Invariants of taking a curve from readings; the truth is put in by the test."""

    @few
    @given(places, st.floats(0.8, 1.3))
    def test_interpolated_values_follow_what_was_measured(self, at, factor):
        at_c = np.array(at)
        wanted = np.array([TABLE.at(c) * factor for c in at])
        after = apply(TABLE, curve_changes(TABLE, at_c, wanted), MARK)
        read = np.array([after.at(c) for c in at])
        self.assertLess(float(np.median(np.abs(read / wanted - 1.0))), 0.03)

    @few
    @given(places)
    def test_a_curve_that_is_right_stays(self, at):
        wanted = np.array([TABLE.at(c) for c in at])
        for change in curve_changes(TABLE, np.array(at), wanted):
            self.assertAlmostEqual(change.before, change.after, places=6)

    def test_a_cell_at_the_border_is_not_flung_the_other_way(self):
        """Readings from 8 to 17 °C that fall away from the table say little of 0 °C, and nothing more."""
        at_c = np.linspace(8.0, 17.0, 30)
        wanted = np.array([TABLE.at(c) for c in at_c]) * np.linspace(0.94, 0.88, 30)
        moves = {c.at[0]: c.after / c.before for c in curve_changes(TABLE, at_c, wanted)}
        self.assertLess(moves[10.0], 1.0)
        self.assertLess(moves[20.0], 1.0)
        self.assertLess(moves.get(0.0, 1.0), 1.005)

    @few
    @given(places, st.randoms())
    def test_the_order_of_readings_does_not_matter(self, at, chance):
        pairs = [(c, TABLE.at(c) * 1.1) for c in at]
        mixed = pairs.copy()
        chance.shuffle(mixed)
        results = [
            {c.index: c.after for c in curve_changes(TABLE, *map(np.array, zip(*p, strict=True)))}
            for p in (pairs, mixed)
        ]
        self.assertEqual(set(results[0]), set(results[1]))
        for index, value in results[0].items():
            self.assertAlmostEqual(value, results[1][index], places=5)

    @few
    @given(places, st.floats(0.0, 50.0))
    def test_cells_that_no_reading_touched_and_bounds_are_kept(self, at, factor):
        at_c = np.array(at)
        wanted = np.array([TABLE.at(c) * factor for c in at])
        points = TABLE.axes[0].points
        for change in curve_changes(TABLE, at_c, wanted):
            self.assertTrue(TABLE.definition.lower <= change.after <= TABLE.definition.upper)
            i = change.index[0]
            left, right = points[max(i - 1, 0)], points[min(i + 1, len(points) - 1)]
            self.assertTrue(((at_c >= left) & (at_c <= right)).any())

    def test_nothing_measured_changes_nothing(self):
        self.assertEqual(curve_changes(TABLE, np.array([]), np.array([])), ())


class AcceptanceTests(SimpleTestCase):
    """The limits of an acceptable start, on either side (common practice, no source)."""

    FINE = StartFigures(
        coolant_c=20.0, target_rpm=950.0, run_after_s=1.0, flare_rpm=1250.0, dip_rpm=900.0,
        idle_off_rpm=20.0, mixture_off=0.01,
    )  # fmt: skip
    #: Figure, its point, a value inside with margin, one at the edge, one outside.
    LIMITS = (
        ("run_after_s", "run", 1.39, 1.45, 1.51),
        ("flare_rpm", "flare", 1365.0, 1390.0, 1401.0),
        ("dip_rpm", "dip", 725.0, 705.0, 699.0),
        ("idle_off_rpm", "idle", -69.0, -75.0, -81.0),
        ("mixture_off", "mixture", 0.044, 0.047, 0.051),
    )

    def test_each_limit(self):
        self.assertTrue(acceptance_of("started", self.FINE).accepted)
        for figure, point, inside, edge, outside in self.LIMITS:
            with self.subTest(point=point):
                seen = [
                    acceptance_of("started", replace(self.FINE, **{figure: value}))
                    for value in (inside, edge, outside, None)
                ]
                self.assertTrue(seen[0].accepted)
                self.assertEqual(seen[1].at_edge, (point,))
                self.assertEqual(seen[2].failed, (point,))
                self.assertEqual(seen[3].unseen, (point,))
                self.assertFalse(any(one.accepted for one in seen[1:]))

    def test_frost_is_given_a_second_more(self):
        cold = replace(self.FINE, coolant_c=-6.0, run_after_s=2.3)
        self.assertTrue(acceptance_of("started", cold).accepted)
        self.assertEqual(acceptance_of("started", replace(cold, coolant_c=-4.0)).failed, ("run",))

    def test_outcomes(self):
        for verdict, points in (
            ("started and died", ("stall",)), ("started on the pedal", ("run",)), ("no fire", ("run",)),
        ):  # fmt: skip
            self.assertEqual(acceptance_of(verdict, self.FINE).failed, points)
        self.assertEqual(POINTS, ("run", "stall", "flare", "dip", "idle", "mixture"))


class CrankingTests(SimpleTestCase):
    """Fuel that does not burn adds up on the walls (common practice, no source)."""

    def advice(self, points):
        trace = start_trace(points, rate=25.0, **RIGHT_MIXTURE)
        return judge_log(trace, CALIBRATION, StartSetting(FOUR)).advice[0]

    def direction(self, points):
        (change, *_) = self.advice(points).changes
        return 1 if change.after > change.before else -1

    CRANK = ((0, 0), (2, 0), (2.15, 220))

    def test_what_caught_at_last_was_lean(self):
        late = [
            *self.CRANK,
            (5.0, 230),
            (5.3, 700),
            (6.0, 1250),
            (8.0, 1000),
            (10.0, 985),
            (47, 975),
        ]
        self.assertEqual(self.direction(late), 1)
        self.assertIn("caught at last", self.advice(late).reason)

    def test_charges_that_burned_early_and_then_no_more_were_rich(self):
        early = [*self.CRANK, (2.5, 225), (2.7, 330), (2.9, 225), (9.0, 224), (9.3, 0), (11, 0)]
        self.assertEqual(self.direction(early), -1)

    def test_charges_that_burned_only_late_were_lean(self):
        late = [*self.CRANK, (8.0, 225), (8.3, 330), (8.6, 225), (9.0, 224), (9.3, 0), (11, 0)]
        advice = self.advice(late)
        self.assertTrue(all(change.after > change.before for change in advice.changes))

    def test_the_later_it_ran_the_larger_the_step(self):
        steps = []
        for lost in (0.0, 0.8, 2.0):
            tail = [(4.0, 230), (4.3, 700), (5.0, 1250), (7.0, 1000), (9.0, 985), (46, 975)]
            points = [*self.CRANK, *((t + lost, n) for t, n in tail)]
            change = self.advice(points).changes[0]
            steps.append(change.after / change.before)
        self.assertEqual(steps, sorted(steps))
        self.assertGreater(steps[-1], 1.2)
        self.assertLess(steps[-1], 1.6)
