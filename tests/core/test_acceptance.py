"""What a start is accepted by, on either side of each limit; rich or lean while cranking."""

from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.starts import POINTS, StartSetting, judge_log
from inbetrieb_core.starts.acceptance import acceptance_of
from inbetrieb_core.starts.model import StartFigures

from .engines import FOUR
from .traces import RIGHT_MIXTURE, start_trace

CALIBRATION = generate(FOUR)


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

    def test_what_ran_late_is_given_a_step_that_can_be_heard(self):
        steps = []
        for lost in (0.0, 0.8, 2.0):
            tail = [(4.0, 230), (4.3, 700), (5.0, 1250), (7.0, 1000), (9.0, 985), (46, 975)]
            points = [*self.CRANK, *((t + lost, n) for t, n in tail)]
            # Of the cells that move, the one nearest to where this start stood.
            change = min(self.advice(points).changes, key=lambda c: abs(c.at[0] - 20.0))
            steps.append(change.after / change.before)
        # At least the school's first step of 5 %, rounded by the table.
        self.assertTrue(all(1.04 < step < 1.6 for step in steps), steps)
        self.assertGreater(max(steps), 1.2)
