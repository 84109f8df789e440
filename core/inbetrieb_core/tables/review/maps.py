"""Rules for maps over speed and load: what no engine would ask for."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.ndimage import label, median_filter

from ...quantities import FloatArray
from ...sentences import mixture, quantity, significant
from ..calibration import Calibration
from ..definitions import SPARK_MAPS, VE_MAPS
from ..table import Table
from .findings import ReviewContext, ReviewFinding, finding

#: A cell of a map this far from what its neighbours say, against the usual roughness of the
#: map and at least by this much [unit of the map], is a spike or a hole (our own choice).
_OUTLIER_TIMES = 4.5
#: In a filling map also by this share of what the neighbours say, though not by less than a few percent;
#: and a block of so many cells of one level was set on purpose. [–, %, –]
_OUTLIER_SHARE, _LEAST_SHARE, _LEAST_BLOCK = 0.075, 4.6, 6
#: Idle is often one block on purpose: up to this speed and pressure. [1/min, kPa]
IDLE_RPM, IDLE_KPA = 1500.0, 60.0
_LEAST_OUTLIER = {"ve": 6.0, "lambda_target": 0.05, "spark": 4.0}
#: A jump from one row or column to the next that is not seen beside it. [unit of the map]
_LEAST_STEP = {"ve": 10.0, "lambda_target": 0.1, "spark": 7.0}
#: Richer than this under boost is wanted, leaner at full load is dangerous (common practice, no
#: source). [lambda]
_LEAN_AT_LOAD, _LEAN_UNDER_BOOST, _RICHEST, _LEANEST = 0.95, 0.90, 0.68, 1.12
#: Full load begins at this share of outside pressure. [–]
_LOAD_SHARE = 0.91
#: More advance than this at full load leaves no knock margin on pump fuel, and more than this
#: beyond a conservative map asks for care (common practice, no source). [°]
_MOST_SPARK_AT_LOAD, _MORE_THAN_EXPECTED_DEG = 36.0, 6.0
#: Filling that is this far from what the engine data suggest, everywhere, is a wrong entry. [–]
_FILLING_SHARE = (0.62, 1.5)


def _family(key: str) -> str:
    return key.removesuffix("_second_cam")


def _maps(calibration: Calibration) -> Iterator[Table]:
    for key in (*VE_MAPS, "lambda_target", *SPARK_MAPS):
        # Rules speak of manifold pressure; a map by throttle angle has none.
        if key in calibration and not calibration[key].by_throttle:
            yield calibration[key]


def _roughness(values: FloatArray) -> tuple[FloatArray, float]:
    """Return what each cell is off the median of its neighbours, and how much is usual."""
    # Beyond the border the map is continued straight, so that a slope is no hole.
    padded = np.pad(values, 1, mode="reflect", reflect_type="odd")
    off = values - median_filter(padded, size=3)[1:-1, 1:-1]
    usual = 1.4826 * float(np.median(np.abs(off - np.median(off))))
    return off, usual


def outliers(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield spikes and holes: cells, alone or side by side, far from what their neighbours say."""
    for table in _maps(calibration):
        off, usual = _roughness(np.asarray(table.values))
        values = np.asarray(table.values)
        least = _LEAST_OUTLIER[_family(table.key)]
        limit = np.full(values.shape, max(least, _OUTLIER_TIMES * usual))
        by_line = limit
        if _family(table.key) == "ve":
            # A lone cell of little filling is off by a share of it.
            share = np.clip(_OUTLIER_SHARE * np.abs(values - off), _LEAST_SHARE, least)
            by_line = np.maximum(share, _OUTLIER_TIMES * usual)
        lone, off_line = _lone_cells(values, by_line)
        far = (np.abs(off) > limit) | lone
        # A lone cell is as far off as the lines through its neighbours say: a median lies on a slope.
        off = np.where(lone, off_line, off)
        for row, column in np.argwhere(far).tolist():
            corner = (
                _is_corner(table, row, column) and abs(off[row, column]) < 2.0 * limit[row, column]
            )
            block = _may_hold_blocks(table, row, column) and _in_a_block(
                values, row, column, float(limit[row, column]) / 2.0
            )
            if corner or block:
                far[row, column] = False
        unit = table.definition.unit
        for kind, where, word in (
            ("spike", far & (off > 0), "above"),
            ("hole", far & (off < 0), "below"),
        ):
            patches, count = label(where)
            for patch in range(1, count + 1):
                cells = [tuple(c) for c in np.argwhere(patches == patch).tolist()]
                cells.sort(key=lambda cell: -abs(float(off[cell])))
                size = abs(float(off[cells[0]]))
                yield finding(
                    kind, table, cells, "attention",
                    f"a {kind}, {quantity(significant(size, 3), unit)} {word} its neighbours.", size,
                )  # fmt: skip


