"""Take docs/screenshots anew from demo data: `make shots`."""

from __future__ import annotations

import json
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.core.tracks import driven, nmea

from .chromium import CHROMIUM
from .demo_server import ROOT, demo_server

FOLDER = ROOT / "docs" / "screenshots"
DESK = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}


def _staircase(page: Page) -> None:
    """Climb five steps of the boost staircase of the simulated engine."""
    api = page.url.replace("/jobs/", "/api/jobs/").removesuffix("/boost")
    board = page.request.get(api).json()
    page.request.post(f"{api}/limits", data={"limits": {**board["proposed"], "charge_c": 110}})
    for entry in board["checks"]:
        page.request.post(f"{api}/checks/{entry['check']['key']}", data={"note": ""})
    for step in range(5):
        duty = page.request.post(f"{api}/boost", data={}).json()["next_duty_pct"]
        page.request.post(f"{api}/bench", data={"conditions": {"duty_pct": duty}, "seed": step})
    page.reload()
    page.get_by_text("Next:", exact=False).first.wait_for()


def _oil(page: Page) -> None:
    for title in (
        "Coolant",
        "Nothing loose",
        "Safety",
        "Who does what",
        "The kill switch works",
        "Two settings are known",
    ):
        page.get_by_role("button", name="Done", exact=True).click()
        page.get_by_role("heading", level=1, name=title).wait_for()
    page.get_by_role("textbox", name="Flood-clear").fill("90")
    page.get_by_role("button", name="Read and done").click()
    page.get_by_role("heading", level=1, name="Fuel and spark off").wait_for()
    page.get_by_role("button", name="Done", exact=True).click()
    page.get_by_role("heading", level=1, name="Crank until oil pressure shows").wait_for()
    page.get_by_role("textbox", name="Oil pressure").fill("2.4")
    page.get_by_role("button", name="Read and done").click()
    page.get_by_role("alert").first.wait_for()
    page.get_by_role("alert").first.scroll_into_view_if_needed()


def _live(page: Page) -> None:
    page.get_by_role("button", name="Open the link").click()
    page.get_by_role("button", name="Key on", exact=True).click()
    button = page.get_by_role("button", name="Hold to crank")
    button.and_(page.locator(":enabled")).wait_for()
    button.dispatch_event("pointerdown")
    page.wait_for_timeout(1600)
    page.get_by_role("button", name="It cranks").dispatch_event("pointerup")
    page.wait_for_timeout(14_000)


def _fuel_map(page: Page) -> None:
    """A drive, and one with a fault that came since: the map with its causes."""
    drives = page.get_by_role("checkbox", name="Bench: 6 min of driving")
    page.get_by_role("button", name="Drive it").click()
    drives.check(timeout=60_000)
    page.get_by_role("button", name="Solve the map").click()
    page.get_by_role("region", name="Cells").wait_for(timeout=60_000)
    page.get_by_label("Hidden in it").click()
    page.get_by_role("option", name="Dead time off").click()
    page.get_by_role("button", name="Drive it").click()
    for place in (1, 0):
        drives.nth(place).check(timeout=60_000)
    page.get_by_role("button", name="Solve the map").click()
    page.get_by_text("came since the drives before").first.wait_for(timeout=60_000)
    page.get_by_role("heading", name="Fuel map", level=1).scroll_into_view_if_needed()


def _sweep(page: Page) -> None:
    page.get_by_role("button", name="Sweep its valve").click()
    page.get_by_role("img", name="Speed over the opening of the idle valve").wait_for()


def _region(page: Page) -> None:
    page.locator('[data-cell="8.3"]').click()
    for key in ("Shift+ArrowDown", "Shift+ArrowDown", "Shift+ArrowRight", "Shift+ArrowRight", "m"):
        page.keyboard.press(key)
    page.keyboard.type("4")
    page.get_by_text("Changes 9 cells").wait_for()
    page.get_by_label("Why this value").wait_for()


