"""The table bench by keyboard, pastes, two people, reload, slices, surface, compare, transfer sheet."""

import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class BenchCase(BrowserTestCase):
    table = "ve"

    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        self.path = f"/jobs/{self.job}/base-maps"
        self.show(self.table)

    def show(self, table):
        self.open(f"{self.path}/tables/{table}")
        expect(self.grid()).to_be_visible()
        expect(self.page.get_by_text("Smooth, within bounds")).to_be_visible()

    def grid(self):
        return self.page.get_by_role("grid")

    def cell(self, row, column):
        return self.page.locator(f'[data-cell="{row}.{column}"]')

    def value(self, row, column):
        return float(self.cell(row, column).inner_text().replace("−", "-"))

    def choose(self, first, last):
        self.cell(*first).click()
        for _ in range(last[0] - first[0]):
            self.page.keyboard.press("Shift+ArrowDown")
        for _ in range(last[1] - first[1]):
            self.page.keyboard.press("Shift+ArrowRight")

    def will(self):
        return self.page.get_by_role("status", name="What will happen")

    def draft(self):
        return self.page.get_by_role("status", name="Draft")

    def paste(self, text):
        self.page.evaluate(
            """(text) => { const data = new DataTransfer(); data.setData('text/plain', text);
            document.querySelector('[role=grid]').dispatchEvent(
                new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true})); }""",
            text,
        )


