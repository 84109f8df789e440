"""What has to be typed into a controller by hand: only what changed, in its own units and rounding."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from .calibration import Calibration
from .controller_form import ControllerForm
from .table import Index, Table
from .three_points import ThreePointFit, fit_points


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
    key, unit : str
        Of the table, and the controller's unit.
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
    """

    key: str
    unit: str
    step: float
    whole: bool
    cells: tuple[TransferCell, ...]
    same: int
    fit: ThreePointFit | None
    sentences: tuple[str, ...]


@dataclass(frozen=True)
class HeldTable:
    """How a controller holds one table.

    Attributes
    ----------
    form : ControllerForm
    points_c : tuple of float
        Fixed coolant temperatures of a start table; empty where its breakpoints are free. [°C]
    """

    form: ControllerForm
    points_c: tuple[float, ...] = ()


def transfer_sheet(
    before: Calibration | None, after: Calibration, held: Mapping[str, HeldTable]
) -> tuple[TransferTable, ...]:
    """Return what has to be typed to bring a calibration into a controller.

    Parameters
    ----------
    before : Calibration or None
        What was transferred last; None where nothing is known to be in the controller.
    after : Calibration
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
        old = before[key] if before is not None and key in before else None
        table = _transfer_table(old, after[key], how)
        if table.cells:
            sheet.append(table)
    return tuple(sheet)


def _transfer_table(old: Table | None, new: Table, how: HeldTable) -> TransferTable:
    form = how.form
    said: list[str] = []
    if not form.known:
        said.append("The controller's unit is not known here; values stand in the canonical unit.")
    fit = None
    if how.points_c and how.points_c != new.axes[0].points:
        fit = fit_points(new, how.points_c, form)
        places = [(c,) for c in fit.points_c]
        values = list(fit.values)
        earlier = (
            None
            if old is None
            else list(
                old.values
                if how.points_c == old.axes[0].points
                else fit_points(old, how.points_c, form).values
            )
        )
        indices: list[Index] = [(i,) for i in range(len(values))]
        worst = fit.worst
        said.append(
            f"{len(values)} values fitted to {len(new.axes[0].points)}; the worst is "
            f"{worst.error:+.3g} {new.definition.unit} at {worst.at_c:g} °C."
        )
    else:
        indices = list(np.ndindex(new.values.shape))
        places = [tuple(a.points[i] for a, i in zip(new.axes, n, strict=True)) for n in indices]  # type: ignore[misc]
        values = [float(new.values[n]) for n in indices]
        comparable = old is not None and old.axes == new.axes
        earlier = (
            [float(old.values[n]) for n in indices] if comparable and old is not None else None
        )
        if old is not None and not comparable:
            said.append("The breakpoints changed: type them first, then the whole table.")
    cells, same = [], 0
    for i, index in enumerate(indices):
        shown = form.shown(values[i])
        stood = None if earlier is None else form.shown(float(earlier[i]))
        if stood is not None and abs(stood - shown) < 0.5 * form.step:
            same += 1
            continue
        cells.append(TransferCell(index, tuple(places[i]), stood, shown, values[i]))
    return TransferTable(
        new.key, form.unit, form.step, earlier is None, tuple(cells), same, fit, tuple(said)
    )
