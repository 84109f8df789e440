"""The estimate of the start tables: its algebra against closed forms, its draws against its own model.

Truths are put in by the tests, in other forms than the estimate assumes where it is judged.
"""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import settings
from inbetrieb_core.basemaps import generate
from inbetrieb_core.estimate import (
    COORDINATES,
    CrankingOutcome,
    Evidence,
    basis_of,
    cranking,
    curve_views,
    estimate,
    measured_proposals,
    pulls,
    search_step,
)
from inbetrieb_core.estimate.cells import fitted, grid_c
from inbetrieb_core.estimate.cranking import (
    PLACES_C,
    cranking_posterior,
    expected_fuel,
)
from inbetrieb_core.estimate.process import (
    KNOTS_C,
)
from inbetrieb_core.estimate.slice_sampling import sample
from inbetrieb_core.starts import chances
from inbetrieb_core.starts.limits import limits_of
from inbetrieb_core.tables import Table
from scipy import stats
from scipy.special import expit

from tests.examples import asked

from .engines import FOUR

CALIBRATION = generate(FOUR)
WARM_UP = COORDINATES["warm_up_enrichment"]
MEAN = np.zeros(KNOTS_C.size)
LIMITS = limits_of(CALIBRATION)
few = settings(max_examples=asked(30), deadline=None)


def proposals_of(evidence):
    return measured_proposals(estimate(FOUR, CALIBRATION, evidence), CALIBRATION, LIMITS, 10.0)


class SamplerTests(SimpleTestCase):
    def test_a_conjugate_posterior_is_hit(self):
        """Normal prior, one normal reading of a sum: the answer is known in closed form."""
        reading, error = 1.2, 0.4

        def likelihood(state):
            return -0.5 * ((state.sum(axis=1) - reading) / error) ** 2

        draws = sample(likelihood, 3, chains=300, burn_in=20, kept=20, seed=3)
        mean = reading * 3.0 / (3.0 + error**2)
        variance = 3.0 - 9.0 / (3.0 + error**2)
        self.assertAlmostEqual(draws.sum(axis=1).mean(), mean, delta=0.03)
        self.assertAlmostEqual(draws.sum(axis=1).var(), variance, delta=0.03)

    def test_two_modes_are_both_kept(self):
        """|x| is read near 1.5: scipy's own density says that both sides weigh the same."""

        def likelihood(state):
            return -0.5 * ((np.abs(state[:, 0]) - 1.5) / 0.15) ** 2

        draws = sample(likelihood, 2, chains=300, burn_in=10, kept=10, seed=1)[:, 0]
        self.assertAlmostEqual(float((draws > 0).mean()), 0.5, delta=0.08)
        grid = np.linspace(0.0, 3.0, 3001)
        density = stats.norm.pdf(grid) * stats.norm.pdf(grid, 1.5, 0.15)
        expected = (grid * density).sum() / density.sum()
        self.assertAlmostEqual(float(np.abs(draws).mean()), float(expected), delta=0.02)

    def test_the_same_seed_gives_the_same_draws(self):
        runs = [
            sample(lambda s: -(s**2).sum(axis=1), 2, chains=8, burn_in=2, kept=2, seed=5)
            for _ in range(2)
        ]
        np.testing.assert_array_equal(*runs)


def outcome(coolant_c, share, trial=1, **seen):
    """A start with a share of the fuel that the engine data expect; no fire unless told otherwise."""
    expected = float(np.exp(expected_fuel(FOUR, np.array([coolant_c])))[0])
    told = {"ran": False, "cranked_s": 6.0, **seen}
    return Evidence(
        "cranking_fuel", "outcome", coolant_c, share * expected, 0.0, basis_of(FOUR), trial,
        outcome=CrankingOutcome(share * expected, 0.0, **told),
    )  # fmt: skip


def ran(coolant_c, share, after_s, trial=1):
    return outcome(coolant_c, share, trial, ran=True, run_after_s=after_s, cranked_s=None)


