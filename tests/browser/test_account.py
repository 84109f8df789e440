"""One's own account, and a board that grew long: driven as a person does."""

import json
import re
from datetime import timedelta

from django.contrib.auth.models import User
from django.core.cache import cache
from django.test import override_settings
from django.utils.timezone import localdate
from playwright.sync_api import expect

from server.accounts.models import ApiToken
from server.jobs.models import Job
from server.order.models import JobSummary

from .base import PASSWORD, BrowserTestCase


class AccountTests(BrowserTestCase):
    def setUp(self):
        cache.clear()
        super().setUp()
        self.addCleanup(cache.clear)
        self.open("/")
        self.page.get_by_role("link", name="anna").click()
        expect(self.page.get_by_role("heading", name="anna")).to_be_visible()

    def test_a_token_is_shown_once_listed_and_taken_back(self):
        page = self.page
        expect(page.get_by_text("There are none.")).to_be_visible()
        page.get_by_label("What it is for").fill("Script on the shelf")
        page.get_by_role("button", name="Make a token").click()
        shown = page.get_by_text("It is shown this once:")
        expect(shown).to_be_visible()
        token = page.locator("code").inner_text()
        self.assertEqual(ApiToken.objects.get().digest, ApiToken.digest_of(token))
        tokens = page.get_by_role("region", name="Tokens for programs")
        expect(tokens.get_by_role("listitem")).to_contain_text("holds until")
        self.assert_accessible()
        page.reload()
        expect(page.get_by_text("Script on the shelf")).to_be_visible()
        expect(page.get_by_text("It is shown this once:")).to_have_count(0)
        page.get_by_role("button", name="Take back Script on the shelf").click()
        expect(page.get_by_text("There are none.")).to_be_visible()
        self.assertFalse(ApiToken.objects.exists())

    def test_another_password(self):
        page = self.page
        page.get_by_label("Password now").fill("not this one")
        page.get_by_label("New password").fill("yet another long phrase")
        page.get_by_role("button", name="Change it").click()
        expect(page.get_by_text("That is not the password you have now.").first).to_be_visible()
        page.get_by_label("Password now").fill(PASSWORD)
        page.get_by_role("button", name="Change it").click()
        expect(page.get_by_role("status")).to_contain_text("It is changed")
        page.get_by_role("link", name="Inbetrieb").click()
        expect(page.get_by_role("heading", name="Shop board")).to_be_visible()  # still signed in
        self.user.refresh_from_db()
        self.assertTrue(self.user.check_password("yet another long phrase"))


class ClosedDoorTests(BrowserTestCase):
    def test_where_registration_is_closed_nobody_is_offered_it(self):
        with override_settings(REGISTRATION_OPEN=False):
            page = self.new_page(signed_in=False)
            self.open("/", page)
            expect(page.get_by_text("asks whoever runs this server")).to_be_visible()
            expect(page.get_by_role("button", name="I am new here")).to_have_count(0)


class LongBoardTests(BrowserTestCase):
    def test_a_job_is_found_put_aside_and_brought_back(self):
        for name in ("Heron", "Kite", "Plover"):
            self.make_job(name=name)
        page = self.page
        self.open("/")
        rows = page.get_by_role("row")
        expect(rows).to_have_count(4)
        page.get_by_label("Find a job").fill("kit")
        expect(rows).to_have_count(2)
        page.get_by_role("link", name="Kite").click()
        page.get_by_role("button", name=re.compile("Put this job aside")).click()
        page.get_by_label("Why is it put aside?").fill("The owner sold it.")
        page.get_by_role("button", name="Put aside", exact=True).click()
        expect(page.get_by_text("This job is put aside.")).to_be_visible()
        page.get_by_role("link", name="Inbetrieb").click()
        expect(rows).to_have_count(3)
        page.get_by_role("button", name="Those put aside").click()
        expect(page.get_by_role("heading", name="Put aside")).to_be_visible()
        page.get_by_role("link", name="Kite").click()
        page.get_by_role("button", name="Bring it back to the board").click()
        expect(page.get_by_role("button", name=re.compile("Put this job aside"))).to_be_visible()
        page.get_by_role("link", name="Inbetrieb").click()
        expect(rows).to_have_count(4)

    def test_a_long_board_has_pages(self):
        first = Job.objects.get(pk=self.make_job())
        told = JobSummary.objects.get(job=first)
        copies = Job.objects.bulk_create(
            Job(workshop=first.workshop, name="Heron", engine=first.engine, created_by=self.user)
            for _ in range(52)
        )
        JobSummary.objects.bulk_create(
            JobSummary(job=job, version=told.version, needs=told.needs,
                       body=json.dumps({**json.loads(told.body), "id": job.pk}))
            for job in copies
        )  # fmt: skip
        page = self.page
        self.open("/")
        expect(page.get_by_role("row")).to_have_count(51)
        page.get_by_role("button", name="Older").click()
        expect(page.get_by_role("row")).to_have_count(4)
        expect(page.get_by_role("button", name="Older")).to_be_disabled()
        page.get_by_role("button", name="Newer").click()
        expect(page.get_by_role("row")).to_have_count(51)
        page.get_by_label("Find a job").fill("no such job")
        expect(page.get_by_text("There is none like that.")).to_be_visible()


