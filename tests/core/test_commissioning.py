"""The order of work: always exactly one next action."""

from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.commissioning import (
    STATIONS,
    CaptureFact,
    KeyOnFact,
    OutputFact,
    TestedOutput,
    TrialFact,
    injector_gate,
    judge_output_test,
    next_action,
    output_gate,
    outputs_to_test,
    sensor_gate,
    trigger_gate,
    wiring_gate,
)
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.triggers import LightReading, fit_timing
from inbetrieb_core.wiring import Fitting


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
        self.assertEqual(next_action(proven, 1).station, "fuel-map")
        self.assertIn("1 of 7", next_action(proven[:3] + proven[4:], 1).gate)

    def test_after_the_ladder_come_map_pulls_and_record(self):
        proven = [fact(i, c, True, None, "") for i, c in enumerate((-10, 0, 10, 20, 40, 60, 85), 1)]
        for begun, station, is_done in (
            ((), "fuel-map", False),
            (("fuel-map",), "pulls", False),
            (("fuel-map", "pulls"), "handover", False),
            (("pulls",), "fuel-map", False),
            (("handover", "pulls", "fuel-map"), "handover", True),
        ):
            action = next_action(proven, 1, begun=begun)
            with self.subTest(begun):
                self.assertEqual((action.station, action.gate == ""), (station, is_done))
        self.assertEqual(next_action(proven[1:], 1, begun=("fuel-map",)).kind, "prove")

    def test_stations_are_numbered_through(self):
        self.assertEqual([station.number for station in STATIONS], list(range(1, 14)))
        self.assertEqual(
            {s.key for s in STATIONS},
            {
                "intake",
                "wiring",
                "sensors",
                "injectors",
                "trigger",
                "base-maps",
                "first-start",
                "hot-idle",
                "ladder",
                "trial",
                "fuel-map",
                "pulls",
                "handover",
            },
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


class LaterGateTests(SimpleTestCase):
    def test_wiring_is_planned_placed_checked_and_signed(self):
        for args, more, kind, part, open_ in (
            ((False, False, 0, ""), {}, "enter", "", False),
            ((True, False, 0, ""), {"whole": False}, "enter", "", False),
            ((True, False, 0, ""), {}, "check", "list", False),
            ((True, True, 2, ""), {}, "check", "list", False),
            ((True, True, 0, ""), {}, "check", "", True),
            ((False, False, 0, "wired for years"), {}, "check", "", True),
        ):
            gate = wiring_gate(*args, **more)
            with self.subTest(args=args, more=more):
                self.assertEqual((gate.kind, gate.part, gate.is_open), (kind, part, open_))
                self.assertFalse(gate.is_refused)  # work to do, not evidence against it

    def test_a_capture_must_agree_and_belong_to_the_wheel(self):
        good = CaptureFact(True, "The signal is that of 36−1.", False)
        for capture, refused, open_ in (
            (None, False, False),
            (good, False, True),
            (replace(good, stale=True), False, False),
            (replace(good, agrees=False), True, False),
        ):
            gate = trigger_gate(True, capture, "", "")
            self.assertEqual((gate.is_refused, gate.is_open), (refused, open_))
        self.assertEqual(trigger_gate(False, None, "", "").kind, "enter")
        self.assertTrue(trigger_gate(True, None, "", "seen on a scope").is_open)

    def test_a_timing_light_that_disagrees_stops_everything_whatever_was_written(self):
        """Commanded 12°, seen 20°: a stop, not a note (common practice, no source)."""
        stop = fit_timing([LightReading(900.0, 12.0, 20.0)], 90.0)
        self.assertEqual(stop.level, "stop")
        gate = trigger_gate(True, CaptureFact(True, "", False), stop.sentences[0], "a reason")
        self.assertEqual((gate.is_open, gate.is_refused, gate.part), (False, True, "timing"))
        action = next_action([fact()], 1, [gate])
        self.assertEqual((action.station, action.part), ("trigger", "timing"))

    def test_every_coil_and_injector_must_answer(self):
        spec = EngineSpec(2.0, 4, injectors=InjectorSet(4, 390.0))
        outputs = outputs_to_test(spec, Fitting(ignition="wasted_spark", injection="paired"))
        self.assertEqual([o.key for o in outputs], ["coil_1", "coil_2", "injector_1", "injector_2"])
        untried = [OutputFact(o.title, None) for o in outputs]
        passed = [OutputFact(o.title, True) for o in outputs]
        self.assertFalse(output_gate(untried, "").is_open)
        self.assertTrue(output_gate(passed, "").is_open)
        failed = output_gate([*passed[:3], OutputFact("Injector 2", False)], "")
        self.assertTrue(failed.is_refused)
        self.assertIn("Injector 2", failed.sentence)
        self.assertTrue(output_gate(untried, "it runs already").is_open)

    def test_what_was_heard_and_the_dip_tell_wire_from_part(self):
        injector = TestedOutput("injector_1", "Injector 1", "injector")
        for heard, dip, passed, words in (
            ("works", 0.2, True, "clicks"),
            ("works", None, True, "clicks"),
            ("nothing", 0.2, False, "stuck"),
            ("nothing", 0.0, False, "no current"),
            ("nothing", None, False, "watch the battery"),
            ("other", 0.2, False, "swapped"),
            ("works", 3.0, False, "short"),
        ):
            result = judge_output_test(injector, heard, dip)
            with self.subTest(heard=heard, dip=dip):
                self.assertEqual(result.passed, passed)
                self.assertIn(words, result.sentence)
        with self.assertRaises(InputRefused):
            judge_output_test(injector, "works", 99.0)

    def test_evidence_against_comes_before_work_to_do(self):
        waiting = wiring_gate(False, False, 0, "")
        refused = injector_gate("implausible", ["Far too small."], "")
        self.assertEqual(next_action([], 1, [waiting, refused]).station, "injectors")
        self.assertEqual(next_action([], 1, [waiting]).station, "wiring")