class CrankingTests(SimpleTestCase):
    def here(self, evidence, coolant_c=10.0):
        posterior_ = cranking_posterior(FOUR, evidence)
        off = posterior_.need_at(np.array([coolant_c]))[:, 0]
        return off - expected_fuel(FOUR, np.array([coolant_c]))[0]

    def test_no_fire_leaves_both_sides_open(self):
        need = self.here([outcome(10.0, 1.0)])
        self.assertTrue(0.1 < float((need > 0).mean()) < 0.9)
        self.assertGreater(float((np.abs(need) > 0.3).mean()), 0.5)

    def test_a_later_start_with_less_fuel_says_lean(self):
        need = self.here([ran(10.0, 1.0, 1.6, 1), ran(10.0, 0.8, 2.9, 2)])
        self.assertGreater(float((need > 0).mean()), 0.85)

    def test_more_fuel_that_no_longer_fired_says_rich(self):
        need = self.here([ran(10.0, 1.0, 1.4, 1), outcome(10.0, 1.35, 2)])
        self.assertLess(float(np.median(need)), 0.1)

    def test_signs_of_a_wet_engine_count(self):
        wet = self.here([outcome(10.0, 1.0, lean_log_odds=-2.5)])
        dry = self.here([outcome(10.0, 1.0, lean_log_odds=2.0)])
        self.assertLess(float(np.median(wet)), 0.0)
        self.assertGreater(float(np.median(dry)), 0.0)

    def test_what_was_given_up_at_once_says_nothing(self):
        need = self.here([outcome(10.0, 1.0, cranked_s=0.5)])
        self.assertLess(abs(float(need.mean())), 0.05)

    def test_a_start_in_the_cold_teaches_one_in_the_warm(self):
        cold = [ran(-10.0, 1.0, 1.3, 1), outcome(-10.0, 0.6, 2, lean_log_odds=2.0)]
        self.assertLess(self.here(cold, 40.0).std(), 0.9 * self.here([], 40.0).std())

    def test_contradictory_trials_are_borne(self):
        both = [ran(10.0, 1.0, 1.1, 1), outcome(10.0, 1.0, 2), ran(10.0, 1.0, 1.1, 3)]
        self.assertTrue(np.isfinite(self.here(both)).all())

    def test_beginning_near_by_leads_to_the_same_posterior(self):
        starts = [ran(10.0, 1.0, 1.3, 1), ran(10.0, 0.8, 2.2, 2), ran(60.0, 1.1, 0.8, 4)]
        rich = outcome(30.0, 1.5, 3, lean_log_odds=-2.0)
        afresh = cranking_posterior(FOUR, [*starts, rich], seed=3)
        like = cranking_posterior(FOUR, starts, seed=4)
        near_by = cranking_posterior(FOUR, [*starts, rich], seed=5, like=like)
        at_c = np.array([-10.0, 10.0, 30.0, 60.0])
        # Draws of other seeds differ by about a tenth in the tails, where the prior is 0.4 wide.
        for share, apart in ((0.1, 0.16), (0.5, 0.1), (0.9, 0.16)):
            one, other = (np.quantile(p.need_at(at_c), share, axis=0) for p in (afresh, near_by))
            np.testing.assert_allclose(one, other, rtol=0.0, atol=apart)

    def test_five_hundred_trials(self):
        draw = np.random.default_rng(1)
        many = [ran(c, 1.0, 1.1, n) for n, c in enumerate(draw.uniform(-15, 90, 500))]
        need = self.here(many)
        self.assertLess(abs(float(need.mean())), 0.5)  # somewhere inside the window

    def test_ranks_of_the_truth_are_even(self):
        """Simulation-based calibration (Talts and others 2018, arXiv:1804.06788), few simulations."""
        draw, ranks = np.random.default_rng(8), []
        prior = cranking_posterior(FOUR, [])
        for n in range(40):
            pick = int(draw.integers(len(prior.need)))
            truth = np.interp(10.0, PLACES_C, prior.need[pick])
            lean, rich, never, prompt, growth, rich_growth, slowing = prior.window[pick]
            evidence = []
            for trial, share in enumerate(np.exp(draw.normal(0.0, 0.35, 5))):
                start = ran(10.0, share, 1.0, trial)
                off = np.log(start.value) - truth
                # The model itself is simulated: what is asked is whether its draws are right.
                lean_fails = expit(-(off + lean + never) / cranking._NEVER_EDGE)
                rich_fails = expit((off - cranking._FLOODS_AT * rich) / cranking._EDGE)
                if draw.random() < 1.0 - (1.0 - lean_fails) * (1.0 - rich_fails):
                    evidence.append(outcome(10.0, share, trial))
                    continue
                late = growth * max(-off - lean, 0.0)
                late += rich_growth * max(off - cranking._LATE_FROM * rich, 0.0)
                after = prompt * np.exp(late + 70.0 * slowing + cranking._TIME * draw.normal())
                evidence.append(ran(10.0, share, float(after), trial))
            need = cranking_posterior(FOUR, evidence, seed=n).need_at(np.array([10.0]))[:, 0]
            ranks.append(float((need < truth).mean()))
        self.assertGreater(stats.kstest(ranks, "uniform").pvalue, 0.01, ranks)


def reading(table, coolant_c, value, spread=0.03, trial=1):
    return Evidence(table, "measured", coolant_c, value, spread, basis_of(FOUR), trial)


