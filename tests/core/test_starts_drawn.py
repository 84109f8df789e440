"""Starts drawn from their moments: what happened is known beforehand, and must be found again.

The speed is made of events (crank, fire, run, flare, dip, settle, stall) with ripple and noise of
their own; neither the bench engine nor its formulas take part.
"""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import StartSetting, judge_log
from inbetrieb_core.tables.edits import apply

from tests.examples import few

from .engines import FOUR

CALIBRATION = generate(FOUR)
SETTING = StartSetting(FOUR)
many = settings(max_examples=few(25), deadline=None, suppress_health_check=list(HealthCheck))


@st.composite
def moments(draw, outcome):
    """Draw the moments of a start with a known outcome. All times [s], all speeds [1/min]."""
    coolant = draw(st.floats(-15.0, 80.0))
    target = CALIBRATION.at_coolant("idle_target", coolant)
    key_on = draw(st.floats(0.3, 4.0))
    crank = draw(st.floats(160.0, 280.0))
    fire = draw(st.floats(0.4, 4.0)) if outcome != "no fire" else None
    run_up = draw(st.floats(0.3, 0.7))
    flare = target + draw(st.floats(80.0, 900.0))
    dip = target - draw(st.floats(0.0, 120.0))
    settled = target + draw(st.floats(-40.0, 40.0))
    return {
        "outcome": outcome, "coolant": coolant, "target": target, "key_on": key_on, "crank": crank,
        "fire": fire, "run_up": run_up, "flare": flare, "dip": dip, "settled": settled,
        "gives_up": draw(st.floats(4.0, 9.0)), "rate": draw(st.sampled_from([10.0, 20.0, 25.0, 50.0])),
        "ripple": draw(st.floats(0.0, 12.0)), "seed": draw(st.integers(0, 10**6)),
        "ran": draw(st.floats(3.0, 8.0)),
    }  # fmt: skip


def points_of(m):
    """Return (time, speed) points of the shaft."""
    begin = m["key_on"]
    points = [(0.0, 0.0), (begin, 0.0), (begin + 0.15, m["crank"])]
    if m["outcome"] == "no fire":
        end = begin + m["gives_up"]
        return [*points, (end, m["crank"] * 0.95), (end + 0.3, 0.0), (end + 3.0, 0.0)]
    fires = begin + m["fire"]
    runs = fires + m["run_up"]
    points += [(fires, m["crank"] * 1.02), (runs, 650.0)]
    if m["outcome"] == "started and died":
        dies = runs + m["ran"]
        return [
            *points, (runs + 0.7, m["flare"]), (dies - 1.2, m["target"] * 0.8), (dies, 0.0), (dies + 3.0, 0.0),
        ]  # fmt: skip
    return [
        *points, (runs + 0.8, m["flare"]), (runs + 3.2, m["dip"]), (runs + 5.0, m["settled"]),
        (runs + 22.0, m["settled"]),
    ]  # fmt: skip


def trace_of(m, **channels):
    """Return the log of a start."""
    points = points_of(m)
    time = np.arange(0.0, points[-1][0], 1.0 / m["rate"])
    speed = np.interp(time, *zip(*points, strict=True))
    chance = np.random.default_rng(m["seed"])
    turning = speed > 50.0
    speed = speed + turning * (
        m["ripple"] * np.sin(9.0 * time) + chance.normal(0.0, 4.0, time.size)
    )
    built = {
        "time_s": time,
        "rpm": np.clip(speed, 0.0, None),
        "coolant_c": np.full(time.size, m["coolant"]),
    }
    built.update({name: np.full(time.size, float(value)) for name, value in channels.items()})
    return Trace(built)


def judged(m, **channels):
    return judge_log(trace_of(m, **channels), CALIBRATION, SETTING)


class VerdictTests(SimpleTestCase):
    @many
    @given(moments("started"))
    def test_a_start_is_a_start(self, m):
        self.assertEqual(judged(m).verdict, "started")

    @many
    @given(moments("no fire"))
    def test_cranking_in_vain_is_no_fire(self, m):
        analysis = judged(m)
        self.assertEqual(analysis.verdict, "no fire")
        self.assertFalse(analysis.good)
        self.assertAlmostEqual(analysis.figures.cranked_s, m["gives_up"], delta=0.45)

    @many
    @given(moments("started and died"))
    def test_a_stall_after_seconds_is_one(self, m):
        analysis = judged(m)
        self.assertIn(analysis.verdict, ("started and died", "fired and died"))
        self.assertAlmostEqual(analysis.figures.ran_s, m["ran"], delta=1.3)
        self.assertFalse(analysis.good)


