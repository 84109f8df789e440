"""Closed loop on engines nobody tuned the rules for, at other rates and with channels missing.

The engines are drawn at random from what people build; each hides its own differences from
the entered data. Invented, for the property alone: following the advice gets it started.
"""

import random
import statistics
from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start, stand_in
from inbetrieb_core.engine import EngineSpec, InjectorSet, Schools
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import StartSetting, judge_log, past_try
from inbetrieb_core.supply import judge_injectors
from inbetrieb_core.trainer import HANDS

from .test_closed_loop import WRONG_TABLES, scaled

MOST = 20


def drawn_engine(seed):
    """Return an engine somebody might bring, its injectors sized to about 75 % duty."""
    draw = random.Random(seed)
    rotary = draw.random() < 0.15
    chambers = draw.choice([1, 2, 3]) if rotary else draw.choice([1, 2, 3, 4, 4, 5, 6, 8])
    wet = not rotary and draw.random() < 0.2
    limit = draw.choice([5000.0, 6000.0, 7000.0, 8000.0])
    boosted = draw.random() < 0.2
    count = max(1, chambers // 2) if wet else chambers
    spec = EngineSpec(
        displacement_l=round(chambers * draw.uniform(0.25, 0.75), 2),
        chambers=chambers,
        injectors=InjectorSet(count, 1000.0),
        cycle="rotary" if rotary else "four_stroke",
        compression_ratio=draw.uniform(8.0, 12.0),
        valves_per_chamber=draw.choice([2, 4]),
        cam=draw.choice(["mild", "moderate", "wild"]),
        fuelling="throttle_body" if wet else "port",
        induction="boosted" if boosted else "natural",
        boost_kpa=80.0 if boosted else 0.0,
        ethanol_volume_share=draw.choice([0.0, 0.0, 0.1, 0.3]),
        rev_limit_rpm=limit,
        torque_peak_rpm=0.62 * limit,
        altitude_m=draw.choice([0.0, 0.0, 500.0, 1500.0]),
        schools=Schools(
            prime=draw.choice(["shot", "cranking_only"]),
            idle_speed=draw.choice(["low", "high"]),
            idle_mixture=draw.choice(["rich", "lean"]),
            curve=draw.choice(["full", "full", "three_point"]),
        ),
    )
    flow = 1000.0 * judge_injectors(spec).duty_at_limit_pct / 75.0
    return replace(spec, injectors=InjectorSet(count, flow)).check()


def starts_until_good(engine, spec, coolant_c, factor, *, rate_hz=25.0, channels=None):
    """Follow the advice; return the number of starts, or None where it asks to mend something."""
    calibration = scaled(generate(spec), WRONG_TABLES, factor)
    setting, history = StartSetting(spec), []
    for number in range(1, MOST + 1):
        run = simulate_start(
            engine, spec, calibration, StartConditions(coolant_c, seed=number, rate_hz=rate_hz)
        )
        seen = {
            name: values
            for name, values in run.channels.items()
            if channels is None or name in channels
        }
        analysis = judge_log(Trace(seen), calibration, setting, history)
        unseen = set(analysis.acceptance.unseen)
        told_all = channels is None or "lambda" in channels
        if analysis.good or (unseen == {"mixture"} and not told_all and not analysis.advice):
            return number
        if not analysis.advice or analysis.advice[0].table is None:
            return None
        history.append(past_try(analysis, calibration))
        calibration = HANDS["the estimate's advice"](analysis, calibration, history).calibration
    return MOST + 1


def drawn_starts(seeds):
    """Return how many starts each drawn engine takes; None where something is to be mended."""
    numbers = []
    for seed in seeds:
        spec = drawn_engine(1000 + seed)
        coolant = random.Random(seed).choice([0.0, 10.0, 20.0, 45.0])
        factor = random.Random(-seed).choice([0.65, 1.0, 1.35])
        numbers.append(starts_until_good(stand_in(spec, seed), spec, coolant, factor))
    return numbers


class UnseenEngineTests(SimpleTestCase):
    def test_nearly_all_engines_end_up_starting_well(self):
        numbers = drawn_starts(range(8))
        solved = [number for number in numbers if number is not None and number <= MOST]
        print(
            f"\nunseen engines: {len(solved)} of {len(numbers)} start well, median "
            f"{statistics.median(solved)} starts, most {max(solved)}"
        )
        self.assertGreaterEqual(len(solved), len(numbers) - 1, numbers)
        self.assertLessEqual(statistics.median(solved), 5)


#: Ways of logging a start: how often, and which channels are there.
WAYS_OF_LOGGING = {
    "ten times a second": {"rate_hz": 10.0},
    "fifty times a second": {"rate_hz": 50.0},
    "speed and coolant alone": {"channels": ("time_s", "rpm", "coolant_c")},
    "a few usual channels": {"channels": ("time_s", "rpm", "coolant_c", "lambda", "battery_v")},
}


def starts_when_logged(way, cases=((5.0, 0.65), (20.0, 1.35))):
    """Return how many starts each named engine takes when logged in one way, by (°C, factor)."""
    return {
        (key, coolant, factor): starts_until_good(
            engine, engine.spec, coolant, factor, **WAYS_OF_LOGGING[way]
        )
        for key, engine in NAMED.items()
        for coolant, factor in cases
    }


class RateAndChannelTests(SimpleTestCase):
    """Each way of logging with lean tables or with rich ones; all of both are in the studies."""

    def report(self, way, coolant, factor):
        return starts_when_logged(way, ((coolant, factor),))

    def assert_bounded(self, report, least=2):
        """One of three may be held for something under the bonnet, or search on; not more.

        One change at a time from tables that are all a third off, a start that is late by a tenth of a
        second repeated: about a dozen starts.
        """
        solved = [number for number in report.values() if number is not None and number <= MOST]
        self.assertGreaterEqual(len(solved), least, report)
        self.assertLessEqual(statistics.median(solved), 12, report)

    def test_at_ten_times_a_second(self):
        self.assert_bounded(self.report("ten times a second", 5.0, 0.65))

    def test_at_fifty_times_a_second(self):
        self.assert_bounded(self.report("fifty times a second", 20.0, 1.35))

    def test_with_speed_and_coolant_alone(self):
        """Without lambda a wrong mixture cannot be told from wrong air: some get there, not all."""
        self.assert_bounded(self.report("speed and coolant alone", 20.0, 1.35), least=1)

    def test_with_a_few_usual_channels(self):
        self.assert_bounded(self.report("a few usual channels", 20.0, 1.35))

    def test_the_verdict_does_not_depend_on_the_rate(self):
        """The same start logged at 10 and at 50 Hz: same verdict, figures within a sample."""
        for key, engine in NAMED.items():
            calibration = generate(engine.spec)
            for coolant in (0.0, 20.0, 85.0):
                results = []
                for rate in (10.0, 50.0):
                    run = simulate_start(
                        engine,
                        engine.spec,
                        calibration,
                        StartConditions(coolant, seed=3, rate_hz=rate),
                    )
                    results.append(
                        judge_log(Trace(run.channels), calibration, StartSetting(engine.spec))
                    )
                slow, fast = results
                with self.subTest(engine=key, coolant=coolant):
                    self.assertEqual(slow.verdict, fast.verdict)
                    if slow.figures.run_after_s is not None:
                        # A burst may fall between two slow samples: one of the two moments agrees.
                        apart = [
                            abs(getattr(slow.figures, name) - getattr(fast.figures, name))
                            for name in ("fire_after_s", "run_after_s")
                        ]
                        self.assertLess(min(apart), 0.45, apart)
