"""The main job in the browser: board → ladder → bench start → advice → accept → better start."""

import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class MainJobTests(BrowserTestCase):
    def crank(self, coolant):
        """Crank the bench engine by hand and have it judged; return the verdict's sentence."""
        page = self.page
        page.get_by_role("link", name="Record").first.click()
        page.get_by_role("tab", name="Crank the bench engine").click()
        page.get_by_label("Engine is at").fill(coolant)
        page.get_by_label("Engine", exact=True).click()
        page.get_by_role("option", name="Port-injected four").click()
        page.get_by_role("button", name="Crank", exact=True).click()
        expect(page.get_by_text(re.compile("Simulated")).first).to_be_visible()
        page.get_by_role("button", name="4 ×").click()
        page.get_by_role("button", name=re.compile("judge", re.I)).click()
        heading = page.get_by_role("heading", level=1)
        expect(heading).to_contain_text("°C")
        return heading.inner_text()

    def test_from_a_late_start_to_a_good_one(self):
        job = self.make_job()
        self.check_sensors(job)
        self.scale_tables(job, cranking_fuel=0.42, prime_pulse=0.3)
        page = self.page
        self.open("/")
        page.get_by_role("link", name="Heron").click()
        page.get_by_role("link", name=re.compile("Ladder")).first.click()
        expect(page.get_by_role("grid")).to_be_visible()
        seconds = []
        for _ in range(8):
            sentence = self.crank("8")
            seconds.append(float(re.search(r"after ([\d.]+) s", sentence).group(1)))
            if sentence.startswith("A good start"):
                break
            advice = page.get_by_role("region", name="Advice")
            expect(advice).to_contain_text("Change one thing: cranking fuel")
            expect(advice).to_contain_text("Wrong if:")
            expect(
                page.get_by_role("img", name=re.compile("Trace of the start"))
                .locator("canvas")
                .first
            ).to_be_visible()
            advice.get_by_role("button", name="Accept").click()
            expect(advice).to_contain_text(re.compile(r"Accepted: it is revision \d+ now"))
        self.assertTrue(sentence.startswith("A good start"), seconds)
        self.assertGreater(len(seconds), 1)
        self.assertLess(seconds[-1], seconds[0])
        # The ladder now shows where the number comes from, and the trials at their temperature.
        page.get_by_role("link", name=re.compile("Ladder")).first.click()
        page.get_by_role("gridcell").filter(has=page.get_by_label("calculated")).first.click()
        expect(page.get_by_role("complementary", name="Margin")).to_contain_text(
            re.compile("Advice of trial")
        )
        expect(
            page.get_by_role("link", name=re.compile(f"Trial {len(seconds)}: It started")).first
        ).to_be_visible()

    def test_accept_and_decline_by_keyboard(self):
        job = self.make_job()
        self.scale_tables(job, cranking_fuel=0.42, prime_pulse=0.3)
        log = self.api(
            f"/jobs/{job}/bench/starts", {"coolant_c": 8, "engine": "port_four", "seed": 1}
        )["id"]
        first = self.api(f"/jobs/{job}/trials", {"log_id": log})["id"]
        page = self.page
        self.open(f"/jobs/{job}/trials/{first}")
        expect(page.get_by_role("button", name="Accept")).to_be_visible()
        page.keyboard.press("d")
        page.get_by_label("Why not").fill("the battery was flat")
        page.get_by_role("button", name="Decline", exact=True).click()
        expect(page.get_by_text("Declined. the battery was flat")).to_be_visible()
        second = self.api(f"/jobs/{job}/trials", {"log_id": log})["id"]
        self.open(f"/jobs/{job}/trials/{second}")
        expect(page.get_by_role("button", name="Accept")).to_be_visible()
        page.keyboard.press("a")
        expect(page.get_by_text("Accepted: it is revision 3 now.")).to_be_visible()

    def test_a_fault_under_the_bonnet_is_to_be_mended_not_accepted(self):
        job = self.make_job()
        log = self.api(
            f"/jobs/{job}/bench/starts",
            {"coolant_c": 8, "engine": "port_four", "faults": ["lost_sync"]},
        )["id"]
        trial = self.api(f"/jobs/{job}/trials", {"log_id": log})["id"]
        self.open(f"/jobs/{job}/trials/{trial}")
        advice = self.page.get_by_role("region", name="Advice")
        expect(advice).to_contain_text("Mend this before any table")
        expect(advice.get_by_role("button", name="Accept")).to_have_count(0)
        expect(self.page.get_by_role("region", name="Next action")).to_contain_text("Mend first")

    def test_the_whole_rulebook_can_be_read(self):
        job = self.make_job()
        trial = self.api(
            f"/jobs/{job}/trials", {"observation": {"outcome": "no fire", "coolant_c": 5}}
        )
        self.open(f"/jobs/{job}/trials/{trial['id']}")
        self.page.get_by_role("button", name="The whole rulebook").click()
        book = self.page.get_by_role("dialog", name="Rulebook of starting")
        expect(book).to_contain_text(
            "Before any table: the likeliest cause is that the starter does not turn the engine"
        )
        expect(book).to_contain_text("Prime pulse: no fire at all")
        self.assert_accessible()
        book.get_by_role("button", name="Close").click()
        expect(book).to_be_hidden()

    def test_own_values_instead_of_the_advised_ones(self):
        job = self.make_job()
        self.scale_tables(job, cranking_fuel=0.42, prime_pulse=0.3)
        log = self.api(
            f"/jobs/{job}/bench/starts", {"coolant_c": 8, "engine": "port_four", "seed": 1}
        )["id"]
        trial = self.api(f"/jobs/{job}/trials", {"log_id": log})["id"]
        self.open(f"/jobs/{job}/trials/{trial}")
        self.page.get_by_role("button", name="Change the values").click()
        self.page.get_by_label("New value at 10", exact=True).fill("123,5")
        self.page.get_by_role("button", name="Accept with these values").click()
        expect(self.page.get_by_text("Accepted: it is revision 3 now.")).to_be_visible()
        values = self.page.evaluate(f"fetch('/api/jobs/{job}/calibration').then((r) => r.json())")
        self.assertIn(123.5, values["tables"]["cranking_fuel"]["values"])