class KeyboardTests(BenchCase):
    def test_type_scale_interpolate_lock_jump_undo_and_save(self):
        page = self.page
        self.cell(3, 2).click()
        page.keyboard.type("71,5")
        page.keyboard.press("Enter")
        expect(self.cell(3, 2)).to_have_text("71.5")
        page.keyboard.press("ArrowUp")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Value", exact=True)).to_have_value("71.5")
        page.keyboard.press("Escape")
        # A region by keyboard; the bar says what will happen before it happens.
        self.choose((5, 3), (7, 5))
        before = self.value(6, 4)
        page.keyboard.press("m")
        page.keyboard.type("10")
        expect(self.will()).to_have_text("Changes 9 cells by +10 %.")
        self.assertAlmostEqual(self.value(6, 4), 1.1 * before, delta=0.06)  # shown, not yet done
        page.keyboard.press("Escape")
        self.assertEqual(self.value(6, 4), before)
        page.keyboard.press("m")
        page.keyboard.type("15")
        expect(self.will()).to_have_text("Changes 9 cells by +15 %.")
        page.keyboard.press("Enter")
        expect(self.draft()).to_contain_text("10 cells changed: volumetric efficiency")
        expect(
            page.get_by_label("Checks").get_by_role("button", name="Spike").first
        ).to_be_visible()
        # List and margin give a wide map their room, and come back.
        page.get_by_role("button", name="Whole width").click()
        expect(page.get_by_role("navigation", name="Tables")).to_be_hidden()
        page.get_by_role("button", name="Whole width").click()
        expect(page.get_by_role("navigation", name="Tables")).to_be_visible()
        # Locked cells stay; steps of 5 % and one fine step.
        self.choose((10, 0), (10, 1))
        left, right = self.value(10, 0), self.value(10, 1)
        self.cell(10, 0).click()
        page.keyboard.press("l")
        self.choose((10, 0), (10, 1))
        page.keyboard.press("]")
        expect(self.will()).to_contain_text("1 locked cell")
        self.assertEqual(self.value(10, 0), left)
        self.assertAlmostEqual(self.value(10, 1), 1.05 * right, delta=0.06)
        page.keyboard.press("u")
        expect(self.cell(10, 1)).to_have_text(f"{right:.1f}")
        # Jump to a value, interpolate, undo everything, redo one.
        page.keyboard.press("j")
        page.keyboard.type("71,5")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Margin")).to_contain_text("at 1100 rpm, 34 kPa")
        self.choose((3, 1), (3, 4))
        page.keyboard.press("i")
        expect(self.will()).to_have_text("Interpolate across: 4 cells.")
        page.keyboard.press("Enter")
        expect(self.will()).to_contain_text("Done.")
        for _ in range(3):
            page.keyboard.press("u")
        expect(self.draft()).to_have_text("Nothing is changed.")
        page.keyboard.press("Shift+U")
        expect(self.draft()).to_contain_text("1 cell changed")
        # Written down as one revision with a note.
        page.keyboard.press("w")
        page.keyboard.type("richer at 1100")
        page.get_by_role("button", name=re.compile("Save as revision")).click()
        expect(self.draft()).to_have_text("Saved as revision 2.")
        self.cell(3, 2).click()
        expect(page.get_by_label("Margin")).to_contain_text("anna: richer at 1100")
        self.assert_accessible()

    def test_undo_outlives_a_reload_and_bounds_are_refused_in_words(self):
        page = self.page
        self.cell(2, 2).click()
        before = self.value(2, 2)
        page.keyboard.press("}")
        expect(self.draft()).to_contain_text("1 cell changed")
        page.reload()
        expect(self.draft()).to_contain_text("1 cell changed")
        self.assertAlmostEqual(self.value(2, 2), 1.1 * before, delta=0.06)
        page.get_by_role("button", name="Undo").click()
        self.assertEqual(self.value(2, 2), before)
        self.cell(2, 2).click()
        page.keyboard.type("500")
        page.keyboard.press("Enter")
        expect(self.will()).to_have_text(
            "Volumetric efficiency must be between 5 and 200 %, not 500."
        )

    def test_forty_steps_come_back_one_by_one(self):
        page = self.page
        self.cell(4, 4).click()
        before = self.value(4, 4)
        for _ in range(40):
            page.keyboard.press("+")
        expect(self.cell(4, 4)).to_have_text(f"{before + 4.0:.1f}")
        for _ in range(35):
            page.keyboard.press("u")
        expect(self.cell(4, 4)).to_have_text(f"{before + 0.5:.1f}")

    def test_a_table_of_32_by_32_is_worked_to_its_last_cell(self):
        page = self.page
        axes = {
            "rpm": [400 + 200 * i for i in range(32)],
            "map_kpa": [20 + 5 * i for i in range(32)],
        }
        self.api(f"/jobs/{self.job}/base-maps/axes", {"axes": axes, "based_on": 1})
        self.open(f"{self.path}/tables/ve")
        self.cell(0, 0).click()
        for key in ("End", "PageDown", "PageDown", "PageDown", "PageDown"):
            page.keyboard.press(key)
        expect(self.cell(31, 31)).to_be_in_viewport()
        page.keyboard.type("88")
        page.keyboard.press("Enter")
        expect(self.cell(31, 31)).to_have_text("88.0")
        page.keyboard.press("*")
        page.keyboard.press("]")
        expect(self.draft()).to_contain_text("1024 cells changed")
        self.choose((0, 0), (0, 1))
        expect(self.cell(0, 0)).to_be_in_viewport()


class PasteTests(BenchCase):
    def test_from_a_spreadsheet_with_decimal_commas_text_and_ragged_rows(self):
        page = self.page
        self.cell(1, 1).click()
        before = self.value(2, 2)
        self.paste("51,5\t52,5\n53\ttext")
        expect(self.will()).to_contain_text("Pastes 2 × 2 cells.")
        expect(
            page.get_by_text("1 cell(s) are no numbers and stay as they are: 'text'.")
        ).to_be_visible()
        page.get_by_role("button", name="Do it").click()
        expect(self.cell(1, 2)).to_have_text("52.5")
        self.assertEqual(self.value(2, 2), before)
        self.paste("60\n61\t62")
        expect(page.get_by_text("The rows differ in length")).to_be_visible()
        page.get_by_role("button", name="Leave it").click()
        self.cell(14, 7).click()
        self.paste("\n".join(["80\t81\t82"] * 1000))
        expect(self.will()).to_contain_text("outside the table and are left out")
        page.get_by_role("button", name="Leave it").click()
        self.paste("only words")
        expect(self.will()).to_have_text("There is no number in what was pasted.")

    def test_what_is_copied_can_be_pasted_back(self):
        page = self.page
        self.choose((2, 2), (3, 4))
        text = page.evaluate(
            """() => { const data = new DataTransfer();
            document.querySelector('[role=grid]').dispatchEvent(
                new ClipboardEvent('copy', {clipboardData: data, bubbles: true, cancelable: true}));
            return data.getData('text/plain'); }"""
        )
        self.assertEqual([len(line.split("\t")) for line in text.split("\n")], [3, 3])
        self.assertEqual(float(text.split("\t")[0]), self.value(2, 2))
        self.cell(8, 2).click()
        self.paste(text)
        page.get_by_role("button", name="Do it").click()
        expect(self.cell(8, 2)).to_have_text(self.cell(2, 2).inner_text())


