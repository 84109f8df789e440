"""What must hold for any finding of a review, whatever was wrong."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.sentences import plain
from inbetrieb_core.tables import Calibration, Table
from inbetrieb_core.tables.review import RULE_TITLES, review
from inbetrieb_core.tables.review.findings import RANK, ReviewContext
from inbetrieb_core.tables.table import filled

from tests.examples import asked

from .engines import FOUR, V8_ETHANOL

BASES = [generate(FOUR), generate(V8_ETHANOL)]


@st.composite
def spoilt(draw):
    """A generated calibration with a few cells set to anything within their bounds."""
    calibration = draw(st.sampled_from(BASES))
    for _ in range(draw(st.integers(1, 4))):
        key = draw(st.sampled_from(sorted(calibration.tables)))
        table = calibration[key]
        values = table.values.copy()
        definition = table.definition
        share = draw(st.floats(0.0, 1.0))
        value = definition.lower + share * (definition.upper - definition.lower)
        if values.ndim == 0:
            values = np.array(value)
        else:
            flat = values.reshape(-1)
            first = draw(st.integers(0, flat.size - 1))
            flat[first : first + draw(st.integers(1, 4))] = value
        calibration = calibration.with_table(replace_values(table, values))
    return calibration


def replace_values(table, values):
    return Table(table.key, table.axes, values, table.provenance)


few = settings(max_examples=asked(60), deadline=None, suppress_health_check=list(HealthCheck))


class FindingTests(SimpleTestCase):
    @few
    @given(spoilt())
    def test_a_finding_names_a_rule_a_table_and_cells_that_are_there(self, calibration):
        for finding in review(calibration, ReviewContext(FOUR)).findings:
            self.assertIn(finding.rule, RULE_TITLES)
            self.assertTrue(finding.table in calibration.tables or finding.subject)
            for cell in finding.cells:
                shape = calibration[finding.table].values.shape
                self.assertTrue(all(0 <= i < n for i, n in zip(cell, shape, strict=True)), finding)
            sentence = plain(finding.sentence)
            self.assertTrue(sentence.endswith("."), sentence)
            self.assertNotRegex(sentence, r"\d[eE][+-]?\d")
            self.assertNotIn("nan", sentence)
            self.assertTrue(np.isfinite(finding.size))

    @few
    @given(spoilt())
    def test_the_gravest_come_first_and_no_two_share_an_identifier(self, calibration):
        found = review(calibration).findings
        ranks = [RANK[finding.severity] for finding in found]
        self.assertEqual(ranks, sorted(ranks))
        identifiers = [finding.identifier for finding in found]
        self.assertEqual(len(set(identifiers)), len(identifiers), identifiers)

    @few
    @given(spoilt())
    def test_looking_changes_nothing_and_finds_the_same_again(self, calibration):
        before = {key: table.values.copy() for key, table in calibration.tables.items()}
        first = review(calibration)
        self.assertEqual(review(calibration), first)
        for key, values in before.items():
            np.testing.assert_array_equal(calibration[key].values, values)

    @few
    @given(spoilt())
    def test_where_a_number_came_from_does_not_make_it_sound(self, calibration):
        mark = Provenance("measured", "Somebody says so.")
        marked = Calibration(
            {
                key: Table(key, table.axes, table.values, filled(table.values.shape, mark))
                for key, table in calibration.tables.items()
            }
        )
        self.assertEqual(
            [f.identifier for f in review(marked).findings],
            [f.identifier for f in review(calibration).findings],
        )

    @few
    @given(spoilt(), st.sampled_from(["ve", "spark", "cranking_fuel", "dead_time", "idle_target"]))
    def test_looking_at_one_table_finds_no_more_than_looking_at_all(self, calibration, key):
        everywhere = {f.identifier for f in review(calibration).findings}
        only = review(calibration, ReviewContext(only=frozenset([key]))).findings
        self.assertLessEqual({f.identifier for f in only}, everywhere)
        self.assertLessEqual({f.table for f in only}, {key})

    @few
    @given(spoilt())
    def test_the_verdict_follows_the_share_that_is_affected(self, calibration):
        found = review(calibration)
        self.assertTrue(0.0 <= found.affected_share <= 1.0)
        if not found.findings:
            self.assertEqual(found.verdict, "sound")
        if found.affected_share > 0.25:
            self.assertEqual(found.verdict, "start_afresh")
        if any(f.severity == "stop" for f in found.findings):
            self.assertNotEqual(found.verdict, "sound")

    def test_a_fault_that_grows_is_found_at_last_and_stays_found(self):
        """A cell of the fuel map is raised step by step: found from some height on, for good."""
        base = generate(FOUR)
        row, column = 6, 5
        found = []
        for by in range(0, 60, 4):
            values = base["ve"].values.copy()
            values[row, column] = min(200.0, values[row, column] + by)
            spikes = [
                f
                for f in review(base.with_table(replace_values(base["ve"], values))).findings
                if f.rule == "spike" and (row, column) in f.cells
            ]
            found.append(bool(spikes))
        self.assertFalse(found[0])
        self.assertTrue(found[-1])
        self.assertEqual(found, sorted(found))

    def test_the_size_of_a_spike_is_its_height(self):
        base = generate(FOUR)
        for by in (15.0, 25.0, 40.0):
            values = base["ve"].values.copy()
            values[6, 5] += by
            (spike,) = [
                f
                for f in review(base.with_table(replace_values(base["ve"], values))).findings
                if f.rule == "spike"
            ]
            with self.subTest(by=by):
                self.assertAlmostEqual(spike.size, by, delta=3.0)

    def test_throttle_maps_are_looked_at_without_falling_over(self):
        """Rules of manifold pressure do not speak of throttle angle."""
        from inbetrieb_core.tables import make_axis

        base = generate(FOUR)
        for key in ("ve", "spark", "lambda_target"):
            table = base[key]
            axes = (table.axes[0], make_axis("throttle_pct", np.linspace(0, 100, len(table.axes[1].points)).round(2)))  # fmt: skip
            base = base.with_table(Table(key, axes, table.values, table.provenance))
        found = review(base, ReviewContext(replace(FOUR)))
        self.assertFalse([f for f in found.findings if f.table in ("ve", "spark", "lambda_target")])
