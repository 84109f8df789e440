"""The order of work: always exactly one next action."""

from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.commissioning import (
    STATIONS,
    KeyOnFact,
    TrialFact,
    injector_gate,
    next_action,
    sensor_gate,
)


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
        self.assertEqual(
            {s.key for s in STATIONS if s.built},
            {"wiring", "sensors", "injectors", "trigger", "ladder", "trial"},
        )


class GateTests(SimpleTestCase):
    FAILED = KeyOnFact("fail", "Coolant temperature reads 37 °C.", overridden=False, stale=False)

    def test_the_first_start_waits_for_the_sensors(self):
        none, entered = sensor_gate(0, None), sensor_gate(4, None)
        self.assertEqual((none.kind, entered.kind), ("enter", "check"))
        for gate in (none, entered):
            self.assertFalse(gate.is_open)
            action = next_action([], 1, [gate])
            self.assertEqual((action.kind, action.station), (gate.kind, "sensors"))
            # A job that runs already is not sent back by work that was never asked of it.
            self.assertNotEqual(next_action([fact()], 1, [gate]).station, "sensors")

    def test_a_failed_check_comes_before_everything_until_overridden(self):
        gate = sensor_gate(4, self.FAILED)
        self.assertTrue(gate.is_refused)
        self.assertIn("37 °C", next_action([fact()], 1, [gate]).sentence)
        self.assertTrue(sensor_gate(4, replace(self.FAILED, stale=True)).is_refused)
        opened = sensor_gate(4, replace(self.FAILED, overridden=True))
        self.assertEqual((opened.is_open, opened.closed_until), (True, ""))

    def test_a_sensor_changed_after_a_good_check_asks_for_another(self):
        good = KeyOnFact("pass", "Every sensor reads what it should.", False, False)
        self.assertTrue(sensor_gate(4, good).is_open)
        self.assertTrue(sensor_gate(4, replace(good, state="suspicious")).is_open)
        stale = sensor_gate(4, replace(good, stale=True))
        self.assertEqual((stale.is_open, stale.is_refused), (False, False))

    def test_implausible_injectors_need_a_reason(self):
        closed = injector_gate("implausible", ["Far too small."], "  ")
        self.assertIn("Far too small.", next_action([], 1, [closed]).sentence)
        self.assertEqual(next_action([], 1, [closed]).station, "injectors")
        self.assertTrue(injector_gate("implausible", ["Far too small."], "a test rig").is_open)
        self.assertTrue(injector_gate("attention", [], "").is_open)
