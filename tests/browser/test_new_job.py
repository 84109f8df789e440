"""A new job from nothing, and signing in and out."""

import re

from playwright.sync_api import expect

from .base import PASSWORD, BrowserTestCase


class NewJobTests(BrowserTestCase):
    def test_from_an_empty_board_to_computed_tables(self):
        page = self.page
        self.open("/")
        expect(page.get_by_text("No job yet.")).to_be_visible()
        page.get_by_role("link", name="New job").click()
        button = page.get_by_role("button", name="Compute the start tables")
        expect(button).to_be_disabled()
        page.get_by_label("Name of the job").fill("Otter")
        page.get_by_label("Displacement").fill("1,6")
        page.get_by_label("Cylinders").fill("4")
        page.get_by_label("Injector flow, each").fill("24")
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text("far too small")
        expect(page.get_by_label("If it is really so, say why")).to_be_visible()
        page.get_by_label("Injector flow, each").fill("260")
        expect(margin).to_contain_text("the injectors fit the engine")
        expect(margin).to_contain_text(re.compile(r"Reference pulse\s*10\.0\d ms"))
        button.click()
        expect(page.get_by_role("grid")).to_be_visible()
        expect(page.get_by_role("region", name="Next action")).to_contain_text("Plan the wiring")
        expect(page.get_by_role("gridcell")).to_have_count(12 * 8)

    def test_refusals_stand_at_their_fields_and_nothing_typed_is_lost(self):
        page = self.page
        self.open("/jobs/new")
        page.get_by_label("Displacement").fill("0")
        page.get_by_label("Cylinders").fill("4")
        page.get_by_label("Injector flow, each").fill("260")
        expect(
            page.get_by_text("Displacement must be between 0.05 and 30 l, not 0.")
        ).to_be_visible()
        page.get_by_label("Displacement").fill("1.6")
        page.get_by_label(re.compile("Own coolant breakpoints")).fill("0 20 10")
        page.get_by_role("button", name="Compute the start tables").click()
        expect(page.get_by_text("Give the job a name.").first).to_be_visible()
        page.get_by_label("Name of the job").fill("Otter")
        page.get_by_role("button", name="Compute the start tables").click()
        expect(page.get_by_text(re.compile("must rise: 10 °C follows 20 °C")).first).to_be_visible()
        expect(page.get_by_label("Displacement")).to_have_value("1.6")

    def test_imperial_entry_is_converted(self):
        page = self.page
        self.open("/jobs/new")
        page.get_by_label("Units").click()
        page.get_by_role("option", name="°F, psi, lb/h").click()
        page.get_by_label("Name of the job").fill("Otter")
        page.get_by_label("Displacement").fill("2.2")
        page.get_by_label("Cylinders").fill("4")
        page.get_by_label("Injector flow, each").fill("38.4")
        page.get_by_role("button", name="Compute the start tables").click()
        expect(page.get_by_role("rowheader", name="212")).to_be_visible()
        engine = page.evaluate("fetch('/api/jobs').then((r) => r.json())")[0]["engine"]
        self.assertAlmostEqual(engine["injectors"]["flow_cm3_min"], 390.0, delta=1.0)
        self.assertAlmostEqual(engine["rail_pressure_kpa"], 300.0, delta=0.1)


class SignInTests(BrowserTestCase):
    def test_wrong_password_and_a_new_workshop(self):
        page = self.new_page(signed_in=False)
        self.open("/", page)
        page.get_by_label("Name").fill("anna")
        page.get_by_label("Password").fill("wrong")
        page.get_by_role("button", name="Sign in", exact=True).click()
        expect(page.get_by_text("Name and password do not match.")).to_be_visible()
        self.assert_accessible(page)
        page.get_by_role("button", name="I am new here").click()
        page.get_by_label("Name", exact=False).first.fill("berta")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Set up and sign in").click()
        expect(page.get_by_text("No job yet.")).to_be_visible()
        page.get_by_role("button", name=re.compile("Sign out")).click()
        expect(page.get_by_role("heading", name="Sign in to Inbetrieb")).to_be_visible()
