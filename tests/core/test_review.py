"""Review of an inherited calibration: seeded faults are found, clean ones raise no alarm."""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.tables import Provenance, Table
from inbetrieb_core.tables.review import review

MARK = Provenance("carried_over", "found so")


def clean(seed):
    """Return a generated calibration with the small unevenness of hand work."""
    random = np.random.default_rng(seed)
    chambers = int(random.choice([3, 4, 6, 8]))
    boosted = random.random() < 0.3
    spec = EngineSpec(
        round(0.45 * chambers, 2), chambers, InjectorSet(chambers, 420.0),
        cam=str(random.choice(["mild", "moderate", "wild"])),
        compression_ratio=float(round(random.uniform(8.5, 11.0), 1)),
        induction="boosted" if boosted else "natural", boost_kpa=60.0 if boosted else 0.0,
        rev_limit_rpm=float(random.choice([5500, 6500, 7500])),
    )  # fmt: skip
    calibration = generate(spec)
    for key, noise in (("ve", 0.5), ("spark", 0.3), ("lambda_target", 0.003)):
        table = calibration[key]
        rough = table.values + noise * random.standard_normal(table.values.shape)
        calibration = calibration.with_table(with_values(table, rough))
    return calibration, random


def with_values(table, values):
    definition = table.definition
    values = np.clip(values, definition.lower, definition.upper).round(6)
    return Table(table.key, table.axes, values, table.provenance)


def changed(calibration, key, change):
    table = calibration[key]
    values = np.array(table.values)
    change(values)
    return calibration.with_table(with_values(table, values))


def inner(random, shape):
    return tuple(int(random.integers(2, n - 2)) for n in shape)


def spike(calibration, random):
    at = inner(random, calibration["ve"].values.shape)
    return changed(calibration, "ve", lambda v: v.__setitem__(at, v[at] + 18.0)), at


def hole(calibration, random):
    at = inner(random, calibration["ve"].values.shape)
    return changed(calibration, "ve", lambda v: v.__setitem__(at, v[at] - 18.0)), at


def spark_spike(calibration, random):
    at = inner(random, calibration["spark"].values.shape)
    return changed(calibration, "spark", lambda v: v.__setitem__(at, v[at] + 9.0)), at


def step(calibration, random):
    row = int(random.integers(3, calibration["ve"].values.shape[0] - 3))
    return changed(calibration, "ve", lambda v: v.__setitem__(slice(row, None), v[row:] + 20.0)), (
        row,
        0,
    )


def flat(calibration, random):
    return changed(
        calibration, "ve", lambda v: v.__setitem__((slice(3, 6), slice(-3, None)), 200.0)
    ), (3, -3)


def rising(calibration, random):
    i = int(random.integers(3, 6))
    return changed(
        calibration, "warm_up_enrichment", lambda v: v.__setitem__(i, v[i - 1] + 12.0)
    ), (i,)


def cold_idle(calibration, random):
    return changed(calibration, "idle_target", lambda v: v.__setitem__(slice(None), 850.0)), (0,)


def zeroed(calibration, random):
    return changed(
        calibration, "after_start_enrichment", lambda v: v.__setitem__(slice(None), 0.0)
    ), (0,)


def equal(calibration, random):
    return changed(calibration, "cranking_fuel", lambda v: v.__setitem__(slice(None), 180.0)), (0,)


def starved(calibration, random):
    poor = changed(calibration, "cranking_air", lambda v: v.__setitem__(slice(None), v * 0.02))
    return changed(poor, "idle_valve", lambda v: v.__setitem__(slice(0, 6), 2.0)), (0,)


def rising_dead_time(calibration, random):
    return changed(calibration, "dead_time", lambda v: v.__setitem__(5, v[4] + 0.3)), (5,)


def lean(calibration, random):
    return changed(
        calibration,
        "lambda_target",
        lambda v: v.__setitem__((slice(-4, None), slice(-2, None)), 1.02),
    ), (-1, -1)


def too_much_spark(calibration, random):
    return changed(
        calibration, "spark", lambda v: v.__setitem__((slice(None), slice(-2, None)), 41.0)
    ), (0, -1)


SEEDED = {
    spike: "spike", hole: "hole", spark_spike: "spike", step: "step", flat: "flat_at_limit",
    rising: "rising", cold_idle: "cold_idle", zeroed: "untouched", equal: "untouched",
    starved: "cranking_air", rising_dead_time: "dead_time", lean: "lean_at_load",
    too_much_spark: "spark_at_load",
}  # fmt: skip
ROUNDS = 12


class ReviewTests(SimpleTestCase):
    def test_clean_calibrations_raise_less_than_one_false_alarm(self):
        alarms = [len(review(clean(seed)[0]).findings) for seed in range(40)]
        print(f"\nreview: {sum(alarms) / len(alarms):.2f} false alarms in a clean calibration")
        self.assertLess(sum(alarms) / len(alarms), 1.0)

    def test_nine_of_ten_seeded_faults_are_found_where_they_are(self):
        found = total = 0
        for seeder, rule in SEEDED.items():
            hits = 0
            for seed in range(ROUNDS):
                calibration, random = clean(100 + seed)
                faulty, at = seeder(calibration, random)
                here = [f for f in review(faulty).findings if f.rule == rule]
                if len(at) == 2 and min(at) >= 0 and rule in ("spike", "hole", "step"):
                    here = [f for f in here if at in f.cells]
                hits += bool(here)
            with self.subTest(fault=seeder.__name__):
                self.assertGreaterEqual(hits, 0.75 * ROUNDS)
            found, total = found + hits, total + ROUNDS
        print(f"\nreview: {found} of {total} seeded faults of {len(SEEDED)} kinds found")
        self.assertGreaterEqual(found, 0.9 * total)

    def test_the_gravest_comes_first_and_says_where(self):
        calibration, random = clean(7)
        faulty = cold_idle(spike(calibration, random)[0], random)[0]
        findings = review(faulty).findings
        self.assertEqual(findings[0].rule, "cold_idle")
        self.assertIn("cannot work", findings[0].sentence)
        self.assertTrue(all("at " in f.sentence for f in findings))

    def test_repair_or_start_afresh(self):
        calibration, random = clean(8)
        self.assertEqual(review(spike(calibration, random)[0]).verdict, "repair")
        ruined = calibration
        for key in (
            "cranking_fuel",
            "after_start_enrichment",
            "warm_up_enrichment",
            "cranking_air",
        ):
            ruined = changed(ruined, key, lambda v: v.__setitem__(slice(None), 120.0))
        result = review(changed(ruined, "cranking_air", lambda v: v.__setitem__(slice(None), 0.0)))
        self.assertEqual(result.verdict, "start_afresh")
        self.assertIn("Start afresh", result.sentence)
