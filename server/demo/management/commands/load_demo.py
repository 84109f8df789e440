"""Load the invented demo scenario through the same services that real input takes."""

from __future__ import annotations

import json
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from inbetrieb_core.bench import Fault, StartConditions
from inbetrieb_core.tables import DEFINITIONS

from server.accounts.demo_user import DEMO_USERNAME
from server.accounts.services import register
from server.bench.services import add_bench_start
from server.calibration.services import calibration_of, edit, revision_of
from server.config.writes import writing
from server.demo.hardware import load_hardware
from server.demo.intake import load_intake
from server.demo.wiring import load_wiring
from server.jobs.engine_data import entered_engine
from server.jobs.models import Job
from server.live.services import end_lost
from server.mornings.services import MORNINGS
from server.mornings.services import save as save_mornings
from server.order.services import create_job
from server.trials.decisions import accept
from server.trials.judging import add_trial
from server.trials.told import Told


class Command(BaseCommand):
    """Create the demo user and jobs unless they are there."""

    help = __doc__

    @writing()
    def handle(self, *args: Any, **options: Any) -> None:
        """Load the scenario once, and end live sessions that a stopped demo left."""
        end_lost()
        if User.objects.filter(username=DEMO_USERNAME).exists():
            return
        scenario = json.loads((settings.ROOT / "demo" / "scenario.json").read_text())
        user = register(username=DEMO_USERNAME, password=None, workshop=scenario["workshop"])
        for entry in reversed(scenario["jobs"]):  # the board shows the newest first
            self._job(user, entry)
        self.stdout.write(f"Demo data loaded: {len(scenario['jobs'])} jobs.")

    def _job(self, user: User, entry: dict[str, Any]) -> None:
        job = create_job(
            user,
            name=entry["name"],
            note=entry["note"],
            engine=entered_engine(entry["engine"]),
            display_units=entry["units"],
            axes=None,
            override_reason="",
        )
        if "inherited" in entry:
            self._inherit(job, user, entry["inherited"])
        load_hardware(job, user, entry)
        load_intake(job, user, entry)
        load_wiring(job, user, entry)
        if "mornings" in entry:
            save_mornings(job, user, MORNINGS.read(entry["mornings"]))
        for number, start in enumerate(entry["starts"], start=1):
            self._start(job, user, entry["bench"], start, seed=number)

    def _inherit(self, job: Job, user: User, inherited: dict[str, Any]) -> None:
        """Scale tables as somebody before might have left them."""
        newest = revision_of(job)
        calibration = calibration_of(newest)
        tables = {}
        for key, factor in inherited["factors"].items():
            definition = DEFINITIONS[key]
            scaled = (calibration[key].values * factor).clip(definition.lower, definition.upper)
            tables[key] = scaled.round(1).tolist()
        edit(
            job,
            user,
            note=inherited["note"],
            based_on=newest.number,
            tables=tables,
            provenance="carried_over",
        )

    def _start(self, job: Job, user: User, engine: str, start: dict[str, Any], seed: int) -> None:
        conditions = StartConditions(start["coolant_c"], start.get("ambient_c"), seed)
        faults = [Fault(**fault) for fault in start.get("faults", [])]
        log = add_bench_start(
            job, user, engine=engine, conditions=conditions, faults=faults, revision=None
        )
        trial = add_trial(
            job,
            user,
            log=log,
            observation=None,
            told=Told(ambient_c=start.get("ambient_c"), soak_h=start.get("soak_h")),
        )
        advice = trial.analysis["advice"]
        if start["decide"] == "accept" and advice and advice[0]["table"] is not None:
            accept(trial, user, changes=None, parts=None, note="")