class ViewTests(BenchCase):
    table = "spark"

    def test_slices_can_be_drawn_the_surface_turned_and_the_origin_seen(self):
        page = self.page
        self.cell(6, 5).click()
        page.get_by_role("button", name="Slices").click()
        curve = page.get_by_role("img", name="At 1850 rpm")
        point = curve.locator("[data-point='2']")
        before = self.value(6, 2)
        box = point.bounding_box()
        page.mouse.move(box["x"] + 5, box["y"] + 5)
        page.mouse.down()
        page.mouse.move(box["x"] + 5, box["y"] + 30, steps=4)
        page.mouse.up()
        expect(self.draft()).to_contain_text("1 cell changed: spark advance")
        self.assertLess(self.value(6, 2), before)
        page.get_by_role("button", name="Changes").click()
        expect(self.cell(6, 2)).to_contain_text("−")
        page.get_by_role("button", name="Surface").click()
        surface = page.get_by_role("img", name="Spark advance as a surface")
        first = surface.screenshot()
        surface.press("ArrowRight")
        surface.press("ArrowUp")
        self.assertNotEqual(surface.screenshot(), first)
        page.get_by_role("button", name="Origin").click()
        expect(self.cell(0, 0).get_by_role("img", name="assumed")).to_be_visible()
        expect(page.get_by_label("Why this value")).to_contain_text("light load")

    def test_the_bench_engine_runs_over_the_table(self):
        page = self.page
        page.get_by_role("button", name="Crank the bench engine").click()
        expect(page.get_by_role("slider", name="Time in the log")).to_be_visible(timeout=30_000)
        ring = page.locator("[data-cursor]")
        expect(ring).to_be_visible()
        place = "(ring) => [ring.offsetLeft, ring.offsetTop].join()"
        first = ring.evaluate(place)
        page.wait_for_function(
            f"(first) => ({place})(document.querySelector('[data-cursor]')) !== first", arg=first
        )
        page.get_by_role("button", name="Hold").click()
        page.get_by_role("button", name="Evidence").click()
        page.reload()
        page.get_by_role("button", name="Evidence").click()
        expect(page.get_by_text("1 logs have been in")).to_be_visible()

    def test_settings_are_typed_checked_and_saved(self):
        page = self.page
        self.open(f"{self.path}/tables/settings")
        field = page.get_by_label("Authority", exact=True)
        field.fill("35")
        field.press("Enter")
        expect(page.get_by_text("hides faults and drags healthy cells along")).to_be_visible()
        expect(self.draft()).to_contain_text("1 cell changed: closed-loop mixture authority")
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_label("Authority", exact=True)).to_have_value("10")


