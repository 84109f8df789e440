"""Following the advice alone, every bench engine ends up starting within acceptance.

The analysis sees nothing of the engine but its log. Numbers of tries are printed, because
they are the yardstick of the product.
"""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import StartSetting, judge_log, past_try
from inbetrieb_core.starts.acceptance import (
    DIP_BELOW_TARGET_RPM,
    FLARE_ABOVE_TARGET_RPM,
    SETTLED_BAND_RPM,
    run_within_s,
)
from inbetrieb_core.tables import Provenance, Table, apply

WRONG_TABLES = (
    "prime_pulse",
    "cranking_fuel",
    "cranking_air",
    "after_start_enrichment",
    "warm_up_enrichment",
    "idle_valve",
)
MOST_TRIES = 20


def scaled(calibration, keys, factor):
    """Return the calibration with whole tables off by a factor, within their bounds."""
    for key in keys:
        table = calibration[key]
        values = np.clip(table.values * factor, table.definition.lower, table.definition.upper)
        calibration = calibration.with_table(Table(key, table.axes, values, table.provenance))
    return calibration


def within_acceptance(run, calibration, spec):
    """Judge a start by its log alone, written anew and apart from the analysis under test."""
    time, speed = run.channels["time_s"], run.channels["rpm"]
    coolant = run.channels["coolant_c"][0]
    target = np.interp(
        run.channels["coolant_c"],
        calibration["idle_target"].axes[0].points,
        calibration["idle_target"].values,
    )
    running = np.flatnonzero(speed > spec.crank_to_run_rpm)
    if not running.size or speed[-25:].min() < 300:
        return False
    fired = time[np.flatnonzero((speed > 400) & (time > 2.0))[0]] - 2.0
    begin = time[running[0]]
    flare_at = int(np.argmax(np.where((time >= begin) & (time < begin + 4), speed, 0)))
    later = (time > time[flare_at]) & (time < begin + 12)
    from_twelve = (time > begin + 12) & (time < begin + 14)
    return (
        fired <= run_within_s(coolant) + 0.25
        and speed[flare_at] <= target[0] + FLARE_ABOVE_TARGET_RPM + 5
        and speed[later].min() >= target[0] - DIP_BELOW_TARGET_RPM - 5
        and abs(speed[from_twelve].mean() - target[from_twelve].mean()) <= SETTLED_BAND_RPM + 2
    )


def tries_until_good(engine, coolant_c, keys, factor, noise=0):
    """Follow the advice from wrong tables; return the number of starts it took. `noise` is another draw of all starts."""
    calibration = scaled(generate(engine.spec), keys, factor)
    setting = StartSetting(engine.spec)
    history = []
    for number in range(1, MOST_TRIES + 1):
        run = simulate_start(
            engine, engine.spec, calibration, StartConditions(coolant_c, seed=number + noise)
        )
        analysis = judge_log(Trace(run.channels), calibration, setting, history)
        if analysis.good:
            assert within_acceptance(run, calibration, engine.spec), analysis.sentence
            return number
        advice = analysis.advice[0]
        history.append(past_try(analysis, calibration))
        if advice.table is None:
            continue  # nothing is wrong under the bonnet: it is looked for in vain, and costs a start
        table = apply(
            calibration[advice.table], advice.changes, Provenance("calculated", advice.rule)
        )
        calibration = calibration.with_table(table)
    return MOST_TRIES + 1


def wrong_tables(key, temperatures):
    """Return how many starts a named engine takes from wrong tables, by temperature and factor."""
    return {
        (coolant, factor): tries_until_good(NAMED[key], coolant, WRONG_TABLES, factor)
        for coolant in temperatures
        for factor in (0.65, 1.35)
    }


class ClosedLoopTests(SimpleTestCase):
    def run_engine(self, key, temperature, most):
        report = wrong_tables(key, (temperature,))
        print(f"\n{key}: starts until good from tables 35 % wrong, by (°C, factor): {report}")
        # Acceptance asks for margin, mixture and a minute of idle; one change at a time may need long where everything
        # is far too rich, and how long the draws decide: 6 to 20 over six seeds. More temperatures are in the studies.
        self.assertLessEqual(max(report.values()), most, report)

    def test_port_four(self):
        self.run_engine("port_four", -10.0, 20)

    def test_throttle_body_v8(self):
        self.run_engine("throttle_body_v8", 85.0, 10)

    def test_twin_rotor(self):
        self.run_engine("twin_rotor", 85.0, 12)

    def test_one_wrong_table_takes_few_tries(self):
        for key, engine in NAMED.items():
            for table in ("cranking_fuel", "after_start_enrichment", "idle_valve"):
                with self.subTest(engine=key, table=table):
                    # How long the draws decide, too: the middle of three.
                    tries = [
                        tries_until_good(engine, 20.0, [table], 0.65, n) for n in (0, 100, 200)
                    ]
                    self.assertLessEqual(sorted(tries)[1], 8, tries)
