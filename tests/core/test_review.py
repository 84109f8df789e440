"""Review of an inherited calibration: seeded faults are found, clean ones raise no alarm."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from inbetrieb_core.basemaps import generate
from inbetrieb_core.tables.review import RULE_TITLES, review

from tests.examples import asked

from .engines import FOUR, plausible_engines
from .seeded_mistakes import (
    IN_CONTEXT,
    ROUNDS,
    SEEDED,
    changed,
    clean,
    cold_idle,
    context_of,
    hits_in_context,
    lean,
    rising_dead_time,
    seeded_hits,
    spike,
    step,
    trims,
    zeroed,
)


class ReviewTests(SimpleTestCase):
    def test_clean_calibrations_raise_less_than_one_false_alarm(self):
        alarms = [len(review(clean(seed)[0]).findings) for seed in range(12)]
        print(f"\nreview: {sum(alarms) / len(alarms):.2f} false alarms in a clean calibration")
        self.assertLess(sum(alarms) / len(alarms), 1.0)

    def test_nine_of_ten_seeded_faults_are_found_where_they_are(self):
        found = total = 0
        for name, hits in seeded_hits(ROUNDS).items():
            with self.subTest(fault=name):
                self.assertGreaterEqual(hits, 0.75 * ROUNDS)
            found, total = found + hits, total + ROUNDS
        print(f"\nreview: {found} of {total} seeded faults of {len(SEEDED)} kinds found")
        self.assertGreaterEqual(found, 0.9 * total)

    def test_faults_that_need_the_engine_or_the_limits_to_be_seen(self):
        """Sixteen kinds more, with what is known of the engine besides its tables."""
        found = total = 0
        by_name, alarms = hits_in_context(ROUNDS)
        for name, hits in by_name.items():
            with self.subTest(fault=name):
                self.assertGreaterEqual(hits, 0.9 * ROUNDS)
            found, total = found + hits, total + ROUNDS
        print(
            f"\nreview with engine data: {found} of {total} seeded faults of {len(IN_CONTEXT)} kinds "
            f"found, {alarms / total:.2f} findings that nobody seeded"
        )
        self.assertGreaterEqual(found, 0.9 * total)
        self.assertLess(alarms / total, 1.0)

    def test_generated_maps_of_unseen_engines_raise_less_than_one_alarm(self):
        """What the program makes itself must pass its own review, whatever the engine."""
        alarms = []

        # One engine in a hundred raises one: few engines hold no limit.
        @settings(max_examples=asked(200), deadline=None, suppress_health_check=list(HealthCheck))
        @given(plausible_engines())
        def ask(spec):
            calibration = generate(spec)
            found = review(calibration, context_of(calibration, spec)).findings
            alarms.append(len([f for f in found if f.severity != "note"]))

        ask()
        mean = sum(alarms) / len(alarms)
        print(f"\nreview of generated maps: {mean:.2f} alarms each over {len(alarms)} engines")
        self.assertLess(mean, 0.1)

    def test_trims_are_told_by_their_pattern(self):
        random = np.random.default_rng(1)
        everywhere = trims(generate(FOUR), random)
        said = " ".join(f.sentence for f in review(everywhere, context_of(everywhere)).findings)
        self.assertIn("not a table", said)
        self.assertIn("Mend fuel pressure", review(everywhere).sentence)
        corner = trims(generate(FOUR), random, (slice(-5, None), slice(-4, None)))
        said = " ".join(f.sentence for f in review(corner).findings)
        self.assertIn("high speed and high load", said)

    def test_only_what_was_found_is_looked_at(self):
        calibration = changed(
            generate(FOUR), "dead_time", lambda v: v.__setitem__(slice(None), 1.0)
        )
        self.assertEqual(
            review(calibration, context_of(calibration, only=frozenset({"ve"}))).findings, ()
        )

    def test_cells_side_by_side_are_one_finding(self):
        calibration = changed(
            generate(FOUR),
            "ve",
            lambda v: v.__setitem__((slice(6, 8), slice(4, 6)), v[6:8, 4:6] + 16.0),
        )
        spikes = [f for f in review(calibration).findings if f.rule == "spike"]
        self.assertEqual([len(f.cells) for f in spikes], [4])

    def test_targets_of_another_fuel_are_told(self):
        """Stoichiometric air–fuel ratio of E85 about 9.8, read by the scale of petrol: lambda 0.66."""
        blend = replace(FOUR, ethanol_volume_share=0.85)
        calibration = changed(generate(blend), "lambda_target", lambda v: v.__imul__(9.8 / 14.7))
        found = review(calibration, context_of(calibration, blend)).findings
        said = next(f.sentence for f in found if f.rule == "too_rich")
        self.assertIn("the scale of petrol", said)

    def test_findings_about_no_table_are_told_apart(self):
        """Accepting one unwired input must not accept the next."""
        calibration = generate(FOUR)
        context = context_of(
            calibration, configured_inputs=("launch switch", "knock"), wired_inputs=()
        )
        found = [f for f in review(calibration, context).findings if f.rule == "unwired_input"]
        self.assertEqual(len({f.identifier for f in found}), 2)

    def test_every_finding_of_a_bad_calibration_has_an_identifier_of_its_own(self):
        bad = trims(generate(FOUR), np.random.default_rng(3))
        for seeder in (spike, step, cold_idle, zeroed, rising_dead_time, lean):
            bad = seeder(bad, np.random.default_rng(5))[0]
        found = review(bad, context_of(bad)).findings
        self.assertGreater(len(found), 6)
        self.assertEqual(len({f.identifier for f in found}), len(found))

    def test_every_rule_has_a_name_for_people(self):
        for rule in (*SEEDED.values(), *IN_CONTEXT.values()):
            self.assertIn(rule, RULE_TITLES)

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
