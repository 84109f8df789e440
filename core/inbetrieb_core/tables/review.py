"""Looking an inherited calibration over: located findings, ranked, each with its rule."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.ndimage import median_filter

from ..quantities import FloatArray
from .calibration import Calibration
from .definitions import DEFINITIONS, START_TABLES
from .table import Index, Table

Severity = Literal["stop", "attention", "note"]
_RANK: dict[Severity, int] = {"stop": 0, "attention": 1, "note": 2}

#: A cell of a map this far from what its neighbours say, against the usual roughness of the
#: map and at least by this much [unit of the map], is a spike or a hole (our own choice).
_OUTLIER_TIMES = 6.0
_LEAST_OUTLIER = {"ve": 6.0, "lambda_target": 0.05, "spark": 4.0}
#: A jump from one row or column to the next that is not seen beside it. [unit of the map]
_LEAST_STEP = {"ve": 10.0, "lambda_target": 0.07, "spark": 7.0}
#: Falling with coolant temperature, from physics.
_FALLING = (
    "prime_pulse", "cranking_fuel", "after_start_enrichment", "warm_up_enrichment", "idle_target",
)  # fmt: skip
_WARM_C, _COLD_C = 75.0, 20.0
#: Richer than this under boost is wanted, leaner at full load is dangerous (common practice, no
#: source). [lambda]
_LEAN_AT_LOAD, _RICHEST = 0.95, 0.68
_LOAD_KPA = 92.0
#: More advance than this at full load leaves no knock margin on pump fuel (common practice). [°]
_MOST_SPARK_AT_LOAD = 36.0


@dataclass(frozen=True)
class ReviewFinding:
    """Something noticed in a table.

    Attributes
    ----------
    rule : str
        Which rule noticed it.
    table : str
        Key of the table.
    cells : tuple of index
        Where.
    severity : {"stop", "attention", "note"}
    sentence : str
        What it is and why it matters.
    size : float
        How large it is, in the table's unit; ranks findings of one severity.
    """

    rule: str
    table: str
    cells: tuple[Index, ...]
    severity: Severity
    sentence: str
    size: float


@dataclass(frozen=True)
class Review:
    """What a calibration looks like.

    Attributes
    ----------
    findings : tuple of ReviewFinding
        The gravest first.
    affected_share : float
        Cells named by a finding, of all cells. [–]
    verdict : {"sound", "repair", "start_afresh"}
    sentence : str
    """

    findings: tuple[ReviewFinding, ...]
    affected_share: float
    verdict: Literal["sound", "repair", "start_afresh"]
    sentence: str


def review(calibration: Calibration) -> Review:
    """Return the findings of a calibration, ranked, and whether to repair it or start afresh.

    Parameters
    ----------
    calibration : Calibration
        As inherited; it is not changed.
    """
    found = [finding for rule in _RULES for finding in rule(calibration)]
    found.sort(key=lambda f: (_RANK[f.severity], -f.size / _scale(f.table), f.table))
    named = {(f.table, cell) for f in found for cell in f.cells}
    total = sum(table.values.size for table in calibration.tables.values())
    share = len(named) / total
    start_tables = {f.table for f in found if f.table in START_TABLES and f.severity == "stop"}
    verdict: Literal["sound", "repair", "start_afresh"] = "sound"
    if share > 0.25 or len(start_tables) >= 4:
        verdict = "start_afresh"
    elif found:
        verdict = "repair"
    sentence = {
        "sound": "Nothing stands out.",
        "repair": f"Repair: {len(found)} finding(s) in {100 * share:.1f} % of the cells.",
        "start_afresh": (
            f"Start afresh from generated tables: {100 * share:.0f} % of the cells are affected"
            + (f", {len(start_tables)} start tables among them." if start_tables else ".")
        ),
    }[verdict]
    return Review(tuple(found), share, verdict, sentence)


def _scale(key: str) -> float:
    definition = DEFINITIONS[key]
    return definition.upper - definition.lower


def _maps(calibration: Calibration) -> Iterator[Table]:
    for key in ("ve", "lambda_target", "spark"):
        yield calibration[key]


def _finding(
    rule: str, table: Table, cells: Sequence[Index], severity: Severity, what: str, size: float
) -> ReviewFinding:
    where = table.place(cells[0]) + (f" and {len(cells) - 1} more" if len(cells) > 1 else "")
    return ReviewFinding(
        rule, table.key, tuple(cells), severity,
        f"{table.definition.title} {where}: {what}", float(size),
    )  # fmt: skip


def _roughness(values: FloatArray) -> tuple[FloatArray, float]:
    """Return what each cell is off the median of its neighbours, and how much is usual."""
    # Beyond the border the map is continued straight, so that a slope is no hole.
    padded = np.pad(values, 1, mode="reflect", reflect_type="odd")
    off = values - median_filter(padded, size=3)[1:-1, 1:-1]
    usual = 1.4826 * float(np.median(np.abs(off - np.median(off))))
    return off, usual


def outliers(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield spikes and holes: cells far from what all their neighbours say."""
    for table in _maps(calibration):
        off, usual = _roughness(np.asarray(table.values))
        limit = max(_LEAST_OUTLIER[table.key], _OUTLIER_TIMES * usual)
        unit = table.definition.unit
        for row, column in np.argwhere(np.abs(off) > limit).tolist():
            size = float(off[row, column])
            if _is_corner(table, row, column) and abs(size) < 2.0 * limit:
                continue
            kind = "spike" if size > 0 else "hole"
            yield _finding(
                kind, table, [(row, column)], "attention",
                f"a {kind}, {abs(size):.3g} {unit} {'above' if size > 0 else 'below'} its neighbours.",
                abs(size),
            )  # fmt: skip


