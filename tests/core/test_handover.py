"""The record: what is not proven is read off the facts, each gap by itself; the papers say it first."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.handover import (
    CLOSING,
    PAPERS,
    PARTS,
    STANDS,
    ChanceFact,
    ClosingFact,
    DecisionFact,
    GateFact,
    GoodStart,
    JobFacts,
    PullFact,
    Reopened,
    StartFact,
    TableFact,
    paper,
    unproven,
    what_stands,
)
from inbetrieb_core.sentences import plain

#: A car on which everything was done.
WHOLE = JobFacts(
    "Heron", "Shed", "2.2 l", "petrol", "Box 7", 120.0, 9, 9,
    tables=(TableFact("Cranking fuel", "%", {"measured": 12}, ""),),
    gates=(GateFact("Wiring", True, "Signed off."),),
    starts=(StartFact(1, "2026-11-01", -5.0, "started", True, "It starts."),),
    chances=tuple(ChanceFact(c, 0.97, "proven") for c in (-10.0, 0.0, 20.0, 85.0)),
    monthly_c=(-6.0, -5.0, 0.0, 4.0, 8.0, 11.0, 13.0, 13.0, 9.0, 6.0, 1.0, -4.0),
    idle="The warm idle is true.", is_idle_true=True, passes=3, passes_taken=2, map_done=0.95, has_transients=True,
    pulls=(PullFact(1, "2026-11-02", "gear 4", 110.0, ""),),
    closing=tuple(ClosingFact(check.key, "looked at", "anna", "2026-11-03") for check in CLOSING),
)  # fmt: skip


def words(facts):
    return [plain(one.what) for one in unproven(facts)]


class UnprovenTests(SimpleTestCase):
    def test_of_a_whole_job_only_what_nobody_tried_elsewhere_is_left(self):
        left = words(WHOLE)
        self.assertEqual(len(left), 3, left)
        self.assertFalse(any(one.serious for one in unproven(WHOLE)))
        self.assertTrue(all(one.proof for one in unproven(WHOLE)))

    def test_a_cold_drive_that_a_pass_told_of_is_not_missing(self):
        missing = [one for one in words(WHOLE) if "Driving below" in one]
        self.assertEqual(len(missing), 1)
        self.assertEqual(
            set(words(WHOLE)) - set(words(replace(WHOLE, cold_driven=True))), set(missing)
        )

    def test_each_gap_shows_by_itself_with_what_would_prove_it(self):
        no = DecisionFact(
            "Trigger", "passed without it", "anna", "2026-11-01", "No capture lead at hand."
        )
        for change, part, serious in (
            ({"starts": ()}, "No start was ever recorded", True),
            ({"starts": (replace(WHOLE.starts[0], good=False, verdict="stalled"),)}, "was not good: stalled", True),
            ({"chances": (ChanceFact(-10.0, 0.3, "extrapolated"),)}, "−10 °C was never seen: good with 30 %", True),
            ({"chances": (ChanceFact(0.0, 0.9, "likely"),)}, "likely (90 %), not proven", False),
            ({"chances": (ChanceFact(0.0, 0.5, "open"),)}, "is open", True),
            ({"gates": (GateFact("Wiring", False, "Sign it off."),)}, "Wiring: Sign it off.", True),
            ({"decisions": (no,)}, "No capture lead at hand", False),
            ({"skipped": (replace(no, what="Charging"),)}, "Left out on the first start: Charging", False),
            ({"is_idle_true": False, "idle": ""}, "warm idle was not looked at", False),
            ({"passes": 0}, "never corrected from a drive", True),
            ({"map_done": 0.4}, "40 % are within", False),
            ({"has_transients": False}, "quick pedal", False),
            ({"pulls": ()}, "Full load was never measured", False),
            ({"pulls": (), "is_boosted": True}, "Full load was never measured", True),
            ({"pulls": (replace(WHOLE.pulls[0], stop="It leans out."),)}, "says stop: It leans out.", True),
            ({"tables": (TableFact("Idle valve", "%", {"assumed": 6, "measured": 6}, "0 °C"),)}, "6 of 12 cells are assumed", False),
            ({"in_car": None}, "Nobody stamped", False),
            ({"in_car": 7}, "car holds revision 7, the newest is 9", True),
            ({"closing": WHOLE.closing[1:]}, "what happens when a sensor fails", False),
        ):  # fmt: skip
            with self.subTest(part):
                facts = replace(WHOLE, **change)
                found = [one for one in unproven(facts) if part in plain(one.what)]
                self.assertEqual(len(found), 1, words(facts))
                self.assertEqual(found[0].serious, serious)
                for key in PAPERS:
                    made = paper(key, facts)
                    self.assertEqual(made.is_proven, not serious)
                    self.assertEqual("not proven" in made.head, serious)

    def test_serious_things_stand_first_and_in_every_paper(self):
        facts = replace(WHOLE, starts=(), passes=0)
        self.assertTrue(unproven(facts)[0].serious)
        for key in PAPERS:
            text = str(paper(key, facts))
            self.assertIn("No start was ever recorded", text)
            self.assertIn("never corrected from a drive", text)


class PaperTests(SimpleTestCase):
    def test_taking_one_start_away_changes_the_page(self):
        fewer = replace(WHOLE, starts=())
        for key in ("shop", "customer", "calibrator"):
            self.assertNotEqual(paper(key, WHOLE), paper(key, fewer))

    def test_the_year_is_told_by_typed_minima_or_not_at_all(self):
        told = plain(str(paper("customer", WHOLE).sections))
        self.assertIn("all twelve months", told)
        cold = replace(WHOLE, chances=(ChanceFact(-10.0, 0.2, "extrapolated"), *WHOLE.chances[1:]))
        self.assertIn("open: Jan", plain(str(paper("customer", cold).sections)))
        self.assertIn(
            "were not typed", str(paper("customer", replace(WHOLE, monthly_c=())).sections)
        )

    def test_each_paper_has_its_own(self):
        titles = {key: [section.title for section in paper(key, WHOLE).sections] for key in PAPERS}
        self.assertIn("Wiring as built", titles["shop"])
        self.assertIn("Tables and the origin of their cells", titles["calibrator"])
        self.assertLess(len(titles["customer"]), 6)


class ReopeningTests(SimpleTestCase):
    DAY = datetime(2026, 11, 1, tzinfo=UTC)

    def stands(self, parts, days=1, proven=0):
        at = self.DAY + timedelta(days=proven)
        back = Reopened(self.DAY + timedelta(days=days), parts)
        return what_stands([back], dict.fromkeys(STANDS, at), [GoodStart(at, -10.0)])

    def test_other_injectors_leave_wiring_trigger_and_idle_alone(self):
        found = self.stands(("injectors",))
        self.assertIn("The wiring list as built", found.kept)
        self.assertIn("The warm idle", found.kept)
        self.assertIn("The fuel map", [one.what for one in found.fallen])

    @given(st.sets(st.sampled_from(sorted(PARTS)), min_size=1), st.sampled_from(sorted(PARTS)))
    def test_nothing_is_kept_and_fallen_and_another_part_never_lifts_what_fell(self, parts, more):
        found, wider = self.stands(tuple(parts)), self.stands((*parts, more))
        fallen = {one.what for one in found.fallen}
        self.assertEqual(fallen | set(found.kept), {title for title, _ in STANDS.values()})
        self.assertFalse(fallen & set(found.kept))
        self.assertLessEqual(fallen, {one.what for one in wider.fallen})

    @given(st.sets(st.sampled_from(sorted(PARTS)), min_size=1), st.integers(-5, 5))
    def test_only_what_came_after_proves_again(self, parts, after):
        found = self.stands(tuple(parts), days=0, proven=after)
        rest = [one for one in found.fallen if one.stand != "starts"]
        self.assertTrue(all(one.again == (after > 0) for one in rest))

    def test_cold_starts_are_proven_again_by_cold_ones_alone(self):
        def again(*starts):
            good = [GoodStart(self.DAY + timedelta(days=day), coolant) for day, coolant in starts]
            fallen = what_stands([Reopened(self.DAY, ("fuel",))], {}, good).fallen
            return next(one.again for one in fallen if one.stand == "starts")

        for starts, expected in (
            (((-5, -8.0), (-4, 20.0)), False),
            (((-5, -8.0), (2, 20.0)), False),
            (((-5, -8.0), (2, 20.0), (3, -4.0)), True),
            (((2, 60.0),), False),
            (((2, 8.0),), True),
        ):
            with self.subTest(starts):
                self.assertEqual(again(*starts), expected)

    def test_what_was_never_proven_is_neither_kept_nor_new(self):
        found = what_stands([Reopened(self.DAY, ("place",))], {})
        self.assertEqual(found.kept, ())
        self.assertFalse(any(one.again for one in found.fallen))

    def test_an_open_fall_is_serious_until_it_is_proven_again(self):
        for proven, expected in ((0, True), (2, False)):
            facts = replace(WHOLE, reopening=self.stands(("camshaft",), proven=proven))
            self.assertEqual(any(one.serious for one in unproven(facts)), expected)
            self.assertEqual(paper("customer", facts).is_proven, not expected)
