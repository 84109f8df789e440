"""Bringing a log with odd heads, and an observation on a phone."""

import re

from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, Fault, StartConditions, simulate_start
from inbetrieb_core.logs import Trace, log_mdf
from playwright.sync_api import expect

from tests.core import test_measurement_files as files
from tests.server.test_start_logs import two_starts

from .base import BrowserTestCase


def as_csv(channels):
    """Return channels as the text of a log in their canonical names."""
    rows = zip(*(channels[name] for name in channels), strict=True)
    lines = [",".join(channels), *(",".join(f"{v:.3f}" for v in row) for row in rows)]
    return "\n".join(lines).encode()


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


class SeveralStartsTests(BrowserTestCase):
    def choose(self, name, data):
        self.page.get_by_label("Log file").set_input_files(
            {"name": name, "mimeType": "text/csv", "buffer": data}
        )

    def test_a_log_with_two_starts_and_two_lambdas(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        heads = ("Zeit [s]", "Drehzahl [1/min]", "KMT [°C]", "Lambda B", "Lambda A")
        self.choose("morning.csv", two_starts(heads))
        expect(page.get_by_text("could each be the measured lambda")).to_be_visible()
        save = page.get_by_role("button", name=re.compile("Save the log and judge"))
        expect(save).to_be_disabled()
        self.assert_accessible()
        page.get_by_role("button", name="'Lambda A' is the measured lambda").click()
        starts = page.get_by_role("region", name="Starts in this log")
        expect(starts.get_by_role("row")).to_have_count(3)
        expect(starts.get_by_role("row").nth(1)).to_contain_text("at 15 °C")
        expect(starts.get_by_role("row").nth(2)).to_contain_text("at 40 °C")
        expect(save).to_have_text("Save the log and judge 2 starts")
        self.assert_accessible()
        page.get_by_label("Start 1 becomes a trial").uncheck()
        expect(save).to_have_text("Save the log and judge the start")
        page.get_by_label("Start 1 becomes a trial").check()
        save.click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("at 40 °C")
        expect(page.get_by_text("Trial 2, from a log")).to_be_visible()

    def test_what_was_measured_by_the_way_is_taken_along(self):
        job = self.make_job()
        self.scale_tables(job, cranking_fuel=0.6, warm_up_enrichment=1.12, idle_valve=0.8)
        log = self.api(
            f"/jobs/{job}/bench/starts",
            {"coolant_c": 12, "engine": "port_four", "seed": 1, "run_s": 120},
        )["id"]
        trial = self.api(f"/jobs/{job}/trials", {"log_id": log})["id"]
        page = self.page
        self.open(f"/jobs/{job}/trials/{trial}")
        measured = page.get_by_role("region", name="Measured by the way")
        expect(measured).to_contain_text("measured by the way")
        self.assert_accessible()
        page.get_by_role("button", name="Accept", exact=True).click()
        expect(page.get_by_text("Accepted: it is revision 3 now.")).to_be_visible()

    def test_a_fault_blocks_every_table_until_its_deciding_test(self):
        job = self.make_job()
        page = self.page
        self.open(f"/jobs/{job}/record")
        page.get_by_role("tab", name="Tap what happened").click()
        engine = NAMED["port_four"]
        channels = simulate_start(
            engine,
            engine.spec,
            generate(engine.spec),
            StartConditions(85.0, seed=2),
            [Fault("injector_flow", 1.5)],
        ).channels
        page.get_by_role("tab", name="Bring a log").click()
        self.choose("warm.csv", as_csv(channels))
        page.get_by_role("button", name="Save the log and judge the start").click()
        advice = page.get_by_role("region", name="Advice")
        expect(advice.get_by_role("heading", name="Mend this before any table")).to_be_visible()
        expect(advice).to_contain_text("injector")
        expect(advice.get_by_role("button", name="Accept")).to_have_count(0)
        causes = page.get_by_role("region", name="Causes")
        expect(causes).to_contain_text("What decides it:")
        expect(causes).to_contain_text("A table that is not right yet")
        self.assert_accessible()
        page.get_by_role("button", name="Note what was done").click()
        page.get_by_label("What was done or found").fill("Injectors are 480, not 390.")
        page.get_by_role("button", name="Write it down").click()
        expect(page.get_by_text("Noted.")).to_be_visible()


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


class OpenFormatTests(BrowserTestCase):
    def bring(self, label, name, data):
        self.page.get_by_label(label).set_input_files(
            {"name": name, "mimeType": "application/octet-stream", "buffer": data}
        )

    def test_a_measurement_file_becomes_a_trial(self):
        engine = NAMED["port_four"]
        run = simulate_start(engine, engine.spec, generate(engine.spec), StartConditions(12.0))
        job, page = self.make_job(), self.page
        self.open(f"/jobs/{job}/record")
        self.bring("Log file", "morning.mf4", log_mdf(Trace(run.channels), "morning"))
        expect(page.get_by_role("region", name="How the columns are read")).to_contain_text("Engine speed")  # fmt: skip
        page.get_by_role("button", name="Save the log and judge the start").click()
        expect(page).to_have_url(re.compile(r"/trials/\d+$"))
        expect(page.get_by_text("cranking", exact=False).first).to_be_visible()

    def test_a_bus_log_asks_for_what_names_its_signals(self):
        job, page = self.make_job(), self.page
        self.open(f"/jobs/{job}/record")
        self.bring("Log file", "bus.blf", files.BusTests().logged("blf"))
        expect(page.get_by_text("bring the DBC file that names its signals", exact=False)).to_be_visible()  # fmt: skip
        self.assert_accessible()
        self.bring("DBC file", "bus.dbc", files.DBC.encode())
        rows = page.get_by_role("region", name="How the columns are read")
        expect(rows).to_contain_text("Engine speed")
        expect(rows).to_contain_text("Coolant")
