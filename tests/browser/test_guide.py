"""The guide and the first-run tour in the browser."""

from playwright.sync_api import expect

from .base import BrowserTestCase


class GuideTests(BrowserTestCase):
    def test_the_guide_is_searched_word_by_word(self):
        page = self.page
        self.open("/guide")
        expect(page.get_by_role("heading", name="The order of work")).to_be_visible()
        self.assert_accessible()
        page.get_by_label("Search the guide").fill("latency")
        expect(page.get_by_role("cell", name="dead time", exact=True)).to_be_visible()
        expect(page.get_by_role("heading", name="The order of work")).to_be_hidden()
        page.get_by_label("Search the guide").fill("student detectable")
        expect(page.get_by_text("Student's t", exact=False).first).to_be_visible()
        page.get_by_label("Search the guide").fill("flux capacitor")
        expect(page.get_by_text("Nothing in the guide has these words.")).to_be_visible()

    def test_the_tour_goes_on_is_left_and_does_not_return(self):
        page = self.page
        self.open("/")
        tour = page.get_by_role("region", name="First steps")
        expect(tour.get_by_text("1 of 3", exact=False)).to_be_visible()
        self.assert_accessible()
        tour.get_by_role("button", name="Next").click()
        tour.get_by_role("button", name="Next").click()
        expect(tour.get_by_text("3 of 3", exact=False)).to_be_visible()
        tour.get_by_role("button", name="Done").click()
        expect(tour).to_be_hidden()
        page.reload()
        expect(page.get_by_role("heading", level=1).first).to_be_visible()
        expect(tour).to_be_hidden()
