"""The same quantities computed a second time, by other libraries or by hand."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.air import flow_function
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench.physics import film_step
from inbetrieb_core.injectors import DeadTimeCurve
from inbetrieb_core.tables import Provenance, Table, apply, filled, make_axis, move_by
from scipy.integrate import solve_ivp
from scipy.interpolate import PchipInterpolator, RegularGridInterpolator
from scipy.optimize import minimize

from tests.examples import asked

from .engines import FOUR

CALIBRATION = generate(FOUR)


class InterpolationTests(SimpleTestCase):
    @given(st.floats(600.0, 6400.0), st.floats(25.0, 95.0))
    def test_maps_as_scipy_reads_them(self, rpm, kpa):
        for key in ("ve", "lambda_target", "spark"):
            table = CALIBRATION[key]
            reference = RegularGridInterpolator([axis.points for axis in table.axes], table.values)
            self.assertAlmostEqual(table.at(rpm, kpa), float(reference((rpm, kpa))), places=9)

    @given(st.floats(-60.0, 140.0))
    def test_curves_as_numpy_reads_them(self, coolant):
        for key in ("cranking_fuel", "idle_valve", "warm_up_enrichment"):
            table = CALIBRATION[key]
            reference = float(np.interp(coolant, table.axes[0].points, table.values))
            self.assertAlmostEqual(table.at(coolant), reference, places=9)

    @given(st.floats(8.0, 16.0))
    def test_dead_time_as_scipy_reads_it(self, volts):
        points, times = (8.0, 10.0, 12.0, 14.0, 16.0), (2.6, 1.7, 1.2, 0.9, 0.72)
        (value,), _ = DeadTimeCurve(points, times).on_axis((volts,))
        self.assertAlmostEqual(value, float(PchipInterpolator(points, times)(volts)), places=9)


class SmallestChangeTests(SimpleTestCase):
    @settings(max_examples=asked(25), deadline=None)
    @given(st.floats(-25.0, 95.0), st.floats(-20.0, 20.0))
    def test_no_smaller_change_moves_the_value_as_far(self, coolant, delta):
        """Δ = δ·w/Σw² is the least-squares answer; an optimiser finds nothing smaller."""
        table = CALIBRATION["cranking_fuel"]
        weights = dict(table.weights(coolant))
        ours = {c.index: c.after - c.before for c in move_by(table, delta, coolant)}
        names = list(weights)
        best = minimize(
            lambda x: float(np.sum(x**2)),
            np.zeros(len(names)),
            jac=lambda x: 2 * x,
            constraints={
                "type": "eq",
                "fun": lambda x: sum(weights[n] * v for n, v in zip(names, x, strict=True)) - delta,
            },
            tol=1e-12,
        )
        size = sum(value**2 for value in ours.values())
        self.assertLessEqual(size, best.fun * (1 + 1e-4) + 1e-9)

    def test_bounds_are_respected_as_an_optimiser_would(self):
        axis = make_axis("coolant_c", [0.0, 10.0])
        mark = filled((2,), Provenance("assumed", "x"))
        table = Table("cranking_air", (axis,), np.array([97.0, 20.0]), mark)
        moved = apply(table, move_by(table, 10.0, 3.0), Provenance("assumed", "x"))
        self.assertEqual(moved.values[0], 100.0)
        self.assertAlmostEqual(moved.at(3.0), table.at(3.0) + 10.0)


class PhysicsTests(SimpleTestCase):
    @given(st.floats(0.53, 0.999))
    def test_orifice_flow_by_the_textbook_formula(self, ratio):
        """Heywood, appendix C, eq. C.8 over eq. C.9, written out with γ = 1.4."""
        gamma = 1.4
        below = ratio ** (1 / gamma) * math.sqrt(
            2 * gamma / (gamma - 1) * (1 - ratio ** ((gamma - 1) / gamma))
        )
        choked = math.sqrt(gamma) * (2 / (gamma + 1)) ** ((gamma + 1) / (2 * (gamma - 1)))
        self.assertAlmostEqual(flow_function(ratio), below / choked, places=6)

    def test_film_by_a_differential_equation_solver(self):
        """dm/dt = X·injected − m/τ (Aquino, SAE 810494), all fuel vaporising in the air."""
        share, tau, rate = 0.35, 0.8, 0.9
        film, step = 0.0, 0.002
        for _ in range(1000):
            film, _ = film_step(
                film, rate * step, step, wall_share=share, time_s=tau, vapour_share=1.0
            )
        exact = solve_ivp(lambda t, m: share * rate - m / tau, (0, 2.0), [0.0], rtol=1e-9)
        self.assertAlmostEqual(film / exact.y[0, -1], 1.0, delta=0.01)

    def test_a_steady_film_gives_back_what_it_takes(self):
        film, vapour = 0.0, 0.0
        for _ in range(5000):
            film, vapour = film_step(film, 0.02, 0.03, wall_share=0.4, time_s=0.6, vapour_share=1.0)
        self.assertAlmostEqual(vapour, 0.02, places=9)
