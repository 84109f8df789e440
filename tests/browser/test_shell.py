"""The shell: whose job it is, units in words, the bench engine played, sessions that end."""

import re

from django.contrib.sessions.models import Session
from playwright.sync_api import expect

from server.accounts.services import register

from .base import BrowserTestCase


class ShellTests(BrowserTestCase):
    def test_another_workshops_job_is_not_there(self):
        job = self.make_job()
        register(username="bruno", password="another long phrase", workshop="Elsewhere")
        page = self.new_page(signed_in=False)
        self.open(f"/jobs/{job}/ladder", page)
        page.get_by_label("Name").fill("bruno")
        page.get_by_label("Password").fill("another long phrase")
        page.get_by_role("button", name="Sign in", exact=True).click()
        expect(page.get_by_text("There is nothing here, or it is not yours.")).to_be_visible()

    def test_an_address_that_leads_nowhere(self):
        self.open("/nowhere")
        expect(self.page.get_by_text("There is nothing at this address.")).to_be_visible()
        self.page.get_by_role("link", name="shop board").click()
        expect(self.page.get_by_role("heading", name="Shop board")).to_be_visible()

    def test_a_session_that_ended_says_so_and_keeps_what_was_typed(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/ladder")
        page.locator('[data-cell="idle_valve:4"]').click()
        page.keyboard.type("55")
        page.keyboard.press("Enter")
        Session.objects.all().delete()
        page.get_by_role("button", name="Save as revision 2").click()
        expect(page.get_by_text(re.compile("Sign in first"))).to_be_visible()
        expect(page.get_by_text(re.compile("1 cell changed"))).to_be_visible()

    def test_units_are_shown_everywhere(self):
        job = self.make_job()
        log = self.api(
            f"/jobs/{job}/bench/starts", {"coolant_c": 10, "engine": "port_four", "seed": 1}
        )["id"]
        trial = self.api(f"/jobs/{job}/trials", {"log_id": log})["id"]
        units = {"temperature": "°F", "pressure": "psi", "mixture": "AFR"}
        self.api(f"/jobs/{job}/units", {"units": units})
        page = self.page
        self.open(f"/jobs/{job}/trials/{trial}")
        expect(page.get_by_role("heading", level=1)).to_contain_text("at 50 °F")
        margin = page.get_by_role("complementary", name="Margin")
        expect(margin).to_contain_text(re.compile(r"Coolant at the start\s*50 °F"))
        expect(margin).to_contain_text(re.compile(r"Manifold, steady\s*\d+ psi"))
        expect(page.get_by_role("region", name="Next action")).not_to_contain_text("°C")
        self.open(f"/jobs/{job}/ladder")
        expect(page.get_by_role("link", name=re.compile("at 50 °F"))).to_be_visible()
        self.open(f"/jobs/{job}/record")
        page.get_by_role("tab", name="Tap what happened").click()
        page.get_by_role("radio", name="It started", exact=True).click()
        page.get_by_label("Coolant before").fill("50")
        page.get_by_label("Cranked for").fill("1")
        page.get_by_label("Gauge, once warm").fill("13,8")
        page.get_by_role("button", name="Judge this start").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("at 50 °F")
        trial = page.url.rsplit("/", 1)[1]
        path = f"/api/jobs/{job}/trials/{trial}"
        figures = page.evaluate(f"fetch('{path}').then((r) => r.json())")["figures"]
        self.assertAlmostEqual(figures["coolant_c"], 10.0)
        self.assertAlmostEqual(figures["need_settled"], 13.8 / 14.7 / 0.94, delta=0.01)

    def test_next_action_by_keyboard(self):
        job = self.make_job()
        self.open(f"/jobs/{job}")
        expect(self.page.get_by_role("heading", name="Order of work")).to_be_visible()
        self.page.keyboard.press("n")
        expect(self.page.get_by_role("heading", name="Wiring plan")).to_be_visible()
        self.check_sensors(job)
        self.open(f"/jobs/{job}")
        expect(self.page.get_by_role("heading", name="Order of work")).to_be_visible()
        self.page.keyboard.press("n")
        expect(self.page.get_by_role("heading", name="Record a start")).to_be_visible()
        for keys, heading in (
            ("w", "Wiring plan"), ("c", "Trigger wheel"), ("k", "Key-on check"), ("i", "Injectors"), ("s", "Throttle"),
        ):  # fmt: skip
            self.page.keyboard.press("g")
            self.page.keyboard.press(keys)
            expect(self.page.get_by_role("heading", name=heading, exact=True)).to_be_visible()


class BenchPlayTests(BrowserTestCase):
    def test_a_start_is_played_heard_and_judged(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        page.get_by_role("tab", name="Crank the bench engine").click()
        page.get_by_label("Engine is at").fill("21")
        page.get_by_role("button", name="Crank", exact=True).click()
        speed = page.get_by_text(re.compile(r"^\d+rpm$"))
        page.get_by_role("button", name="Sound on").click()
        expect(page.get_by_role("button", name="Sound off")).to_be_visible()
        page.get_by_role("button", name="4 ×").click()
        expect(speed).to_have_text(re.compile(r"^([5-9]\d\d|1\d\d\d)rpm$"))  # it runs
        expect(page.get_by_role("button", name="Judge this start")).to_be_visible()  # to the end
        self.assert_accessible()
        page.get_by_role("button", name="Judge this start").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("at 21 °C")

    def test_each_fault_can_be_chosen_and_is_found(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        page.get_by_role("tab", name="Crank the bench engine").click()
        page.get_by_label("Engine is at").fill("20")
        page.get_by_label("Hidden fault").click()
        expect(page.get_by_role("option")).to_have_count(7)
        page.get_by_role("option", name="Crank position lost").click()
        page.get_by_role("button", name="Crank", exact=True).click()
        page.get_by_role("button", name="Skip and judge").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text(
            "did not find the crankshaft's position"
        )
        expect(page.get_by_role("region", name="Advice")).to_contain_text(
            "Look at the crank and cam signals"
        )
        page.get_by_role("button", name="Note what was done").click()
        page.get_by_label("What was done or found").fill("gap was 3 mm, set to 0.8")
        page.get_by_role("button", name="Write it down").click()
        expect(page.get_by_text("Noted. gap was 3 mm, set to 0.8")).to_be_visible()
        expect(page.get_by_role("region", name="Next action")).to_contain_text("Repeat the start")

    def test_an_impossible_temperature_is_refused_in_words(self):
        job = self.make_job()
        self.open(f"/jobs/{job}/record")
        self.page.get_by_role("tab", name="Crank the bench engine").click()
        self.page.get_by_label("Engine is at").fill("400")
        self.page.get_by_role("button", name="Crank", exact=True).click()
        expect(
            self.page.get_by_text(re.compile("must be between -40 and 120, not 400")).first
        ).to_be_visible()
