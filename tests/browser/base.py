"""Browser tests: Debian's chromium drives the built application on a live server."""

import atexit
import functools
import os
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import Client, override_settings
from playwright.sync_api import Browser, expect, sync_playwright

from server.accounts.services import register
from tests.server.parts import SENSORS

from .chromium import CHROMIUM

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]
PASSWORD = "a long enough phrase"
AXE = Path(settings.ROOT) / "web" / "node_modules" / "axe-core" / "axe.min.js"
#: Nothing moves by itself: a test that waits for a menu to come to rest waits for nothing.
STILL = """addEventListener('DOMContentLoaded', () => {
    const style = document.createElement('style');
    style.textContent = '*, *::before, *::after { transition: none !important; animation: none !important }';
    document.head.append(style);
})"""
#: Counts what the page has asked for and not heard of yet.
COUNTS_REQUESTS = """(() => {
    const ask = window.fetch;
    window.asked = { open: 0, last: performance.now() };
    window.fetch = (...all) => {
        asked.open += 1;
        return ask(...all).finally(() => { asked.open -= 1; asked.last = performance.now(); });
    };
})()"""
#: Nothing is open, nothing is being loaded, and neither was a moment ago.
RESTS = """() => document.readyState === 'complete' && asked.open === 0 && performance.now() - asked.last > 120
    && !document.querySelector('[role=progressbar]')"""
#: The application's own 4xx answers are part of what is tested; the browser logs each of them.
EXPECTED_NOISE = ("GPU stall due to ReadPixels", "Failed to load resource")

#: A busy machine is slow, not broken. [ms]
PATIENCE_MS = 30_000
expect.set_options(timeout=PATIENCE_MS)


@functools.cache
def browser() -> Browser:
    """The one chromium of this process; started by its first test, closed when it ends."""
    # The driver runs an event loop in this thread; the tests use the database from it all the same.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
    playwright = sync_playwright().start()
    atexit.register(playwright.stop)
    return playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)


@override_settings(TASKS_AT_ONCE=False)
class BrowserTestCase(StaticLiveServerTestCase):
    """A chromium with one signed-in person; fails on any error in the page's console."""

    viewport = {"width": 1280, "height": 800}

    def __getstate__(self):
        """What travels between processes when something fails: nothing of the driver."""
        return {
            k: v
            for k, v in self.__dict__.items()
            if k not in ("page", "noise", "user", "client_of_user")
        }

    def setUp(self):
        self.user = register(username="anna", password=PASSWORD, workshop="Shed")
        self.noise = []
        self.page = self.new_page()

    def tearDown(self):
        self.assertEqual(self.noise, [])

    def new_page(self, signed_in=True, **context):
        page = browser().new_context(viewport=self.viewport, **context).new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.add_init_script(STILL)
        page.add_init_script(COUNTS_REQUESTS)
        page.on("pageerror", lambda error: self.noise.append(str(error)))
        page.on("console", self._hear)
        self.addCleanup(page.context.close)
        if signed_in:
            page.context.add_cookies([self.session_cookie()])
        return page

    @functools.cached_property
    def client_of_user(self):
        """A signed-in client, without typing a password again in every test."""
        client = Client()
        client.force_login(self.user)
        return client

    def session_cookie(self):
        session = self.client_of_user.cookies["sessionid"].value
        return {"name": "sessionid", "value": session, "url": self.live_server_url}

    def _hear(self, message):
        if message.type in ("error", "warning") and not any(
            n in message.text for n in EXPECTED_NOISE
        ):
            self.noise.append(message.text)

    def open(self, path, page=None):
        (page or self.page).goto(self.live_server_url + path)

    def rest(self, page=None):
        """Wait until the page has heard of all that it asked for."""
        (page or self.page).wait_for_function(RESTS)

    def api(self, path, body):
        """Call the API as the signed-in person, to prepare what a test does not drive by hand."""
        answer = self.client_of_user.post(f"/api{path}", body, content_type="application/json")
        self.assertLess(answer.status_code, 300, answer.content)
        return answer.json()

    def make_job(self, name="Heron", **engine):
        data = {
            "displacement_l": 2.2,
            "chambers": 4,
            "cam": "moderate",
            "compression_ratio": 10.2,
            "rev_limit_rpm": 6600,
            "torque_peak_rpm": 4300,
            "injectors": {"flow_cm3_min": 390},
            **engine,
        }
        return self.api("/jobs", {"name": name, "engine": data})["id"]

    def write_reasons(self, job, *gates):
        """Pass gates that a test is not about."""
        for gate in gates:
            self.api(f"/jobs/{job}/{gate}/reason", {"reason": "Not what this test is about."})

    def check_sensors(self, job):
        """Enter sensors that read what they should, so that the first start waits for nothing."""
        self.write_reasons(job, "wiring", "trigger", "output-tests")
        for sensor in SENSORS:
            self.api(f"/jobs/{job}/sensors", {"sensor": sensor})
        around = {"ambient_c": 14, "soak_h": 20, "meter_v": 12.5}
        log = self.api(f"/jobs/{job}/bench/key-on", {"circumstances": around})["log_id"]
        self.api(f"/jobs/{job}/key-on", {"log_id": log, "circumstances": around})

    def scale_tables(self, job, **factors):
        """Leave tables wrong, as somebody before might have."""
        tables = self.client_of_user.get(f"/api/jobs/{job}/calibration").json()["tables"]
        edit = {
            k: {"values": [round(v * f, 2) for v in tables[k]["values"]]}
            for k, f in factors.items()
        }
        self.api(f"/jobs/{job}/calibration", {"note": "found so", "based_on": 1, "tables": edit})

    def assert_fits(self, path):
        """Go to a sheet: nothing of it runs off the side of the screen."""
        page = self.page
        if page.url.startswith(self.live_server_url):
            page.evaluate(
                "(path) => { history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate')); }",
                path,
            )
        else:
            self.open(path)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        self.rest(page)
        wide = page.evaluate(
            "document.documentElement.scrollWidth - document.documentElement.clientWidth"
        )
        cut_off = page.evaluate(
            """[...document.querySelectorAll('main h1, main p, main td, main input, main button')]
                .filter((e) => e.getBoundingClientRect().right > innerWidth + 1)
                .filter((e) => { for (let p = e; p; p = p.parentElement)
                    if (['auto', 'scroll'].includes(getComputedStyle(p).overflowX)) return false; return true; })
                .map((e) => e.outerHTML.slice(0, 80))"""
        )
        with self.subTest(path):
            self.assertLessEqual(wide, 0)
            self.assertEqual(cut_off, [])

    def assert_accessible(self, page=None):
        """Run axe on the page as it stands."""
        page = page or self.page
        self.rest(page)
        page.evaluate(AXE.read_text())
        found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
        serious = [
            (v["id"], v["help"], [n["target"] for n in v["nodes"]][:3])
            for v in found
            if v["impact"] in ("serious", "critical", "moderate")
        ]
        self.assertEqual(serious, [])
