"""The live link in the browser: a first start on a phone, a link that drops, a sweep driven live."""

import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class LiveTestCase(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()
        self.addCleanup(self.close_session)

    def close_session(self):
        """End what a test leaves running."""
        for session in self.client_of_user.get(f"/api/jobs/{self.job}/live").json()["sessions"]:
            if session["status"] == "open":
                self.api(f"/jobs/{self.job}/live/{session['id']}/close", {})

    def press(self, name, exact=False):
        button = self.page.get_by_role("button", name=name, exact=exact)
        expect(button).to_be_enabled()
        button.click()

    def open_link(self, coolant, fault=None):
        page = self.page
        page.get_by_label("Engine is at").fill(str(coolant))
        if fault:
            page.get_by_label("Fault in it").click()
            page.get_by_role("option", name=fault).click()
        self.press("Open the link")
        expect(page.get_by_role("button", name="Key on", exact=True)).to_be_visible()

    def crank(self, until):
        """Hold the starter until something is seen."""
        button = self.page.get_by_role("button", name="Hold to crank")
        expect(button).to_be_enabled()
        button.dispatch_event("pointerdown")
        expect(until).to_be_visible()
        self.page.get_by_role(
            "button", name=re.compile("^(Hold to crank|It cranks)$")
        ).dispatch_event("pointerup")

    def state(self):
        return self.client_of_user.get(f"/api/jobs/{self.job}/live/{self.number()}").json()["state"]

    def until(self, holds, what):
        """Wait for something of the engine: on a busy machine that is no number of milliseconds."""
        for _ in range(600):
            if holds(self.state()):
                return
            self.page.wait_for_timeout(50)
        self.fail(what)

    def until_it_runs(self):
        self.until(
            lambda state: any(
                line["key"] == "rpm" and (line["value"] or 0) > 600 for line in state["watch"]
            ),
            "It does not run.",
        )

    def let_pass(self, engine_s):
        """Wait until so much time has passed for the engine. [s]"""
        begin_s = self.state()["time_s"]
        self.until(lambda state: state["time_s"] - begin_s >= engine_s, "Its time stands still.")

    def number(self):
        return self.client_of_user.get(f"/api/jobs/{self.job}/live").json()["sessions"][0]["id"]

    def command(self, **given):
        self.api(f"/jobs/{self.job}/live/{self.number()}/command", given)


class FirstStartTests(LiveTestCase):
    def skip_to(self, key):
        """Tick the steps before one that a test drives; another test drives those by hand."""
        sheet = self.client_of_user.get(f"/api/jobs/{self.job}/first-start").json()
        for step in sheet["steps"]:
            if step["key"] == key:
                return
            values = [{"key": r["key"], "value": 90.0} for r in step["readings"]]
            self.api(f"/jobs/{self.job}/first-start/steps/{step['key']}", {"values": values})

    def heading(self, title):
        expect(self.page.get_by_role("heading", level=1, name=title)).to_be_visible()

    def take(self, words):
        button = self.page.get_by_role("button", name=re.compile(words)).first
        expect(button).to_be_visible()
        button.click()

    def done(self):
        self.press("Read and done")

    def test_a_cold_fresh_engine_on_a_phone_with_a_hidden_fault(self):
        page = self.page
        page.set_viewport_size({"width": 390, "height": 844})
        self.skip_to("disable")
        self.open(f"/jobs/{self.job}/first-start")
        self.heading("Fuel and spark off")
        self.open_link(15, "Alternator wrong")
        expect(page.get_by_text("Not a real one", exact=False)).to_be_visible()
        self.assert_accessible()
        for what in ("Plugs out", "Injectors unplugged", "Coils unplugged"):
            self.press(what, exact=True)
        self.press("Done", exact=True)
        self.heading("Crank until oil pressure shows")
        self.press("Key on", exact=True)
        self.crank(page.get_by_role("button", name=re.compile(r"Take [4-9]\d kPa|Take \d{3} kPa")))
        self.take(r"Take \d+ kPa")
        self.done()
        self.heading("Everything plugged in again")
        for what in ("Plugs out", "Injectors unplugged", "Coils unplugged", "Key is on"):
            self.press(what, exact=True)
        self.press("Done", exact=True)
        for title in ("Key on, once", "Key on, once more"):
            self.heading(title)
            self.press("4 ×", exact=True)
            self.press("Key on", exact=True)
            expect(page.get_by_role("button", name=re.compile("^Take"))).to_have_count(3)
            for number in range(3):
                page.get_by_role("button", name=re.compile("^Take")).nth(number).click()
            self.done()
            self.press("Key is on", exact=True)
        self.heading("Speed shows while cranking")
        self.press("Injectors unplugged", exact=True)
        self.press("1 ×", exact=True)
        self.press("Key on", exact=True)
        self.crank(page.get_by_role("button", name=re.compile(r"Take 2\d\d rpm")))
        self.take(r"Take \d+ rpm")
        self.done()
        self.heading("Crank it")
        self.press("Injectors unplugged", exact=True)
        watched = page.get_by_role("region", name="Watch list")
        self.crank(watched.get_by_text(re.compile(r"^([6-9]\d\d|\d{4}) rpm$")).first)
        # The fault shows by itself, with its limit and its reading.
        expect(watched.get_by_role("alert")).to_contain_text("at most 15 V")
        self.assert_accessible()
        self.press("It runs", exact=True)
        self.heading("Oil pressure within 5 s")
        self.take(r"Take \d+ kPa")
        self.done()
        self.heading("Charging")
        self.take("Take 16.2 V")
        self.done()
        expect(page.get_by_role("alert").first).to_contain_text("STOP")
        # Mended: the next engine charges as it should.
        self.press("Close and keep the log")
        self.open_link(72)
        self.press("Key on", exact=True)
        # Right after the start the battery still recovers: 13.0 V as shown may be short of 13.
        charging = r"Take (13\.[2-9]|14\.\d) V"
        self.crank(page.get_by_role("button", name=re.compile(charging)))
        self.take(charging)
        self.done()
        self.heading("Leaks")
        self.press("Done", exact=True)
        self.heading("Temperature")
        self.press("20 ×", exact=True)
        self.take("Take 8[0-9] °C")
        self.done()
        self.heading("Mixture")
        self.take("Take [01].")
        self.done()
        self.heading("Base timing on the running engine")
        self.press("Timing locked at 10°")
        self.press("Hold the light on the mark")
        expect(page.get_by_text(re.compile("Commanded 10.0°, seen"))).to_be_visible()
        self.done()
        self.heading("Light pulls")
        trials = self.client_of_user.get(f"/api/jobs/{self.job}/trials").json()
        self.assertEqual([trial["verdict"] for trial in trials], ["started"])
        self.open(f"/jobs/{self.job}/first-start/print")
        expect(page.get_by_text(re.compile(r"1[34]\.\d V")).first).to_be_visible()
        self.assert_accessible()


class LinkTests(LiveTestCase):
    def test_a_link_that_drops_comes_back_without_a_gap(self):
        page = self.page
        self.open(f"/jobs/{self.job}/live")
        self.open_link(20)
        self.press("Key on", exact=True)
        told = page.get_by_text("samples came", exact=False)
        expect(told).to_be_visible()
        self.assert_accessible()
        # What is running is cut off, and nothing answers for a while.
        page.context.route("**/stream*", lambda route: route.abort())
        page.reload()
        expect(page.get_by_text("The link is down", exact=False)).to_be_visible()
        page.context.unroute("**/stream*")
        expect(page.get_by_text("The link is down", exact=False)).to_be_hidden()
        expect(told).to_be_visible()
        self.press("Close and keep the log")
        expect(page.get_by_text("Session 1", exact=False)).to_be_visible()
        log = self.client_of_user.get(f"/api/jobs/{self.job}/logs").json()[0]
        self.assertAlmostEqual(log["samples"] / log["duration_s"], 25, delta=1)

    def test_two_tablets_one_holds_the_key(self):
        page = self.page
        self.open(f"/jobs/{self.job}/live")
        self.open_link(20)
        self.press("Key on", exact=True)
        other = self.new_page()
        self.open(f"/jobs/{self.job}/live", page=other)
        expect(other.get_by_text("anna holds the key on another tablet")).to_be_visible()
        other.get_by_role("button", name="In gear").click()
        link = other.get_by_role("region", name="Live link")
        expect(link.get_by_role("alert")).to_contain_text("holds the key")
        other.get_by_role("button", name="Take it here").click()
        expect(page.get_by_text("anna holds the key on another tablet")).to_be_visible()


class LiveSweepTests(LiveTestCase):
    def test_a_sweep_driven_live_tells_the_limits(self):
        page = self.page
        valve = {"kind": "two_wire", "opens_pct": 18, "full_pct": 74}
        self.api(
            f"/jobs/{self.job}/live", {"coolant_c": 86, "valve": valve, "stop": 1.9, "speed": 20}
        )
        self.command(key="start")
        self.open(f"/jobs/{self.job}/hot-idle/sweep")
        self.command(starter=False)
        page.wait_for_timeout(800)
        self.press("Take it here")
        self.press("Step the valve through its range")
        expect(page.get_by_text("The sweep is done", exact=False)).to_be_visible(timeout=90_000)
        self.press("Read this sweep")
        expect(
            page.get_by_text(re.compile("The valve works from 1[789] % to 7[345] %")).first
        ).to_be_visible()
        self.assert_accessible()


class HotIdleTests(LiveTestCase):
    def close_well(self):
        """Let go of the pedal until the throttle, which comes back anywhere, rests where it idles.

        An engine that died of it is started again.
        """
        for _ in range(30):
            self.command(throttle_pct=14)
            self.let_pass(3)
            self.command(throttle_pct=0)
            self.let_pass(10)
            (rpm,) = (line["value"] for line in self.state()["watch"] if line["key"] == "rpm")
            if 600 < rpm < 2000:
                return
            if rpm < 300:
                self.command(key="start")
                self.until_it_runs()
                self.command(starter=False)
        self.fail("It never came back to an idle.")

    def test_return_steady_idle_and_a_load_are_read_over_the_link(self):
        page = self.page
        self.open(f"/jobs/{self.job}/hot-idle/return")
        self.press("Idle actuator and throttle stop of it")
        page.get_by_label("Idle actuator", exact=True).click()
        page.get_by_role("option", name="three wires").click()
        page.get_by_label("Begins to open at").fill("85")
        page.get_by_label("Fault in it").click()
        page.get_by_role("option", name="Throttle comes back to another place each time").click()
        self.press("Open the link")
        expect(page.get_by_text("opens at a duty that", exact=False).first).to_be_visible()
        page.get_by_label("Begins to open at").fill("20")
        self.press("Open the link")
        expect(page.get_by_role("button", name="Key on", exact=True)).to_be_visible()
        self.command(key="start", speed=20)
        self.until_it_runs()
        self.command(starter=False)
        self.let_pass(30)
        self.press("Begin: open and let go from now on")
        for _ in range(5):
            self.command(throttle_pct=14)
            self.let_pass(5)
            self.command(throttle_pct=0)
            self.let_pass(12)
        self.press("Judge these closings")
        expect(page.get_by_text("comes back to another place", exact=False).or_(
            page.get_by_text(re.compile("apart|spread"))).first).to_be_visible()  # fmt: skip
        self.assert_accessible()
        self.open(f"/jobs/{self.job}/hot-idle/steady")
        self.close_well()
        self.press("Let it idle from now on")
        self.let_pass(50)
        self.press("Judge this idle")
        expect(page.get_by_text(re.compile(r"±\d+ rpm")).first).to_be_visible()
        self.open(f"/jobs/{self.job}/hot-idle/air")
        self.press("Over the link: idle three seconds, then switch it on")
        self.let_pass(12)
        self.command(load="gear")
        self.let_pass(18)
        self.press("Judge this load")
        expect(page.get_by_text(re.compile("Gear engaged: ")).first).to_be_visible()


class RunInTests(LiveTestCase):
    def hold_in_the_band(self):
        """Open the pedal as far as this engine needs: no two jobs have the same."""
        for throttle_pct in range(6, 20):
            self.command(throttle_pct=throttle_pct)
            self.let_pass(40)
            if self.state()["run_in"]["inside"]:
                return
        self.fail("It never came into the band.")

    def test_only_what_is_held_inside_the_band_counts(self):
        page = self.page
        setup = self.client_of_user.get(f"/api/jobs/{self.job}/first-start").json()["setup"]
        self.api(f"/jobs/{self.job}/first-start/setup", {"setup": {**setup, "flat_tappets": True}})
        sheet = self.client_of_user.get(f"/api/jobs/{self.job}/first-start").json()
        for step in sheet["steps"]:
            if step["key"] == "run_in":
                break
            self.api(
                f"/jobs/{self.job}/first-start/steps/{step['key']}/skip", {"reason": "done before"}
            )
        self.api(f"/jobs/{self.job}/live", {"coolant_c": 85, "speed": 20})
        self.open(f"/jobs/{self.job}/first-start")
        expect(page.get_by_role("heading", level=1, name="Run the cam in")).to_be_visible()
        clock = page.get_by_role("region", name="Run-in clock")
        self.command(key="start")
        self.until_it_runs()
        self.command(starter=False)
        self.press("Count the run-in")
        expect(clock.get_by_text("outside the band: it does not count")).to_be_visible()
        expect(clock.get_by_role("meter")).to_have_attribute("aria-valuenow", "0")
        self.assert_accessible()
        self.hold_in_the_band()
        expect(clock.get_by_text("inside the band", exact=True)).to_be_visible()
        expect(clock.get_by_role("meter")).not_to_have_attribute("aria-valuenow", "0")
        self.press("Pause the run-in")
        expect(page.get_by_role("button", name="Go on with it")).to_be_visible()
        paused = self.state()["run_in"]
        self.let_pass(40)
        self.assertEqual(self.state()["run_in"]["counted_s"], paused["counted_s"])
        # What was on its way as it was paused still arrives.
        share = round(100 * paused["counted_s"] / (paused["counted_s"] + paused["left_s"]))
        expect(clock.get_by_role("meter")).to_have_attribute("aria-valuenow", str(share))
        expect(page.get_by_role("button", name="Go on with it")).to_be_visible()
        page.get_by_role("button", name=re.compile(r"Take [\d.]+ min")).click()
        taken = page.get_by_role("textbox", name=re.compile("Minutes inside")).input_value()
        self.assertGreater(float(taken), 0.0)
