"""The ladder by keyboard: type, undo, save, a stale save, history, units, theme."""

import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class LadderTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        self.open(f"/jobs/{self.job}/ladder")
        expect(self.page.get_by_role("grid")).to_be_visible()

    def cell(self, table, index):
        return self.page.locator(f'[data-cell="{table}:{index}"]')

    def test_edit_undo_and_save_by_keyboard(self):
        page = self.page
        self.cell("cranking_fuel", 5).click()
        before = self.cell("cranking_fuel", 5).inner_text()
        page.keyboard.type("201,5")
        page.keyboard.press("Enter")
        expect(self.cell("cranking_fuel", 5)).to_contain_text("201.5")
        # Enter goes on to the next colder rung, arrows go across.
        expect(self.cell("cranking_fuel", 4)).to_be_focused()
        page.keyboard.press("ArrowRight")
        expect(self.cell("cranking_air", 4)).to_be_focused()
        page.keyboard.press("+")
        expect(
            page.get_by_text(re.compile("2 cells changed: cranking fuel, cranking air"))
        ).to_be_visible()
        page.keyboard.press("u")
        expect(page.get_by_text(re.compile("1 cell changed: cranking fuel"))).to_be_visible()
        page.keyboard.press("u")
        self.assertEqual(self.cell("cranking_fuel", 5).inner_text(), before)
        page.keyboard.press("Shift+U")
        expect(self.cell("cranking_fuel", 5)).to_contain_text("201.5")
        page.keyboard.press("w")
        page.keyboard.type("richer on a hunch")
        page.keyboard.press("Enter")
        expect(page.get_by_role("tab", name="Ladder, revision 2")).to_be_visible()
        self.cell("cranking_fuel", 5).click()
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("anna: richer on a hunch")
        expect(margin).to_contain_text("in revision 2")
        self.assert_accessible()

    def test_a_value_out_of_bounds_is_refused_in_words_and_escape_keeps_the_old_one(self):
        page = self.page
        self.cell("idle_valve", 3).click()
        before = self.cell("idle_valve", 3).inner_text()
        page.keyboard.type("400")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Idle valve must be between 0 and 100 %, not 400.")).to_be_visible()
        page.keyboard.press("Escape")
        self.assertEqual(self.cell("idle_valve", 3).inner_text(), before)

    def test_two_browsers_saving_at_once(self):
        page = self.page
        self.cell("idle_target", 2).click()
        page.keyboard.type("1100")
        page.keyboard.press("Enter")
        self.scale_tables(self.job, idle_valve=0.9)  # somebody else, meanwhile
        page.get_by_role("button", name="Save as revision 2").click()
        said = re.compile("Revision 2 was saved while you worked on revision 1. Nothing you typed")
        expect(page.get_by_text(said)).to_be_visible()
        expect(self.cell("idle_target", 2)).to_contain_text("1100")
        page.get_by_role("button", name="Bring my changes onto revision 2").click()
        expect(self.cell("idle_target", 2)).to_contain_text("1100")
        page.get_by_role("button", name="Save as revision 3").click()
        expect(page.get_by_role("tab", name="Ladder, revision 3")).to_be_visible()

    def test_what_was_typed_outlives_a_reload_and_is_on_the_bench_too(self):
        page = self.page
        self.cell("idle_target", 2).click()
        page.keyboard.type("1110")
        page.keyboard.press("Enter")
        expect(page.get_by_text(re.compile("1 cell changed: idle target"))).to_be_visible()
        page.reload()
        expect(self.cell("idle_target", 2)).to_contain_text("1110")
        self.open(f"/jobs/{self.job}/base-maps/tables/idle_target")
        expect(page.get_by_text(re.compile("1 cell changed: idle target"))).to_be_visible()
        self.open(f"/jobs/{self.job}/ladder")
        expect(self.cell("idle_target", 2)).to_contain_text("1110")
        page.keyboard.press("u")
        expect(page.get_by_text("Nothing is changed.")).to_be_visible()

    def test_history_with_difference_and_restore(self):
        page = self.page
        self.scale_tables(self.job, idle_valve=0.9)
        self.open(f"/jobs/{self.job}/ladder")
        page.get_by_role("tab", name="Revisions").click()
        expect(page.get_by_text(re.compile("found so Changed: idle valve"))).to_be_visible()
        expect(
            page.get_by_role("heading", name=re.compile("with the one before it: 1 → 2"))
        ).to_be_visible()
        expect(page.get_by_text(re.compile(r"^−10 %$")).first).to_be_visible()
        self.assert_accessible()
        page.get_by_role("button", name="Restore").click()
        expect(page.get_by_role("tab", name="Ladder, revision 3")).to_be_visible()

    def test_a_calibration_file_comes_in_as_a_revision(self):
        page = self.page
        exported = page.evaluate(
            f"fetch('/api/jobs/{self.job}/export?format=csv').then((r) => r.text())"
        )
        self.open(f"/jobs/{self.job}")
        field = page.get_by_label("Calibration file")
        field.set_input_files({"name": "a.csv", "mimeType": "text/csv", "buffer": b"nonsense"})
        expect(page.get_by_text(re.compile("The file is not a calibration"))).to_be_visible()
        field.set_input_files(
            {"name": "a.csv", "mimeType": "text/csv", "buffer": exported.encode()}
        )
        expect(page.get_by_text("It is revision 2 now.")).to_be_visible()

    def test_units_theme_and_help(self):
        page = self.page
        page.get_by_role("button", name=re.compile("Units")).click()
        page.get_by_role("button", name="°F").click()
        page.keyboard.press("Escape")
        expect(page.get_by_role("rowheader", name="212")).to_be_visible()
        page.get_by_role("button", name="Dim").click()
        self.assertEqual(page.evaluate("document.documentElement.dataset.scheme"), "dark")
        self.assert_accessible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("By keyboard")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()
        page.keyboard.press("g")
        page.keyboard.press("o")
        expect(page.get_by_role("heading", name="Order of work")).to_be_visible()
        expect(page.get_by_text("Writes the record", exact=False).first).to_be_visible()

    def test_nothing_is_fetched_from_elsewhere(self):
        asked = []
        self.page.on("request", lambda request: asked.append(request.url))
        self.page.reload()
        expect(self.page.get_by_role("grid")).to_be_visible()
        self.assertTrue(asked)
        self.assertEqual(
            [url for url in asked if not url.startswith((self.live_server_url, "data:", "blob:"))],
            [],
        )


class AccessibilityTests(BrowserTestCase):
    def test_every_sheet(self):
        job = self.make_job()
        self.scale_tables(job, cranking_fuel=0.42, prime_pulse=0.3)
        log = self.api(
            f"/jobs/{job}/bench/starts", {"coolant_c": 8, "engine": "port_four", "seed": 1}
        )["id"]
        trial = self.api(f"/jobs/{job}/trials", {"log_id": log})["id"]
        for path in (
            "/",
            "/jobs/new",
            f"/jobs/{job}",
            f"/jobs/{job}/ladder",
            f"/jobs/{job}/trials/{trial}",
            f"/jobs/{job}/record",
        ):
            with self.subTest(path=path):
                self.open(path)
                expect(self.page.get_by_role("main")).to_be_visible()
                self.rest()
                self.assert_accessible()
        self.page.get_by_role("tab", name="Crank the bench engine").click()
        self.assert_accessible()
