"""Where the logs and trials of a job have been in a table."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from inbetrieb_core.errors import field_refused
from inbetrieb_core.quantities import FloatArray
from inbetrieb_core.tables import Table
from inbetrieb_core.tables.evidence import hits

from server.calibration.services import calibration_of, revision_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.samples import read_channel
from server.trials.models import Decision, Trial

#: Newest logs that are looked at; older ones say little of the tables in force. [–]
_MOST_LOGS = 40


@dataclass(frozen=True)
class Evidence:
    """How much each cell took part in.

    Attributes
    ----------
    hits : ndarray
        Shape of the table. [–]
    logs : int
        How many logs or trials were looked at. [–]
    sentence : str
    """

    hits: FloatArray
    logs: int
    sentence: str


def evidence_of(job: Job, key: str) -> Evidence:
    """Return the evidence for a table of the newest revision.

    Raises
    ------
    InputRefused
        If there is no such table.
    """
    calibration = calibration_of(revision_of(job))
    if key not in calibration:
        raise field_refused("table", f"There is no table '{key[:40]}'.")
    table = calibration[key]
    names = [axis.name for axis in table.axes]
    if not names or "ethanol_pct" in names:
        shape = table.values.shape
        return Evidence(np.zeros(shape), 0, "No channel of a log says where it was in this table.")
    advised = _advised(job, table)
    if names == ["coolant_c"]:
        trials = dict(Trial.objects.filter(job=job).values_list("pk", "coolant_c"))
        found = np.zeros(table.values.shape)
        for trial, coolant_c in trials.items():
            # A warm-up teaches more temperatures than the one it began at: each cell once.
            began = hits(table.axes, [np.array([coolant_c])])
            found += np.maximum(began, advised.get(trial, 0.0))
        return Evidence(
            found,
            len(trials),
            f"{len(trials)} trials, each where it began and where its advice was accepted.",
        )
    total = np.zeros(table.values.shape)
    count = 0
    for log in Log.objects.filter(job=job).order_by("-pk")[:_MOST_LOGS]:
        if not set(names) <= set(log.channels):
            continue
        total += hits(table.axes, [read_channel(log, name) for name in names])
        count += 1
    # What advice changed was seen, if by a log that is no longer looked at.
    total = np.maximum(total, sum(advised.values()))
    share = 100.0 * float((total > 0.5).mean())
    return Evidence(total, count, f"{count} logs have been in {share:.0f} % of the cells.")


def _advised(job: Job, table: Table) -> dict[int, FloatArray]:
    """Return by trial how much each cell took part in what was accepted of its advice. [–]"""
    found = {}
    decided = Decision.objects.filter(trial__job=job, kind="accepted")
    for trial, changes in decided.values_list("trial_id", "changes"):
        places = [change["at"] for change in changes if change["table"] == table.key]
        if places and all(len(place) == len(table.axes) for place in places):
            by_axis = [np.array(values, dtype=float) for values in zip(*places, strict=True)]
            found[trial] = np.minimum(hits(table.axes, by_axis), 1.0)
    return found
