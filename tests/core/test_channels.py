"""Which column of a log is which channel: every spelling, every unit, and what is left alone.

Conversions are checked against published definitions (NIST SP 811: inch of mercury, pound-force per
square inch, horsepower; DIN 66036: metric horsepower).
"""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.logs.columns import Column
from inbetrieb_core.logs.importer import import_log
from inbetrieb_core.logs.mapping import propose, split_unit
from inbetrieb_core.logs.names import CHANNELS
from inbetrieb_core.logs.words import normalise_name
from inbetrieb_core.quantities import offered_units, recognise_unit

#: Canonical value, and the same written in other units.
PUBLISHED = {
    ("map_kpa", "psi"): (101.325, 14.69595),
    ("map_kpa", "bar"): (101.325, 1.01325),
    ("map_kpa", "inHg"): (101.325, 29.92126),
    ("map_kpa", "mbar"): (101.325, 1013.25),
    ("coolant_c", "°F"): (37.0, 98.6),
    ("coolant_c", "K"): (0.0, 273.15),
    ("torque_nm", "lb·ft"): (135.58179, 100.0),
    ("power_kw", "PS"): (73.549875, 100.0),
    ("power_kw", "hp"): (74.569987, 100.0),
    ("speed_kmh", "mph"): (96.56064, 60.0),
    ("flow_gps", "kg/h"): (10.0, 36.0),
    ("flow_gps", "lb/min"): (7.5598728, 1.0),
    ("pulse_ms", "µs"): (2.5, 2500.0),
    ("battery_v", "mV"): (12.6, 12600.0),
}


def column(number, header, sample=(1.0, 1.1)):
    name, unit = split_unit(header)
    return Column(number, header, name, unit, np.array(sample))


def use_of(header, sample=(1.0, 1.1)):
    return propose([column(0, header, sample)])[0]


def log(*heads, rows=60):
    """A log whose further columns hold 1.5 everywhere."""
    lines = [";".join(["Time", "RPM", *heads])]
    for i in range(rows):
        lines.append(";".join([f"{i * 0.1:.1f}", "900", *["1.5"] * len(heads)]))
    return "\n".join(lines).encode()


class SpellingTests(SimpleTestCase):
    def test_every_spelling_names_its_channel(self):
        for channel in CHANNELS.values():
            for spelling in channel.spellings:
                with self.subTest(channel=channel.channel, spelling=spelling):
                    self.assertEqual(spelling, normalise_name(spelling))
                    self.assertEqual(use_of(spelling).channel, channel.channel)

    def test_however_it_is_written(self):
        for header, channel in (
            ("EngineSpeed", "rpm"), ("ENGINE_SPEED", "rpm"), ("engine-speed [1/min]", "rpm"),
            ("Drehzahl (U/min)", "rpm"), ("Kühlmitteltemperatur", "coolant_c"), ("CLT_F", "coolant_c"),
            ("Öldruck", "oil_pressure_kpa"), ("λ", "lambda"), ("Régime moteur", "rpm"),
            ("IdleTarget", "idle_target_rpm"), ("Leerlauf-Solldrehzahl", "idle_target_rpm"),
            ("EGT 1", "exhaust_c"), ("Lambda 2", "lambda_2"), ("AFR2", "lambda_2"),
            ("MAF Frequency [Hz]", "meter_hz"), ("MAF Voltage", "meter_v"), ("MAF", "flow_gps"),
            ("Außentemperatur", "ambient_c"), ("Gang", "gear"), ("Drehmoment [Nm]", "torque_nm"),
            ("Leistung [PS]", "power_kw"), ("Knock Count", "knock_count"), ("Cam Profile", "cam_profile"),
            ("Luftdruck", "barometric_kpa"),
        ):  # fmt: skip
            with self.subTest(header=header):
                self.assertEqual(use_of(header).channel, channel)

    def test_neighbours_are_told_apart_in_one_file(self):
        heads = ["Lambda", "Lambda 2", "Lambda Target", "Idle Target", "Engine Speed", "MAF", "MAF Hz",
                 "Oil Temp", "Oil Pressure", "Ambient Temp", "Coolant Temp", "Torque", "Power", "Gear"]  # fmt: skip
        uses = propose([column(i, head) for i, head in enumerate(heads)])
        self.assertEqual(
            [use.channel for use in uses],
            ["lambda", "lambda_2", "lambda_target", "idle_target_rpm", "rpm", "flow_gps", "meter_hz",
             "oil_c", "oil_pressure_kpa", "ambient_c", "coolant_c", "torque_nm", "power_kw", "gear"],
        )  # fmt: skip

    def test_what_only_sounds_alike_is_left_alone_with_a_reason(self):
        for header in ("Coolant Limit", "RPM dot", "Throttle Max", "MAP Target", "Fuel Table", "Lap",
                       "Boost Error", "Battery Comp", "Coolant ADC", "Gear Ratio Table"):  # fmt: skip
            with self.subTest(header=header):
                use = use_of(header)
                self.assertIsNone(use.channel)
                self.assertTrue(use.reason.endswith("."))


