"""Station 5: wheel, captured edges, timing light, dwell and output tests, driven by hand."""

import re

from playwright.sync_api import expect

from tests.server.parts import TRIGGER
from tests.server.test_trigger import capture_file

from .base import BrowserTestCase


class TriggerTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        self.check_sensors(self.job)

    def sheet(self, part=""):
        self.open(f"/jobs/{self.job}/trigger{part and '/'}{part}")
        return self.page

    def choose(self, label, option):
        self.page.get_by_label(label, exact=True).click()
        self.page.get_by_role("option", name=option, exact=True).click()

    def bring(self, data, name="edges.csv"):
        self.page.get_by_label("Capture file").set_input_files(
            {"name": name, "mimeType": "text/csv", "buffer": data}
        )

    def test_a_wheel_is_entered_and_drawn(self):
        page = self.sheet()
        self.choose("Pattern", "60−2")
        expect(page.get_by_role("img", name="Wheel 60−2: 58 edges, 0 cam edges")).to_be_visible()
        expect(page.get_by_text("wasted spark and paired injection")).to_be_visible()
        self.choose("The wheel is", "by the angle of every edge")
        page.get_by_label("Angle of every edge", exact=False).fill("0 90 80")
        expect(page.get_by_text("Edges must rise", exact=False).first).to_be_visible()
        page.get_by_label("Angle of every edge", exact=False).fill("0 50,5 180 270")
        expect(page.get_by_role("img", name=re.compile("own wheel of 4 edges"))).to_be_visible()
        page.get_by_label("Firing order").fill("1 2 2 4")
        expect(page.get_by_text("must name each of the 4 cylinders once").first).to_be_visible()
        page.get_by_label("Firing order").fill("1 3 4 2")
        page.get_by_role("button", name="Save the trigger").click()
        expect(page.get_by_role("button", name="Version 1 saved")).to_be_disabled()
        self.assert_accessible()

    def test_a_file_is_read_drawn_and_judged(self):
        self.api(f"/jobs/{self.job}/trigger", {"trigger": TRIGGER})
        page = self.sheet("capture")
        self.bring(capture_file(top_deg=90.0, lost_share=0.02, seed=4))
        expect(page.get_by_text("a weak signal", exact=False).first).to_be_visible()
        ribbon = page.get_by_role("region", name="Ribbon of the edges")
        expect(ribbon.get_by_role("img")).to_have_attribute("aria-label", re.compile("lost"))
        ribbon.get_by_role("button", name="Next lost or extra edge").click()
        expect(ribbon.get_by_role("img")).to_have_attribute(
            "aria-label", re.compile("[1-9]\\d* lost")
        )
        before = ribbon.get_by_role("heading").inner_text()
        ribbon.focus()
        page.keyboard.press("ArrowRight")
        expect(ribbon.get_by_role("heading")).not_to_have_text(before)
        expect(page.get_by_role("region", name="Relative compression")).to_contain_text(
            "Cylinder 3"
        )
        self.assert_accessible()
        self.bring(capture_file(top_deg=90.0, seed=5), "second.csv")
        expect(page.get_by_text("The signal is that of 36−1 with cam").first).to_be_visible()
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin.get_by_role("button", name=re.compile("edges.csv"))).to_be_visible()

    def test_a_file_that_is_none_is_refused_and_can_be_read_otherwise(self):
        page = self.sheet("capture")
        page.get_by_label("Crank channel").fill("nose")
        self.bring(capture_file())
        expect(page.get_by_role("alert").filter(has_text="no channel 'nose'")).to_be_visible()
        expect(page.get_by_text("Channels in the file: crank, cam.")).to_be_visible()
        page.get_by_label("Crank channel").fill("crank")
        page.get_by_role("button", name="Read edges.csv again").click()
        expect(page.get_by_role("region", name="Ribbon of the edges")).to_be_visible()

    def test_reading_a_long_file_can_be_cancelled(self):
        page = self.sheet("capture")
        rows = "".join(f"{i * 300},crank,1\n" for i in range(900_000))
        self.bring(("time_us,channel,level\n" + rows).encode(), "long.csv")
        page.get_by_role("button", name="Cancel").click()
        expect(page.get_by_text("Cancelled; nothing was written.")).to_be_visible()
        expect(page.get_by_role("region", name="Ribbon of the edges")).to_have_count(0)

    def test_a_hidden_fault_of_the_bench_engine_closes_the_gate(self):
        self.api(f"/jobs/{self.job}/trigger", {"trigger": TRIGGER})
        page = self.sheet("capture")
        page.get_by_role("button", name="Bench engine").click()
        self.choose("Hidden fault", "Wires of the crank sensor swapped")
        page.get_by_role("button", name="Crank and capture").click()
        expect(page.get_by_text("Swap the wires", exact=False).first).to_be_visible()
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("Closed")
        expect(page.get_by_role("region", name="Next action")).to_contain_text("wires swapped")
        page.get_by_role("button", name="Bench engine").click()
        self.choose("Hidden fault", "none")
        page.get_by_role("button", name="Crank and capture").click()
        expect(margin).to_contain_text("Open")

    def test_commanded_and_seen_eight_degrees_apart_is_a_red_stop(self):
        self.api(f"/jobs/{self.job}/trigger", {"trigger": TRIGGER})
        page = self.sheet("timing")
        page.get_by_label("Locked at, before TDC").fill("12")
        for i, rpm in enumerate((900, 2500, 4500), start=1):
            page.get_by_label(f"Speed {i}").fill(str(rpm))
            page.get_by_label(f"Seen {i}").fill("20")
        expect(page.get_by_text("Stop: the spark is seen +8°", exact=False)).to_be_visible()
        expect(page.get_by_role("img", name="Seen less commanded")).to_be_visible()
        self.assert_accessible()
        page.get_by_role("button", name="Write the readings down").click()
        expect(page.get_by_role("region", name="Next action")).to_contain_text("Stop: the spark")
        page.get_by_role("button", name="Set the offset to 82.0°, then repeat").click()
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("82.0°")
        page.get_by_label("Locked at, before TDC").fill("12")
        for i, rpm in enumerate((900, 2500, 4500), start=1):
            page.get_by_label(f"Speed {i}").fill(str(rpm))
            page.get_by_label(f"Seen {i}").fill("12")
        expect(page.get_by_text("Commanded and seen agree.")).to_be_visible()
        page.get_by_role("button", name="Write the readings down").click()
        expect(page.get_by_role("region", name="Next action")).not_to_contain_text("Stop")
        expect(margin).to_contain_text("3 readings at 90.0°")

    def test_the_bench_engine_can_be_lit_too(self):
        page = self.sheet("timing")
        page.get_by_role("button", name="Read the bench engine at 3 speeds").click()
        expect(page.get_by_label("Speed 3")).to_have_value("4500")
        page.get_by_role("button", name="Read the bench engine at 3 speeds").click()
        expect(page.get_by_label("Speed 6")).to_have_value("4500")
        expect(page.get_by_text("standard error").first).to_be_visible()

    def test_dwell_from_the_primary_and_from_a_pasted_table(self):
        page = self.sheet("dwell")
        page.get_by_label("Which coil").fill("One at each plug")
        page.get_by_label("Resistance, with its leads").fill("0,5")
        page.get_by_label("Inductance").fill("3")
        page.get_by_label("Wanted current").fill("8")
        expect(page.get_by_text("2.0 ms at 14 V", exact=False)).to_be_visible()
        page.get_by_role("button", name="Save and put in the table").click()
        expect(page.get_by_role("button", name="Saved, in the table")).to_be_disabled()
        page.get_by_role("button", name="By a maker's table").click()
        page.get_by_role("button", name="Paste a table").click()
        page.get_by_label(re.compile("Table to paste")).fill("V\tms\n8\t5,2\n12\t3,1\n14\t2,4")
        page.get_by_role("button", name="Read it").click()
        expect(page.get_by_label("Dwell 2")).to_have_value("3.1")
        expect(page.get_by_role("table", name="On the controller's axis")).to_contain_text("held")
        self.assert_accessible()

    def test_the_run_sheet_waits_until_things_are_safe(self):
        page = self.sheet("outputs")
        coils = page.get_by_role("region", name="Ignition coils")
        first = coils.get_by_role("group", name="Coil 1", exact=True)
        expect(first.get_by_role("button", name="Sparks")).to_be_disabled()
        for box in coils.get_by_role("checkbox").all():
            box.check()
        first.get_by_label("Battery dip").fill("0,2")
        first.get_by_role("button", name="Sparks").click()
        expect(first).to_contain_text("Coil 1 sparks, battery dip 0.2 V")
        second = coils.get_by_role("group", name="Coil 2", exact=True)
        second.get_by_role("button", name="Another one").click()
        expect(second).to_contain_text("swapped")
        expect(page.get_by_role("region", name="Next action")).to_contain_text("Coil 2")
        injectors = page.get_by_role("region", name="Injectors")
        expect(injectors.get_by_role("button", name="Clicks").first).to_be_disabled()
        self.assert_accessible()


class PhoneTests(BrowserTestCase):
    """The sheets of stations 2 and 5 on a phone: nothing runs off the side."""

    viewport = {"width": 390, "height": 844}

    def test_no_sheet_is_wider_than_the_screen(self):
        job = self.make_job()
        self.api(f"/jobs/{job}/bench/captures", {"crank_s": 4})
        for path in (
            "wiring", "wiring/fitted", "wiring/list", "wiring/outputs", "wiring/three-wire",
            "wiring/controller", "trigger", "trigger/capture", "trigger/outputs", "trigger/dwell",
            "trigger/timing",
        ):  # fmt: skip
            self.assert_fits(f"/jobs/{job}/{path}")
