"""The coil of a job as an installer enters it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import field_refused
from ..provenance import ProvenanceKind
from .dwell import Coil, DwellSheet, dwell_from_coil, dwell_from_table


@dataclass(frozen=True)
class DwellEntry:
    """The coil of a job as entered: by its primary, or by a maker's table.

    Attributes
    ----------
    name : str
        What is fitted.
    coil : Coil or None
        None where a maker's table is at hand.
    points : tuple of (voltage [V], dwell [ms])
        The maker's table; counts only without a coil.
    provenance : str
        Where the data come from.
    """

    name: str
    coil: Coil | None = None
    points: tuple[tuple[float, float], ...] = ()
    provenance: ProvenanceKind = "assumed"

    def sheet(
        self, axis_v: Sequence[float], rev_limit_rpm: float, sparks_per_turn: float
    ) -> DwellSheet:
        """Return the dwell on the controller's axis, and what limits it.

        Parameters
        ----------
        axis_v : sequence of float
            Battery voltages. [V]
        rev_limit_rpm : float
            [1/min]
        sparks_per_turn : float
            Of one coil. [–]

        Raises
        ------
        InputRefused
            If there is neither coil nor table, or the table cannot be.
        """
        if not self.name.strip() or len(self.name) > 120:
            raise field_refused("name", "Say which coil is fitted.")
        if self.coil is not None:
            return dwell_from_coil(self.coil, axis_v, rev_limit_rpm, sparks_per_turn)
        if not self.points:
            raise field_refused("points", "Enter the coil's primary, or the maker's table.")
        return dwell_from_table(self.points, axis_v, rev_limit_rpm, sparks_per_turn)

    def longest_feed_ms(self) -> float:
        """Return what is fed where the current is never reached: three time constants. [ms]"""
        if self.coil is None:
            return max(ms for _, ms in self.points)
        return round(3.0 * self.coil.inductance_mh / self.coil.resistance_ohm, 2)