class UnitTests(SimpleTestCase):
    def test_published_conversions_from_the_head(self):
        for (channel, unit), (canonical, written) in PUBLISHED.items():
            title = CHANNELS[channel].title
            with self.subTest(channel=channel, unit=unit):
                use = use_of(f"{title} [{unit}]", (written, written))
                self.assertEqual(use.channel, channel)
                self.assertAlmostEqual(
                    written * use.factor + use.offset, canonical, delta=2e-6 * max(1.0, canonical)
                )

    def test_every_unit_that_is_offered_is_read_again(self):
        for channel in CHANNELS.values():
            for unit in offered_units(channel.dimension) if channel.dimension else ():
                with self.subTest(channel=channel.channel, unit=unit):
                    known = recognise_unit(unit)
                    self.assertIsNotNone(known)
                    self.assertEqual(known[0], channel.dimension)

    def test_a_unit_of_something_else_is_not_taken(self):
        self.assertIsNone(use_of("Coolant [kPa]").channel)
        self.assertIsNone(use_of("Torque [°C]").channel)

    def test_head_and_unit(self):
        for header, parts in (
            ("Coolant [°F]", ("Coolant", "°F")), ("MAP (kPa)", ("MAP", "kPa")), ("CLT_F", ("CLT", "F")),
            ("Oil Pressure|psi", ("Oil Pressure", "psi")), ("Lambda", ("Lambda", "")),
            ("Column 1", ("Column 1", "")), ("[V]", ("[V]", "")),
        ):  # fmt: skip
            with self.subTest(header=header):
                self.assertEqual(split_unit(header), parts)

    def test_channels_without_a_unit_pass_as_they_are(self):
        imported = import_log(log("Gear", "Cam Profile", "Knock Count"))
        for channel in ("gear", "cam_profile", "knock_count"):
            self.assertEqual(set(imported.trace[channel].tolist()), {1.5})

    def test_new_channels_in_other_units_through_the_whole_reader(self):
        imported = import_log(
            log("Torque [lb·ft]", "Power [PS]", "Ambient Temp [°F]", "Baro [bar]")
        )
        for channel, expected in (
            ("torque_nm", 1.5 * 1.3558179), ("power_kw", 1.5 * 0.73549875),
            ("ambient_c", (1.5 - 32.0) / 1.8), ("barometric_kpa", 150.0),
        ):  # fmt: skip
            with self.subTest(channel=channel):
                np.testing.assert_allclose(imported.trace[channel], expected, rtol=1e-6)


class SizeTests(SimpleTestCase):
    """Where no unit is stated the size of the values decides, and the reason says so."""

    def test_each_guess(self):
        for header, sample, unit in (
            ("MAP", (0.3, 1.02), "bar"), ("MAP", (4.5, 14.6), "psi"), ("MAP", (9.0, 29.9), "inHg"),
            ("MAP", (31.0, 101.0), "kPa"), ("MAP", (310.0, 1013.0), "mbar"), ("MAP", (31e3, 101e3), "Pa"),
            ("Coolant", (68.0, 195.0), "°F"), ("Coolant", (253.0, 360.0), "K"), ("Coolant", (-5.0, 90.0), "°C"),
            ("Lambda", (0.8, 1.2), "lambda"), ("Lambda", (12.0, 15.0), "AFR"), ("AFR", (0.8, 1.1), "lambda"),
            ("Pulse Width", (2000.0, 9000.0), "µs"), ("Pulse Width", (1.8, 9.0), "ms"),
            ("Battery", (11800.0, 14200.0), "mV"), ("Fuel Pressure", (2.8, 3.2), "bar"),
            ("Fuel Pressure", (41.0, 45.0), "psi"), ("Fuel Pressure", (290.0, 310.0), "kPa"),
        ):  # fmt: skip
            with self.subTest(header=header, sample=sample):
                use = use_of(header, sample)
                self.assertEqual(use.unit, unit)
                self.assertIn("no unit stated" if header != "AFR" else "", use.reason)

    def test_times(self):
        for step, unit in ((0.05, "s"), (50.0, "ms"), (50_000.0, "µs")):
            with self.subTest(step=step):
                self.assertEqual(use_of("Time", np.arange(50) * step).unit, unit)