def _is_corner(table: Table, row: int, column: int) -> bool:
    rows, columns = table.values.shape
    return row in (0, rows - 1) and column in (0, columns - 1)


def steps(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield jumps along a whole line of a map that the lines beside it do not have."""
    for table in _maps(calibration):
        for axis in (0, 1):
            values = np.moveaxis(np.asarray(table.values), axis, 0)
            jump = np.median(np.diff(values, axis=0), axis=1)
            for i in range(1, jump.size - 1):
                beside = max(abs(jump[i - 1]), abs(jump[i + 1]))
                if abs(jump[i]) < _LEAST_STEP[table.key] or abs(jump[i]) < 3.0 * beside:
                    continue
                line = table.axes[axis]
                cells = [(i + 1, j) if axis == 0 else (j, i + 1) for j in range(values.shape[1])]
                yield _finding(
                    "step", table, cells, "attention",
                    f"a step of {jump[i]:+.3g} {table.definition.unit} between {line.points[i]:g} and "
                    f"{line.points[i + 1]:g} {line.unit}: torque or mixture will jump there.",
                    abs(float(jump[i])),
                )  # fmt: skip


def flats_at_limits(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield maps that stand at their bound over several cells: something was cut off."""
    for table in _maps(calibration):
        definition = table.definition
        for bound, name in ((definition.lower, "lower"), (definition.upper, "upper")):
            cells = [tuple(c) for c in np.argwhere(np.isclose(table.values, bound)).tolist()]
            if len(cells) >= 3:
                yield _finding(
                    "flat_at_limit", table, cells, "attention",
                    f"{len(cells)} cells stand at the {name} bound of {bound:g} {definition.unit}.",
                    float(len(cells)),
                )  # fmt: skip


def rising_curves(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield start tables that rise where a warmer engine needs less."""
    for key in _FALLING:
        table = calibration[key]
        values, least = np.asarray(table.values), 5.0 * table.definition.resolution
        for i in np.flatnonzero(
            np.diff(values) > max(least, 0.02 * float(np.ptp(values)))
        ).tolist():
            rise = float(values[i + 1] - values[i])
            yield _finding(
                "rising", table, [(i + 1,)], "attention",
                f"{rise:.3g} {table.definition.unit} more than a colder engine gets.", rise,
            )  # fmt: skip


def cold_idle(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield a cold idle target that is not above the warm one."""
    table = calibration["idle_target"]
    points = np.array(table.axes[0].points)
    cold, warm = table.values[points <= _COLD_C], table.values[points >= _WARM_C]
    if cold.size and warm.size and cold.max() < warm.min() + 50.0:
        yield _finding(
            "cold_idle", table, [(0,)], "stop",
            f"cold {cold.max():.0f} against warm {warm.min():.0f} rpm cannot work: cold oil needs more.",
            float(warm.min() + 50.0 - cold.max()),
        )  # fmt: skip


def untouched_start_tables(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield start tables that are zero or the same everywhere: nobody has set them."""
    for key in ("cranking_fuel", "after_start_enrichment", "warm_up_enrichment", "cranking_air", "idle_valve"):  # fmt: skip
        table = calibration[key]
        if float(np.ptp(table.values)) > 2.0 * table.definition.resolution:
            continue
        value = float(table.values[0])
        cells = [(i,) for i in range(table.values.size)]
        what = "zero" if value == 0.0 else f"{value:g} {table.definition.unit}"
        yield _finding(
            "untouched", table, cells, "stop",
            f"{what} at every temperature: this table was never set.", 1.0,
        )  # fmt: skip


def cranking_air(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield cranking air that leaves the engine starved: idle valve and addition together."""
    air, valve = calibration["cranking_air"], calibration["idle_valve"]
    points = np.array(air.axes[0].points)
    together = np.array([air.at(c) + valve.at(c) for c in points])
    warm = valve.at(_WARM_C)
    cells = [(i,) for i in np.flatnonzero((points <= _COLD_C) & (together < warm)).tolist()]
    if cells:
        yield _finding(
            "cranking_air", air, cells, "attention",
            f"cranking opens the valve to {together[cells[0][0]]:.0f} %, less than a warm idle's "
            f"{warm:.0f} %: it will only start on the pedal.", float(warm - together.min()),
        )  # fmt: skip


def dead_time(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield a dead time that rises with voltage."""
    table = calibration["dead_time"]
    cells = [(i + 1,) for i in np.flatnonzero(np.diff(table.values) > 1e-6).tolist()]
    if cells:
        rise = float(np.diff(table.values).max())
        yield _finding(
            "dead_time", table, cells, "stop",
            "rises with voltage; with more voltage an injector opens faster.", rise,
        )  # fmt: skip


def targets(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield mixtures that are lean under load or richer than anything burns well."""
    table = calibration["lambda_target"]
    pressure = np.array(table.axes[1].points)
    rpm = np.array(table.axes[0].points)
    loaded = (pressure[None, :] >= _LOAD_KPA) & (rpm[:, None] >= 1500.0)
    lean = [tuple(c) for c in np.argwhere(loaded & (table.values > _LEAN_AT_LOAD)).tolist()]
    if lean:
        worst = float(table.values[loaded].max())
        yield _finding(
            "lean_at_load", table, lean, "stop",
            f"lambda {worst:.2f} at full load melts pistons; 0.80 to 0.90 is usual.", worst,
        )  # fmt: skip
    rich = [tuple(c) for c in np.argwhere(table.values < _RICHEST).tolist()]
    if rich:
        yield _finding(
            "too_rich", table, rich, "attention",
            f"lambda {float(table.values.min()):.2f} is richer than anything burns well.",
            _RICHEST - float(table.values.min()),
        )  # fmt: skip


def spark_at_load(calibration: Calibration) -> Iterator[ReviewFinding]:
    """Yield advance at full load that leaves no knock margin."""
    table = calibration["spark"]
    pressure = np.array(table.axes[1].points)
    loaded = np.broadcast_to(pressure[None, :] >= _LOAD_KPA, table.values.shape)
    cells = [tuple(c) for c in np.argwhere(loaded & (table.values > _MOST_SPARK_AT_LOAD)).tolist()]
    if cells:
        worst = float(table.values[loaded].max())
        yield _finding(
            "spark_at_load", table, cells, "stop",
            f"{worst:.0f}° at full load leaves no knock margin on pump fuel.", worst,
        )  # fmt: skip


_RULES: tuple[Callable[[Calibration], Iterator[ReviewFinding]], ...] = (
    outliers, steps, flats_at_limits, rising_curves, cold_idle, untouched_start_tables,
    cranking_air, dead_time, targets, spark_at_load,
)  # fmt: skip
