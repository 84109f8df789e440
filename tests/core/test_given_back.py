"""The length of after-start by what walls give back, on a puddle that is written down here."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.charge.fading import STRAIGHT
from inbetrieb_core.starts.acceptance import run_within_s
from inbetrieb_core.starts.given_back import GIVEN_BACK_SPREAD, lasts_by_what_came_back
from inbetrieb_core.tables import values_after
from inbetrieb_core.trainer import HANDS, play

from .seasons import drawn_scenario

FADING = STRAIGHT
STEP_S = 0.1


def readings(amplitude, fade_s, needed_s, *, share=0.5, dries_s=8.0, lives_s=12.0):
    """What a sensor reads beside the warm need of an engine that needs the same for `needed_s`.

    A share of every surplus lands in a puddle that dries with one time constant (after Aquino's X-τ
    model, SAE 810494, from memory); the sensor lives from `lives_s` on.
    """
    time = np.arange(0.0, 60.0, STEP_S)
    gives = amplitude * FADING.left(time, fade_s)
    needs = amplitude * FADING.left(time, needed_s)
    puddle, rest = 0.0, np.zeros(time.size)
    for i, surplus in enumerate(gives - needs):
        dried = puddle / dries_s
        puddle += (share * surplus - dried) * STEP_S
        rest[i] = needs[i] - dried
    read = (time >= lives_s) & (np.arange(time.size) % 30 == 0)
    return time[read], rest[read]


class GivenBackTests(SimpleTestCase):
    def lasts(self, amplitude, fade_s, needed_s, **engine):
        after_s, rest = readings(amplitude, fade_s, needed_s, **engine)
        return lasts_by_what_came_back(after_s, rest, amplitude, FADING, fade_s)

    def test_a_fade_that_is_right_is_left_alone(self):
        self.assertIsNone(self.lasts(0.8, 14.0, 14.0))

    def test_one_that_is_too_long_comes_nearer_and_never_far_past(self):
        for needed_s in (5.0, 7.0, 9.0):
            for share in (0.4, 0.6, 0.75):
                fade_s = 15.0
                for _ in range(6):
                    lasts = self.lasts(0.8, fade_s, needed_s, share=share)
                    if lasts is None:
                        break
                    self.assertLess(lasts, fade_s)
                    fade_s = lasts
                with self.subTest(needed_s=needed_s, share=share):
                    self.assertGreater(fade_s, 0.6 * needed_s)
                    # A small puddle, or one that is nearly right, gives back too little to be told.
                    if share > 0.5 and needed_s < 8.0:
                        self.assertLess(fade_s, 12.0)

    def test_a_short_fade_is_never_blamed(self):
        self.assertIsNone(
            lasts_by_what_came_back(np.array([9.0, 12.0]), np.array([-0.5, -0.4]), 0.5, FADING, 4.0)
        )

    @given(st.floats(0.1, 1.0), st.floats(5.0, 40.0), st.floats(0.0, 0.5))
    def test_the_more_came_back_the_shorter(self, amplitude, fade_s, rich):
        after_s = np.arange(9.0, 40.0, 3.0)
        found = [
            lasts_by_what_came_back(after_s, np.full(after_s.size, -r), amplitude, FADING, fade_s)
            for r in (rich, rich + 0.1)
        ]
        less, more = (fade_s if f is None else f for f in found)
        self.assertLessEqual(more, less)
        self.assertGreater(more, 0.39 * fade_s)


class StartedTests(SimpleTestCase):
    def test_only_starts_in_time_shorten_the_fade_and_it_settles_long_before_nothing(self):
        """A season on a throttle body whose film is its own; run late, it is rich by the fuel of before."""
        decide, in_time, late, fades = HANDS["the estimate's advice"], [], [], []

        def looking(analysis, calibration, history):
            coolant_c, after_s = analysis.figures.coolant_c, analysis.figures.run_after_s
            fades.append(calibration.at_coolant("after_start_fade", 0.0))
            for e in analysis.taught:
                if e.quantity == "after_start_fade" and e.spread == GIVEN_BACK_SPREAD:
                    (late if after_s > run_within_s(coolant_c) else in_time).append(
                        e.value / calibration.at_coolant("after_start_fade", coolant_c)
                    )
            return decide(analysis, calibration, history)

        play(drawn_scenario(106, 6), looking)
        self.assertTrue(in_time and max(in_time) < 0.9, in_time)
        self.assertEqual(late, [])
        self.assertLess(fades[-1], 0.85 * fades[0])
        self.assertGreater(fades[-1], 4.0)


class ShownTests(SimpleTestCase):
    def test_after_a_start_that_pulled_itself_up_no_step_of_after_start_goes_leaner(self):
        """Nobody searches downwards there, and the sentence never says both sides are open."""
        decide, seen = HANDS["the estimate's advice"], []

        def looking(analysis, calibration, history):
            figures = analysis.figures
            hung = figures.run_after_s and figures.run_after_s - (figures.left_after_s or 9.0) > 0.4
            read = figures.need_after_start is not None
            advice = analysis.advice[0] if analysis.advice else None
            late = "run" in analysis.acceptance.asks_for_change
            if hung and late and not read and advice and advice.rule == "after-start":
                table = calibration[advice.table]
                after = values_after(table, advice.changes)
                here = [
                    float(np.interp(figures.coolant_c, table.axes[0].points, values))
                    for values in (table.values, after)
                ]
                seen.append((*here, advice.reason))
            return decide(analysis, calibration, history)

        play(drawn_scenario(154, 7), looking)
        self.assertGreater(len(seen), 1)
        for before, after, sentence in seen:
            self.assertGreaterEqual(after, before - 0.05)
            self.assertNotIn("finds the side", sentence)
