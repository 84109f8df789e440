"""Stations are fetched when they are opened, and a fault in one takes nothing else away."""

import re

from playwright.sync_api import expect

from .base import BrowserTestCase

#: Station chunks by the address that opens them.
SHEETS = {
    "wiring": "wiring",
    "sensors": "sensors",
    "injectors": "injectors",
    "trigger": "trigger",
    "intake": "intake",
    "ladder": "ladder",
    "record": "record",
}


class LazyTests(BrowserTestCase):
    def scripts(self):
        return self.page.evaluate(
            "performance.getEntriesByType('resource').map((e) => e.name).filter((n) => n.endsWith('.js'))"
        )

    def test_a_station_is_fetched_when_it_is_opened_and_once(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}")
        expect(page.get_by_role("region", name="Next action")).to_be_visible()
        self.assertFalse([name for name in self.scripts() if "/wiring-" in name])
        page.get_by_role("region", name="Next action").get_by_role("link").click()
        expect(page.get_by_role("heading", name="Wiring plan")).to_be_visible()
        fetched = [name for name in self.scripts() if "/wiring-" in name]
        self.assertEqual(len(fetched), 1)
        page.go_back()
        expect(page.get_by_role("region", name="Next action")).to_be_visible()
        page.go_forward()
        expect(page.get_by_role("heading", name="Wiring plan")).to_be_visible()
        self.assertEqual([name for name in self.scripts() if "/wiring-" in name], fetched)

    def test_what_is_fetched_for_the_board_is_small(self):
        """The first load holds no station but the one that is shown."""
        self.open("/")
        expect(self.page.get_by_role("heading", name="Shop board")).to_be_visible()
        held = [
            name for name in self.scripts() if re.search(r"/(ladder|trial|bench|trigger)-", name)
        ]
        self.assertEqual(held, [])


class FaultTests(BrowserTestCase):
    def tearDown(self):
        # The fault that a test makes is told on the console; anything else there is a defect.
        others = [n for n in self.noise if "dynamically imported" not in n and "minified" not in n]
        self.assertEqual(others, [])

    def test_a_station_that_cannot_be_fetched_leaves_the_others_alone(self):
        job = self.make_job()
        page = self.page
        page.route(re.compile(r"/assets/ladder-.*\.js"), lambda route: route.abort())
        self.open(f"/jobs/{job}/ladder")
        alert = page.get_by_role("alert").filter(has_text="This sheet cannot be shown")
        expect(alert).to_contain_text("What was saved is safe")
        expect(page.get_by_role("link", name="Inbetrieb")).to_be_visible()
        self.assert_accessible()
        page.get_by_role("link", name="Inbetrieb").click()
        expect(page.get_by_role("heading", name="Shop board")).to_be_visible()
        self.open(f"/jobs/{job}/wiring")
        expect(page.get_by_role("heading", name="Wiring plan")).to_be_visible()
        page.unroute_all()
        self.open(f"/jobs/{job}/ladder")
        expect(page.get_by_role("grid")).to_be_visible()

    def test_an_answer_that_is_nonsense_is_held_by_the_sheet(self):
        """Whatever makes a sheet fall over, the way back stays on the screen."""
        job = self.make_job()
        page = self.page
        page.route(
            re.compile(rf"/api/jobs/{job}/calibration$"),
            lambda route: route.fulfill(json={"revision": 1, "tables": {"cranking_fuel": 3}}),
        )
        self.open(f"/jobs/{job}/ladder")
        expect(page.get_by_role("alert").first).to_be_visible()
        expect(page.get_by_role("link", name="Inbetrieb")).to_be_visible()
        page.unroute_all()
        self.noise.clear()  # React tells the fault that was made on purpose

    def test_every_station_opens_from_its_address(self):
        job = self.make_job()
        for sheet in SHEETS.values():
            with self.subTest(sheet=sheet):
                self.open(f"/jobs/{job}/{sheet}")
                expect(self.page.get_by_role("heading", level=1)).to_be_visible()
                expect(self.page.get_by_text("This sheet cannot be shown")).to_have_count(0)


class SentenceTests(BrowserTestCase):
    """What the server says is shown in the units of the job, at once and without guessing."""

    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        seen = {"outcome": "no fire", "coolant_c": -10, "cranking_s": 6}
        self.trial = self.api(f"/jobs/{self.job}/trials", {"observation": seen})["id"]

    def units(self, **units):
        self.api(f"/jobs/{self.job}/units", {"units": units})
        self.open(f"/jobs/{self.job}/trials/{self.trial}")

    def test_the_same_sentence_in_two_units(self):
        heading = self.page.get_by_role("heading", level=1)
        self.units()
        expect(heading).to_contain_text("at −10 °C")
        self.units(temperature="°F", pressure="psi", mixture="AFR")
        expect(heading).to_contain_text("at 14 °F")
        main = self.page.get_by_role("main")
        expect(main).not_to_contain_text("°C")
        expect(main).not_to_contain_text("kPa")

    def test_no_pressure_has_more_digits_than_its_instrument(self):
        self.units(pressure="psi", temperature="°F")
        for path in ("", "/ladder", "/wiring", "/sensors", "/base-maps", "/order"):
            self.open(f"/jobs/{self.job}{path}")
            self.rest()
            text = self.page.inner_text("body")
            with self.subTest(path=path):
                self.assertEqual(re.findall(r"\d+\.\d{3,} psi", text), [])
                self.assertEqual(re.findall(r"\d[eE][+-]\d+", text), [])

    def test_a_typed_comma_is_shown_as_a_point(self):
        self.open(f"/jobs/{self.job}/record")
        page = self.page
        page.get_by_role("tab", name="Tap what happened").click()
        page.get_by_role("radio", name="It started", exact=True).click()
        page.get_by_label("Coolant before").fill("20,5")
        page.get_by_label("Cranked for").fill("1,2")
        page.get_by_role("button", name="Judge this start").click()
        page.wait_for_url(re.compile(r"/trials/\d+"))
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        shown = page.inner_text("main")
        self.assertNotRegex(shown, r"\d,\d")
