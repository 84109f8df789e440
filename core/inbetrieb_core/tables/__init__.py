"""Tables: definitions, axes, interpolation, edits, provenance and whole calibrations."""

from ..provenance import KINDS, Provenance, ProvenanceKind
from .axis import Axis, AxisError
from .calibration import (
    Calibration,
    calibration_difference,
    expanded_provenance,
    from_plain,
    reshaped_tables,
    split_settings,
    to_plain,
)
from .definitions import AXES, DEFINITIONS, START_TABLES, AxisDefinition, TableDefinition
from .difference import difference_csv
from .edits import (
    CellChange,
    apply,
    breakpoints,
    difference,
    move_by,
    move_by_factor,
    rounded,
    values_after,
)
from .files import CalibrationFileError, read_calibration, write_csv, write_json
from .table import Index, Table, TableError, filled, make_axis

__all__ = [
    "difference_csv",
    "AXES",
    "DEFINITIONS",
    "KINDS",
    "START_TABLES",
    "Axis",
    "AxisDefinition",
    "AxisError",
    "Calibration",
    "CalibrationFileError",
    "CellChange",
    "Index",
    "Provenance",
    "ProvenanceKind",
    "Table",
    "TableDefinition",
    "TableError",
    "apply",
    "breakpoints",
    "calibration_difference",
    "difference",
    "expanded_provenance",
    "filled",
    "from_plain",
    "make_axis",
    "move_by",
    "move_by_factor",
    "read_calibration",
    "reshaped_tables",
    "rounded",
    "split_settings",
    "to_plain",
    "values_after",
    "write_csv",
    "write_json",
]
