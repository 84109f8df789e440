"""The order of work: always exactly one next action."""

from django.test import SimpleTestCase
from inbetrieb_core.commissioning import STATIONS, TrialFact, next_action


def fact(
    number=1,
    coolant=10.0,
    good=False,
    table="cranking_fuel",
    reason="because",
    decision="",
    revision=1,
):
    return TrialFact(number, coolant, good, table, reason, decision, revision)


class NextActionTests(SimpleTestCase):
    def test_each_situation_has_its_action(self):
        for trials, revision, kind in (
            ([], 1, "record"),
            ([fact()], 1, "decide"),
            ([fact(table=None)], 1, "mend"),
            ([fact(decision="accepted")], 2, "repeat"),
            ([fact(decision="declined")], 1, "repeat"),
            ([fact(good=True, table=None, reason="")], 1, "prove"),
            ([fact(), fact(2, good=True, table=None, reason="")], 1, "prove"),
        ):
            with self.subTest(kind=kind, trials=trials):
                self.assertEqual(next_action(trials, revision).kind, kind)

    def test_says_which_revision_to_bring(self):
        self.assertIn("revision 2", next_action([fact(decision="accepted")], 2).sentence)

    def test_proven_temperatures_are_counted(self):
        proven = [
            fact(i, c, True, None, "")
            for i, c in enumerate((-10.0, 0.0, 10.0, 20.0, 40.0, 60.0, 85.0), 1)
        ]
        self.assertEqual(next_action(proven, 1).gate, "")
        self.assertIn("1 of 7", next_action(proven[:3] + proven[4:], 1).gate)

    def test_stations_are_numbered_through(self):
        self.assertEqual([station.number for station in STATIONS], list(range(1, 14)))
        self.assertEqual({s.key for s in STATIONS if s.built}, {"ladder", "trial"})
