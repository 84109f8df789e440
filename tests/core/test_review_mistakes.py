"""What happens to maps while they are copied and typed, on hand-worked maps that no formula made.

The clean map is one such as people tune by feel: rows that step, a rich idle block, spark in plateaus.
Invented figures; that such maps are sound is common practice, no source.
"""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate, generated_on
from inbetrieb_core.starts import StartSetting, judge_log, past_try
from inbetrieb_core.tables import Provenance, Table, TableError, filled, make_axis, to_plain
from inbetrieb_core.tables.calibration import from_plain
from inbetrieb_core.tables.review import ReviewContext, review

from .engines import FOUR
from .traces import GOOD, start_trace

FOUND = Provenance("carried_over", "found so")
RPM = (500.0, 800.0, 1100.0, 1500.0, 2000.0, 2500.0, 3000.0, 3600.0, 4200.0, 4800.0, 5400.0, 6000.0)
KPA = (25.0, 35.0, 45.0, 55.0, 65.0, 75.0, 85.0, 95.0, 100.0)


def by_hand(seed):
    """Return a calibration as a patient tuner leaves it: rounded, stepped, blocks where it idles."""
    draw = np.random.default_rng(seed)
    tables = generate(FOUR)
    rpm, kpa = make_axis("rpm", RPM), make_axis("map_kpa", KPA)
    tables = generated_on(FOUR, dict.fromkeys(("ve", "lambda_target", "spark"), (rpm, kpa)) | {
        key: table.axes for key, table in tables.tables.items() if key not in ("ve", "lambda_target", "spark")
    })  # fmt: skip
    n, p = np.array(RPM)[:, None], np.array(KPA)[None, :]
    filling = (
        38.0
        + 0.52 * (p - 25.0)
        + 14.0 * np.exp(-(((n - 3900.0) / 1900.0) ** 2))
        + draw.normal(0, 0.6, (12, 9))
    )
    filling = np.round(filling)
    filling[:3, 1:4] = 52.0  # the idle block
    mixture = np.where(p > 84.0, 0.88, np.where(p > 60.0, 0.96, 1.0)) + 0.0 * n
    mixture[:3, 1:4] = 0.93
    spark = np.clip(8.0 + n / 260.0, 8, 26) + np.clip((85.0 - p) / 5.0, 0, 11)
    for key, values in (("ve", filling), ("lambda_target", mixture), ("spark", np.round(spark))):
        tables = put(tables, key, values)
    return tables, draw


def put(tables, key, values):
    table = tables[key]
    return tables.with_table(
        Table(key, table.axes, np.array(values, dtype=float), filled(table.values.shape, FOUND))
    )


def context(tables):
    return ReviewContext(FOUR, generated_on(FOUR, {k: t.axes for k, t in tables.tables.items()}))


def rules(tables, key=None):
    found = review(tables, context(tables)).findings
    return [f for f in found if f.severity != "note" and (key is None or f.table == key)]


class CleanTests(SimpleTestCase):
    def test_hand_worked_maps_raise_next_to_no_alarm(self):
        found = [[(f.rule, f.sentence) for f in rules(by_hand(seed)[0])] for seed in range(12)]
        alarms = sum(map(len, found))
        print(f"\nhand-worked calibrations: {alarms} alarms in {len(found)}")
        self.assertLessEqual(alarms, 0.1 * len(found), [f for f in found if f])


class MistakeTests(SimpleTestCase):
    ROUNDS = 8

    def hits(self, seeder, rule, key="ve"):
        """Count how often a mistake is found under its rule, in its place."""
        count = 0
        for seed in range(self.ROUNDS):
            tables, draw = by_hand(50 + seed)
            values = np.array(tables[key].values)
            cells = seeder(values, draw)
            found = [f for f in rules(put(tables, key, values), key) if f.rule in rule]
            count += any(set(cells) & set(f.cells) for f in found)
        return count

    def test_a_single_cell_an_eighth_low(self):
        def seed(values, draw):
            at = (int(draw.integers(4, 10)), int(draw.integers(2, 7)))
            values[at] = round(0.87 * values[at])
            return [at]

        self.assertGreaterEqual(self.hits(seed, ("hole",)), self.ROUNDS - 1)

    def test_a_doubled_column_and_row(self):
        def column(values, draw):
            j = int(draw.integers(2, 7))
            values[:, j] = values[:, j - 1]
            return [(5, j)]

        self.assertEqual(self.ROUNDS, self.hits(column, ("doubled",)))

    def test_a_block_of_one_number(self):
        def seed(values, draw):
            r, c = int(draw.integers(3, 7)), int(draw.integers(2, 5))
            values[r : r + 4, c : c + 3] = values[r + 1, c + 1]
            return [(r, c)]

        self.assertEqual(self.ROUNDS, self.hits(seed, ("plateau",)))

    def test_axes_the_wrong_way_round(self):
        def seed(values, draw):
            grid = values.T
            rows = np.linspace(0, grid.shape[0] - 1, values.shape[0]).round().astype(int)
            columns = np.linspace(0, grid.shape[1] - 1, values.shape[1]).round().astype(int)
            values[:] = grid[np.ix_(rows, columns)]
            return [(0, 0)]

        self.assertEqual(self.ROUNDS, self.hits(seed, ("axes_swapped",)))

    def test_a_bump_and_a_dip_of_the_idle_valve_blame_themselves(self):
        for factor, rule in ((1.35, "bump"), (0.7, "dip")):

            def seed(values, draw, factor=factor):
                i = int(draw.integers(3, len(values) - 3))
                values[i] *= factor
                return [(i,)]

            with self.subTest(rule=rule):
                self.assertEqual(self.ROUNDS, self.hits(seed, (rule,), "idle_valve"))


class AsFoundTests(SimpleTestCase):
    """A file that nobody has touched may hold anything finite: the review is there to say so."""

    IMPOSSIBLE = (
        ("cranking_fuel", 0.0), ("warm_up_enrichment", 0.0), ("ve", 680.0), ("ve", 0.0), ("idle_target", 0.0),
        ("lambda_target", 0.0), ("idle_valve", 150.0), ("prime_pulse", 500.0), ("dead_time", -1.0),
    )  # fmt: skip

    def test_it_is_read_reviewed_and_judged_by(self):
        for key, value in self.IMPOSSIBLE:
            with self.subTest(table=key, value=value):
                tables = put(generate(FOUR), key, np.full(generate(FOUR)[key].values.shape, value))
                tables = from_plain(to_plain(tables))
                self.assertIn("out_of_bounds", [f.rule for f in review(tables).findings])
                first = judge_log(start_trace(GOOD), tables, StartSetting(FOUR))
                history = [past_try(first, tables)]
                judge_log(start_trace(GOOD), tables, StartSetting(FOUR), history)

    def test_what_is_typed_or_computed_keeps_the_bounds(self):
        table = generate(FOUR)["cranking_fuel"]
        for kind in ("assumed", "calculated", "measured", "data_sheet"):
            marks = filled(table.values.shape, Provenance(kind, "typed"))
            with self.assertRaises(TableError):
                replace(table, values=table.values * 0.0, provenance=marks)

    def test_nothing_that_is_no_number_gets_in(self):
        for value in (np.nan, np.inf, 1e9):
            with self.assertRaises(TableError):
                put(generate(FOUR), "ve", np.full(generate(FOUR)["ve"].values.shape, value))
