"""How long things take in a browser, used by `make bench`."""

from __future__ import annotations

import json
import time
import urllib.request

from .chromium import CHROMIUM
from .demo_server import demo_server


def ladder_first_load_s(rounds: int = 5) -> list[float]:
    """Return the time from address to drawn table, each in a browser context of its own. [s]"""
    from playwright.sync_api import sync_playwright

    with demo_server() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=CHROMIUM, args=["--no-sandbox", "--disable-gpu"]
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


def table_edit_ms(rounds: int = 25) -> list[float]:
    """Return the time from a key to the laid-out change on a table of 32 × 32, each. [ms]"""
    from playwright.sync_api import sync_playwright

    axes = {"rpm": [400 + 200 * i for i in range(32)], "map_kpa": [20 + 5 * i for i in range(32)]}
    with demo_server() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=CHROMIUM, args=["--no-sandbox", "--disable-gpu"]
        )
        job = json.load(urllib.request.urlopen(address + "/api/jobs"))[0]
        body = json.dumps({"axes": axes, "based_on": job["revision"]}).encode()
        path = f"{address}/api/jobs/{job['id']}/base-maps/axes"
        head = {"Content-Type": "application/json"}
        urllib.request.urlopen(urllib.request.Request(path, body, head)).close()
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}/jobs/{job['id']}/base-maps/tables/ve")
        page.locator('[data-cell="5.5"]').click()
        times: list[float] = page.evaluate(_EDIT, rounds)
        browser.close()
        return times


_EDIT = """async (rounds) => {
    const grid = document.querySelector('[role=grid]'), times = [];
    const frame = () => new Promise(requestAnimationFrame);
    const press = (key, target) => target.dispatchEvent(
        new KeyboardEvent('keydown', {key, bubbles: true, cancelable: true}));
    for (let i = 0; i < rounds; i += 1) {
        press('7', grid);
        await frame();
        const input = document.querySelector('[role=grid] input');
        const start = performance.now();
        press('Enter', input);
        await new Promise((done) => queueMicrotask(done));  // drawn by then
        grid.getBoundingClientRect();  // and laid out
        times.push(performance.now() - start);
        await frame();
    }
    return times; }"""