class PeopleTests(BrowserTestCase):
    def test_an_apprentice_is_taken_in_and_records(self):
        page = self.page
        self.open("/account")
        page.get_by_label("Name").fill("Jonas")
        page.get_by_label("First password").fill("short")
        page.get_by_role("button", name="Take in").click()
        expect(page.get_by_text("too short")).to_be_visible()
        page.get_by_label("First password").fill(PASSWORD)
        page.get_by_role("button", name="Take in").click()
        expect(page.get_by_role("listitem").filter(has_text="Jonas")).to_be_visible()
        self.assert_accessible()
        job = self.make_job()
        seen = {"observation": {"outcome": "no fire", "coolant_c": 5}}
        trial = self.api(f"/jobs/{job}/trials", seen)["id"]
        self.user = User.objects.get(username="Jonas")
        del self.client_of_user
        theirs = self.new_page()
        self.open(f"/jobs/{job}/trials/{trial}", theirs)
        expect(theirs.get_by_role("complementary", name="What you may do here")).to_contain_text(
            "record here as an apprentice"
        )
        # What is advised is there to be read; who decides on it is said in its place.
        advice = theirs.get_by_role("region", name="Advice")
        expect(advice).to_contain_text("record here as an apprentice")
        expect(theirs.get_by_role("button", name="Accept", exact=True)).to_have_count(0)

    def test_somebody_is_let_in_to_look(self):
        job, page = self.make_job(), self.page
        self.open(f"/jobs/{job}")
        guests = page.get_by_role("region", name="Guests")
        guests.get_by_label("For whom").fill("Ines")
        guests.get_by_label("Last day").fill(str(localdate() + timedelta(days=7)))
        guests.get_by_role("button", name="Make a link").click()
        link = guests.locator("code").inner_text()
        theirs = self.new_page(signed_in=False)
        theirs.goto(link)
        expect(theirs.get_by_role("complementary", name="What you may do here")).to_contain_text(
            "as a guest: nothing can be changed"
        )
        expect(theirs.get_by_role("heading", name="Order of work")).to_be_visible()
        expect(theirs.get_by_role("region", name="Guests")).to_have_count(0)
        self.assert_accessible(theirs)
        guests.get_by_role("button", name="Take back the link of Ines").click()
        expect(guests.get_by_text("holds no more")).to_be_visible()
        theirs.reload()
        expect(theirs.get_by_text("it is not yours")).to_be_visible()
        theirs.goto(link)
        expect(theirs.get_by_text("This link does not hold any more")).to_be_visible()
        expect(theirs.get_by_role("link", name="Sign in instead")).to_be_visible()


class PartsTests(BrowserTestCase):
    def test_a_part_of_another_hand_stands_beside_the_own_one(self):
        page = self.page
        injectors = {"name": "Grey 440", "count": 4, "flow": 440.0, "rated_pressure_kpa": 300.0, "dead_time": {"voltage_v": [10.0, 14.0], "dead_time_ms": [[1.4, 0.9]]}}  # fmt: skip
        self.api("/library", {"injectors": injectors})
        document = self.client_of_user.get("/api/library/file").json()
        document["parts"][0]["part"]["flow"] = 460.0
        document["parts"][0] |= {"source": "Measured by Anna", "licence": "CC0"}
        self.open("/account")
        bring = page.get_by_label("File of parts")
        bring.set_input_files({"name": "x.json", "mimeType": "application/json", "buffer": b"{}"})
        expect(page.get_by_text("no file of parts", exact=False)).to_be_visible()
        bring.set_input_files({"name": "parts.json", "mimeType": "application/json", "buffer": json.dumps(document).encode()})  # fmt: skip
        beside = page.get_by_role("table", name="Injectors: Grey 440, side by side")
        expect(beside.get_by_role("row", name="flow")).to_contain_text("460.0")
        expect(page.get_by_text("Source: Measured by Anna. Licence: CC0.", exact=False)).to_be_visible()  # fmt: skip
        keep = page.get_by_role("button", name=re.compile("^Keep"))
        expect(keep).to_be_disabled()
        self.assert_accessible()
        page.get_by_role("checkbox", name="Injectors: Grey 440").check()
        keep.click()
        expect(page.get_by_text("One part is kept.")).to_be_visible()
        kept = self.client_of_user.get("/api/library/file").json()["parts"][0]
        self.assertEqual((460.0, "CC0"), (kept["part"]["flow"], kept["licence"]))
