"""Which table takes a step of cranking fuel: cranking fuel itself, or the prime beside it.

That prime and cranking fuel wet the same walls, and that a school says how they share, is common
practice, no source.
"""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
from inbetrieb_core.estimate import CrankingOutcome, Evidence, basis_of, estimate, search_step
from inbetrieb_core.estimate.cranking import effective_fuel
from inbetrieb_core.estimate.prime import school_part_ms
from inbetrieb_core.logs import Trace
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.starts import StartSetting, judge_log, past_try
from inbetrieb_core.starts.limits import limits_of
from inbetrieb_core.tables import Table, apply

from .engines import FOUR

CALIBRATION = generate(FOUR)
PLACE_C = 0.0


def scaled(calibration, key, factor):
    table = calibration[key]
    values = np.clip(table.values * factor, table.definition.lower, table.definition.upper)
    return calibration.with_table(Table(key, table.axes, values, table.provenance))


def failed(spec, calibration, odds):
    given = calibration.at_coolant("cranking_fuel", PLACE_C)
    prime = calibration.at_coolant("prime_pulse", PLACE_C)
    outcome = CrankingOutcome(given, prime, False, None, 8.0, odds)
    return Evidence(
        "cranking_fuel", "outcome", PLACE_C, given, 0.0, basis_of(spec), 1, None, outcome
    )


def step_of(calibration, odds, spec=FOUR):
    believed = estimate(spec, calibration, [failed(spec, calibration, odds)])
    limits = limits_of(calibration)
    return search_step(believed, calibration, limits, tried_c=PLACE_C, must=True, most=0.2)


class SplitTests(SimpleTestCase):
    def test_a_prime_at_its_part_leaves_the_step_to_cranking_fuel(self):
        for odds in (-2.0, 2.0):
            self.assertEqual("cranking_fuel", step_of(CALIBRATION, odds).proposal.table)

    def test_a_prime_far_too_short_takes_a_step_to_richer_and_none_to_leaner(self):
        short = scaled(CALIBRATION, "prime_pulse", 0.2)
        proposal = step_of(short, 2.0).proposal
        self.assertEqual("prime_pulse", proposal.table)
        self.assertTrue(all(c.after > c.before for c in proposal.changes))
        self.assertEqual("cranking_fuel", step_of(short, -4.0).proposal.table)

    def test_a_prime_far_too_long_takes_a_step_to_leaner(self):
        long = scaled(CALIBRATION, "prime_pulse", 4.0)
        proposal = step_of(long, -4.0).proposal
        self.assertEqual("prime_pulse", proposal.table)
        self.assertTrue(all(c.after < c.before for c in proposal.changes))

    def test_it_moves_no_further_than_its_part_and_a_little(self):
        short = scaled(CALIBRATION, "prime_pulse", 0.2)
        for change in step_of(short, 2.0).proposal.changes:
            place = change.at[0]
            whole = effective_fuel(
                FOUR, 1.75 * short.at_coolant("cranking_fuel", place), change.after
            )
            self.assertLess(change.after, 1.3 * school_part_ms(FOUR, place, whole))

    def test_a_school_without_a_shot_never_gets_one(self):
        spec = replace(FOUR, schools=replace(FOUR.schools, prime="cranking_only"))
        calibration = scaled(generate(spec), "prime_pulse", 0.2)
        self.assertEqual("cranking_fuel", step_of(calibration, 2.0, spec).proposal.table)

    def test_parts_of_a_need_add_up_to_it(self):
        for place in (-15.0, 5.0, 40.0):
            expected = effective_fuel(
                FOUR,
                CALIBRATION.at_coolant("cranking_fuel", place),
                CALIBRATION.at_coolant("prime_pulse", place),
            )
            self.assertAlmostEqual(
                2.0,
                school_part_ms(FOUR, place, 2.0 * expected) / school_part_ms(FOUR, place, expected),
            )


class OnTheBenchTests(SimpleTestCase):
    def test_an_engine_left_without_prime_gets_one_and_starts(self):
        """The bench engine's walls follow a law of their own: nothing of the split is in it."""
        engine = NAMED["port_four"]
        calibration = generate(engine.spec)
        for key, factor in (("prime_pulse", 0.1), ("cranking_fuel", 0.6)):
            calibration = scaled(calibration, key, factor)
        setting, history, moved = StartSetting(engine.spec), [], []
        for number in range(1, 13):
            run = simulate_start(
                engine, engine.spec, calibration, StartConditions(PLACE_C, seed=number)
            )
            analysis = judge_log(Trace(run.channels), calibration, setting, history)
            if analysis.good:
                break
            past = past_try(analysis, calibration)
            history.append(replace(past, taught=tuple(e.of_trial(number) for e in past.taught)))
            advice = analysis.advice[0]
            self.assertTrue(advice.changes, advice)
            moved.append(advice.table)
            mark = Provenance("calculated", "test")
            calibration = calibration.with_table(
                apply(calibration[advice.table], advice.changes, mark)
            )
        else:
            self.fail(f"never started well: {moved}")
        self.assertIn("prime_pulse", moved)
