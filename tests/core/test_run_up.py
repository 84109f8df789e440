"""After-start enrichment from how engines live: two-sided, and on truths of another form."""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.estimate import (
    COORDINATES,
    Evidence,
    LikeEngine,
    Limits,
    RunUpOutcome,
    chance_without,
    estimate,
    known_from,
    measured_proposals,
    search_step,
)
from inbetrieb_core.estimate.draws import PLACES_C
from inbetrieb_core.estimate.evidence import CrankingOutcome
from inbetrieb_core.tables import values_after

from .engines import FOUR, ROTORS, SMALL_FOUR

CALIBRATION = generate(FOUR)
AFTER = COORDINATES["after_start_enrichment"]
LIMITS = Limits(lambda c: 1.4, lambda c: 0.25)
PLACE_C = 10.0


def outcome(value, *, died=False, fall=None, trial=1, coolant=PLACE_C, hung=None):
    warm_up = CALIBRATION.at_coolant("warm_up_enrichment", coolant)
    run_up = RunUpOutcome(value, warm_up, died, fall, hung)
    return Evidence(
        "after_start_enrichment", "outcome", coolant, value, 0.0, trial=trial, run_up=run_up
    )


def engine_falls(value, need):
    """A truth of another form: a parabola in percent, with a cliff where it stops."""
    fall = 0.12 + ((value - need) / 26.0) ** 2
    return ("died", None) if fall > 0.5 else ("ran", fall)


def step_of(believed, calibration=CALIBRATION, **more):
    """Return the step of after-start enrichment that a start which failed by it asks for."""
    return search_step(
        believed, calibration, LIMITS, table="after_start_enrichment", tried_c=PLACE_C, must=True, **more
    )  # fmt: skip


class RunUpTests(SimpleTestCase):
    def need(self, evidence):
        draws = estimate(FOUR, CALIBRATION, evidence).run_up.need_at(np.array([PLACE_C]))[:, 0]
        return AFTER.from_scale(draws)

    def test_a_death_leaves_both_sides_open(self):
        given = CALIBRATION.at_coolant("after_start_enrichment", PLACE_C)
        need = self.need([outcome(given, died=True)])
        self.assertGreater((need < given - 5).mean(), 0.15)
        self.assertGreater((need > given + 5).mean(), 0.15)

    def test_falls_on_both_sides_part_the_windows(self):
        richer = [outcome(30, fall=0.2, trial=1), outcome(45, fall=0.4, trial=2)]
        richer.append(outcome(55, died=True, trial=3))
        leaner = [outcome(45, fall=0.2, trial=1), outcome(30, fall=0.4, trial=2)]
        leaner.append(outcome(22, died=True, trial=3))
        self.assertLess(np.median(self.need(richer)), 36)
        self.assertGreater(np.median(self.need(leaner)), 38)

    def test_following_the_search_finds_hidden_needs_on_either_side(self):
        """Needs at 55 and 180 % of the engine data, on an engine the model does not describe."""
        expected = CALIBRATION.at_coolant("after_start_enrichment", PLACE_C)
        tries = {}
        for share in (0.55, 1.0, 1.8):
            need, calibration, seen = share * expected, CALIBRATION, []
            for number in range(1, 13):
                value = calibration.at_coolant("after_start_enrichment", PLACE_C)
                verdict, fall = engine_falls(value, need)
                if verdict == "ran" and fall <= 0.25:
                    break
                seen.append(outcome(value, died=verdict == "died", fall=fall, trial=number))
                step = search_step(
                    estimate(FOUR, calibration, seen),
                    calibration,
                    LIMITS,
                    table="after_start_enrichment",
                    tried_c=PLACE_C,
                    must=True,
                )
                self.assertIsNotNone(step)
                table = calibration["after_start_enrichment"]
                values = table.values.copy()
                for change in step.proposal.changes:
                    values[change.index] = change.after
                calibration = calibration.with_table(
                    type(table)(table.key, table.axes, values, table.provenance)
                )
            tries[share] = number
        print(f"\nstarts until the fuel after the start was right, by its share: {tries}")
        self.assertLessEqual(max(tries.values()), 9, tries)

    def test_after_a_death_beside_starts_without_a_fall_the_step_is_up_and_can_be_heard(self):
        """Fuel falls when cranking ends: a little less kills what ran up untroubled (common practice)."""
        value = CALIBRATION.at_coolant("after_start_enrichment", PLACE_C)
        lived = [outcome(1.02 * value, fall=0.0, trial=n, coolant=PLACE_C + 2.0) for n in (1, 2, 3)]
        warm_up = CALIBRATION.at_coolant("warm_up_enrichment", PLACE_C)
        died = RunUpOutcome(value, warm_up, True, None, None, handover=True)
        newest = Evidence(
            "after_start_enrichment", "outcome", PLACE_C, value, 0.0, trial=None, run_up=died
        )
        believed = estimate(FOUR, CALIBRATION, [*lived, newest])
        blame = believed.run_up.failed_by_this()
        need = believed.run_up.need_at(np.array([PLACE_C]))[:, 0]
        self.assertGreater(np.average(need, weights=blame), need.mean())
        self.assertGreater(believed.run_up.to_blame(), 0.2)
        step = step_of(believed, killed=True)
        here = min(step.proposal.changes, key=lambda change: abs(change.at[0] - PLACE_C))
        self.assertGreater((100.0 + here.after) / (100.0 + here.before), 1.04)

    def test_what_failed_twice_is_not_tried_again(self):
        given = CALIBRATION.at_coolant("after_start_enrichment", PLACE_C)
        seen = [outcome(v, died=True, trial=n) for n, v in enumerate((40, 40, given, given), 1)]
        step = step_of(estimate(FOUR, CALIBRATION, seen))
        (near,) = [c for c in step.proposal.changes if c.at[0] == PLACE_C]
        self.assertGreater(abs(AFTER.to_scale(near.after) - AFTER.to_scale(40.0)), 0.02)

    def test_what_a_start_shows_by_itself_is_not_voted_down(self):
        """Earlier starts make less fuel likely; one that pulled itself up asks for more."""
        given = CALIBRATION.at_coolant("after_start_enrichment", PLACE_C)
        seen = [outcome(0.6 * given, fall=0.05, trial=1), outcome(given, died=True, trial=2)]
        seen += [outcome(1.25 * given, died=True, trial=3)]
        believed = estimate(FOUR, CALIBRATION, seen)
        moved = {}
        for way in (-1, 0, 1):
            step = step_of(believed, way=way)
            values = values_after(CALIBRATION["after_start_enrichment"], step.proposal.changes)
            points = CALIBRATION["after_start_enrichment"].axes[0].points
            moved[way] = float(np.interp(PLACE_C, points, values)) - given
        self.assertLess(max(moved[-1], moved[0]), -2.0)
        self.assertGreater(moved[1], 2.0)

    def test_the_shorter_it_hangs_the_nearer_it_is(self):
        seen = [
            outcome(12, died=True, hung=3.5, trial=1),
            outcome(30, died=True, hung=0.7, trial=2),
        ]
        other = [
            outcome(30, died=True, hung=3.5, trial=1),
            outcome(12, died=True, hung=0.7, trial=2),
        ]
        self.assertGreater(np.median(self.need(seen)), np.median(self.need(other)) + 5)

    def test_the_order_of_evidence_does_not_matter(self):
        seen = [outcome(20 + 5 * n, fall=0.2 + 0.05 * n, trial=n) for n in range(5)]
        first, other = (estimate(FOUR, CALIBRATION, e).run_up for e in (seen, seen[::-1]))
        np.testing.assert_array_equal(first.need, other.need)
        self.assertEqual(first.need.shape[1], PLACES_C.size)


