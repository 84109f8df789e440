"""A step that no failure asks for: it makes other starts likelier, and costs no morning.

The engine here takes longer the colder it is and has to be quicker above −5 °C (the limit steps there from 2.5
to 1.5 s): what is accepted in the frost may be late on a milder morning.
"""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.estimate import estimate, search_step
from inbetrieb_core.starts import StartSetting, chances, judge_log, past_try
from inbetrieb_core.starts.limits import limits_of

from .engines import FOUR
from .test_estimate import ran
from .traces import ran_after

CALIBRATION = generate(FOUR)
LIMITS = limits_of(CALIBRATION)


def judged(took_s, coolant_c, history=()):
    """A start that takes so long until it runs, and then does all else well."""
    target = CALIBRATION.at_coolant("idle_target", coolant_c)
    trace = ran_after(took_s, target, coolant=coolant_c, intake_c=min(coolant_c, 20.0))
    return judge_log(trace, CALIBRATION, StartSetting(FOUR), history)


def after(starts):
    """The last of some starts, each (seconds until it ran, coolant), after what the others taught."""
    history = []
    for number, (took_s, coolant_c) in enumerate(starts, 1):
        analysis = judged(took_s, coolant_c, history)
        past = past_try(analysis, CALIBRATION)
        history.append(replace(past, taught=tuple(e.of_trial(number) for e in past.taught)))
    return analysis


def searched_in(analysis):
    return [part for advice in analysis.advice for part in advice.measured if part.searched] + [
        advice for advice in analysis.advice if advice.rule == "searched"
    ]


class MarginTests(SimpleTestCase):
    SLOW = ((0.9, 20.0), (1.1, 10.0), (1.9, -7.0))
    PROMPT = ((0.8, 20.0), (0.8, 10.0), (0.85, -7.0))

    def test_an_accepted_start_that_promises_a_late_one_elsewhere_is_gone_on_with(self):
        slow = after(self.SLOW)
        self.assertEqual(slow.acceptance.asks_for_change, ())
        (step,) = searched_in(slow)
        self.assertEqual(step.table, "cranking_fuel")
        at_zero = [c.after - c.before for c in step.changes if c.at[0] == 0.0]
        self.assertGreater(sum(at_zero), 0.0)

    def test_what_is_prompt_everywhere_is_left_alone(self):
        self.assertEqual(searched_in(after(self.PROMPT)), [])

    def test_it_says_where_it_helps_and_by_how_much(self):
        believed = estimate(FOUR, CALIBRATION, [ran(c, 1.0, t, n) for n, (t, c) in enumerate(self.SLOW)])  # fmt: skip
        step = search_step(believed, CALIBRATION, LIMITS, tried_c=-7.0, must=False)
        self.assertTrue(-20.0 <= step.coolant_c <= 90.0)
        self.assertGreater(step.after, step.before + 0.1)
        (said,) = chances(believed, CALIBRATION, np.array([step.coolant_c]))
        self.assertAlmostEqual(step.before, said.runs, delta=0.005)  # as the ladder says it

    def test_it_is_even_over_temperature(self):
        """Nothing in the engine steps at −5 °C, only the limit does: no cell is moved against its neighbours."""
        (step,) = searched_in(after(self.SLOW))
        table = CALIBRATION["cranking_fuel"]
        ln = np.zeros(table.values.size)
        for change in step.changes:
            ln[change.index] = np.log(change.after / change.before)
        self.assertLess(np.abs(np.diff(ln)).max(), 0.12)
        self.assertGreater(ln.min(), -0.03)
