"""Causes that a drive does not part: named together, as a family or as all that are possible."""

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.fuelling.families import open_families
from inbetrieb_core.fuelling.found_cause import LIKELY, FoundCause

KEYS = ("fuel-per-pulse", "wideband-offset", "dead-time", "map-sensor", "air-after-throttle", "charge-temperature")  # fmt: skip


def causes(**probability):
    found = [
        FoundCause(key.replace("_", "-"), key, "%", p, 10.0, 8.0, 12.0, 0.9, f"Test of {key}.")
        for key, p in probability.items()
    ]
    return sorted(found, key=lambda cause: -cause.probability)


class OpenFamilyTests(SimpleTestCase):
    def told(self, table, **probability):
        return [(c, [m.key for m in members]) for c, members in open_families(causes(**probability), table)]  # fmt: skip

    def test_flow_or_an_offset_when_no_table_is_left(self):
        """Injectors 18 % small on an engine of independent physics: no family alone was likely enough."""
        seen = {"fuel_per_pulse": 0.51, "map_sensor": 0.24, "dead_time": 0.19, "short_pulses": 0.02}
        ((common, members),) = self.told(0.01, **seen)
        self.assertIn("table", common)
        self.assertEqual(members, ["fuel-per-pulse", "map-sensor", "dead-time"])
        self.assertEqual(self.told(0.22, **seen), [])

    def test_a_family_that_is_likely_goes_first_and_one_cause_alone_is_no_family(self):
        ((common, members),) = self.told(0.02, dead_time=0.45, map_sensor=0.4, fuel_per_pulse=0.1)
        self.assertEqual(members, ["dead-time", "map-sensor"])
        self.assertNotIn("table", common)
        self.assertEqual(self.told(0.01, fuel_per_pulse=0.97), [])

    @given(st.dictionaries(st.sampled_from(KEYS), st.floats(0.0, 0.79), max_size=6), st.floats(0.0, 1.0))  # fmt: skip
    def test_only_what_is_open_and_worth_a_test_is_asked_for(self, drawn, table):
        found = open_families(causes(**drawn), table)
        for _, members in found:
            self.assertTrue(members)
            self.assertTrue(all(m.probability < LIKELY for m in members))
        possible = [p for p in drawn.values() if p >= 0.1]
        if table <= 0.1 and possible:
            self.assertTrue(found)
