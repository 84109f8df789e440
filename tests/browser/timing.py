"""How long the ladder takes to appear in a browser, used by `make bench`."""

from __future__ import annotations

import json
import time
import urllib.request

from .demo_server import demo_server


def ladder_first_load_s(rounds: int = 5) -> list[float]:
    """Return the time from address to drawn table, each in a browser context of its own. [s]"""
    from playwright.sync_api import sync_playwright

    with demo_server() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        job = json.load(urllib.request.urlopen(address + "/api/jobs"))[0]["id"]
        seconds = []
        for _ in range(rounds):
            context = browser.new_context(viewport={"width": 1280, "height": 800})
            page = context.new_page()
            began = time.perf_counter()
            page.goto(f"{address}/jobs/{job}/ladder")
            page.get_by_role("gridcell").first.wait_for()
            seconds.append(time.perf_counter() - began)
            context.close()
        browser.close()
        return seconds