class TogetherTests(BenchCase):
    def test_two_people_edit_the_same_table(self):
        page = self.page
        self.cell(8, 2).click()
        page.keyboard.type("91")
        page.keyboard.press("Enter")
        tables = page.evaluate(f"fetch('/api/jobs/{self.job}/calibration').then((r) => r.json())")
        theirs = tables["tables"]["ve"]["values"]
        theirs[1][1] = 60.0
        self.api(
            f"/jobs/{self.job}/calibration",
            {"note": "theirs", "based_on": 1, "tables": {"ve": {"values": theirs}}},
        )
        page.get_by_role("button", name=re.compile("Save as revision")).click()
        expect(page.get_by_text("Nothing you typed is lost")).to_be_visible()
        page.get_by_role("button", name="Bring my changes onto revision 2").click()
        expect(self.draft()).to_contain_text("Your 1 changes rest on revision 2 now.")
        expect(self.cell(8, 2)).to_have_text("91.0")
        expect(self.cell(1, 1)).to_have_text("60.0")
        page.get_by_role("button", name=re.compile("Save as revision")).click()
        expect(self.draft()).to_have_text("Saved as revision 3.")

    def test_compare_as_numbers_percent_and_surface_and_restore(self):
        page = self.page
        self.choose((4, 3), (5, 4))
        page.keyboard.press("}")
        expect(self.draft()).to_contain_text("4 cells changed")
        page.get_by_role("button", name=re.compile("Save as revision")).click()
        expect(self.draft()).to_have_text("Saved as revision 2.")
        page.get_by_role("tab", name="Compare").click()
        expect(self.cell(4, 3)).to_contain_text("+6")
        page.get_by_role("button", name="Percent").click()
        expect(self.cell(4, 3)).to_have_text(re.compile(r"^[+](9[.]9|10[.][01])$"))
        expect(self.cell(0, 0)).to_have_text("·")
        page.get_by_role("button", name="Surface").click()
        expect(page.get_by_role("img", name="the later revision as a surface")).to_be_visible()
        page.get_by_role("button", name="Restore revision 1").click()
        expect(page.get_by_text("Revision 3 holds it again")).to_be_visible()
        self.assert_accessible()

    def test_a_table_of_another_job_stands_beside_an_own_one(self):
        page = self.page
        other = self.make_job(name="Egret")
        tables = self.client_of_user.get(f"/api/jobs/{other}/calibration").json()["tables"]
        own = tables["ve"]["values"]
        theirs = [list(row) for row in own]
        theirs[4][3] -= 5.0
        edit = {"note": "", "based_on": 1, "tables": {"ve": {"values": theirs}}}
        self.api(f"/jobs/{other}/calibration", edit)
        page.reload()
        page.get_by_role("tab", name="Compare").click()
        page.get_by_role("combobox", name="Compare with").click()
        page.get_by_role("option", name="Egret").click()
        expect(self.cell(4, 3)).to_have_text("+5.0")
        expect(self.cell(0, 0)).to_have_text("·")
        expect(page.get_by_role("combobox", name="From revision")).to_have_count(0)
        self.assert_accessible()

    def test_the_transfer_sheet_ticks_survive_and_stamp_the_revision(self):
        page = self.page
        self.api(f"/jobs/{self.job}/transfer", {"revision": 1, "how": "loaded"})
        self.choose((4, 3), (4, 4))
        page.keyboard.press("]")
        expect(self.draft()).to_contain_text("2 cells changed")
        page.get_by_role("button", name=re.compile("Save as revision")).click()
        expect(self.draft()).to_have_text("Saved as revision 2.")
        page.get_by_role("tab", name="Into the controller").click()
        expect(
            page.get_by_text(
                "2 values to type into the controller, those that changed since revision 1"
            )
        ).to_be_visible()
        confirm = page.get_by_role("button", name="Confirm transferred")
        expect(confirm).to_be_disabled()
        boxes = page.get_by_role("table", name="Volumetric efficiency").get_by_role("checkbox")
        expect(boxes).to_have_count(2)
        boxes.first.check()
        page.reload()
        expect(boxes.first).to_be_checked()
        boxes.nth(1).check()
        confirm.click()
        expect(page.get_by_text("Nothing has to be typed")).to_be_visible()
        expect(page.get_by_label("Margin")).to_contain_text("Revision 2, typed by anna")
        self.assert_accessible()
