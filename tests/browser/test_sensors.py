"""Sensors and the key-on check, driven as an installer would."""

import re

from playwright.sync_api import expect

from tests.server.parts import COOLANT, SENSORS

from .base import BrowserTestCase


class SensorSheetTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        self.write_reasons(self.job, "wiring", "trigger", "output-tests")
        self.open(f"/jobs/{self.job}")

    def pick(self, label, option):
        self.page.get_by_label(label, exact=True).click()
        self.page.get_by_role("option", name=option).click()

    def test_a_thermistor_from_a_pasted_table_to_a_saved_sensor(self):
        page = self.page
        expect(page.get_by_role("region", name="Next action")).to_contain_text("Enter the sensors")
        page.get_by_role("link", name="Enter the sensors").click()
        page.get_by_role("link", name=re.compile("^Coolant temperature")).click()
        expect(page.get_by_role("heading", name="Coolant temperature")).to_be_visible()
        page.get_by_label("What is fitted").fill("Sender in the housing")
        page.get_by_label("Pull-up resistor").fill("0")
        # What may mean two things is asked, and the answer is taken.
        page.get_by_role("button", name="Paste a table").click()
        page.get_by_label(re.compile("Table to paste")).fill("-20\t16,867 Ω\n0\t6,120 Ω")
        page.get_by_role("button", name="Read it").click()
        expect(page.get_by_label("Resistance 1")).to_have_value("16.867")
        page.get_by_role("alert").get_by_role("button", name="Yes, × 1000").click()
        expect(page.get_by_label("Resistance 1")).to_have_value("16867")
        page.get_by_role("button", name="Paste a table").click()
        page.get_by_label(re.compile("Table to paste")).fill(
            "T [°C];R [kΩ]\n-20;15,46\n20;2,5\n100;0,186"
        )
        page.get_by_role("button", name="Read it").click()
        expect(page.get_by_text("3 rows read")).to_be_visible()
        expect(page.get_by_label("Resistance 1")).to_have_value("15460")
        expect(page.get_by_text("a two-wire sensor", exact=False).first).to_be_visible()
        page.get_by_label("Pull-up resistor").fill("2490")
        expect(page.get_by_role("img", name="Coolant temperature over the signal")).to_be_visible()
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("One count of the converter")
        expect(margin).to_contain_text("wire or connector open")
        mistakes = page.get_by_role("table", name="What a mistake would read")
        expect(mistakes).to_contain_text("pull-up really 1000 Ω")
        page.get_by_label(re.compile("Own breakpoints")).fill("1 2,5 4")
        values = page.get_by_role("list", name="Value table")
        expect(values.get_by_role("listitem")).to_have_count(3)
        expect(values).to_contain_text("20.1 °C")
        self.assert_accessible()
        page.get_by_role("button", name="Save this sensor").click()
        expect(page.get_by_role("button", name="Saved")).to_be_disabled()
        with page.expect_download() as download:
            page.get_by_role("link", name="CSV").click()
        self.assertIn("2.5,20", download.value.path().read_text())
        saved = page.evaluate(f"fetch('/api/jobs/{self.job}/sensors').then((r) => r.json())")
        self.assertEqual(saved[0]["sensor"]["transfer"]["points"][0], [-20, 15460])

    def test_what_is_typed_survives_a_change_of_units(self):
        page = self.page
        self.api(f"/jobs/{self.job}/sensors", {"sensor": COOLANT})
        self.open(f"/jobs/{self.job}/sensors/entered/coolant")
        expect(page.get_by_label("Temperature 2")).to_have_value("20")
        page.get_by_label("Temperature 2").fill("25")
        page.get_by_role("button", name=re.compile("^Units")).click()
        page.get_by_role("button", name="°F", exact=True).click()
        page.keyboard.press("Escape")
        expect(page.get_by_label("Temperature 2")).to_have_value("77")
        expect(page.get_by_label("Temperature 1")).to_have_value("-4")
        page.get_by_label("Temperature 3").fill("212")
        page.get_by_role("button", name="Save this sensor").click()
        expect(page.get_by_role("button", name="Saved")).to_be_disabled()
        saved = page.evaluate(f"fetch('/api/jobs/{self.job}/sensors').then((r) => r.json())")
        celsius = [point[0] for point in saved[0]["sensor"]["transfer"]["points"]]
        for found, expected in zip(celsius, (-20, 25, 100), strict=True):
            self.assertAlmostEqual(found, expected, places=6)

    def test_known_sensors_own_library_versions_and_removal(self):
        page = self.page
        self.open(f"/jobs/{self.job}/sensors/entered/manifold_pressure")
        self.pick("Begin from", "3-bar sensor, 20 to 300 kPa")
        expect(page.get_by_label("Reading 2")).to_have_value("300")
        page.get_by_label("What is fitted").fill("Plenum sensor")
        page.get_by_role("button", name="Save this sensor").click()
        expect(page.get_by_role("button", name="Saved")).to_be_disabled()
        page.get_by_label("Reading 2").fill("43")
        expect(
            page.get_by_text(re.compile("If it is psi, 43 psi are 296 kPa")).first
        ).to_be_visible()
        page.get_by_label("Reading 2").fill("310")
        page.get_by_role("button", name="Keep for the next job").click()
        expect(page.get_by_role("button", name="Kept for the next job")).to_be_visible()
        page.get_by_role("button", name="Save this sensor").click()
        expect(page.get_by_role("button", name="Saved")).to_be_disabled()
        page.get_by_role("button", name="Versions").click()
        page.get_by_role("menuitem", name=re.compile("^1: Plenum")).click()
        expect(page.get_by_label("Reading 2")).to_have_value("300")
        page.get_by_role("button", name="Remove").click()
        expect(page.get_by_label("What is fitted")).to_have_value("")
        other = self.make_job()
        self.open(f"/jobs/{other}/sensors/entered/manifold_pressure")
        self.pick("Begin from", "Own: Plenum sensor")
        expect(page.get_by_label("Reading 2")).to_have_value("310")

    def test_throttle_ends_are_captured(self):
        page = self.page
        self.open(f"/jobs/{self.job}/sensors")
        expect(page.get_by_role("heading", name="Throttle", exact=True)).to_be_visible()
        page.get_by_label("Foot off the pedal").fill("4,2")
        page.get_by_label("Pedal on the floor").fill("4,1")
        expect(
            page.get_by_text(re.compile("hardly moves|only|Does the throttle")).first
        ).to_be_visible()
        page.get_by_label("Pedal on the floor").fill("0,6")
        expect(
            page.get_by_text("The signal falls by 3.60 V as the throttle opens.")
        ).to_be_visible()
        page.get_by_role("button", name="Use these ends").click()
        expect(page.get_by_label("Signal 1")).to_have_value("4.164")

    def test_gauge_against_log(self):
        page = self.page
        for sensor in SENSORS:
            self.api(f"/jobs/{self.job}/sensors", {"sensor": sensor})
        self.open(f"/jobs/{self.job}/sensors/agreement")
        page.get_by_role("button", name="Paste a table").click()
        page.get_by_label(re.compile("Table to paste")).fill(
            "0,80\t0,78\n0,90\t0,88\n1,00\t0,98\n1,10\t1,08\n1,20\t1,18"
        )
        page.get_by_role("button", name="Read it").click()
        expect(page.get_by_text(re.compile("a ground offset"))).to_be_visible()
        expect(page.get_by_role("img", name="Gauge over log")).to_be_visible()
        page.get_by_role("button", name="Write the pairs down").click()
        page.get_by_role("button", name="Use the corrected transfer").click()
        page.get_by_role("tab", name="Sensors").click()
        page.get_by_role("link", name=re.compile("^Wideband")).click()
        expect(page.get_by_label("Note")).to_have_value(re.compile("Corrected by 5 pairs"))
        expect(page.get_by_label("Reading at 0 V")).to_have_value("0.7")


class KeyOnTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        self.write_reasons(self.job, "wiring", "trigger", "output-tests")
        for sensor in SENSORS:
            self.api(f"/jobs/{self.job}/sensors", {"sensor": sensor})
        wrong = {**COOLANT, "transfer": {**COOLANT["transfer"], "pull_up_ohm": 1000}}
        self.api(f"/jobs/{self.job}/sensors", {"sensor": wrong})

    def around(self):
        for label, value in (
            ("Ambient", "14"),
            ("It stood for", "20"),
            ("Battery on a meter", "12,5"),
        ):
            self.page.get_by_label(label).fill(value)

    def test_a_wrong_pull_up_is_found_mended_and_the_gate_opens(self):
        page = self.page
        self.open(f"/jobs/{self.job}")
        page.get_by_role("link", name="Check the sensors").click()
        expect(page.get_by_text("Fuel under pressure", exact=False)).to_be_visible()
        self.around()
        page.get_by_role("button", name="Simulated controller").click()
        page.get_by_label("Hidden fault").click()
        page.get_by_role("option", name="Pull-ups are really 2490 Ω").click()
        page.get_by_role("button", name="Check every sensor").click()
        table = page.get_by_role("table", name="Sensors at key-on")
        row = table.get_by_role("row", name=re.compile("Coolant temperature"))
        expect(row).to_contain_text("fails")
        expect(row).to_contain_text("2490 Ω instead of the entered 1000 Ω")
        expect(table.get_by_text("passes")).to_have_count(6)
        action = page.get_by_role("region", name="Next action")
        expect(action).to_contain_text("2490 Ω")
        self.assert_accessible()
        page.get_by_role("link", name="Open coolant temperature").click()
        page.get_by_label("Pull-up resistor").fill("2490")
        page.get_by_role("button", name="Save this sensor").click()
        expect(action).to_contain_text("check again")
        page.get_by_role("link", name="Check the sensors").click()
        page.get_by_role("button", name="Simulated controller").click()
        # The simulated controller still has its pull-ups, and the weather is as it was.
        expect(page.get_by_label("Ambient")).to_have_value("14")
        expect(page.get_by_label("Hidden fault")).to_contain_text("2490")
        page.get_by_role("button", name="Check every sensor").click()
        expect(page.get_by_text("Every sensor reads what it should.").first).to_be_visible()
        expect(action).to_contain_text("Record the first start")
        expect(page.get_by_role("complementary", name="Margin")).to_contain_text("Open")

    def test_typed_readings_and_a_written_override(self):
        page = self.page
        self.open(f"/jobs/{self.job}/sensors/key-on")
        self.around()
        button = page.get_by_role("button", name="Check every sensor")
        expect(button).to_be_disabled()
        for label, value in (
            ("Throttle, foot off", "0"), ("Throttle, wide open", "99,5"), ("Manifold pressure", "101"),
            ("Coolant temperature", "-38"), ("Intake air temperature", "14"),
            ("Wideband in free air", "1,36"), ("Fuel pressure at prime", "300"), ("Battery voltage", "12,5"),
        ):  # fmt: skip
            page.get_by_label(label, exact=True).fill(value)
        button.click()
        expect(page.get_by_text("Wire open, or pull-up off?").first).to_be_visible()
        page.get_by_role("button", name="Go on all the same …").click()
        page.get_by_label(re.compile("Why it is safe")).fill("no")
        page.get_by_role("button", name="Open the gate with this reason").click()
        expect(page.get_by_text("Write down why it is safe to go on")).to_be_visible()
        page.get_by_label(re.compile("Why it is safe")).fill(
            "Sender ordered; a thermometer is beside it."
        )
        page.get_by_role("button", name="Open the gate with this reason").click()
        expect(page.get_by_text("Overridden by anna: Sender ordered")).to_be_visible()
        expect(page.get_by_role("region", name="Next action")).to_contain_text(
            "Record the first start"
        )

    def test_a_key_on_log_brought_as_a_file(self):
        page = self.page
        lines = ["Time;RPM;CLT;IAT;MAP;TPS;Batt;Fuel pressure;Lambda"]
        for i in range(80):
            pedal = 100 if 30 < i < 50 else 0
            lines.append(f"{i / 10};0;14,2;13,9;101,2;{pedal};12,5;{300 if i > 5 else i * 50};1,36")
        self.open(f"/jobs/{self.job}/sensors/key-on")
        self.around()
        page.get_by_role("button", name="Key-on log").click()
        page.get_by_label("Log file").set_input_files(
            {"name": "key-on.csv", "mimeType": "text/csv", "buffer": "\n".join(lines).encode()}
        )
        expect(page.get_by_label("Log of this job")).to_contain_text("key-on.csv")
        page.get_by_role("button", name="Check every sensor").click()
        expect(page.get_by_text("Every sensor reads what it should.").first).to_be_visible()
        page.get_by_label("Log file").set_input_files(
            {"name": "x.csv", "mimeType": "text/csv", "buffer": b"\x89PNG nothing"}
        )
        expect(
            page.get_by_text("This is a PNG picture, not a text log.", exact=False)
        ).to_be_visible()
