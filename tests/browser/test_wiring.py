"""Station 2: planning pins, checking wires, signing off, changing afterwards, printing."""

import re

from playwright.sync_api import expect

from .base import BrowserTestCase

OWN_LIST = "pin\tability\tpull-up\nA1\tbattery supply\nA2\tanalogue input\t2490 ohm\nA2\tlow side\nA3\tmagic\n"


class WiringTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()

    def sheet(self, part=""):
        self.open(f"/jobs/{self.job}/wiring{part and '/'}{part}")
        return self.page

    def choose(self, label, option):
        self.page.get_by_role("combobox", name=label, exact=True).click()
        self.page.get_by_role("option", name=option).click()

    def test_from_the_next_action_to_a_signed_list_and_a_change_after_it(self):
        page = self.page
        self.open(f"/jobs/{self.job}")
        page.get_by_role("region", name="Next action").get_by_role("link").click()
        expect(page.get_by_role("heading", name="Wiring plan")).to_be_visible()
        expect(page.get_by_text("functions have a pin")).to_be_visible()
        page.get_by_role("button", name="Take this plan").click()
        expect(page.get_by_role("button", name="Plan 1 saved")).to_be_disabled()
        page.get_by_role("tab", name="Wiring list").click()
        expect(page.get_by_role("heading", name="Wiring list")).to_be_visible()
        page.get_by_role("button", name="Injector 1", exact=True).click()
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("to the injectors' feed")
        margin.get_by_label("The meter reads").fill("0,1")
        margin.get_by_role("button", name="Write it down").click()
        expect(margin.get_by_role("status")).to_contain_text("a short")
        page.get_by_role("button", name="Sign the list off").click()
        expect(page.get_by_role("alert")).to_contain_text("Injector 1")
        margin.get_by_label("The meter reads").fill("14,1")
        margin.get_by_role("button", name="Write it down").click()
        expect(margin.get_by_role("status")).to_contain_text("14.1 Ω is right")
        self.assert_accessible()
        page.get_by_role("button", name="Sign the list off").click()
        expect(page.get_by_text("Signed off by anna")).to_be_visible()
        page.get_by_role("tab", name="What is fitted").click()
        page.get_by_label("Warning lamp").check()
        page.get_by_role("button", name="Save the plan").click()
        expect(page.get_by_role("button", name="Plan 2 saved")).to_be_disabled()
        page.get_by_role("tab", name="Wiring list").click()
        changes = page.get_by_role("region", name="Changed after the sign-off")
        expect(changes).to_contain_text("Warning lamp: new on pin")
        expect(page.get_by_role("button", name="Warning lamp △ changed")).to_be_visible()
        expect(page.get_by_role("button", name="Sign again")).to_be_enabled()

    def test_a_small_controller_is_explained_and_the_cheapest_change_taken(self):
        page = self.sheet()
        self.choose("Controller", re.compile("Prahm 24"))
        expect(page.get_by_text("2 pins too few", exact=False).first).to_be_visible()
        expect(
            page.get_by_text("Use the pressure sensor built into the controller").first
        ).to_be_visible()
        page.get_by_role("button", name="Change it so").click()
        expect(page.get_by_text(re.compile(r"All \d+ functions have a pin"))).to_be_visible()
        page.get_by_role("button", name="Save the plan").click()
        page.get_by_role("tab", name="What is fitted").click()
        expect(page.get_by_label("Manifold pressure: the controller's own sensor")).to_be_checked()
        expect(page.get_by_text("paired, an output for two injectors")).to_be_visible()

    def test_pins_by_keyboard_and_by_hand(self):
        page = self.sheet()
        first = page.get_by_role("button", name=re.compile("^Pin A1 ?:"))
        first.focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowDown")
        focused = page.evaluate("document.activeElement.dataset.pin")
        self.assertEqual(focused, "A15")
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("Pin A15")
        expect(margin).to_contain_text("Crank sensor")
        page.keyboard.press("Enter")
        expect(margin.get_by_label("On this pin")).to_be_focused()
        page.get_by_role("button", name=re.compile("^Pin B22 ?:")).click()
        expect(margin).to_contain_text("high-side switch")
        self.choose("On this pin", "Fan 1")
        expect(
            page.get_by_role("button", name=re.compile("^Pin B22 ?: *✎? *Fan 1"))
        ).to_be_visible()
        expect(margin).to_contain_text("Placed by hand")
        self.choose("On this pin", "Throttle")
        expect(page.get_by_text("Throttle needs analogue input")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Pin B22 ?:")).click()
        self.choose("On this pin", "Fan 1")
        page.get_by_role("button", name="Compute them all").click()
        expect(page.get_by_role("button", name=re.compile("^Pin B22 ?: *spare"))).to_be_visible()
        self.assert_accessible()

    def test_what_is_fitted_is_refused_with_a_sentence_at_its_field(self):
        page = self.sheet("fitted")
        self.choose("Cam sensor", "none")
        expect(
            page.get_by_text("Without a cam signal only paired", exact=False).first
        ).to_be_visible()
        self.choose("Injection", re.compile("^paired"))
        self.choose("Ignition", re.compile("wasted spark"))
        expect(page.get_by_text("Without a cam signal", exact=False)).to_have_count(0)
        page.get_by_role("button", name="Add one").click()
        page.get_by_label("What", exact=True).fill("Launch lamp")
        expect(page.get_by_text(re.compile(r"^\d+ functions"))).to_be_visible()
        self.assert_accessible()

    def test_a_wire_of_ones_own_length_and_colour(self):
        page = self.sheet("list")
        page.get_by_role("button", name="Take this plan").click()
        page.get_by_role("button", name="Fan 1, feed").click()
        margin = page.get_by_role("complementary", name="Margin")
        margin.get_by_label("Length").fill("9")
        margin.get_by_label("Colour").fill("rd-tq")
        margin.get_by_label("Note").fill("in conduit")
        row = page.get_by_role("row").filter(has=page.get_by_role("button", name="Fan 1, feed"))
        expect(row).to_contain_text("RD-TQ")
        expect(row).to_contain_text("10.00")
        margin.get_by_label("Colour").fill("mauve")
        expect(margin).to_contain_text("is no colour")
        margin.get_by_label("Colour").fill("RD-TQ")
        page.get_by_role("button", name="Save the plan").click()
        expect(page.get_by_role("button", name="Plan 2 saved")).to_be_disabled()

    def test_the_printed_list_is_the_list_alone_on_a4_across(self):
        page = self.sheet("list")
        page.get_by_role("button", name="Take this plan").click()
        expect(page.get_by_role("button", name="Plan 1 saved")).to_be_visible()
        page.get_by_role("link", name="Print").click()
        expect(page.get_by_role("heading", name="Wiring list: Heron")).to_be_visible()
        self.assert_accessible()
        page.emulate_media(media="print")
        expect(page.get_by_role("navigation", name="Order of work")).to_be_hidden()
        expect(page.get_by_role("button", name="Print")).to_be_hidden()
        expect(
            page.get_by_role("region", name="By branch of the loom: Injector rail")
        ).to_be_visible()
        data = page.pdf(prefer_css_page_size=True)
        boxes = re.findall(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", data)
        self.assertGreaterEqual(len(boxes), 3)
        for width, height in boxes:  # A4 is 595 by 842 points
            self.assertAlmostEqual(float(width), 842, delta=2)
            self.assertAlmostEqual(float(height), 595, delta=2)

    def test_csv_of_the_list(self):
        page = self.sheet("list")
        with page.expect_download() as download:
            page.get_by_role("link", name="CSV").click()
        text = download.value.path().read_text(encoding="utf-8-sig")
        self.assertIn("Injector 1,injector driver,BU", text)

    def test_a_controller_from_a_pasted_pin_list(self):
        page = self.sheet("controller")
        page.get_by_label("Pin list").fill(OWN_LIST)
        page.get_by_role("button", name="Read it").click()
        expect(page.get_by_text("pin A2 is listed twice")).to_be_visible()
        expect(page.get_by_text("'magic' is no ability")).to_be_visible()
        page.get_by_label("Name of the controller").fill("Heron's own")
        page.get_by_role("button", name="Keep this controller").click()
        expect(page.get_by_text("Own: Heron's own")).to_be_visible()
        expect(page.get_by_role("button", name="Chosen")).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="File", exact=True).first.click()
        self.assertIn('"inbetrieb-controller/1"', download.value.path().read_text())
        page.get_by_label("Controller profile").set_input_files(
            {"name": "x.json", "mimeType": "application/json", "buffer": b'{"format": "other"}'}
        )
        expect(page.get_by_role("alert")).to_contain_text("inbetrieb-controller/1")
        self.assert_accessible()

    def test_tables_of_a_controller_are_set_on_a_sheet(self):
        page = self.sheet("controller")
        page.get_by_role("button", name="Tables", exact=True).first.click()
        tables = page.get_by_role("region", name="Tables of the controller")
        page.get_by_label("Name of the controller").fill("Mine")
        tables.get_by_label("Prime pulse: it has it").uncheck()
        step = tables.get_by_label("Cranking fuel: step")
        step.fill("2,x")
        keep = tables.get_by_role("button", name="Keep this controller")
        expect(keep).to_be_disabled()
        step.fill("2,5")
        tables.get_by_label("Cranking fuel: points of Coolant temperature").fill("4")
        fixed = tables.get_by_label("Cranking fuel: fixed at, Coolant temperature")
        fixed.fill("40 -10")
        self.assert_accessible()
        keep.click()
        expect(page.get_by_role("alert")).to_contain_text("must rise")
        fixed.fill("-10 5 40 80")
        keep.click()
        expect(tables).to_be_hidden()
        expect(page.get_by_role("button", name="Chosen")).to_be_visible()
        kept = next(
            c
            for c in self.client_of_user.get("/api/controllers").json()
            if c["profile"]["name"] == "Mine"
        )["profile"]
        by_key = {table["key"]: table for table in kept["tables"]}
        self.assertNotIn("prime_pulse", by_key)
        self.assertEqual(by_key["cranking_fuel"]["step"], 2.5)
        self.assertEqual(by_key["cranking_fuel"]["axes"][0]["points"], [-10, 5, 40, 80])
        page.get_by_role("tab", name="Plan", exact=True).click()
        page.get_by_role("button", name="Take this plan").or_(
            page.get_by_role("button", name="Save the plan")
        ).click()
        expect(page.get_by_role("button", name="Plan 1 saved")).to_be_disabled()
        self.assertEqual(
            self.client_of_user.get(f"/api/jobs/{self.job}/wiring").json()["profile"], kept
        )

    def test_an_unknown_sensor_and_output_conditions(self):
        page = self.sheet("three-wire")
        for i, volts in enumerate(("5,01", "0,01", "2,4"), start=1):
            page.get_by_role("group", name=f"Wire {i}").get_by_label("Key on, unplugged").fill(
                volts
            )
        expect(page.get_by_text("Wire 1: supply, 5.01 V.")).to_be_visible()
        page.get_by_label("Which sensor").fill("Plenum")
        self.assert_accessible()
        page.get_by_role("button", name="Write it down").click()
        expect(page.get_by_role("complementary", name="Margin")).to_contain_text("Wire 3: signal")
        page.get_by_role("tab", name="Output conditions").click()
        expect(page.get_by_role("region", name="Fuel pump")).to_contain_text("Local codes")
        page.get_by_label("Fan 1 off below").fill("95")
        expect(page.get_by_text("its relay chatters")).to_be_visible()
        page.get_by_label("Fan 1 on from").fill("70")
        page.get_by_label("Fan 1 off below").fill("66")
        expect(page.get_by_text("never gets warm", exact=False)).to_be_visible()
        page.get_by_role("button", name="Save the conditions").click()
        expect(page.get_by_role("button", name="Version 1 saved")).to_be_disabled()
        self.assert_accessible()

    def test_a_car_wired_already_takes_a_written_reason(self):
        page = self.sheet()
        page.get_by_role("button", name="The car is wired already").click()
        page.get_by_label("Why no plan is needed").fill("Wired and running for years.")
        page.get_by_role("button", name="Write it down").click()
        expect(page.get_by_text("No plan needed: Wired and running")).to_be_visible()
        expect(page.get_by_role("region", name="Next action")).to_contain_text("Enter the sensors")
