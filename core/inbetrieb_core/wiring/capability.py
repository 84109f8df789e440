"""What a pin of a controller can do, in plain words."""

from __future__ import annotations

from typing import Literal

Capability = Literal[
    "analogue",
    "frequency",
    "inductive",
    "hall",
    "wideband",
    "knock",
    "injector",
    "ignition",
    "ignition_logic",
    "low_side",
    "high_side",
    "pwm",
    "bridge",
    "bus_high",
    "bus_low",
    "supply",
    "sensor_supply",
    "sensor_ground",
    "power_ground",
]

CAPABILITIES: dict[Capability, str] = {
    "analogue": "analogue input, 0 to 5 V",
    "frequency": "digital or frequency input",
    "inductive": "crank or cam input, inductive",
    "hall": "crank or cam input, Hall",
    "wideband": "wideband cell input",
    "knock": "knock input",
    "injector": "injector driver",
    "ignition": "ignition driver",
    "ignition_logic": "ignition output, logic level",
    "low_side": "low-side switch",
    "high_side": "high-side switch",
    "pwm": "pulse-width output",
    "bridge": "motor output, one half of a bridge",
    "bus_high": "bus, high wire",
    "bus_low": "bus, low wire",
    "supply": "battery supply",
    "sensor_supply": "5 V for sensors",
    "sensor_ground": "sensor ground",
    "power_ground": "power ground",
}

#: Pins of these kinds are shared by many wires and are not allotted one to a function.
SHARED: tuple[Capability, ...] = ("supply", "sensor_supply", "sensor_ground", "power_ground")

#: Pins that carry a load's current.
OUTPUTS: tuple[Capability, ...] = ("injector", "ignition", "low_side", "high_side", "pwm", "bridge")

#: How much a pin loses when this ability goes unused: rarer ones are kept for those that need
#: them (our own weighting). [–]
RARITY: dict[Capability, float] = {
    "analogue": 1.0,
    "frequency": 1.0,
    "inductive": 2.0,
    "hall": 2.0,
    "wideband": 4.0,
    "knock": 4.0,
    "bridge": 4.0,
    "injector": 3.0,
    "ignition": 3.0,
    "ignition_logic": 2.0,
    "low_side": 0.5,
    "high_side": 1.5,
    "pwm": 1.5,
    "bus_high": 3.0,
    "bus_low": 3.0,
    "supply": 9.0,
    "sensor_supply": 9.0,
    "sensor_ground": 9.0,
    "power_ground": 9.0,
}
