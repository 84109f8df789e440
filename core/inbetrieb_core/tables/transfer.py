"""What has to be typed into a controller by hand: only what changed, in its own units and rounding."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from ..sentences import quantity, significant
from .controller_form import ControllerForm
from .definitions import AXES
from .table import Index, Table
from .three_points import ThreePointFit, fit_points


@dataclass(frozen=True)
class SheetAxis:
    """An axis as the controller has it.

    Attributes
    ----------
    name, title, unit : str
    points : tuple of float
        [unit]
    """

    name: str
    title: str
    unit: str
    points: tuple[float, ...]


@dataclass(frozen=True, eq=False)
class SheetTable:
    """A table as the controller has it: that of the calibration, or one worked out from it.

    Attributes
    ----------
    key, title, unit : str
        Of the table it stands for.
    axes : tuple of SheetAxis
    values : ndarray
        Canonical. [unit]
    note : str
        How it was worked out; empty for the calibration's own.
    """

    key: str
    title: str
    unit: str
    axes: tuple[SheetAxis, ...]
    values: FloatArray
    note: str = ""


def sheet_table(table: Table) -> SheetTable:
    """Return a table of the calibration as it is."""
    axes = tuple(SheetAxis(a.name, AXES[a.name].title, a.unit, a.points) for a in table.axes)
    return SheetTable(
        table.key, table.definition.title, table.definition.unit, axes, np.asarray(table.values)
    )


@dataclass(frozen=True)
class TransferCell:
    """One value to type.

    Attributes
    ----------
    index : tuple of int
        In the table as the controller holds it.
    at : tuple of float
        Its breakpoints. [unit of each axis]
    before : float or None
        What stands in the controller, in its own unit; None where that is not known.
    value : float
        What to type. [unit of the controller]
    canonical : float
        What it means. [unit of the table]
    """

    index: Index
    at: tuple[float, ...]
    before: float | None
    value: float
    canonical: float


@dataclass(frozen=True)
class TransferTable:
    """One table of the sheet.

    Attributes
    ----------
    key, title, unit : str
        Of the table, and the controller's unit.
    axes : tuple of SheetAxis
        As the controller has them.
    step : float
        Its smallest difference. [unit]
    whole : bool
        Whether all of it has to be typed: nothing is known of what stands there, or its axes
        changed.
    cells : tuple of TransferCell
        What to type.
    same : int
        Cells that stay as they are. [–]
    fit : ThreePointFit or None
        Where the controller holds fewer values than the curve has.
    sentences : tuple of str
    too_large : bool
        Whether the controller has no room for it.
    """

    key: str
    title: str
    unit: str
    axes: tuple[SheetAxis, ...]
    step: float
    whole: bool
    cells: tuple[TransferCell, ...]
    same: int
    fit: ThreePointFit | None
    sentences: tuple[str, ...]
    too_large: bool = False


@dataclass(frozen=True)
class HeldTable:
    """How a controller holds one table.

    Attributes
    ----------
    form : ControllerForm
    points_c : tuple of float
        Fixed coolant temperatures of a start table; empty where its breakpoints are free. [°C]
    most_points : tuple of int
        Breakpoints that it has room for on each axis; empty where that is not known. [–]
    """

    form: ControllerForm
    points_c: tuple[float, ...] = ()
    most_points: tuple[int, ...] = ()


def transfer_sheet(
    before: Mapping[str, SheetTable] | None,
    after: Mapping[str, SheetTable],
    held: Mapping[str, HeldTable],
) -> tuple[TransferTable, ...]:
    """Return what has to be typed to bring tables into a controller.

    Parameters
    ----------
    before : mapping of str to SheetTable, or None
        What was transferred last; None where nothing is known to be in the controller.
    after : mapping of str to SheetTable
        What shall be in it.
    held : mapping of str to HeldTable
        Tables that the controller holds; others are left out.

    Returns
    -------
    tuple of TransferTable
        Only tables in which something is to be typed. A cell whose rounded value is the same
        before and after is not.
    """
    sheet = []
    for key, how in held.items():
        if key not in after:
            continue
        old = before.get(key) if before is not None else None
        table = _transfer_table(old, after[key], how)
        if table.cells:
            sheet.append(table)
    return tuple(sheet)


@dataclass(frozen=True)
class _Reduced:
    """A table on the breakpoints that the controller has, and the fit that brought it there."""

    table: SheetTable
    fit: ThreePointFit | None


def _reduced(table: SheetTable, how: HeldTable) -> _Reduced:
    if not how.points_c or how.points_c == table.axes[0].points:
        return _Reduced(table, None)
    fit = fit_points(table.axes[0].points, table.values, how.points_c, how.form)
    axis = SheetAxis(table.axes[0].name, table.axes[0].title, table.axes[0].unit, fit.points_c)
    return _Reduced(
        SheetTable(table.key, table.title, table.unit, (axis,), np.array(fit.values), table.note),
        fit,
    )


def _transfer_table(old: SheetTable | None, new: SheetTable, how: HeldTable) -> TransferTable:
    form = how.form
    now = _reduced(new, how)
    stood = None if old is None else _reduced(old, how).table
    if stood is not None and stood.axes != now.table.axes:
        stood = None
    said = _sentences(old, stood, now, form)
    cells, same = [], 0
    for index in np.ndindex(now.table.values.shape):
        value = float(now.table.values[index])
        shown = form.shown(value)
        before = None if stood is None else form.shown(float(stood.values[index]))
        if before is not None and abs(before - shown) < 0.5 * form.step:
            same += 1
            continue
        at = tuple(axis.points[i] for axis, i in zip(now.table.axes, index, strict=True))
        cells.append(TransferCell(index, at, before, shown, value))
    shape = now.table.values.shape
    too_large = any(n > most for n, most in zip(shape, how.most_points, strict=False))
    if too_large:
        room = " × ".join(map(str, how.most_points))
        said.insert(0, f"The controller has room for {room} values, the table has "
                       f"{' × '.join(map(str, shape))}: change the breakpoints first.")  # fmt: skip
    return TransferTable(
        new.key, new.title, form.unit, now.table.axes, form.step, stood is None, tuple(cells), same,
        now.fit, tuple(said), too_large,
    )  # fmt: skip


def _sentences(
    old: SheetTable | None, stood: SheetTable | None, now: _Reduced, form: ControllerForm
) -> list[str]:
    said = [now.table.note] if now.table.note else []
    if not form.known:
        said.append("The controller's unit is not known here; values stand in the canonical unit.")
    if old is not None and stood is None:
        said.append("The breakpoints changed: type them first, then the whole table.")
    if now.fit is not None:
        said += _fit_said(now.fit, now.table.unit)
    return said


def _fit_said(fit: ThreePointFit, unit: str) -> list[str]:
    """Return what a fit costs, within the controller's temperatures and beyond them."""
    low, high = fit.points_c[0], fit.points_c[-1]
    within = [r for r in fit.residuals if low <= r.at_c <= high] or list(fit.residuals)
    beyond = [r for r in fit.residuals if not low <= r.at_c <= high]
    worst = max(within, key=lambda r: abs(r.error))
    said = [
        f"{len(fit.values)} values fitted to {len(fit.residuals)}; between {quantity(low, '°C', bare=True)} and {quantity(high, '°C')} they are "
        f"off by at most {quantity(significant(worst.error, 3), unit, signed=True)}, at {quantity(worst.at_c, '°C')}."
    ]
    if beyond:
        far = max(beyond, key=lambda r: abs(r.error))
        said.append(
            f"Beyond that the controller holds the end value: {quantity(significant(far.error, 3), unit, signed=True)} at {quantity(far.at_c, '°C')}."
        )
    return said
