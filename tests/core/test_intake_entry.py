"""What is written down at intake, and what the trade's figures hold together."""

from django.test import SimpleTestCase
from inbetrieb_core.commissioning import (
    CONFIGURABLE_INPUTS,
    INTAKE_ITEMS,
    STATIONS,
    IntakeEntry,
    IntakeItem,
    base_map_gate,
    intake_differences,
    intake_gate,
)
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.sensors import FUNCTIONS
from inbetrieb_core.wiring import SWITCH_INPUTS, OutputSettings, fan_and_pump


class IntakeEntryTests(SimpleTestCase):
    def test_what_differs_comes_before_what_nobody_looked_at(self):
        entry = IntakeEntry(
            items=(
                IntakeItem("cam", claimed="moderate"),
                IntakeItem("injectors", claimed="480", fitted="250", differs=True),
                IntakeItem("displacement", claimed="2.2 l", fitted="2.2 l"),
                IntakeItem("sensors", fitted="none at all", differs=True),
            )
        ).check()
        found = intake_differences(entry)
        self.assertEqual([d.key for d in found], ["injectors", "sensors", "cam"])
        self.assertEqual([d.looked_at for d in found], [True, True, False])
        self.assertEqual(found[1].sentence, "Sensors: none at all is fitted.")

    def test_a_tick_without_a_finding_says_nothing(self):
        entry = IntakeEntry(items=(IntakeItem("cam", differs=True),))
        self.assertEqual(intake_differences(entry), ())

    def test_every_item_matters_at_a_station_that_exists(self):
        stations = {station.key for station in STATIONS}
        self.assertLessEqual({station for _, station in INTAKE_ITEMS.values()}, stations)

    def test_every_input_that_can_be_wired_can_be_switched_on(self):
        self.assertLessEqual({*FUNCTIONS, *SWITCH_INPUTS}, set(CONFIGURABLE_INPUTS))

    def test_refusals_name_the_field(self):
        for entry, field in (
            (IntakeEntry(items=(IntakeItem("wings"),)), "items.0.key"),
            (IntakeEntry(items=(IntakeItem("cam"), IntakeItem("cam"))), "items.1.key"),
            (IntakeEntry(items=(IntakeItem("cam", note="x" * 301),)), "items.0.note"),
            (IntakeEntry(firmware="x" * 4001), "firmware"),
            (IntakeEntry(configured_inputs=("wings",)), "configured_inputs"),
        ):
            with self.subTest(field=field), self.assertRaises(InputRefused) as caught:
                entry.check()
            self.assertEqual(caught.exception.problems[0].field, field)


class GateTests(SimpleTestCase):
    def test_both_gates_are_work_to_do_and_never_a_refusal(self):
        for gate in (intake_gate(2, "Repair."), base_map_gate(["Lean.", "Late."])):
            self.assertEqual((gate.is_open, gate.is_refused), (False, False))
            self.assertTrue(gate.closed_until)
        self.assertIn("1 more say stop", base_map_gate(["Lean.", "Late."]).sentence)
        self.assertNotIn("more", base_map_gate(["Lean."]).sentence)
        self.assertTrue(intake_gate(None, "").is_open)
        self.assertTrue(base_map_gate([]).is_open)


class OutputLineTests(SimpleTestCase):
    def test_fan_and_pump_are_those_of_the_outputs(self):
        lines = {line.title: (line.value, line.unit) for line in fan_and_pump(OutputSettings())}
        self.assertEqual(lines["Fan on"], (OutputSettings().fan_on_c, "°C"))
        self.assertEqual(lines["Pump prime"], (OutputSettings().pump_prime_s, "s"))