class LadderTests(SimpleTestCase):
    def warm_up_at(self, evidence, coolant_c):
        found = proposals_of(evidence)
        values = CALIBRATION["warm_up_enrichment"].values.copy()
        for change in found["warm_up_enrichment"].changes:
            values[change.index] = change.after
        return float(np.interp(coolant_c, CALIBRATION["warm_up_enrichment"].axes[0].points, values))

    def test_interpolated_values_follow_what_was_measured(self):
        table = CALIBRATION["warm_up_enrichment"]
        at = np.linspace(8.0, 70.0, 13)
        evidence = [reading(table.key, c, table.at(c) * 1.12) for c in at]
        for c in (10.0, 27.0, 44.0, 60.0):
            self.assertAlmostEqual(self.warm_up_at(evidence, c) / table.at(c), 1.12, delta=0.03)

    def test_the_band_of_a_cell_that_follows_is_wider_than_of_one_that_was_read(self):
        evidence = [reading("idle_valve", c, 1.3 * CALIBRATION["idle_valve"].at(c)) for c in (60.0, 70.0, 80.0)]  # fmt: skip
        part = proposals_of(evidence)["idle_valve"]
        for change in part.changes:
            # Never beyond what was read, nearly all of it where it is far more than what is unsure.
            if 60.0 <= change.at[0] <= 80.0:
                share = (change.after / change.before - 1.0) / 0.3
                self.assertTrue(0.7 < share <= 1.02, (change, share))
        width = {
            change.at[0]: np.log(high / low)
            for change, (low, high) in zip(part.changes, part.bands, strict=True)
        }
        self.assertGreater(width[min(width)], 2.0 * min(width.values()))
        seen = dict(zip((c.at[0] for c in part.changes), part.seen, strict=True))
        self.assertFalse(seen[min(width)])

    def test_a_short_step_is_shortened_and_a_long_one_hardly(self):
        """What is read the same way at three places, off by little and by much."""
        shares = []
        for off in (1.1, 1.4):
            read = [reading("idle_valve", c, off * CALIBRATION["idle_valve"].at(c)) for c in (10.0, 20.0, 30.0)]  # fmt: skip
            believed = estimate(FOUR, CALIBRATION, read).need_at("idle_valve", np.array([20.0]))[0][
                0
            ]
            change = next(c for c in proposals_of(read)["idle_valve"].changes if c.at[0] == 20.0)
            shares.append(np.log(change.after / change.before) / (believed - np.log(change.before)))
        self.assertLess(shares[0], shares[1])
        self.assertTrue(0.4 < shares[0] < 0.97, shares)

    def test_what_an_earlier_start_read_is_not_gone_on_with_by_one_elsewhere(self):
        """The first start moved its cells as far as it was sure; a hot restart says nothing new of the cold."""
        cell = 10.0
        given = CALIBRATION.at_coolant("idle_valve", cell)
        hot = reading("idle_valve", 85.0, CALIBRATION.at_coolant("idle_valve", 85.0), trial=None)

        def moved(share, trial, *others):
            found = proposals_of([reading("idle_valve", cell, share * given, 0.08, trial), *others])
            part = found.get("idle_valve")
            return part is not None and any(abs(c.at[0] - cell) < 1.0 for c in part.changes)

        self.assertTrue(moved(1.09, None))
        self.assertFalse(moved(1.09, 1, hot))
        self.assertTrue(moved(1.35, 1, hot))  # what waits since then is still told
        self.assertTrue(moved(1.09, 1))  # nobody is being judged: all that is known counts

    def test_a_reading_that_tells_less_than_the_engine_data_read_nothing(self):
        places = [
            estimate(FOUR, CALIBRATION, [reading("idle_valve", 40.0, 40.0, spread)]).measured_at("idle_valve").size
            for spread in (0.05, 0.6)
        ]  # fmt: skip
        self.assertEqual(places, [1, 0])

    def test_other_injectors_make_evidence_void(self):
        other = Evidence("idle_valve", "measured", 20.0, 90.0, 0.05, "other injectors", 1)
        believed = estimate(FOUR, CALIBRATION, [other])
        self.assertEqual((believed.evidence, believed.void), ((), (other,)))
        self.assertEqual(proposals_of([other]), {})

    def test_a_wrong_hot_map_does_not_fall_on_warm_up(self):
        table = CALIBRATION["warm_up_enrichment"]
        wrong = [reading(table.key, c, table.at(c) * 1.08) for c in (10.0, 30.0, 50.0, 88.0, 90.0)]
        believed = estimate(FOUR, CALIBRATION, wrong)
        self.assertAlmostEqual(believed.hot_map_off, np.log(1.08), delta=0.015)
        need = believed.curves[table.key].at(np.array([30.0]))[0]
        self.assertAlmostEqual(float(np.exp(need)) / table.at(30.0), 1.0, delta=0.02)

    def test_a_cell_below_none_is_not_lifted_while_its_map_is_rich(self):
        """A map 8 % rich in the cold too: warm-up of 100 % before the map is mended would be richer still."""
        table = CALIBRATION["warm_up_enrichment"]
        low = np.where(np.array(table.axes[0].points) > 60.0, 95.0, table.values)
        calibration = CALIBRATION.with_table(Table(table.key, table.axes, low, table.provenance))
        rich = [reading(table.key, c, 90.0, 0.02, trial=n) for n in (1, 2) for c in (70.0, 80.0)]
        believed = estimate(FOUR, calibration, rich)
        found = measured_proposals(believed, calibration, LIMITS, 80.0).get(table.key)
        after = [c.after for c in found.changes if c.at[0] > 60.0] if found else []
        self.assertTrue(all(value <= 95.0 for value in after), after)

    def test_the_step_is_bounded_and_never_what_has_just_failed(self):
        for odds in (-2.0, 0.0, 2.0):
            believed = estimate(FOUR, CALIBRATION, [outcome(10.0, 1.0, lean_log_odds=odds)])
            step = search_step(believed, CALIBRATION, LIMITS, tried_c=10.0, must=True, most=0.2)
            factors = [c.after / c.before for c in step.proposal.changes]
            self.assertTrue(all(np.exp(-0.3) <= f <= np.exp(0.3) for f in factors), factors)
            self.assertGreater(max(abs(np.log(f)) for f in factors), 0.04)

    def test_cells_that_give_nothing_come_back(self):
        """A step is a share of what is given: from a shut valve, or a fade of nothing, it led nowhere."""
        for key, need in (("cranking_air", 20.0), ("idle_valve", 30.0), ("after_start_fade", 12.0)):
            table, idle = CALIBRATION[key], CALIBRATION["idle_valve"]
            shut = -idle.values if key == "cranking_air" else 0.0 * table.values
            shut = np.clip(shut, table.definition.lower, table.definition.upper)
            calibration = CALIBRATION.with_table(Table(key, table.axes, shut, table.provenance))
            evidence = [reading(key, 85.0, need, trial=n) for n in (1, 2, 3)]
            believed = estimate(FOUR, calibration, evidence)
            part = measured_proposals(believed, calibration, LIMITS, 85.0)[key]
            after = next(c.after for c in part.changes if c.at[0] == 85.0)
            whole = after + (idle.at(85.0) if key == "cranking_air" else 0.0)
            self.assertGreater(whole, 0.7 * need, key)
            self.assertLess(whole, 1.2 * need, key)

    def test_pulls_add_to_what_is_believed(self):
        key = "idle_valve"
        evidence = [
            reading(key, 20.0, 60.0, trial=1),
            reading(key, 22.0, 52.0, trial=2),
        ]
        found = pulls(estimate(FOUR, CALIBRATION, evidence), CALIBRATION, key, 21.0)
        by_trial = {pull.trial: pull.pull for pull in found}
        self.assertGreater(by_trial[1], by_trial[2])

    def test_chances_fall_with_a_wrong_table_and_rise_with_evidence(self):
        at = np.array([20.0])

        def good(calibration, evidence):
            believed = estimate(FOUR, calibration, evidence)
            return chances(believed, calibration, at)[0].good

        proof = [ran(20.0, 1.3, 1.0, n) for n in (1, 2)]
        for key in ("idle_valve", "warm_up_enrichment"):
            proof += [reading(key, 20.0, CALIBRATION[key].at(20.0), trial=n) for n in (1, 2)]
        self.assertGreater(good(CALIBRATION, proof), good(CALIBRATION, []))
        table = CALIBRATION["warm_up_enrichment"]
        wrong = CALIBRATION.with_table(
            type(table)(table.key, table.axes, table.values * 1.2, table.provenance)
        )
        self.assertLess(good(wrong, proof), 0.3 * good(CALIBRATION, proof))

    def test_views_hold_their_own_middle(self):
        believed = estimate(FOUR, CALIBRATION, [reading("idle_valve", 20.0, 60.0)])
        for view in curve_views(believed, CALIBRATION):
            for low, mean, high in zip(view.low, view.mean, view.high, strict=True):
                self.assertTrue(low <= mean <= high, view.table)


class CellTests(SimpleTestCase):
    def test_a_bent_curve_is_met_between_the_cells(self):
        table = CALIBRATION["cranking_fuel"]
        at = grid_c(table)
        wanted = 120.0 + 300.0 * np.exp(-(at + 20.0) / 25.0)
        values = fitted(table, at, wanted, np.ones(at.size))
        points = np.array(table.axes[0].points)
        by_fit = np.abs(np.interp(at, points, values) / wanted - 1.0).max()
        by_points = np.abs(np.interp(at, points, np.interp(points, at, wanted)) / wanted - 1).max()
        self.assertLess(by_fit, by_points)
