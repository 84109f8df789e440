"""What charges that burned and charges that did not tell of cranking fuel.

The truth of the second half is of another form than the estimate's: an engine that takes a floor of time
and one charge more for each that was missed, the likelier missed the nearer fuel lies to an edge.
"""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.estimate import CrankingOutcome, Evidence, basis_of
from inbetrieb_core.estimate.cranking import cranking_posterior, expected_fuel
from inbetrieb_core.starts import StartSetting, judge_log, past_try
from inbetrieb_core.starts.acceptance import run_within_s

from .engines import FOUR
from .traces import start_trace

CALIBRATION = generate(FOUR)
AT_C = 10.0
LIMIT_S = run_within_s(AT_C)


def cranked_on(*charges):
    """Cranking at 230/min for six seconds, lifted to 420 by single charges at these times."""
    points = [(0, 0), (2, 0), (2.15, 225)]
    for at in charges:
        points += [(2 + at, 230), (2 + at + 0.06, 420), (2 + at + 0.15, 415), (2 + at + 0.3, 235)]
    return start_trace([*points, (8.0, 230), (8.3, 0), (10, 0)], rate=50.0, coolant=AT_C)


def cranking_of(trace, **setting):
    analysis = judge_log(trace, CALIBRATION, StartSetting(FOUR, **setting))
    taught = past_try(analysis, CALIBRATION).taught
    return analysis, [e for e in taught if e.quantity == "cranking_fuel"]


class FiredOnceTests(SimpleTestCase):
    def need(self, evidence):
        draws = cranking_posterior(FOUR, evidence).need_at(np.array([AT_C]))[:, 0]
        return draws - np.log(evidence[0].value)

    def test_whole_cranking_counts_not_that_until_the_first_charge(self):
        analysis, _ = cranking_of(cranked_on(0.8))
        self.assertEqual(analysis.verdict, "fired and died")
        self.assertAlmostEqual(analysis.figures.fire_after_s, 0.85, delta=0.15)
        self.assertAlmostEqual(analysis.figures.cranked_s, 6.2, delta=0.35)

    def test_a_charge_at_once_and_then_no_more_says_rich(self):
        """As an engine that gets wetter does; common practice, no source."""
        _, early = cranking_of(cranked_on(0.8))
        _, late = cranking_of(cranked_on(5.4))
        self.assertLess(float(np.median(self.need(early))), -0.08)
        self.assertGreater(float(np.median(self.need(late))), float(np.median(self.need(early))) + 0.3)  # fmt: skip

    def test_a_charge_in_the_middle_is_no_cranking_without_any(self):
        """No charge at all in six seconds speaks for rich; one that burned halfway shows neither."""
        (_, (none,)), (_, (halfway,)) = cranking_of(cranked_on()), cranking_of(cranked_on(3.2))
        self.assertLess(none.outcome.lean_log_odds, -1.0)
        self.assertEqual(halfway.outcome.lean_log_odds, 0.0)

    def test_what_was_seen_beside_counts_for_a_start_that_ran_too(self):
        """A flooded engine clears itself with the pedal down; common practice, no source."""
        ran = [(0, 0), (2, 0), (2.15, 225), (5, 230), (5.3, 700), (6, 1250), (8, 1000), (28, 985)]
        pedal = [(0, 0), (2.4, 0), (2.5, 100), (6, 100), (6.2, 0), (28, 0)]
        odds = []
        for channels, setting in (
            ({}, {}),
            ({}, {"black_smoke": True}),
            ({"throttle_pct": pedal}, {}),
        ):
            trace = start_trace(ran, coolant=AT_C, **channels)
            _, (told, *_) = cranking_of(trace, **setting)
            odds.append(told.outcome.lean_log_odds)
        self.assertGreater(odds[0], 0.0)
        self.assertLess(odds[1], odds[0])
        self.assertLess(odds[2], -1.0)


class ChargeByCharge:
    """An engine that runs by the first charge that burns, and misses charges near the edges of its fuel."""

    def __init__(self, draw):
        self.best = draw.normal(0.0, 0.3)
        self.lean, self.rich = draw.uniform(0.15, 0.4), draw.uniform(0.12, 0.4)
        self.soft = draw.uniform(0.02, 0.05)
        self.floor_s, self.charge_s = draw.uniform(0.45, 1.0), draw.uniform(0.08, 0.2)

    def start(self, off, draw):
        """Return when it ran, None where it never did; `off` is ln of fuel over the engine data's. [s]"""
        off = off - self.best
        short, over = -off - self.lean, off - self.rich
        wet, took = 0.0, self.floor_s
        for _ in range(25):
            # Walls that fill up mend a lean charge; a rich one only gets wetter.
            missed = 1.0 / (1.0 + np.exp(-(max(short - wet, over + wet)) / self.soft))
            if draw.random() > missed:
                return took
            took, wet = took + self.charge_s, wet + 0.03
        return None


def told_of(off, after, trial):
    given = float(np.exp(expected_fuel(FOUR, np.array([AT_C]))[0] + off))
    seen = {"run_after_s": after} if after is not None else {"cranked_s": 6.0}
    outcome = CrankingOutcome(given, 0.0, after is not None, **seen)
    return Evidence("cranking_fuel", "outcome", AT_C, given, 0.0, basis_of(FOUR), trial, outcome=outcome)  # fmt: skip


class AnotherTruthTests(SimpleTestCase):
    def test_stated_chances_come_true_on_engines_of_another_form(self):
        draw = np.random.default_rng(20)
        stated, came, side = [], [], []
        expected = expected_fuel(FOUR, np.array([AT_C]))
        for n in range(40):
            engine = ChargeByCharge(draw)
            tried = engine.best + draw.normal(0.0, 0.25, 5)
            evidence = [told_of(off, engine.start(off, draw), k) for k, off in enumerate(tried)]
            posterior = cranking_posterior(FOUR, evidence, seed=n)
            for off in engine.best + draw.normal(0.0, 0.3, 6):
                chance = posterior.good_at(np.array([AT_C]), expected + off, np.array([LIMIT_S]))
                stated.append(float(chance[0]))
                side.append(float(off - engine.best))
                after = [engine.start(off, draw) for _ in range(10)]
                came.append(float(np.mean([a is not None and a < LIMIT_S for a in after])))
        stated, came, side = np.array(stated), np.array(came), np.array(side)
        parts = {
            "all": (np.full(stated.size, True), 0.08),
            "unlikely": (stated < 0.35, 0.13),
            "open": ((stated >= 0.35) & (stated < 0.7), 0.13),
            "likely": (stated >= 0.7, 0.13),
            "too lean": (side < -0.25, 0.13),
            "too rich": (side > 0.25, 0.13),
        }
        for name, (inside, apart) in parts.items():
            with self.subTest(part=name):
                self.assertGreater(int(inside.sum()), 10)
                off = abs(float(stated[inside].mean() - came[inside].mean()))
                self.assertLess(off, apart)

    def test_one_charge_more_than_ever_before_puts_an_edge_near(self):
        """Three starts took as long as each other; the fourth, richer by a tenth, took a charge more."""
        same = [told_of(0.0, 1.0, n) for n in range(3)]
        richer = np.array([AT_C]), expected_fuel(FOUR, np.array([AT_C])) + 0.25, np.array([LIMIT_S])
        clean = cranking_posterior(FOUR, [*same, told_of(0.1, 1.0, 3)]).good_at(*richer)
        missed = cranking_posterior(FOUR, [*same, told_of(0.1, 1.25, 3)]).good_at(*richer)
        self.assertLess(float(missed[0]), float(clean[0]) - 0.1)
