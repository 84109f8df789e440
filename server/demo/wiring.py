"""Wiring, trigger and timing of a demo job, through the same services as real ones."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.contrib.auth.models import User
from inbetrieb_core.bench import Fault
from inbetrieb_core.triggers import LightReading
from inbetrieb_core.wiring import Fitting, LineEdit, PlanEntry

from server.bench.services import STAND_IN, add_bench_capture, read_bench_light
from server.entries.kinds import Shape
from server.entries.reasons import write_reason
from server.jobs.models import Job
from server.trigger import services as trigger
from server.trigger.kinds import COIL
from server.wiring import services as wiring
from server.wiring.kinds import THREE_WIRE


def load_wiring(job: Job, user: User, entry: dict[str, Any]) -> None:
    """Plan, check and sign the wiring of a job; crank it, try its outputs, read the light."""
    for gate, reason in entry.get("reasons", {}).items():
        write_reason(job, user, gate, reason)
    if "wiring" in entry:
        _plan(job, user, entry["wiring"])
    if "outputs" in entry:
        settings = replace(wiring.outputs_of(job)[0], **entry["outputs"])
        wiring.save_outputs(job, user, settings)
    if "three_wire" in entry:
        known = THREE_WIRE.read(entry["three_wire"])
        wiring.save_three_wire(job, user, known.name, known.wires)
    if "trigger" in entry:
        wheel = replace(trigger.trigger_of(job)[0], **entry["trigger"])
        trigger.save_trigger(job, user, wheel)
    for number, capture in enumerate(entry.get("captures", ()), start=1):
        faults = [Fault(**fault) for fault in capture.get("faults", ())]
        add_bench_capture(
            job, user, engine=STAND_IN, coolant_c=capture["coolant_c"],
            crank_s=capture["crank_s"], faults=faults, seed=number,
        )  # fmt: skip
    if "coil" in entry:
        trigger.save_dwell(job, user, COIL.read(entry["coil"]))
    if entry.get("output_tests"):
        for i, output in enumerate(trigger.outputs_of(job)):
            trigger.add_output_test(
                job, user, output=output.key, heard="works", dip_v=round(0.14 + 0.02 * (i % 3), 2),
                made_safe=True, note="",
            )  # fmt: skip
    if "light" in entry:
        _light(job, user, entry["light"])


def _plan(job: Job, user: User, wanted: dict[str, Any]) -> None:
    shape: Shape[Fitting] = Shape(Fitting)
    usual = shape.plain(wiring.proposed_plan(job).entry.fitting)
    fitting = shape.read({**usual, **wanted["fitting"]})
    edits = {key: LineEdit(**edit) for key, edit in wanted.get("edits", {}).items()}
    entry = PlanEntry(fitting, {}, edits)
    saved = wiring.save_plan(job, user, wanted["controller"], entry)
    if wanted.get("checks"):
        plan = wiring.computed(job, saved.profile, saved.entry)
        for line in plan.lines:
            check = line.check
            reading = float(f"{check.lower + 0.35 * (check.upper - check.lower):.3g}")
            if check.unit == "V" and check.lower <= 5.0 <= check.upper:
                reading = 5.01
            wiring.check_wire(job, user, line.key, reading, check.unit, True)
    if wanted.get("sign"):
        wiring.sign_off(job, user, saved.number, "")


def _light(job: Job, user: User, wanted: dict[str, Any]) -> None:
    rounds = 2 if wanted.get("repeat") else 1
    for turn in range(rounds):
        readings: list[LightReading] = [
            read_bench_light(job, rpm, wanted["lock"], seed=100 * turn + i)
            for i, rpm in enumerate(wanted["speeds"])
        ]
        session = trigger.save_session(job, user, readings, None)
        if wanted.get("take") and turn == 0:
            trigger.take_offset(job, user, session.row.number)
