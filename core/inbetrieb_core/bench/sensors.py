"""The simulated controller at key-on: real sensors behind real inputs, read by entered transfers."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import field_refused
from ..logs import Trace
from ..sensors import FUNCTIONS, Circumstances, SensorEntry, ThermistorEntry
from ..sensors.entry import BATTERY_FULL_V, INPUT_FULL_V
from ..sensors.thermistor import Thermistor, divider_v
from ..sensors.transfers import Transfer
from .faults import Fault, sized

LENGTH_S = 8.0
_STEP_S = 0.1
#: The pedal is on the floor from here to there, and the pump runs so long.
_PEDAL_S = (3.5, 5.5)
_PRIME_S, _PRIME_RISE_S = 3.0, 0.35
#: A stopped bench engine cools with this time constant. [h]
_COOLING_H = 2.0
_WARM_C = 88.0
_REST_BATTERY_V = 12.55
_NOISE_V = 0.002
#: An open analogue input floats here; a two-wire sensor's own pull-up holds it at the supply.
_FLOATING_V = 0.02


@dataclass(frozen=True)
class Inputs:
    """What the wires really carry: each changes signals, never the log afterwards.

    Attributes
    ----------
    pull_up_ohm : float or None
        Real pull-up of every two-wire sensor; None where it is as entered. [Ω]
    dead : mapping of str to float
        Functions whose input sees a fixed voltage instead of the sensor, with it. [V]
    ground_v : float
        Sensor ground above the controller's: added to every three-wire signal. [V]
    battery_drop_v : float
        Lost on the way to the controller. [V]
    throttle_reach : float
        Share of its travel that the throttle reaches. [–]
    rail_share : float
        Share of the wanted pressure that the pump builds. [–]
    """

    pull_up_ohm: float | None = None
    dead: Mapping[str, float] | None = None
    ground_v: float = 0.0
    battery_drop_v: float = 0.0
    throttle_reach: float = 1.0
    rail_share: float = 1.0

    def with_dead(self, function: str, volts: float) -> Inputs:
        """Return inputs in which one function sees a fixed voltage, `volts`. [V]"""
        return replace(self, dead={**(self.dead or {}), function: volts})


@dataclass(frozen=True)
class SensorFaultKind:
    """A kind of fault at key-on: wording, default size with its unit and bounds, and what it does."""

    key: str
    title: str
    unit: str
    default: float
    lower: float
    upper: float
    act: Callable[[Inputs, float], Inputs]


SENSOR_FAULTS: dict[str, SensorFaultKind] = {
    kind.key: kind
    for kind in (
        SensorFaultKind(
            "pull_up", "Pull-ups are really …", "Ω", 2490.0, 100.0, 100_000.0,
            lambda inputs, size: replace(inputs, pull_up_ohm=size),
        ),
        SensorFaultKind(
            "pull_up_off", "Coolant: pull-up off", "", 1.0, 1.0, 1.0,
            lambda inputs, size: inputs.with_dead("coolant", _FLOATING_V),
        ),
        SensorFaultKind(
            "open_wire", "Coolant: wire open", "", 1.0, 1.0, 1.0,
            lambda inputs, size: inputs.with_dead("coolant", INPUT_FULL_V),
        ),
        SensorFaultKind(
            "map_signal", "Manifold pressure: signal shorted to ground", "", 1.0, 1.0, 1.0,
            lambda inputs, size: inputs.with_dead("manifold_pressure", 0.0),
        ),
        SensorFaultKind(
            "ground_offset", "Sensor ground too high", "mV", 120.0, -500.0, 500.0,
            lambda inputs, size: replace(inputs, ground_v=size / 1000.0),
        ),
        SensorFaultKind(
            "battery_drop", "Voltage lost before the controller", "V", 0.7, 0.0, 4.0,
            lambda inputs, size: replace(inputs, battery_drop_v=size),
        ),
        SensorFaultKind(
            "throttle_reach", "Throttle does not open fully", "% of travel", 80.0, 0.0, 100.0,
            lambda inputs, size: replace(inputs, throttle_reach=size / 100.0),
        ),
        SensorFaultKind(
            "wideband_off", "Wideband without power", "", 1.0, 1.0, 1.0,
            lambda inputs, size: inputs.with_dead("wideband", 0.0),
        ),
        SensorFaultKind(
            "weak_pump", "Fuel pressure not reached", "% of wanted", 60.0, 0.0, 100.0,
            lambda inputs, size: replace(inputs, rail_share=size / 100.0),
        ),
    )
}  # fmt: skip


def inputs_with(faults: Sequence[Fault]) -> Inputs:
    """Return the inputs with faults built in.

    Raises
    ------
    InputRefused
        If a kind is unknown or its size out of bounds.
    """
    inputs = Inputs()
    for kind, size in sized(faults, SENSOR_FAULTS):
        inputs = kind.act(inputs, size)
    return inputs


def simulate_key_on(
    sensors: Sequence[SensorEntry],
    circumstances: Circumstances,
    faults: Sequence[Fault] = (),
    seed: int = 0,
) -> Trace:
    """Return the log of a simulated controller: key on, prime, pedal to the floor, engine at rest.

    The parts fitted are those entered; what may differ is between them and the controller.

    Parameters
    ----------
    sensors : sequence of SensorEntry
        As entered; the controller reads their signals with the entered transfers.
    circumstances : Circumstances
        Weather and soak.
    faults : sequence of Fault
        Of :data:`SENSOR_FAULTS`.
    seed : int
        Of noise. [–]

    Raises
    ------
    InputRefused
        If a fault is not possible, or there is no sensor.
    """
    if not sensors:
        raise field_refused("sensors", "Enter a sensor first: there is none to read.")
    inputs = inputs_with(faults)
    random = np.random.default_rng([seed, 0x6B])
    time = np.arange(0.0, LENGTH_S + 1e-9, _STEP_S)
    channels = {"time_s": time, "rpm": np.zeros_like(time)}
    for sensor in sensors:
        truth = _truth(sensor, circumstances, inputs, time)
        transfer = sensor.made()
        signal = _signal(sensor, transfer, truth, inputs)
        signal = signal + _NOISE_V * random.standard_normal(time.size) * _noise_unit(transfer)
        signal = _converted(sensor, transfer, signal)
        definition = FUNCTIONS[sensor.function]
        held = [
            min(definition.upper, max(definition.lower, transfer.value(float(s)))) for s in signal
        ]
        channels[definition.channel] = np.array(held).round(4)
    return Trace(channels)


def _truth(
    sensor: SensorEntry, circumstances: Circumstances, inputs: Inputs, time: np.ndarray
) -> np.ndarray:
    """Return what the quantity really is over time. [unit of the function]"""
    ambient = 20.0 if circumstances.ambient_c is None else circumstances.ambient_c
    soak = 12.0 if circumstances.soak_h is None else circumstances.soak_h
    warm = ambient + max(0.0, _WARM_C - ambient) * math.exp(-soak / _COOLING_H)
    pedal = np.where(
        (time > _PEDAL_S[0]) & (time < _PEDAL_S[1]), 100.0 * inputs.throttle_reach, 0.0
    )
    rise = np.where(time < _PRIME_S, 1.0 - np.exp(-time / _PRIME_RISE_S), 1.0)
    battery = _REST_BATTERY_V if circumstances.meter_v is None else circumstances.meter_v
    transfer = sensor.made()
    known = [transfer.value(s) for s in transfer.known]
    steady = {
        "manifold_pressure": circumstances.air_kpa,
        "barometric": circumstances.air_kpa,
        "coolant": warm,
        "oil_temperature": warm,
        "exhaust_temperature": ambient,
        "intake_air": ambient + 0.15 * (warm - ambient),
        "wideband": max(known),
        "oil_pressure": 0.0,
        "fuel_level": 0.4 * max(known),
        "flexible_fuel": circumstances.ethanol_pct,
        "battery": battery - inputs.battery_drop_v,
    }
    if sensor.function == "throttle":
        return np.asarray(pedal)
    if sensor.function == "fuel_pressure":
        return np.asarray(circumstances.rail_kpa * inputs.rail_share * rise)
    return np.full_like(time, steady[sensor.function])


def _signal(
    sensor: SensorEntry, transfer: Transfer, truth: np.ndarray, inputs: Inputs
) -> np.ndarray:
    """Return the signal at the input. [V or Hz]"""
    dead = (inputs.dead or {}).get(sensor.function)
    if dead is not None:
        return np.full_like(truth, dead)
    if isinstance(transfer, Thermistor):
        pull_up = inputs.pull_up_ohm or transfer.pull_up_ohm
        return np.array(
            [
                divider_v(transfer.curve.resistance_ohm(float(t)), pull_up, transfer.supply_v)
                for t in truth
            ]
        )
    three_wire = transfer.signal_unit == "V" and sensor.function != "battery"
    offset = inputs.ground_v if three_wire else 0.0
    return np.array([transfer.signal(float(t)) + offset for t in truth])


def _noise_unit(transfer: Transfer) -> float:
    return 20.0 if transfer.signal_unit == "Hz" else 1.0


def _converted(sensor: SensorEntry, transfer: Transfer, signal: np.ndarray) -> np.ndarray:
    """Return the signal after the controller's converter: held at its ends, in whole counts."""
    if transfer.signal_unit == "Hz":
        return np.asarray(np.maximum(signal, 0.0))
    full = BATTERY_FULL_V if sensor.function == "battery" else INPUT_FULL_V
    if isinstance(sensor.transfer, ThermistorEntry):
        full = sensor.transfer.supply_v
    count = full / (2**sensor.adc_bits - 1)
    return np.asarray(np.round(np.clip(signal, 0.0, full) / count) * count)
