"""Fuel pump: flow against pressure and voltage, and the line between it and the rail."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from ..errors import field_refused
from ..sentences import kilopascal, quantity

_MOST_READINGS = 200


@dataclass(frozen=True)
class PumpFlow:
    """One reading of a pump: voltage [V], pressure [kPa gauge], flow [l/h]."""

    voltage_v: float
    pressure_kpa: float
    flow_l_h: float


@dataclass(frozen=True)
class PumpCurve:
    """A pump's flow over pressure at one or more voltages.

    Attributes
    ----------
    readings : tuple of PumpFlow
        At least two pressures at each voltage; flow falls with pressure.

    Raises
    ------
    InputRefused
        If a reading cannot be, flow does not fall with pressure, or does not rise with voltage.
    """

    readings: tuple[PumpFlow, ...]

    def __post_init__(self) -> None:
        _check_rows(self.readings)
        curves = {}
        for volt in sorted({r.voltage_v for r in self.readings}):
            curves[volt] = _curve([r for r in self.readings if r.voltage_v == volt], volt)
        if not curves:
            raise field_refused(
                "pump.readings", "Enter at least two pressures with the flow the pump gives."
            )
        object.__setattr__(self, "_curves", curves)
        volts = list(curves)
        for low, high in zip(volts, volts[1:], strict=False):
            middle = float(np.median([r.pressure_kpa for r in self.readings]))
            if self.flow_l_h(high, middle)[0] < self.flow_l_h(low, middle)[0]:
                raise field_refused(
                    "pump.readings",
                    f"At {quantity(middle, 'kPa')} the pump gives less at {high:g} V than at {low:g} V: "
                    "two rows are swapped.",
                )

    def flow_l_h(self, voltage_v: float, pressure_kpa: float) -> tuple[float, bool]:
        """Return flow, and whether it lies beyond the data.

        Parameters
        ----------
        voltage_v : float
            At the pump. [V]
        pressure_kpa : float
            At the pump, gauge. [kPa]

        Returns
        -------
        flow : float
            Never below 0. Between voltages in a straight line; beyond them, and with a single
            one, in proportion to voltage (a pump turns about as fast as its voltage; assumed).
            [l/h]
        beyond : bool
        """
        curves: dict[float, _PressureCurve] = self._curves  # type: ignore[attr-defined]
        volts = list(curves)
        nearest = min(max(voltage_v, volts[0]), volts[-1])
        right = min(int(np.searchsorted(volts, nearest, side="left")), len(volts) - 1)
        left = right if volts[right] == nearest else right - 1
        low, low_beyond = curves[volts[left]].at(pressure_kpa)
        high, high_beyond = curves[volts[right]].at(pressure_kpa)
        share = 0.0 if left == right else (nearest - volts[left]) / (volts[right] - volts[left])
        flow = (low + share * (high - low)) * voltage_v / nearest
        return max(0.0, flow), low_beyond or high_beyond or nearest != voltage_v


@dataclass(frozen=True)
class _PressureCurve:
    """Flow over pressure at one voltage; beyond the data along the end's slope."""

    pressures: tuple[float, ...]
    flows: tuple[float, ...]

    def at(self, pressure_kpa: float) -> tuple[float, bool]:
        low, high = self.pressures[0], self.pressures[-1]
        if low <= pressure_kpa <= high:
            return float(PchipInterpolator(self.pressures, self.flows)(pressure_kpa)), False
        first, second = (0, 1) if pressure_kpa < low else (-2, -1)
        slope = (self.flows[second] - self.flows[first]) / (
            self.pressures[second] - self.pressures[first]
        )
        end = 0 if pressure_kpa < low else -1
        return max(0.0, self.flows[end] + slope * (pressure_kpa - self.pressures[end])), True


def _check_rows(rows: Sequence[PumpFlow]) -> None:
    if len(rows) > _MOST_READINGS:
        raise field_refused(
            "pump.readings", f"At most {_MOST_READINGS} readings of a pump can be entered."
        )
    for row in rows:
        if not (
            4.0 <= row.voltage_v <= 20.0
            and 0.0 <= row.pressure_kpa <= 2000.0
            and 0.0 <= row.flow_l_h <= 3000.0
        ):
            hint = ""
            if 0.0 < row.pressure_kpa < 12.0 and row.flow_l_h > 0:
                hint = " Is the pressure in bar?"
            raise field_refused(
                "pump.readings",
                f"{row.voltage_v:g} V, {quantity(row.pressure_kpa, 'kPa')}, {row.flow_l_h:g} l/h is no "
                f"reading of a fuel pump.{hint}",
            )