def _may_hold_blocks(table: Table, row: int, column: int) -> bool:
    """Say whether people set blocks there on purpose: mixture anywhere, other maps about idle."""
    rpm, kpa = (axis.points[i] for axis, i in zip(table.axes, (row, column), strict=True))
    return table.key == "lambda_target" or (rpm <= IDLE_RPM and kpa <= IDLE_KPA)


def _lone_cells(values: FloatArray, limit: FloatArray) -> tuple[np.ndarray, FloatArray]:
    """Return inner cells off the lines through their neighbours, along both axes, and how far."""
    off = np.zeros(values.shape)
    lone = np.zeros(values.shape, dtype=bool)
    if min(values.shape) < 3:
        return lone, off
    inside = values[1:-1, 1:-1]
    down = inside - 0.5 * (values[:-2, 1:-1] + values[2:, 1:-1])
    across = inside - 0.5 * (values[1:-1, :-2] + values[1:-1, 2:])
    off[1:-1, 1:-1] = 0.5 * (down + across)
    both = (np.sign(down) == np.sign(across)) & (
        np.minimum(np.abs(down), np.abs(across)) > 0.7 * limit[1:-1, 1:-1]
    )
    lone[1:-1, 1:-1] = both & (np.abs(off[1:-1, 1:-1]) > limit[1:-1, 1:-1])
    # Its neighbours are pulled the other way by half at most: only the farthest of a patch stays.
    for row, column in np.argwhere(lone).tolist():
        around = np.abs(off[row - 1 : row + 2, column - 1 : column + 2])
        lone[row, column] = abs(off[row, column]) >= around.max()
    return lone, off


def _in_a_block(values: FloatArray, row: int, column: int, alike: float) -> bool:
    """Say whether a cell is the corner of a block that somebody set on purpose, as rich idles are."""
    patches, _ = label(np.abs(values - values[row, column]) < alike)
    block = np.argwhere(patches == patches[row, column])
    lines = np.ptp(block, axis=0) + 1
    return len(block) >= _LEAST_BLOCK and lines.min() >= 2


def _is_corner(table: Table, row: int, column: int) -> bool:
    rows, columns = table.values.shape
    return row in (0, rows - 1) and column in (0, columns - 1)


