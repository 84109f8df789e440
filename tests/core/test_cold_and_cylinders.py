"""Cold driving kept apart from the warm map, trims per cylinder, what is left of readings, and short pulses."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.fuelling import (
    Rests,
    cold_readings,
    cold_told,
    cylinder_channel,
    cylinders_of,
    fingerprint,
    rests_of,
    sift,
    solve_map,
    trims_of,
    warmed_up,
)

from .test_fuelling import FOUR, TABLES, calm, drive, healthy

AXES = [axis.points for axis in TABLES["ve"].axes]
TARGET = 0.95


def cold_drive(need, seconds=500.0, warm_need=1.0):
    """A drive from 0 °C: the need over coolant [°C] has a form of its own, and shows as lambda over target."""
    coolant = lambda t: 85.0 - 85.0 * np.exp(-t / 160.0)  # noqa: E731
    reading = lambda t: TARGET * warm_need * need(coolant(t)) + 0.003 * np.sin(7.0 * t)  # noqa: E731
    return calm(seconds, coolant_c=coolant, **{"lambda": reading})


def told(trace, warm_need=1.0):
    readings, coolant = cold_readings(trace, TABLES)
    factor = np.full([len(a) for a in AXES], np.log(warm_need))
    return cold_told(readings, coolant, AXES, factor, TABLES)


class ColdTests(SimpleTestCase):
    def test_what_cold_driving_asks_for_is_found_point_by_point(self):
        for depth in (-0.06, 0.05, 0.09):
            need = lambda c, depth=depth: 1.0 + depth * (1.0 - np.tanh((c - 15.0) / 25.0)) / 2.0  # noqa: E731
            found = told(cold_drive(need))
            held = np.asarray(TABLES["warm_up_enrichment"].values)
            for point, before, after in zip(found.points, held, found.values, strict=True):
                if after != before:
                    with self.subTest(depth=depth, coolant=point):
                        self.assertAlmostEqual(after / before, need(point), delta=0.015)
            self.assertTrue(any(after != before for before, after in zip(held, found.values, strict=True)))  # fmt: skip

    def test_a_warm_map_that_is_off_is_no_matter_of_warm_up(self):
        found = told(cold_drive(lambda c: np.ones_like(c), warm_need=1.07), warm_need=1.07)
        self.assertTrue(found.is_told)
        self.assertEqual(found.points, ())
        self.assertIn("Nothing to change", found.sentence)

    def test_a_warm_drive_tells_nothing_of_it(self):
        found = told(calm())
        self.assertFalse(found.is_told)
        self.assertIn("25 s are needed", found.sentence)

    def test_points_that_stay_keep_where_they_came_from(self):
        table = TABLES["warm_up_enrichment"]
        found = told(cold_drive(lambda c: np.where(c < 40.0, 1.06, 1.0)))
        after = warmed_up(table, found, "fuel map 1")
        for place, (was, now) in enumerate(zip(table.values, after.values, strict=True)):
            kind = after.provenance[place].kind
            self.assertEqual(kind, "measured" if was != now else table.provenance[place].kind)

    @given(st.floats(0.7, 1.4))
    def test_no_pass_moves_a_point_by_more_than_a_tenth(self, factor):
        found = told(cold_drive(lambda c: np.full_like(c, factor), seconds=300.0))
        if found.points:
            change = np.array(found.values) / np.asarray(TABLES["warm_up_enrichment"].values)
            self.assertTrue((np.abs(np.log(change)) < 0.1 + 0.01).all())


class CylinderTests(SimpleTestCase):
    def told(self, shares, noise=0.004):
        random = np.random.default_rng(11)
        channels = {
            cylinder_channel(n + 1): (lambda share: lambda t: 0.95 * share + noise * random.standard_normal(t.size))(s)
            for n, s in enumerate(shares)
        }  # fmt: skip
        return cylinders_of([calm(**channels)])

    def test_each_cylinder_against_the_mean_of_all(self):
        shares = np.array([1.0, 0.94, 1.05, 1.0])
        found = self.told(shares)
        mean = np.exp(np.log(shares).mean())
        for one, share in zip(found, shares, strict=True):
            self.assertAlmostEqual(one.percent, 100.0 * (share / mean - 1.0), delta=0.5)
            self.assertTrue(one.low < 100.0 * (share / mean - 1.0) < one.high)
        self.assertEqual([one.stands_out for one in found], [False, True, True, False])

    def test_trims_that_were_taken_leave_the_cylinders_alike(self):
        """A trim by t divides that cylinder's lambda by t: mass balance."""
        shares, trims = np.array([1.0, 0.95, 1.05, 1.0]), None
        for _ in range(2):
            found = self.told(shares / (1.0 if trims is None else trims.values / 100.0))
            trims = trims_of(found, 4, trims, "fuel map 1") or trims
        self.assertFalse(any(one.stands_out for one in found))
        np.testing.assert_allclose(trims.values / 100.0, shares / np.exp(np.log(shares).mean()), atol=0.02)  # fmt: skip
        self.assertEqual([trims.mark((i,)).kind for i in (0, 1)], ["assumed", "measured"])

    def test_a_cylinder_that_is_far_off_is_looked_at_and_not_trimmed(self):
        found = self.told([1.0, 0.8, 1.0, 1.0])
        self.assertIn("look at its injector", found[1].sentence)
        self.assertIsNone(trims_of(found, 4, None, ""))
        self.assertIsNone(trims_of(self.told([1.0, 1.005, 1.0, 0.995]), 4, None, ""))
        # Two of four are logged: the others keep what they have.
        two = trims_of(self.told([0.96, 1.04]), 4, None, "")
        self.assertEqual(two.values[2:].tolist(), [100.0, 100.0])

    def test_alike_ones_and_too_few_stand_out_nowhere(self):
        self.assertFalse(any(one.stands_out for one in self.told([1.0, 1.01, 0.99, 1.0])))
        self.assertEqual(self.told([1.0]), ())
        self.assertEqual(cylinders_of([]), ())


