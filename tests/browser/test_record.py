"""Bringing a log with odd heads, and an observation on a phone."""

import re

from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
from playwright.sync_api import expect

from .base import BrowserTestCase


def odd_log():
    """A start as some logger might write it: preamble, units row, °F, AFR, decimal commas, milliseconds."""
    engine = NAMED["port_four"]
    channels = simulate_start(
        engine, engine.spec, generate(engine.spec), StartConditions(12.0, seed=2)
    ).channels
    lines = [
        "Messung 14",
        "",
        "Marke;Motordrehzahl;Wassertemperatur;Sonde;Kanal 7;UBatt",
        "ms;1/min;°F;AFR;-;V",
    ]
    for i in range(len(channels["time_s"])):
        cells = (
            1000 * channels["time_s"][i],
            channels["rpm"][i],
            channels["coolant_c"][i] * 1.8 + 32,
            channels["lambda"][i] * 14.7,
            3.0,
            channels["battery_v"][i],
        )
        lines.append(";".join(f"{cell:.3f}".replace(".", ",") for cell in cells))
    return "\r\n".join(lines).encode("cp1252")


class LogUploadTests(BrowserTestCase):
    def test_odd_heads_are_shown_corrected_and_judged(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        page.get_by_label("Log file").set_input_files(
            {"name": "messung14.csv", "mimeType": "text/csv", "buffer": odd_log()}
        )
        rows = page.get_by_role("region", name="How the columns are read")
        expect(rows.get_by_role("row", name=re.compile("Motordrehzahl"))).to_contain_text(
            "Engine speed"
        )
        expect(rows.get_by_role("row", name=re.compile("Wassertemperatur"))).to_contain_text(
            "unit °F stated"
        )
        expect(rows.get_by_role("row", name=re.compile("Kanal 7"))).to_contain_text(
            "No channel of that name is known"
        )
        # "Marke" and "Sonde" are not known: the person says what they are.
        save = page.get_by_role("button", name="Save the log and judge the start")
        expect(save).to_be_disabled()
        expect(page.get_by_text("Say which column is time.")).to_be_visible()
        for column, channel in (("Marke", "Time"), ("Sonde", "Lambda")):
            page.get_by_label(f"{column} is read as").click()
            page.get_by_role("option", name=channel, exact=True).click()
            expect(rows.get_by_role("row", name=re.compile(column))).to_contain_text("You chose it")
        # A wrong unit can be corrected too.
        page.get_by_label("Unit of Wassertemperatur").click()
        page.get_by_role("option", name="K", exact=True).click()
        expect(rows.get_by_role("row", name=re.compile("Wassertemperatur"))).to_contain_text(
            "unit K chosen"
        )
        page.get_by_label("Unit of Wassertemperatur").click()
        page.get_by_role("option", name="°F", exact=True).click()
        expect(rows.get_by_role("row", name=re.compile("Wassertemperatur"))).to_contain_text(
            "unit °F chosen"
        )
        self.assert_accessible()
        expect(save).to_be_enabled()
        save.click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("at 12 °C")
        expect(page.get_by_text("Cranking speed")).to_be_visible()

    def test_a_file_that_is_no_log_gets_a_sentence_and_another_can_follow(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        page.get_by_label("Log file").set_input_files(
            {
                "name": "photo.csv",
                "mimeType": "text/csv",
                "buffer": b"\xff\xd8\xff\xe0" + bytes(500),
            }
        )
        expect(page.get_by_text(re.compile("This is a JPEG photo"))).to_be_visible()
        page.get_by_label("Log file").set_input_files(
            {
                "name": "ok.csv",
                "mimeType": "text/csv",
                "buffer": b"time,rpm\n0,0\n0.1,200\n0.2,220\n",
            }
        )
        expect(page.get_by_label("Coolant before")).to_be_visible()

    def test_dropping_a_file(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        transfer = page.evaluate_handle(
            """() => { const data = new DataTransfer();
            data.items.add(new File(['time,rpm,clt\\n0,0,20\\n0.1,200,20\\n'], 'dropped.csv', {type: 'text/csv'}));
            return data; }"""
        )
        page.get_by_text("Drop the log here, or choose a file").dispatch_event(
            "drop", {"dataTransfer": transfer}
        )
        expect(page.get_by_text("dropped.csv")).to_be_visible()
        expect(page.get_by_role("region", name="How the columns are read")).to_contain_text("clt")


class PhoneTests(BrowserTestCase):
    viewport = {"width": 390, "height": 844}

    def test_an_observation_by_thumb(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        outcome = page.get_by_role("radio", name="It never fired")
        expect(outcome).to_be_visible()
        for button in page.get_by_role("radio").all():
            box = button.bounding_box()
            self.assertGreaterEqual(min(box["width"], box["height"]), 44)
        outcome.click()
        page.get_by_label("Coolant before").fill("-4,5")
        page.get_by_label("Cranked for").fill("7")
        judge = page.get_by_role("button", name="Judge this start")
        self.assert_accessible()
        judge.click()
        expect(page.get_by_role("heading", level=1)).to_contain_text(
            "did not fire in 7.0 s of cranking at −5 °C"
        )
        expect(page.get_by_role("region", name="Advice")).to_contain_text("prime pulse")
        width = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(width, 390)
        page.get_by_role("button", name="Accept").click()
        expect(page.get_by_text("Accepted: it is revision 2 now.")).to_be_visible()
        self.assert_accessible()
