"""Station 13 in the browser: an unproven car says so first; a closing check; a PDF with its progress."""

import re

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

    def test_a_car_that_is_back_with_other_injectors_shows_what_fell(self):
        page, job = self.page, self.make_job()
        self.open(f"/jobs/{job}/handover/shop")
        page.get_by_role("button", name="It is back with other parts …").click()
        page.get_by_role("checkbox", name="other injectors").check()
        page.get_by_label("Why it came back").fill("Larger injectors after a year.")
        self.assert_accessible()
        page.get_by_role("button", name="Continue the job").click()
        expect(
            page.get_by_text("Fell with other injectors. A drive, and a pass over the map.")
        ).to_be_visible()
        expect(page.get_by_text("The fuel map: fell with other injectors.").first).to_be_visible()
        expect(
            page.get_by_text("Larger injectors after a year.", exact=False).first
        ).to_be_visible()
        self.assert_accessible()

    def test_a_job_leaves_as_an_archive_and_comes_in_again(self):
        page, job = self.page, self.make_job(name="Heron")
        self.open(f"/jobs/{job}/handover")
        page.get_by_role("button", name="Make the archive").click()
        link = page.get_by_role("link", name="Save it")
        expect(link).to_be_visible()
        data = b"".join(self.client_of_user.get(link.get_attribute("href")).streaming_content)
        self.open("/jobs/new")
        bring = page.get_by_label("Archive of a job")
        bring.set_input_files({"name": "x.zip", "mimeType": "application/zip", "buffer": b"no zip"})
        expect(page.get_by_role("alert").filter(has_text="no zip file")).to_be_visible()
        bring.set_input_files({"name": "heron.zip", "mimeType": "application/zip", "buffer": data})
        expect(page.get_by_text("A job of its own, 'Heron', would be added")).to_be_visible()
        self.assert_accessible()
        page.get_by_role("button", name="Take this job").click()
        expect(page).to_have_url(re.compile(rf"/jobs/(?!{job}$|new)\d+$"))
        expect(page.get_by_text("Heron").first).to_be_visible()
