"""Keep a small database of the program as it is now, before its database changes.

``python -m tests.server.keep_schema 9`` writes ``schemas/9.sqlite3.gz``; see :mod:`.test_upgrades`.
"""

import gzip
import os
import sys
import tempfile
from pathlib import Path

FOUR = {
    "displacement_l": 2.2, "chambers": 4, "cam": "moderate", "compression_ratio": 10.2,
    "rev_limit_rpm": 6600, "torque_peak_rpm": 4300, "injectors": {"flow_cm3_min": 390},
}  # fmt: skip


def fill() -> None:
    """Write one job with revisions, a log, trials and a decision, over HTTP as a person does."""
    from django.test import Client

    from server.accounts.services import register

    client = Client(headers={"host": "localhost"})
    client.force_login(register(username="anna", password="a long enough phrase", workshop="Shed"))

    def post(path, body):
        answer = client.post(f"/api{path}", body, content_type="application/json")
        assert answer.status_code == 201, (path, answer.content)
        return answer.json()

    job = f"/jobs/{post('/jobs', {'name': 'Heron', 'engine': FOUR})['id']}"
    table = client.get(f"/api{job}/calibration").json()["tables"]["idle_target"]
    edit = {"idle_target": {"values": [value + 10.0 for value in table["values"]]}}
    post(f"{job}/calibration", {"note": "found so", "based_on": 1, "tables": edit})
    log = post(f"{job}/bench/starts", {"coolant_c": 8, "engine": "port_four", "seed": 1})
    post(f"{job}/trials", {"log_id": log["id"]})
    trial = post(f"{job}/trials", {"observation": {"outcome": "no fire", "coolant_c": 5}})
    post(f"{job}/trials/{trial['id']}/accept", {})
    post(f"{job}/wiring/reason", {"reason": "Not what this is about."})


def main(name: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        os.environ["INBETRIEB_DATA"] = folder
        os.environ["DJANGO_SETTINGS_MODULE"] = "server.config.settings"
        import django
        from django.core.management import call_command
        from django.db import connection

        django.setup()
        call_command("migrate", verbosity=0)
        fill()
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            cursor.execute("VACUUM")
        connection.close()
        database = Path(folder, "inbetrieb.sqlite3").read_bytes()
        kept = Path(__file__).parent / "schemas" / f"{name}.sqlite3.gz"
        kept.write_bytes(gzip.compress(database, 9, mtime=0))
        print(f"{kept.name}: {kept.stat().st_size // 1024} kB")


if __name__ == "__main__":
    main(sys.argv[1])