def _curve(rows: Sequence[PumpFlow], volt: float) -> _PressureCurve:
    ordered = sorted(rows, key=lambda r: r.pressure_kpa)
    if len(ordered) < 2:
        raise field_refused("pump.readings", f"At {volt:g} V at least two pressures are needed.")
    for before, after in zip(ordered, ordered[1:], strict=False):
        if after.pressure_kpa == before.pressure_kpa:
            raise field_refused(
                "pump.readings",
                f"At {volt:g} V the pressure {quantity(after.pressure_kpa, 'kPa')} is given twice.",
            )
        if after.flow_l_h >= before.flow_l_h:
            raise field_refused(
                "pump.readings",
                f"At {volt:g} V flow must fall with pressure, but at {quantity(after.pressure_kpa, 'kPa')} it "
                f"is {after.flow_l_h:g} l/h after {before.flow_l_h:g}.",
            )
    if ordered[-1].pressure_kpa < 12.0:
        raise field_refused(
            "pump.readings",
            "These pressures are a few kPa at most. Are they in bar? 3 bar are 300 kPa.",
        )
    return _PressureCurve(
        tuple(r.pressure_kpa for r in ordered), tuple(r.flow_l_h for r in ordered)
    )


@dataclass(frozen=True)
class Line:
    """A fuel line by one known loss: loss [kPa] at a flow [l/h]; it grows with the flow squared."""

    loss_kpa: float = 0.0
    at_l_h: float = 100.0

    def __post_init__(self) -> None:
        if not (0.0 <= self.loss_kpa <= 300.0 and 1.0 <= self.at_l_h <= 2000.0):
            raise field_refused(
                "line.loss_kpa",
                f"A line loses {kilopascal(0, bare=True)} to {kilopascal(300)} at a flow of 1 to 2000 l/h.",
            )

    def loss(self, flow_l_h: float) -> float:
        """Return the loss at a flow [l/h]. [kPa]"""
        return self.loss_kpa * (flow_l_h / self.at_l_h) ** 2


def delivered_l_h(
    pump: PumpCurve, line: Line, voltage_v: float, rail_kpa: float
) -> tuple[float, bool]:
    """Return what reaches a rail held at a pressure, and whether it lies beyond the pump's data.

    Parameters
    ----------
    pump : PumpCurve
        At its own outlet.
    line : Line
        Between pump and rail, all that the pump gives flows through it.
    voltage_v : float
        At the pump. [V]
    rail_kpa : float
        Gauge. [kPa]

    Returns
    -------
    flow : float
        Where pump curve and line meet. [l/h]
    beyond : bool
    """

    def surplus(flow_l_h: float) -> float:
        return pump.flow_l_h(voltage_v, rail_kpa + line.loss(flow_l_h))[0] - flow_l_h

    top = pump.flow_l_h(voltage_v, rail_kpa)[0]
    if top <= 0.0:
        return 0.0, True
    flow = top if line.loss_kpa == 0.0 else float(brentq(surplus, 0.0, top, xtol=1e-6))
    return flow, pump.flow_l_h(voltage_v, rail_kpa + line.loss(flow))[1]


@dataclass(frozen=True)
class LibraryPump:
    """A generic pump: invented name, curve as such pumps have it (common practice; memory)."""

    name: str
    readings: tuple[PumpFlow, ...]


def _pump(name: str, at_12: Sequence[float], at_13_5: Sequence[float]) -> LibraryPump:
    """Return a pump by its flows at 200, 300, 400 and 500 kPa. [l/h]"""
    pressures = (200.0, 300.0, 400.0, 500.0)
    rows = [PumpFlow(12.0, p, q) for p, q in zip(pressures, at_12, strict=True)]
    rows += [PumpFlow(13.5, p, q) for p, q in zip(pressures, at_13_5, strict=True)]
    return LibraryPump(name, tuple(rows))


PUMPS: tuple[LibraryPump, ...] = (
    _pump("In-tank pump, 120 l/h at 300 kPa", (118.0, 104.0, 88.0, 68.0), (134.0, 120.0, 104.0, 85.0)),
    _pump("In-tank pump, 190 l/h at 300 kPa", (186.0, 166.0, 143.0, 115.0), (211.0, 190.0, 167.0, 140.0)),
    _pump("In-tank pump, 255 l/h at 300 kPa", (248.0, 223.0, 194.0, 160.0), (281.0, 255.0, 227.0, 193.0)),
    _pump("External pump, 320 l/h at 300 kPa", (312.0, 281.0, 247.0, 205.0), (352.0, 320.0, 286.0, 245.0)),
)  # fmt: skip