class SurpriseTests(SimpleTestCase):
    def start(self, number, ran, fuel=None):
        value = CALIBRATION.at_coolant("cranking_fuel", PLACE_C) if fuel is None else fuel
        prime = CALIBRATION.at_coolant("prime_pulse", PLACE_C)
        told = CrankingOutcome(value, prime, ran, 0.7 if ran else None, 8.0)
        return Evidence("cranking_fuel", "outcome", PLACE_C, value, 0.0, trial=number, outcome=told)

    def chance(self, evidence):
        believed = estimate(FOUR, CALIBRATION, evidence)
        return chance_without(believed.cranking, FOUR, evidence[-1])

    def test_a_failure_after_many_good_starts_surprises_and_another_good_one_does_not(self):
        good = [self.start(n, True) for n in range(1, 9)]
        self.assertLess(self.chance([*good, self.start(9, False)]), 0.05)
        self.assertGreater(self.chance([*good, self.start(9, True)]), 0.8)

    def test_after_few_starts_nothing_is_expected(self):
        self.assertIsNone(self.chance([self.start(1, True), self.start(2, False)]))


class LikeEngineTests(SimpleTestCase):
    def departed(self, factor):
        table = CALIBRATION["warm_up_enrichment"]
        values = 100.0 + factor * (table.values - 100.0)
        return CALIBRATION.with_table(type(table)(table.key, table.axes, values, table.provenance))

    def test_like_engines_pull_and_narrow(self):
        like = LikeEngine(FOUR, self.departed(1.5), (-10.0, 10.0))
        for count in (1, 4):
            known = known_from(FOUR, [like] * count)
            with_it, without = (
                estimate(FOUR, CALIBRATION, e).need_at("warm_up_enrichment", np.array([0.0]))
                for e in (known, ())
            )
            self.assertGreater(with_it[0][0], without[0][0])
            self.assertLess(with_it[1][0], without[1][0])

    def test_unlike_ones_are_passed_over(self):
        other = LikeEngine(ROTORS, generate(ROTORS), (-10.0, 10.0))
        self.assertEqual(known_from(FOUR, [other]), ())
        self.assertEqual(known_from(SMALL_FOUR, [LikeEngine(FOUR, CALIBRATION, (10.0,))]), ())

    def test_they_narrow_the_prior_and_are_no_reading_of_this_engine(self):
        """No cell may be called measured, or moved, for what only other engines showed."""
        known = known_from(
            FOUR, [LikeEngine(FOUR, self.departed(1.8), (-10.0, 10.0, 30.0, 60.0))] * 4
        )
        believed = estimate(FOUR, CALIBRATION, known)
        self.assertEqual(believed.places_of("warm_up_enrichment").size, 0)
        told = believed.curves["warm_up_enrichment"].told_at(np.array([0.0, 20.0]))
        np.testing.assert_allclose(told, 0.0, atol=1e-9)
        self.assertEqual(measured_proposals(believed, CALIBRATION, LIMITS, PLACE_C), {})
