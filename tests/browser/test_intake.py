"""Intake and base maps in the browser: claims, photographs, an inherited calibration, generating."""

import io
import re

from inbetrieb_core.basemaps import generate
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.tables.file_sets import write_workbook
from PIL import Image
from playwright.sync_api import expect

from .base import BrowserTestCase

HEIGHT_PX = 240


def file_of(name, data, kind):
    return {"name": name, "mimeType": kind, "buffer": data}


class IntakeTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()

    def test_what_is_fitted_differs_from_the_claim(self):
        page = self.page
        self.open(f"/jobs/{self.job}/intake")
        page.get_by_label("Complaint, in the owner’s words").fill("Never starts below ten degrees.")
        page.get_by_label("Injectors, claimed").fill("550 cm³/min")
        page.get_by_label("Injectors, found on the car").fill("440 by their number")
        page.get_by_label("Injectors differs").check()
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("saved, version 1")).to_be_visible()
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("440 by their number is fitted, 550 cm³/min was claimed.")
        page.reload()
        expect(page.get_by_label("Injectors, claimed")).to_have_value("550 cm³/min")
        self.assert_accessible()

    def test_photographs_are_kept_and_put_aside(self):
        page = self.page
        picture = io.BytesIO()
        Image.new("RGB", (320, HEIGHT_PX), "#557788").save(picture, "PNG")
        self.open(f"/jobs/{self.job}/intake/photographs")
        page.get_by_label("Caption").fill("Engine bay")
        page.get_by_label("Photographs", exact=True).set_input_files(
            [file_of("bay.png", picture.getvalue(), "image/png")]
        )
        photograph = page.get_by_role("img", name="Engine bay")
        expect(photograph).to_be_visible()
        picture = page.locator("figure img").first
        expect(picture).to_have_js_property("complete", True)
        self.assertGreater(picture.evaluate("image => image.naturalHeight"), 0)
        self.assertEqual(photograph.evaluate("(image) => image.naturalHeight"), HEIGHT_PX)
        page.get_by_label("Photographs", exact=True).set_input_files(
            [file_of("notes.png", b"not a picture", "image/png")]
        )
        expect(page.get_by_text("That is no picture that can be read")).to_be_visible()
        page.get_by_role("button", name="Put aside").click()
        expect(photograph).to_have_count(0)
        page.get_by_role("button", name="Show 1 put aside").click()
        page.get_by_role("button", name="Bring back").click()
        expect(photograph).to_be_visible()

    def test_an_inherited_calibration_is_looked_over_and_replaced(self):
        page = self.page
        spec = EngineSpec(
            2.2, 4, injectors=InjectorSet(4, 390.0), cam="moderate", compression_ratio=10.2
        )
        tables = [t for k, t in generate(spec).tables.items() if k not in ("idle_target", "ve")]
        self.open(f"/jobs/{self.job}/intake/inherited")
        page.get_by_label("Calibration files").set_input_files(
            [file_of("left.xlsx", write_workbook(tables, "left"), "application/octet-stream")]
        )
        expect(page.get_by_text("left.xlsx", exact=True)).to_be_visible()
        page.get_by_label("Paste a table with its axes here").fill(
            "ve [%]\tmap_kpa\nrpm\t30\t60\t100\n800\t40\t60\n3000\t60\t80\t92"
        )
        page.get_by_role("button", name="Read the paste").click()
        expect(page.get_by_text("line 2: 2 values where the head has 3")).to_be_visible()
        page.get_by_label("Pasted table").click()
        page.get_by_role("option", name="Idle target").click()
        page.get_by_label("Paste a table with its axes here").fill("-10\t900\n20\t900\n80\t900")
        page.get_by_role("button", name="Read the paste").click()
        expect(
            page.get_by_text(
                "Not among them, and taken from the engine data: volumetric efficiency."
            )
        ).to_be_visible()
        page.get_by_role("button", name="Keep untouched and look it over").click()
        expect(page.get_by_role("heading", name="Review of revision 2, as found")).to_be_visible()
        finding = page.get_by_role("button", name=re.compile("Cold idle not above warm"))
        expect(finding).to_be_visible()
        finding.click()
        expect(page.get_by_role("img", name=re.compile("Idle target"))).to_be_visible()
        expect(page.get_by_role("region", name="Next action")).to_contain_text(
            "repair it or start afresh"
        )
        self.assert_accessible()
        page.get_by_label("Why (stays in the record)").fill("Nothing to build on.")
        page.get_by_role("button", name="Start afresh").click()
        expect(page.get_by_role("heading", name="Base maps from engine data")).to_be_visible()
        self.open(f"/jobs/{self.job}/intake/review")
        expect(page.get_by_text("start afresh")).to_be_visible()


class BaseMapTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        self.open(f"/jobs/{self.job}/base-maps")
        expect(self.page.get_by_text("there is nothing to generate")).to_be_visible()

    def test_schools_show_their_consequence_before_anything_is_made(self):
        page = self.page
        expect(page.get_by_text("Warm idle 780 rpm;")).to_be_visible()
        page.get_by_role("slider", name="Idle speed").press("ArrowRight")
        expect(page.get_by_text("Warm idle 970 rpm;")).to_be_visible()
        expect(page.get_by_text("Idle target: 12 values, at most by 190 rpm")).to_be_visible()
        page.get_by_label("Induction").click()
        page.get_by_role("option", name="boosted").click()
        page.get_by_label("Highest boost").fill("80")
        expect(page.get_by_text("Boost target, absolute: comes, goes")).to_be_visible()
        page.get_by_role("button", name="Generate these tables").click()
        expect(page.get_by_text("there is nothing to generate")).to_be_visible()
        page.get_by_role("tab", name="Table bench").click()
        page.get_by_role("link", name="Boost target").click()
        expect(page.get_by_role("grid", name="Boost target, absolute")).to_be_visible()
        page.get_by_role("link", name="Settings").click()
        expect(page.get_by_label("Boost cut", exact=True)).to_be_visible()
        self.assert_accessible()

    def test_impossible_data_are_refused_at_their_field(self):
        page = self.page
        page.get_by_label("Bore").fill("90")
        page.get_by_label("Stroke").fill("100")
        expect(page.get_by_text("make 2.54 l, not 2.2 l").first).to_be_visible()

    def test_carry_over_and_breakpoints_say_what_they_do_first(self):
        page = self.page
        page.get_by_role("tab", name="Carry over").click()
        expect(page.get_by_role("button", name="Example: Port-injected four")).to_be_visible()
        expect(page.get_by_text("Dead time belongs to the injectors")).to_be_visible()
        page.get_by_role("button", name=re.compile(r"Carry \d+ tables over")).click()
        expect(page.get_by_text("Not carried over: injector dead time")).to_be_visible()
        page.get_by_role("tab", name="Breakpoints").click()
        page.get_by_label("Engine speed, rpm").fill("600 900 1500 3000 6600")
        expect(page.get_by_text("Volumetric efficiency: off by at most")).to_be_visible()
        page.get_by_label("Engine speed, rpm").fill("900 600")
        expect(page.get_by_text("must rise").first).to_be_visible()
        page.get_by_label("Engine speed, rpm").fill("600 900 1500 3000 6600")
        page.get_by_role("button", name="Move the breakpoints").click()
        expect(page.get_by_label("Engine speed, rpm")).to_have_value("600  900  1500  3000  6600")
        self.assert_accessible()

    def test_nothing_runs_off_the_screen(self):
        for part in (
            "",
            "/tables/ve",
            "/tables/cranking_fuel",
            "/tables/settings",
            "/carry-over",
            "/breakpoints",
            "/compare",
            "/transfer",
        ):
            self.assert_fits(f"/jobs/{self.job}/base-maps{part}")
        for part in ("", "/photographs", "/inherited", "/review"):
            self.assert_fits(f"/jobs/{self.job}/intake{part}")