class FigureTests(SimpleTestCase):
    @many
    @given(moments("started"))
    def test_what_was_put_in_is_measured(self, m):
        figures = judged(m).figures
        step = 1.0 / m["rate"]
        self.assertAlmostEqual(figures.coolant_c, m["coolant"], places=6)
        self.assertAlmostEqual(figures.target_rpm, m["target"], delta=1.0)
        if m["fire"] > 0.9:  # a few samples at least
            self.assertAlmostEqual(figures.cranking_rpm, m["crank"], delta=0.06 * m["crank"] + 8.0)
        self.assertAlmostEqual(figures.fire_after_s, m["fire"], delta=0.45 + step)
        self.assertAlmostEqual(
            figures.flare_rpm, m["flare"], delta=40.0 + 2.0 * m["ripple"] + 900.0 * step
        )
        self.assertAlmostEqual(figures.steady_rpm, m["settled"], delta=12.0 + m["ripple"])

    @many
    @given(moments("started"))
    def test_the_order_of_events_is_kept(self, m):
        analysis = judged(m)
        figures = analysis.figures
        self.assertLessEqual(figures.fire_after_s, figures.run_after_s)
        self.assertGreaterEqual(figures.peak_rpm, figures.flare_rpm - 1e-6)
        names = [phase.name for phase in analysis.phases]
        self.assertIn("cranking", names)
        for phase in analysis.phases:
            self.assertLessEqual(phase.start_s, phase.end_s)

    @many
    @given(moments("started"))
    def test_what_the_log_does_not_hold_is_unknown_and_never_zero(self, m):
        figures = judged(m).figures
        for name in ("battery_rest_v", "battery_low_v", "pressure_share", "pressure_late_s",
                     "need_settled", "need_after_start", "steady_map_kpa", "idle_valve_pct"):  # fmt: skip
            self.assertIsNone(getattr(figures, name), name)

    @many
    @given(moments("started"), st.floats(11.5, 13.2), st.floats(25.0, 45.0), st.floats(10.0, 60.0))
    def test_other_channels_are_read_where_they_are(self, m, battery, pressure, valve):
        figures = judged(m, battery_v=battery, map_kpa=pressure, idle_valve_pct=valve).figures
        self.assertAlmostEqual(figures.battery_rest_v, battery, places=6)
        self.assertAlmostEqual(figures.battery_low_v, battery, places=6)
        self.assertAlmostEqual(figures.steady_map_kpa, pressure, places=6)
        self.assertAlmostEqual(figures.idle_valve_pct, valve, places=6)


class AdviceTests(SimpleTestCase):
    def assert_one_cautious_step(self, analysis):
        self.assertLessEqual(len(analysis.advice), 1)
        for advice in analysis.advice:
            self.assertTrue(advice.reason)
            if advice.table is None:
                self.assertEqual(advice.changes, ())
                continue
            changed = apply(
                CALIBRATION[advice.table], advice.changes, CALIBRATION[advice.table].mark((0,))
            )
            definition = changed.definition
            self.assertTrue((changed.values >= definition.lower).all())
            self.assertTrue((changed.values <= definition.upper).all())
            self.assertGreater(len(advice.changes), 0)
            # A rule moves what the start blends; a step that is searched moves the curve.
            if not advice.bands:
                self.assertLessEqual(len(advice.changes), 2)
            self.assertTrue(0.0 < advice.confidence <= 1.0)

    @many
    @given(st.sampled_from(["started", "no fire", "started and died"]).flatmap(moments))
    def test_at_most_one_thing_is_changed_and_within_its_bounds(self, m):
        self.assert_one_cautious_step(judged(m))

    @many
    @given(moments("no fire"))
    def test_an_engine_that_never_fired_is_not_given_idle_air(self, m):
        for advice in judged(m).advice:
            self.assertNotIn(
                advice.table,
                ("idle_valve", "idle_target", "warm_up_enrichment", "after_start_fade"),
            )

    @many
    @given(moments("started"))
    def test_a_good_start_is_within_every_limit(self, m):
        analysis = judged(m)
        if analysis.good:
            self.assertLessEqual(m["flare"], m["target"] + 450.0 + 60.0 + 2.0 * m["ripple"])
            self.assertLessEqual(m["fire"], (2.5 if m["coolant"] < -5.0 else 1.5) + 0.45)
            self.assertEqual([a for a in analysis.advice if a.table is not None], [])

    @many
    @given(moments("started"))
    def test_a_wild_flare_is_not_good(self, m):
        wild = {**m, "flare": m["target"] + 1100.0, "fire": 0.8}
        self.assertFalse(judged(wild).good)

    @many
    @given(moments("started"), st.floats(60.0, 3000.0))
    def test_when_the_logger_was_switched_on_does_not_matter(self, m, offset):
        trace = trace_of(m)
        moved = Trace({**trace.channels, "time_s": trace.time_s + offset})
        first = judge_log(trace, CALIBRATION, SETTING)
        second = judge_log(moved, CALIBRATION, SETTING)
        self.assertEqual(first.verdict, second.verdict)
        # A moment on the very edge of a sample may fall on either side of it.
        step = 1.0 / m["rate"] + 1e-6
        self.assertAlmostEqual(first.figures.fire_after_s, second.figures.fire_after_s, delta=step)

    @many
    @given(moments("started"))
    def test_a_channel_without_a_meaning_for_the_start_changes_nothing(self, m):
        plain = judged(m)
        more = judged(m, speed_kmh=0.0, oil_c=30.0, gear=0.0, ambient_c=12.0)
        self.assertEqual(
            (plain.verdict, plain.good, plain.figures), (more.verdict, more.good, more.figures)
        )

    @many
    @given(moments("started"))
    def test_the_same_log_gives_the_same_answer(self, m):
        self.assertEqual(judged(m), judged(m))


class SentenceTests(SimpleTestCase):
    @many
    @given(st.sampled_from(["started", "no fire", "started and died"]).flatmap(moments))
    def test_every_sentence_is_whole_and_has_its_units(self, m):
        from inbetrieb_core.sentences import plain

        analysis = judged(m)
        told = [
            analysis.sentence,
            *(f.sentence for f in analysis.findings),
            *(a.reason for a in analysis.advice),
        ]
        for text in map(plain, told):
            self.assertRegex(text, r"[.!]$")
            self.assertNotRegex(text, r"\d[eE][+-]?\d")
            self.assertNotIn("None", text)
            self.assertNotIn("nan", text)
        self.assertIn("°C", plain(analysis.sentence))

    def test_the_setting_of_an_engine_decides_the_step(self):
        for school, share in (("5", 0.05), ("10", 0.10)):
            spec = replace(FOUR, schools=replace(FOUR.schools, step=school))
            self.assertEqual(StartSetting(spec).step, share)
        self.assertEqual(StartSetting(replace(FOUR, fuelling="throttle_body")).step, 0.10)
