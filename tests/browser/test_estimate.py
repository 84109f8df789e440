"""What starts taught, on the ladder and on the trial sheet: bands, chances, parts, setting aside."""

import re

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from playwright.sync_api import expect

from tests.core.traces import ran_after

from .base import BrowserTestCase


class EstimateTests(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        wrong = {"warm_up_enrichment": 1.12, "idle_valve": 0.8, "after_start_fade": 1.8}
        self.scale_tables(self.job, cranking_air=4.0, **wrong)
        self.path = f"/jobs/{self.job}"

    def start(self, coolant, seed=1):
        log = self.api(
            f"{self.path}/bench/starts",
            {"coolant_c": coolant, "engine": "port_four", "seed": seed, "run_s": 120},
        )["id"]
        return self.api(f"{self.path}/trials", {"log_id": log})

    def test_a_log_fills_tables_with_bands_and_a_part_is_left_out(self):
        trial, page = self.start(12), self.page
        measured = {part["table"] for part in trial["advice"] if part["part"] == "measured"}
        self.assertEqual(
            measured,
            {"warm_up_enrichment", "idle_valve", "after_start_fade", "cranking_air"},
        )
        self.open(f"{self.path}/trials/{trial['id']}")
        expect(page.get_by_role("img", name=re.compile("before and after")).first).to_be_visible()
        left = page.get_by_role("checkbox", name=re.compile("Take .* along")).first
        left.uncheck()
        page.get_by_role("button", name="Accept", exact=True).click()
        expect(page.get_by_text("Accepted: it is revision 3 now.")).to_be_visible()
        page.get_by_role("link", name=re.compile("Ladder")).first.click()
        expect(page.get_by_title(re.compile("nine of ten between")).first).to_be_visible()
        expect(page.get_by_title(re.compile("Good start .* runs")).first).to_be_visible()
        page.get_by_label("Tomorrow's morning").fill("5")
        expect(page.get_by_text(re.compile("A start at 5 °C is good with"))).to_be_visible()
        page.get_by_role("tab", name="Curves").click()
        expect(page.get_by_role("img", name=re.compile("over coolant temperature"))).to_be_visible()
        page.get_by_role("button", name="Idle valve").click()
        expect(page.get_by_text("Rings are readings of logs.")).to_be_visible()
        self.assert_accessible()

    def test_a_trial_is_set_aside_with_a_reason_and_counts_again(self):
        self.start(12)
        page = self.page
        self.open(f"{self.path}/ladder")
        margin = page.get_by_role("region", name="What trials say here")
        margin.get_by_role("button", name="Set aside: trial 1").click()
        expect(margin.get_by_role("button", name="Set aside", exact=True)).to_be_disabled()
        margin.get_by_label("Why").fill("the choke was tied open")
        margin.get_by_role("button", name="Set aside", exact=True).click()
        expect(margin).to_contain_text("set aside: the choke was tied open")
        expect(page.get_by_title(re.compile("nine of ten between"))).to_have_count(0)
        margin.get_by_role("button", name="Let it count: trial 1").click()
        margin.get_by_label("Why").fill("it was not")
        margin.get_by_role("button", name="Let it count", exact=True).click()
        expect(page.get_by_title(re.compile("nine of ten between")).first).to_be_visible()


class StepForOthersTests(BrowserTestCase):
    """Starts that were accepted, each slower than the last: the next milder morning would be late."""

    def idles_at(self, job, coolant_c):
        table = self.client_of_user.get(f"/api/jobs/{job}/calibration").json()["tables"][
            "idle_target"
        ]
        return float(np.interp(coolant_c, table["axes"][0]["points"], table["values"]))

    def started(self, job, took_s, coolant_c, intake_c):
        trace = ran_after(
            took_s, self.idles_at(job, coolant_c), coolant=coolant_c, intake_c=intake_c
        )
        rows = [",".join(trace.channels)]
        rows += [",".join(f"{v:.3f}" for v in row) for row in zip(*trace.channels.values(), strict=True)]  # fmt: skip
        file = SimpleUploadedFile("start.csv", "\n".join(rows).encode())
        log = self.client_of_user.post(f"/api/jobs/{job}/logs", {"file": file}).json()["id"]
        return self.api(f"/jobs/{job}/trials", {"log_id": log})

    def test_an_accepted_start_offers_one_step_and_says_where_it_helps(self):
        job, page = self.make_job(), self.page
        self.write_reasons(job, "wiring", "trigger", "output-tests")
        for took_s, coolant_c, intake_c in ((0.9, 20, 20), (1.1, 10, 10), (1.9, -7, -7)):
            trial = self.started(job, took_s, coolant_c, intake_c)
        self.open(f"/jobs/{job}/trials/{trial['id']}")
        expect(page.get_by_text(re.compile("make a prompt run at"))).to_have_count(1)
        expect(page.get_by_text("Intake air at the start")).to_be_visible()
        page.get_by_role("button", name="Accept", exact=True).click()
        expect(page.get_by_text(re.compile("Accepted: it is revision"))).to_be_visible()


class OneAtATimeTests(BrowserTestCase):
    """By the school of one change at a time the other parts wait until somebody ticks them."""

    def setUp(self):
        super().setUp()
        self.job = self.make_job(schools={"changes": "one_at_a_time"})
        self.write_reasons(self.job, "wiring", "trigger", "output-tests")
        log = self.api(
            f"/jobs/{self.job}/bench/starts",
            {"coolant_c": 5, "engine": "port_four", "seed": 1, "run_s": 120},
        )["id"]
        self.trial = self.api(f"/jobs/{self.job}/trials", {"log_id": log})
        self.open(f"/jobs/{self.job}/trials/{self.trial['id']}")
        self.boxes = self.page.get_by_role("checkbox", name=re.compile("Take .* along"))
        expect(self.boxes.first).to_be_visible()

    def taken(self):
        self.page.get_by_role("button", name="Accept", exact=True).click()
        expect(self.page.get_by_text(re.compile("Accepted: it is revision"))).to_be_visible()
        path = f"/api/jobs/{self.job}/trials/{self.trial['id']}"
        decision = self.page.evaluate(f"fetch('{path}').then((r) => r.json())")["decision"]
        return {change["table"] for change in decision["changes"]}

    def test_only_the_earliest_is_taken(self):
        for box in self.boxes.all():
            expect(box).not_to_be_checked()
        self.assertEqual(self.taken(), {self.trial["advice"][0]["table"]})

    def test_what_is_ticked_goes_along(self):
        self.boxes.first.check()
        first, second = (part["table"] for part in self.trial["advice"][:2])
        self.assertEqual(self.taken(), {first, second})