def steps(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield jumps along a whole line of a map that the lines beside it do not have."""
    for table in _maps(calibration):
        for axis in (0, 1):
            values = np.moveaxis(np.asarray(table.values), axis, 0)
            jump = np.median(np.diff(values, axis=0), axis=1)
            for i in range(1, jump.size - 1):
                beside = max(abs(jump[i - 1]), abs(jump[i + 1]))
                if abs(jump[i]) < _LEAST_STEP[_family(table.key)] or abs(jump[i]) < 3.0 * beside:
                    continue
                line = table.axes[axis]
                cells = [(i + 1, j) if axis == 0 else (j, i + 1) for j in range(values.shape[1])]
                yield finding(
                    "step", table, cells, "attention",
                    f"a step of {quantity(significant(jump[i], 3), table.definition.unit, signed=True)} between {quantity(line.points[i], line.unit, bare=True)} and "
                    f"{quantity(line.points[i + 1], line.unit)}: torque or mixture will jump there.",
                    abs(float(jump[i])),
                )  # fmt: skip


def flats_at_limits(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield maps that stand at their bound over several cells: something was cut off."""
    for table in _maps(calibration):
        definition = table.definition
        for bound, name in ((definition.lower, "lower"), (definition.upper, "upper")):
            cells = [tuple(c) for c in np.argwhere(np.isclose(table.values, bound)).tolist()]
            if len(cells) >= 3:
                yield finding(
                    "flat_at_limit", table, cells, "attention",
                    f"{len(cells)} cells stand at the {name} bound of {quantity(bound, definition.unit)}.",
                    float(len(cells)),
                )  # fmt: skip


def targets(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield mixtures that are lean under load or richer than anything burns well."""
    table = calibration["lambda_target"]
    if table.by_throttle:
        return
    pressure = np.array(table.axes[1].points)
    rpm = np.array(table.axes[0].points)
    loaded = (pressure[None, :] >= _LOAD_SHARE * context.barometric_kpa) & (rpm[:, None] >= 1500.0)
    lean = [tuple(c) for c in np.argwhere(loaded & (table.values > _LEAN_AT_LOAD)).tolist()]
    if lean:
        worst = float(table.values[loaded].max())
        yield finding(
            "lean_at_load", table, lean, "stop",
            f"{mixture(worst)} at full load melts pistons; 0.80 to 0.90 is usual.", worst,
        )  # fmt: skip
    rich = [tuple(c) for c in np.argwhere(table.values < _RICHEST).tolist()]
    if rich:
        blend = context.spec is not None and context.spec.ethanol_volume_share > 0.2
        yield finding(
            "too_rich", table, rich, "attention",
            f"{mixture(float(table.values.min()))} is richer than anything burns well"
            + ("; these may be air–fuel ratios of the blend, read by the scale of petrol." if blend else "."),
            _RICHEST - float(table.values.min()),
        )  # fmt: skip


def spark_at_load(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield advance at full load that leaves no knock margin."""
    table = calibration["spark"]
    if table.by_throttle:
        return
    pressure = np.array(table.axes[1].points)
    loaded = np.broadcast_to(
        pressure[None, :] >= _LOAD_SHARE * context.barometric_kpa, table.values.shape
    )
    cells = [tuple(c) for c in np.argwhere(loaded & (table.values > _MOST_SPARK_AT_LOAD)).tolist()]
    if cells:
        worst = float(table.values[loaded].max())
        yield finding(
            "spark_at_load", table, cells, "stop",
            f"{worst:.0f}° at full load leaves no knock margin on pump fuel.", worst,
        )  # fmt: skip


def leaner_than_burns(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield targets leaner than an ordinary engine burns, and lean ones under boost."""
    table = calibration["lambda_target"]
    if table.by_throttle:
        return
    lean = [tuple(c) for c in np.argwhere(table.values > _LEANEST).tolist()]
    if lean:
        worst = float(table.values.max())
        yield finding(
            "too_lean", table, lean, "attention",
            f"{mixture(worst)} is leaner than an ordinary engine burns without misfiring.", worst,
        )  # fmt: skip
    pressure = np.array(table.axes[1].points)[None, :]
    boosted = np.broadcast_to(pressure > 1.08 * context.barometric_kpa, table.values.shape)
    cells = [
        tuple(c)
        for c in np.argwhere(
            boosted & (table.values > _LEAN_UNDER_BOOST) & (table.values <= _LEAN_AT_LOAD)
        ).tolist()
    ]
    if cells:
        worst = float(table.values[boosted].max())
        yield finding(
            "lean_under_boost", table, cells, "stop",
            f"{mixture(worst)} under boost runs hot and knocks; 0.75 to 0.85 is usual.", worst,
        )  # fmt: skip


def more_spark_than_expected(
    calibration: Calibration, context: ReviewContext
) -> Iterator[ReviewFinding]:
    """Yield advance at load well beyond a conservative map for this engine."""
    if context.expected is None:
        return
    for key in SPARK_MAPS:
        if key not in calibration or key not in context.expected:
            continue
        table = calibration[key]
        pressure = np.array(table.axes[1].points)[None, :]
        loaded = pressure >= _LOAD_SHARE * context.barometric_kpa
        more = table.values - context.expected[key].values
        bad = loaded & (more > _MORE_THAN_EXPECTED_DEG) & (table.values <= _MOST_SPARK_AT_LOAD)
        cells = [tuple(c) for c in np.argwhere(bad).tolist()]
        if cells:
            worst = float(more[bad].max())
            yield finding(
                "spark_caution", table, cells, "attention",
                f"up to {worst:.0f}° more than a conservative map for this compression, boost and fuel: "
                "listen for knock before load is held here.", worst,
            )  # fmt: skip


def falling_filling(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield filling that falls with manifold pressure over several cells of a row."""
    for key in VE_MAPS:
        if key not in calibration or calibration[key].by_throttle:
            continue
        table = calibration[key]
        falls = np.diff(table.values, axis=1) < -_LEAST_OUTLIER["ve"] / 2.0
        for i in range(table.values.shape[0]):
            cells = [(i, int(j) + 1) for j in np.flatnonzero(falls[i])]
            if len(cells) >= 2:
                fall = float(-np.diff(table.values, axis=1)[i].min())
                yield finding(
                    "filling_falls", table, cells, "attention",
                    "filling falls as pressure rises; residual gas makes it rise.", fall,
                )  # fmt: skip


def filling_far_from_expected(
    calibration: Calibration, context: ReviewContext
) -> Iterator[ReviewFinding]:
    """Yield a fuel map that is off everywhere, as a wrong displacement or injector flow makes it."""
    if context.expected is None:
        return
    table = calibration["ve"]
    if table.by_throttle:
        return
    share = float(np.median(table.values / context.expected["ve"].values))
    low, high = _FILLING_SHARE
    if not low <= share <= high:
        cells = [tuple(c) for c in np.argwhere(np.ones(table.values.shape)).tolist()]
        yield finding(
            "filling_off", table, cells, "attention",
            f"{100.0 * share:.0f} % of what this engine's data suggest, everywhere: displacement, injector "
            "flow or the controller's reference differs.", abs(float(np.log(share))),
        )  # fmt: skip