def _pin(page: Page) -> None:
    page.locator("[data-pin=B1]").click()


def _curves(page: Page) -> None:
    page.get_by_role("tab", name="Curves").click()
    page.get_by_role("button", name="Idle valve").click()


def _track(page: Page) -> None:
    """Bring a drive, and lay the track of a satellite receiver on it."""
    time_s, speed, rpm, altitude = driven(8)
    rows = "".join(f"{at:.1f},{turns:.0f}\n" for at, turns in zip(time_s, rpm, strict=True))
    api = page.url.replace("/jobs/", "/api/jobs/").removesuffix("/logbook")
    drive = {"name": "Lake road.csv", "mimeType": "text/csv", "buffer": f"Time (s),RPM\n{rows}".encode()}  # fmt: skip
    page.request.post(f"{api}/logs", multipart={"file": drive})
    page.reload()
    track = nmea(time_s[400:][::10], speed[400:][::10], altitude[400:][::10])
    field = page.get_by_label("Track for Lake road.csv")
    field.set_input_files({"name": "lake.nmea", "mimeType": "text/plain", "buffer": track})
    page.get_by_role("status").wait_for(timeout=30_000)


def _mornings(page: Page) -> None:
    page.get_by_role("tab", name="Mornings").click()
    page.get_by_role("region", name="Mornings").wait_for()


def main() -> None:
    """Write one picture of each main view."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with demo_server() as address, sync_playwright() as playwright:
        jobs = json.load(urllib.request.urlopen(address + "/api/jobs"))
        job, rotary = jobs[0]["id"], jobs[2]["id"]
        trials = json.load(urllib.request.urlopen(f"{address}/api/jobs/{job}/trials"))
        browser = playwright.chromium.launch(
            executable_path=CHROMIUM, args=["--no-sandbox", "--disable-gpu"]
        )
        views = [
            ("board", "/", DESK, None),
            ("order", f"/jobs/{job}", DESK, None),
            ("ladder-curves", f"/jobs/{job}/ladder", DESK, _curves),
            ("trial", f"/jobs/{job}/trials/{trials[0]['id']}", DESK, None),
            ("first-start", f"/jobs/{rotary}/first-start", PHONE, _oil),
            ("live", f"/jobs/{rotary}/live", DESK, _live),
            ("hot-idle", f"/jobs/{job}/hot-idle/sweep", DESK, _sweep),
            ("fuel-map", f"/jobs/{job}/fuel-map", DESK, _fuel_map),
            ("boost", f"/jobs/{jobs[3]['id']}/pulls/boost", DESK, _staircase),
            ("handover", f"/jobs/{job}/handover", DESK, None),
            ("key-on", f"/jobs/{rotary}/sensors/key-on", DESK, None),
            ("injectors", f"/jobs/{jobs[1]['id']}/injectors", DESK, None),
            ("mornings", f"/jobs/{job}/ladder", DESK, _mornings),
            ("trainer", "/trainer", DESK, None),
            ("wiring-plan", f"/jobs/{job}/wiring", DESK, _pin),
            ("intake-review", f"/jobs/{jobs[3]['id']}/intake/review", DESK, None),
            ("logbook", f"/jobs/{job}/logbook", DESK, _track),
            ("table-bench", f"/jobs/{job}/base-maps/tables/ve", DESK, _region),
            ("edge-capture", f"/jobs/{job}/trigger/capture", DESK, None),
        ]
        for name, path, size, act in views:
            page = browser.new_context(viewport=size).new_page()
            page.goto(address + path)
            page.get_by_role("main").wait_for()
            page.wait_for_load_state("networkidle")
            page.locator("[role=progressbar]").first.wait_for(state="detached")
            if act is not None:
                act(page)
            page.wait_for_timeout(500)
            page.screenshot(path=Path(FOLDER / f"{name}.png"))
            page.context.close()
        browser.close()


if __name__ == "__main__":
    main()
