"""A need over temperature in closed form: its algebra written out, and bands on truths of other forms."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.estimate import COORDINATES
from inbetrieb_core.estimate.process import (
    KNOTS_C,
    TRIAL_ERROR,
    Reading,
    knot_weights,
    posterior,
    prior_covariance,
)

from tests.examples import asked

WARM_UP = COORDINATES["warm_up_enrichment"]
MEAN = np.zeros(KNOTS_C.size)
few = settings(max_examples=asked(30), deadline=None)

readings_drawn = st.lists(
    st.builds(
        lambda coolant_c, value, spread, trial, share: Reading(
            coolant_c, value, spread, trial, share * spread
        ),
        st.floats(-30.0, 100.0),
        st.floats(-0.4, 0.4),
        st.floats(0.02, 0.3),
        st.integers(1, 4),
        st.floats(0.0, 0.95),
    ),
    min_size=1,
    max_size=12,
)


def fixed(readings):
    return posterior(MEAN, WARM_UP, readings, length_k=28.0, widening=1.0)


class ProcessTests(SimpleTestCase):
    @few
    @given(readings_drawn)
    def test_equals_the_dense_formula(self, readings):
        """Rasmussen & Williams (2006), eq. 2.23 and 2.24, written out without the information form."""
        curve = fixed(readings)
        weights = knot_weights(np.array([r.coolant_c for r in readings]))
        prior = prior_covariance(WARM_UP, 28.0)
        trials = np.array([r.trial for r in readings])
        common = np.array([r.common for r in readings])
        noise = np.diag([r.spread**2 for r in readings] - common**2)
        shared = TRIAL_ERROR**2 + np.minimum(common[:, None], common[None, :]) ** 2
        noise = noise + shared * (trials[:, None] == trials[None, :])
        gain = prior @ weights.T @ np.linalg.inv(weights @ prior @ weights.T + noise)
        mean = gain @ np.array([r.value for r in readings])
        np.testing.assert_allclose(curve.mean, mean, atol=1e-6)
        np.testing.assert_allclose(curve.covariance, prior - gain @ weights @ prior, atol=1e-6)

    @few
    @given(readings_drawn, st.randoms())
    def test_the_order_of_evidence_does_not_matter(self, readings, chance):
        mixed = readings.copy()
        chance.shuffle(mixed)
        np.testing.assert_allclose(
            posterior(MEAN, WARM_UP, mixed).mean, posterior(MEAN, WARM_UP, readings).mean, atol=1e-7
        )

    @few
    @given(readings_drawn)
    def test_more_evidence_never_widens_a_band(self, readings):
        before, after = fixed(readings[:-1]), fixed(readings)
        self.assertTrue((after.spread_at(KNOTS_C) <= before.spread_at(KNOTS_C) + 1e-9).all())

    def test_forty_readings_of_one_log_are_not_forty_logs(self):
        one = [Reading(20.0, 0.1, 0.05, 1) for _ in range(40)]
        many = [Reading(20.0, 0.1, 0.05, n) for n in range(40)]
        at = np.array([20.0])
        self.assertGreater(fixed(one).spread_at(at)[0], 1.5 * fixed(many).spread_at(at)[0])
        self.assertGreater(fixed(one).spread_at(at)[0], 0.9 * TRIAL_ERROR)

    def test_an_error_that_all_share_is_not_averaged_out(self):
        at = np.array([20.0])
        shared, apart = (
            fixed([Reading(20.0, 0.1, 0.05, 1, common) for _ in range(40)]).spread_at(at)[0]
            for common in (0.045, 0.0)
        )
        self.assertGreater(shared, 0.04)
        self.assertGreater(shared, 2.0 * apart)
        # Two logs whose errors are their own halve its variance.
        two = fixed([Reading(20.0, 0.1, 0.05, n % 2, 0.045) for n in range(40)]).spread_at(at)[0]
        self.assertLess(two, 0.8 * shared)

    def test_errors_of_differing_size_do_not_tell_each_other(self):
        """The warmer the less is it off: were it one error of differing size, two readings would take it out."""
        at = np.array([25.0, 40.0])
        steps = [Reading(10.0 + 6.0 * n, 0.1, math.hypot(c, 0.02), 1, c) for n, c in enumerate((0.4, 0.16, 0.12, 0.1, 0.09, 0.08, 0.08))]  # fmt: skip
        self.assertGreater(fixed(steps).spread_at(at).min(), 0.06)

    def test_common_errors_of_any_size_are_covered(self):
        """Drawn: a flat departure as wide as is believed, an error that the log shares, one that grows towards the cold."""
        draw, at, hits = np.random.default_rng(61), np.array([40.0]), []
        flat = float(WARM_UP.scale_at(at)[0]) * math.sqrt(WARM_UP.common)
        for _ in range(600):
            truth, base, grows = draw.normal(size=3) * (flat, 0.08, 0.2)
            readings = []
            for coolant_c in (5.0, 15.0, 25.0, 35.0, 45.0, 55.0):
                cold = max(0.0, (35.0 - coolant_c) / 30.0)
                common = math.hypot(0.08, 0.2 * cold)
                value = truth + base + grows * cold + draw.normal() * 0.02
                readings.append(Reading(coolant_c, value, math.hypot(common, 0.02), 1, common))
            found = fixed(readings)
            off = float((knot_weights(at) @ found.mean)[0]) - truth
            hits.append(abs(off) <= 1.645 * found.spread_at(at)[0])
        print(
            f"\nbands of 90 % hold {100 * np.mean(hits):.0f} % of truths read with errors in common"
        )
        self.assertTrue(0.85 <= np.mean(hits) <= 0.95, np.mean(hits))

    def test_the_stated_spread_is_that_of_the_covariance(self):
        for coordinate in COORDINATES.values():
            covariance = prior_covariance(coordinate, 28.0)
            np.testing.assert_allclose(
                np.sqrt(np.diag(covariance)), coordinate.spread_at(KNOTS_C), rtol=1e-5
            )
            np.linalg.cholesky(covariance)

    def test_bands_hold_departures_of_another_form(self):
        """Truths that bend with temperature and are no Gaussian process; 90 % bands at places not read."""
        draw, inside, count = np.random.default_rng(4), 0, 0
        for _ in range(300):
            size, knee, sign = draw.uniform(0.0, 0.3), draw.uniform(-10, 60), draw.choice((-1, 1))
            truth = sign * size * np.clip((knee - KNOTS_C) / 60.0, 0.0, 1.0) + draw.normal() * 0.02
            places = draw.uniform(-15.0, 90.0, 8)
            read = [
                Reading(c, np.interp(c, KNOTS_C, truth) + 0.02 * draw.normal(), 0.025, i)
                for i, c in enumerate(places)
            ]
            curve = posterior(MEAN, WARM_UP, read)
            at = draw.uniform(-15.0, 90.0, 5)
            off = np.abs(curve.at(at) - np.interp(at, KNOTS_C, truth))
            inside += int((off <= 1.645 * curve.spread_at(at)).sum())
            count += 5
        print(f"\nbands of 90 % hold {100 * inside / count:.0f} % of bent truths")
        self.assertTrue(0.85 <= inside / count <= 0.98, inside / count)