class RestTests(SimpleTestCase):
    def test_need_and_rest_stand_beside_what_was_logged(self):
        readings = sift(drive(minutes=2.0), TABLES).readings
        fit = solve_map(readings, AXES)
        found = rests_of(readings, fit)
        self.assertEqual(len(found.rpm), len(found.need_pct))
        self.assertLess(np.std(found.rest_pct), np.std(found.need_pct))
        blind = replace(readings, fuel_kpa=np.full(len(readings), np.nan))
        self.assertEqual(set(rests_of(blind, fit).fuel_kpa), {None})
        self.assertEqual(
            rests_of(readings.chosen(np.zeros(len(readings), dtype=bool)), fit), Rests()
        )


class ShortPulseTests(SimpleTestCase):
    def test_what_is_missing_of_short_pulses_alone_is_told_from_dead_time(self):
        """Truth of another form: below a knee the flow falls in a straight line."""
        readings = sift(drive(healthy(FOUR), TABLES, 4.0, 31), TABLES).readings
        net = np.linspace(0.5, 7.0, len(readings))
        flat = replace(readings, net_ms=net, need=0.004 * np.sin(np.arange(len(readings))))
        knee = replace(flat, need=flat.need - np.log(1.0 - 0.2 * np.clip((1.5 - net) / 1.0, 0.0, 1.0)))  # fmt: skip
        late = replace(flat, need=flat.need - np.log(1.0 - 0.15 / np.maximum(net, 0.6)))
        for told, key in ((knee, "short-pulses"), (late, "dead-time")):
            first = fingerprint(told, FOUR.spec, TABLES["ve"]).causes[0]
            with self.subTest(key, first=first):
                self.assertEqual(first.key, key)
