"""Injectors, fuel supply and unknown injectors, driven as an installer would."""

import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class InjectorTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()

    def pick(self, label, option):
        self.page.get_by_label(label, exact=True).click()
        self.page.get_by_role("option", name=option).click()

    def api_get(self, path):
        return self.page.evaluate(f"fetch('/api/jobs/{self.job}{path}').then((r) => r.json())")

    def test_from_a_known_injector_to_tables_in_force(self):
        page = self.page
        self.open(f"/jobs/{self.job}/injectors")
        self.pick("Begin from", "Large port injector, 720 cm³/min")
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("720 cm³/min")
        # A lost digit is met by a sentence, and nothing is lost.
        page.get_by_label("Static flow of one").fill("72")
        expect(page.get_by_text(re.compile("far too small")).first).to_be_visible()
        expect(page.get_by_label(re.compile("If it is really so"))).to_be_visible()
        page.get_by_label("Static flow of one").fill("720")
        page.get_by_label("… at a pressure of").fill("43")
        expect(page.get_by_text("If 43 is psi, enter 296 kPa.").first).to_be_visible()
        page.get_by_label("… at a pressure of").fill("300")
        expect(page.get_by_role("img", name=re.compile("Duty of the injectors"))).to_be_visible()
        modes = page.get_by_role("table", name="Injection modes")
        self.pick("The controller knows", "crank position, no cam")
        expect(modes).to_contain_text("Needs a cam signal as well as a crank signal.")
        self.assert_accessible()
        page.get_by_role("button", name="Save and put in force").click()
        expect(page.get_by_role("button", name="Saved, in force")).to_be_disabled()
        table = self.api_get("/calibration")["tables"]["dead_time"]
        at_14 = table["values"][table["axes"][0]["points"].index(14)]
        self.assertAlmostEqual(at_14, 1.10, places=6)
        self.assertEqual(self.api_get("")["engine"]["injectors"]["flow_cm3_min"], 720)

    def test_a_pasted_report_tells_the_worst_pair_and_the_places(self):
        page = self.page
        self.open(f"/jobs/{self.job}/injectors")
        report = page.get_by_role("region", name="Flow-bench report")
        report.get_by_role("button", name="Paste a table").click()
        page.get_by_label(re.compile("Table to paste: flow")).fill(
            "Injector;Flow\n1;392\n2;401\n3;371"
        )
        report.get_by_role("button", name="Read it").click()
        expect(
            page.get_by_text("The engine has 4 injectors, the report 3: 1 missing.").first
        ).to_be_visible()
        report.get_by_label("Flow, cm³/min 4").fill("394")
        expect(
            page.get_by_text(re.compile("Injectors 2 and 3 differ by 7.7 %")).first
        ).to_be_visible()
        for cylinder, need in enumerate(("98", "100", "102", "100"), start=1):
            report.get_by_label(f"Cylinder’s need, % {cylinder}").fill(need)
        placed = page.get_by_role("table", name="Injectors against their mean")
        # The strongest injector goes where most is needed.
        expect(placed.get_by_role("row", name=re.compile(r"^2 401"))).to_contain_text(
            re.compile("%3richer 0.9 %")
        )

    def test_dead_time_that_rises_and_dead_time_over_pressure(self):
        page = self.page
        self.open(f"/jobs/{self.job}/injectors")
        section = page.get_by_role("region", name="Dead time")
        section.get_by_role("button", name="Paste a table").click()
        page.get_by_label(re.compile("Table to paste: voltage")).fill("8\t2,4\n12\t1,2\n14\t1,3")
        section.get_by_role("button", name="Read it").click()
        expect(page.get_by_text(re.compile("Dead time rises at 14 V")).first).to_be_visible()
        section.get_by_label("Dead time 3").fill("0,9")
        expect(section.get_by_role("table", name="For the controller")).to_contain_text(
            "between the data"
        )
        section.get_by_label(re.compile("Known at several pressures")).fill("250 350")
        for row, ms in enumerate(("2,8", "1,4", "1,1"), start=1):
            section.get_by_label(f"ms at 350 kPa {row}").fill(ms)
        # The rail at 300 kPa lies half-way between the columns.
        expect(
            section.get_by_role("table", name="For the controller").get_by_role(
                "row", name=re.compile("^14.0 1.00")
            )
        ).to_be_visible()

    def test_supply_margin_prime_and_residual_pressure(self):
        page = self.page
        self.open(f"/jobs/{self.job}/injectors")
        page.get_by_role("tab", name="Fuel supply").click()
        expect(page.get_by_role("heading", name="Fuel supply")).to_be_visible()
        self.pick("Begin from", "In-tank pump, 120 l/h at 300 kPa")
        expect(page.get_by_text(re.compile("to spare at full load"))).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("Fuel demand at full load"))).to_be_visible()
        page.get_by_label("Rail pressure").fill("3")
        expect(page.get_by_text("If 3 is bar, enter 300 kPa.").first).to_be_visible()
        page.get_by_label("Rail pressure").fill("300")
        prime = page.get_by_role("region", name="Prime")
        prime.get_by_role("button", name="Paste a table").click()
        page.get_by_label(re.compile("Table to paste: time")).fill(
            "1;110\n2;180\n4;255\n6;285\n8;295\n10;299"
        )
        prime.get_by_role("button", name="Read it").click()
        expect(prime.get_by_text(re.compile("let the pump run"))).to_contain_text("slow")
        residual = page.get_by_role("region", name="Residual pressure")
        for row, (minutes, kpa) in enumerate(((0, 300), (1, 60), (2, 12)), start=1):
            residual.get_by_label(f"Time {row}").fill(str(minutes))
            residual.get_by_label(f"Pressure {row}").fill(str(kpa))
        expect(residual.get_by_text(re.compile("check valve"))).to_be_visible()
        self.assert_accessible()
        page.get_by_role("button", name="Save and put in force").click()
        expect(page.get_by_role("button", name="Saved, in force")).to_be_disabled()
        self.assertEqual(self.api_get("/supply")["sheet"]["decay"]["verdict"], "check_valve")

    def test_unknown_injectors_are_inferred_and_put_in_force(self):
        page = self.page
        self.open(f"/jobs/{self.job}/injectors/unknown")
        page.get_by_role("button", name="Bench engine").click()
        self.pick("Hidden fault", "Injector flow entered wrong")
        page.get_by_role("button", name="Infer flow and dead time").click()
        expect(
            page.get_by_text(re.compile(r"The injectors flow about \d+ cm³/min ± \d+ %, not 390"))
        ).to_be_visible(timeout=40_000)
        expect(page.get_by_label("Pulse 1", exact=True)).not_to_have_value("")
        page.get_by_role("button", name="Look at these injectors").click()
        expect(
            page.get_by_text("These are the injectors as the mixture tells them.", exact=False)
        ).to_be_visible()
        flow = float(page.get_by_label("Static flow of one").input_value())
        self.assertGreater(flow, 500)
        page.get_by_role("button", name="Save and put in force").click()
        expect(page.get_by_role("button", name="Saved, in force")).to_be_disabled()
        self.assertAlmostEqual(
            self.api_get("")["engine"]["injectors"]["flow_cm3_min"], flow, places=3
        )

    def test_one_typed_point_says_what_it_cannot_tell(self):
        page = self.page
        self.open(f"/jobs/{self.job}/injectors/unknown")
        page.get_by_role("button", name="Typed points").click()
        for label, value in (
            ("Measured 1", "0,80"),
            ("Target 1", "1"),
            ("Pulse 1", "3,1"),
            ("Battery 1", "14,1"),
        ):
            page.get_by_label(label, exact=True).fill(value)
        page.get_by_role("button", name="Infer flow and dead time").click()
        expect(page.get_by_text(re.compile("Dead time cannot be told"))).to_be_visible()
        page.get_by_label("Measured 1", exact=True).fill("14,7")
        page.get_by_role("button", name="Infer flow and dead time").click()
        expect(page.get_by_text(re.compile("Is it AFR"))).to_be_visible()
        expect(page.get_by_label("Pulse 1", exact=True)).to_have_value("3,1")


class PhoneTests(BrowserTestCase):
    viewport = {"width": 390, "height": 844}

    def test_both_sheets_fit_a_phone(self):
        job = self.make_job()
        self.check_sensors(job)
        for path in (
            "sensors",
            "sensors/key-on",
            "sensors/agreement",
            "injectors",
            "injectors/supply",
            "injectors/unknown",
        ):
            self.assert_fits(f"/jobs/{job}/{path}")
