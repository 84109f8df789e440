"""A training season played in the browser, and the plan of the mornings."""

import json
import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class TrainerTests(BrowserTestCase):
    def accept_if_offered(self):
        """Take the advice of the trial on the screen as its sheet offers it."""
        button = self.page.get_by_role("button", name="Accept", exact=True)
        if button.count():
            button.click()
            expect(self.page.get_by_text(re.compile("Accepted: it is revision"))).to_be_visible()

    def test_three_mornings_by_the_advice_and_then_the_truth(self):
        page = self.page
        self.open("/trainer")
        page.get_by_role("button", name="Begin from one that ships").click()
        own = page.get_by_label("Scenario, JSON")
        expect(own).to_have_value(re.compile("Harbour tender"))
        scenario = json.loads(own.input_value())
        own.fill(json.dumps({**scenario, "days": 3, "title": "Three mornings"}))
        page.get_by_role("button", name="Play it").click()
        expect(page.get_by_role("heading", name="Three mornings")).to_be_visible()
        expect(page.get_by_role("button", name="Hot restart")).to_be_disabled()
        self.assert_accessible()
        for day in (1, 2, 3):
            expect(page.get_by_text(f"Day {day} of 3")).to_be_visible()
            page.get_by_role("button", name="Cold start").click()
            expect(page.get_by_text("Simulation: training season")).to_be_visible(timeout=20_000)
            self.accept_if_offered()
            page.get_by_role("link", name="Back to the season").click()
            page.get_by_role("button", name="Let it stand overnight").click()
        expect(page.get_by_role("heading", name="The season is over")).to_be_visible()
        page.get_by_role("button", name=re.compile("End the season")).click()
        told = page.get_by_role("region", name="How it went")
        expect(told).to_contain_text("a plain hand", timeout=120_000)
        expect(told).to_contain_text("What the engine was")
        told.get_by_role("button", name="The same mornings again").click()
        expect(page.get_by_text("Day 1 of 3")).to_be_visible()

    def test_the_mornings_are_planned_and_the_board_tells_when_it_is_cold(self):
        page, job = self.page, self.make_job()
        self.open(f"/jobs/{job}/ladder")
        page.get_by_role("tab", name="Mornings").click()
        form = page.locator("form")
        form.get_by_role("group", name="Expected minima").get_by_role("textbox").first.fill("-4")
        form.get_by_role("button", name="Switched off now").click()
        form.get_by_label("Air around it").fill("3")
        form.get_by_role("button", name="Add a reading").click()
        for label, value in (("Stood", "3"), ("Coolant", "30"), ("Air", "5")):
            form.get_by_label(label, exact=True).fill(value)
        form.get_by_role("button", name="Save and plan").click()
        region = page.get_by_role("region", name="Mornings")
        expect(region).to_contain_text("Next morning −4 °C (forecast)")
        expect(region).to_contain_text("read from one parked reading")
        expect(page.get_by_role("img", name="Coolant after switching off")).to_be_visible()
        self.assert_accessible()
        page.get_by_role("tab", name=re.compile("Ladder")).click()
        expect(page.get_by_role("region", name="Tomorrow")).to_contain_text("Next morning −4 °C")
        self.open("/")
        expect(page.get_by_text(re.compile(r"^\w{3} \d\d:\d\d$"))).to_be_visible()
