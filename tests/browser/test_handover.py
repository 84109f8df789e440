"""Station 13 in the browser: an unproven car says so first; a closing check; a PDF with its progress."""

from playwright.sync_api import expect

from .base import BrowserTestCase


class HandoverTests(BrowserTestCase):
    def test_from_the_record_to_a_pdf(self):
        page, job = self.page, self.make_job()
        self.open(f"/jobs/{job}/handover")
        expect(page.get_by_role("alert").first).to_contain_text("This car is not proven")
        self.assert_accessible()
        row = page.get_by_role("button", name="Done: Controller read back")
        page.get_by_label("Found").nth(1).fill("Firmware 3.1, sum 7f20")
        row.click()
        expect(page.get_by_text("Firmware 3.1, sum 7f20", exact=False).first).to_be_visible()
        page.get_by_role("tab", name="For the shop").click()
        expect(page.get_by_role("heading", name="What is not proven")).to_be_visible()
        expect(page.get_by_text("No start was ever recorded", exact=False)).to_be_visible()
        self.assert_accessible()
        page.get_by_role("button", name="Make the PDF").click()
        link = page.get_by_role("link", name="Open the PDF")
        expect(link).to_be_visible()
        answer = self.client_of_user.get(link.get_attribute("href"))
        self.assertTrue(b"".join(answer.streaming_content).startswith(b"%PDF-"))
