"""Intake of a demo job: notes, drawn photographs, and a calibration somebody left in the controller."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from inbetrieb_core.basemaps import generate
from inbetrieb_core.basemaps.generate import setting
from inbetrieb_core.tables import Calibration, Provenance, Table, filled
from inbetrieb_core.tables.file_sets import write_csv_set
from PIL import Image, ImageDraw

from server.intake.inherited import keep_inherited, read_file
from server.intake.kinds import INTAKE
from server.intake.photographs import add_photograph
from server.intake.services import save_intake
from server.jobs.engine_data import spec_of
from server.jobs.models import Job


def load_intake(job: Job, user: User, entry: dict[str, Any]) -> None:
    """Write an intake down through the same services as a real one."""
    if "intake" in entry:
        save_intake(job, user, INTAKE.read(entry["intake"]), 0)
    for drawing in entry.get("photographs", ()):
        add_photograph(job, user, _drawn(drawing["lines"]), drawing["caption"])
    if "left_in_the_controller" in entry:
        found = entry["left_in_the_controller"]
        archive = write_csv_set(_as_somebody_left_it(generate(spec_of(job)), found).tables.values())
        upload_id, read = read_file(job, archive, found["file"])
        source = {"upload_id": upload_id, "name": read.name}
        keep_inherited(job, user, [source], found["note"])


def _drawn(lines: list[str]) -> bytes:
    """Return a drawn plate: the demo shows nobody's real parts."""
    image = Image.new("RGB", (900, 600), "#8d8a80")
    draw = ImageDraw.Draw(image)
    draw.rectangle((120, 110, 780, 490), fill="#d9d5c8", outline="#3a4046", width=6)
    for x, y in ((150, 140), (750, 140), (150, 460), (750, 460)):
        draw.ellipse((x - 12, y - 12, x + 12, y + 12), fill="#6b6f73", outline="#3a4046", width=3)
    for i, line in enumerate(lines):
        draw.text((190, 180 + 62 * i), line, fill="#22262a", font_size=40)
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def _as_somebody_left_it(calibration: Calibration, found: dict[str, Any]) -> Calibration:
    """Return a calibration with the things wrong that people find in inherited ones."""
    ve = np.array(calibration["ve"].values)
    ve[6, 4] += 21.0  # a spike
    ve[9:, 5] -= 16.0  # a hole along a column, as a bad log leaves it
    calibration = calibration.with_table(_with_values(calibration["ve"], ve))
    target = np.array(calibration["idle_target"].values)
    target[:] = found["idle_rpm"]
    calibration = calibration.with_table(_with_values(calibration["idle_target"], target))
    after = np.zeros(calibration["after_start_enrichment"].values.shape)
    calibration = calibration.with_table(_with_values(calibration["after_start_enrichment"], after))
    random = np.random.default_rng(4)
    trims = found["trim_pct"] + random.normal(0.0, 1.5, ve.shape)
    axes = calibration["ve"].axes
    mark = filled(ve.shape, Provenance("measured", "Learned by the controller."))
    calibration = calibration.with_table(Table("learned_trim", axes, trims.round(1), mark))
    return calibration.with_table(
        setting("closed_loop_authority", found["authority_pct"], "assumed", "Found.")
    )


def _with_values(table: Table, values: np.ndarray) -> Table:
    bounds = table.definition.lower, table.definition.upper
    return Table(table.key, table.axes, np.clip(values, *bounds).round(3), table.provenance)
