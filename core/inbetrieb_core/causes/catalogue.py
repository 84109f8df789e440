"""Every cause of a bad start or idle: what can tell it, what tests it, what to do about it.

All of it is common practice of the trade with no published source. The prior weights are those of
new builds: wiring and data are more often wrong than parts.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Manoeuvre = Literal[
    "key on",
    "cranking",
    "start",
    "warm idle",
    "loads on",
    "fast idle",
    "valve sweep",
    "timing light",
    "free air",
]

#: In what a start can be wrong: the points of an acceptable one.
Symptom = Literal["run", "stall", "flare", "dip", "idle", "mixture"]

#: How each manoeuvre is done, in one sentence.
MANOEUVRES: dict[Manoeuvre, str] = {
    "key on": "Log two seconds with the key on before cranking.",
    "cranking": "Log the cranking itself, from before the starter turns.",
    "start": "Log the start and a minute of idle, the pedal at rest.",
    "warm idle": "Let it idle fully warm for half a minute, the pedal at rest.",
    "loads on": "At warm idle switch on lights, fan and rear window for ten seconds and off again.",
    "fast idle": "Warm, in neutral, hold about 2500 rpm for ten seconds, then let it idle.",
    "valve sweep": "At warm idle step the valve's duty down and up by five points every five seconds.",
    "timing light": "Hold the advance fixed in the controller and read it with the timing light.",
    "free air": "Take the warm sensor out of the exhaust, or read it after a long overrun.",
}


@dataclass(frozen=True)
class Cause:
    """One cause.

    Attributes
    ----------
    key : str
        Stable identifier.
    title : str
        Wording, as it stands after "The likely cause is".
    family : str
        Causes of one family look alike in a log until the test parts them.
    weight : float
        How often it is met among new builds, relative to the others. [–]
    channels : tuple of str
        Canonical channels without which it is not told, time and speed apart.
    manoeuvres : tuple of str
        What has to be in the log for it to show; the first is the usual one.
    test : str
        The cheapest test that tells it from others that look alike.
    effort_min : float
        Time the test takes. [min]
    do : str
        What to do once it is found.
    disproof : str
        What would prove it wrong.
    explains : tuple of str
        What may go wrong in a start by it.
    at_rest : str
        The test for an engine that does not live long enough for the usual one; empty where that
        one does not need it to run.
    """

    key: str
    title: str
    family: str
    weight: float
    channels: tuple[str, ...]
    manoeuvres: tuple[Manoeuvre, ...]
    test: str
    effort_min: float
    do: str
    disproof: str
    explains: tuple[Symptom, ...] = ()
    at_rest: str = ""


#: Fuel that is not as the controller believes, air that is not, and a start that does not come about.
_BY_FUEL: tuple[Symptom, ...] = ("run", "stall", "dip", "mixture")
_BY_AIR: tuple[Symptom, ...] = ("run", "stall", "flare", "dip", "idle")
_BY_START: tuple[Symptom, ...] = ("run",)

_FUEL = ("lambda", "pulse_ms")

_INTO_A_GLASS = (
    "Read a gauge on the rail, then let one injector deliver a thousand pulses into a measuring glass "
    "and compare with what was entered. Fuel: in the open, away from sparks, an extinguisher at hand."
)
_VALVE_BY_HAND = (
    "With the key on let the controller set the idle valve to 0, 50 and 100 %: air blown through its "
    "hose passes not at all, half and freely."
)
_STOP_BY_EYE = (
    "With the engine off look along the intake: throttle shut against its stop, hoses, gaskets and "
    "brake servo closed."
)

CAUSES: dict[str, Cause] = {
    cause.key: cause
    for cause in (
        Cause(
            "no-crank", "that the starter does not turn the engine", "starter", 1.0,
            (), ("cranking",),
            "Measure the battery's voltage at the starter while the key is turned.", 2.0,
            "Find out why the starter does not turn the engine: battery, cables, starter relay, interlock.",
            "It cranks with a known good battery.",
            _BY_START,
        ),
        Cause(
            "weak-battery", "a weak battery", "starter", 1.5,
            ("battery_v",), ("cranking",),
            "Start it with a second, charged battery connected.", 5.0,
            "Charge the battery, then repeat this start unchanged: injectors and pump were short of voltage.",
            "The same start with a full battery is no better.",
            _BY_START,
        ),
        Cause(
            "slow-starter", "a starter that turns too slowly", "starter", 0.7,
            ("battery_v",), ("cranking",),
            "Measure the voltage at the starter itself while it cranks: more than 1 V below the battery is a cable.",
            5.0,
            "Look at the starter, its cables and the oil's thickness before any table.",
            "It cranks at its proper speed with a second battery: then it was the battery.",
            _BY_START,
        ),
        Cause(
            "no-sync", "that the crankshaft's position is not found", "position", 1.2,
            ("sync",), ("cranking",),
            "Capture the crank signal while cranking.", 5.0,
            "Look at the crank and cam signals while cranking: without position there is no spark and no injection.",
            "The signals are clean and regular.",
            _BY_START,
        ),
        Cause(
            "late-sync", "that the crankshaft's position is found late", "position", 1.0,
            ("sync",), ("cranking",),
            "Capture the crank signal while cranking.", 5.0,
            "Mend the crank signal first (gap, polarity, filter, wheel setting): the time before it is known is not a "
            "fuel matter.",
            "Position is known at once and it still fires late.",
            _BY_START,
        ),
        Cause(
            "late-pressure", "fuel pressure that comes late", "supply", 1.2,
            ("fuel_pressure_kpa",), ("cranking",),
            "Let the pump prime twice, then start: if it fires sooner, it is pressure.", 1.0,
            "Lengthen the pump's prime or mend pump and check valve, then repeat this start unchanged.",
            "With full pressure from the first turn it still fires late.",
            _BY_START,
        ),
        Cause(
            "low-pressure", "fuel pressure that is too low", "fuel per pulse", 1.0,
            ("fuel_pressure_kpa",), ("start", "fast idle"),
            "Read a gauge on the rail at idle and at 2500 rpm.", 10.0,
            "Mend regulator, filter or pump until the rail pressure is as entered, then repeat this start.",
            "The gauge shows the pressure that was entered, at idle and at 2500 rpm.",
            _BY_FUEL,
            _INTO_A_GLASS,
        ),
        Cause(
            "injector-flow", "injector flow that is not as entered", "fuel per pulse", 1.2,
            _FUEL, ("warm idle", "fast idle"),
            MANOEUVRES["fast idle"] + " Off by the same share at both: flow or pressure.", 3.0,
            "Check injector flow and fuel pressure as entered before any table.",
            "Flow and pressure are verified and the mixture is still off.",
            _BY_FUEL,
            _INTO_A_GLASS,
        ),
        Cause(
            "dead-time", "injector dead time that is not as entered", "fuel per pulse", 0.7,
            (*_FUEL, "battery_v"), ("loads on", "fast idle"),
            MANOEUVRES["loads on"] + " The mixture moves with the voltage: dead time.", 2.0,
            "Check the injectors' dead time against voltage as entered before any table.",
            "The mixture does not move when the voltage does.",
            _BY_FUEL,
            _INTO_A_GLASS,
        ),
        Cause(
            "map-sensor", "a manifold pressure sensor that reads wrong", "manifold sensor", 1.0,
            ("map_kpa",), ("key on",),
            "With the engine at rest compare its reading with the air pressure of the place.", 1.0,
            "Enter the sensor's proper transfer, or replace it, before any table: all fuel stands on it.",
            "At rest it reads the air pressure of the place.",
            _BY_FUEL,
        ),
        Cause(
            "air-leak", "air that the valve does not govern: a leak, or a throttle stop set too far open",
            "air", 1.2,
            ("idle_valve_pct",), ("warm idle", "valve sweep"),
            "At warm idle pinch hoses one by one and close the throttle by hand: speed falls at the leak. Mind fan and "
            "belts.",
            10.0,
            "Find the leak (gaskets, hoses, brake servo), then set the throttle stop, warm, so that the valve works in "
            "its useful range.",
            "Everything is tight, the throttle closes, and speed is still too high with the valve nearly shut.",
            _BY_AIR,
            _STOP_BY_EYE,
        ),
        Cause(
            "too-little-air", "a throttle stop set too far shut, or a valve that passes too little", "air", 0.9,
            ("idle_valve_pct",), ("warm idle", "valve sweep"),
            MANOEUVRES["valve sweep"] + " Speed follows the duty to its end and is still too low: the stop.", 6.0,
            "Adjust the throttle stop (warm) until the valve works in its useful range: a valve at its end is a "
            "mechanical job, not a table job.",
            "The valve moves away from its end and speed does not follow.",
            ("run", "stall", "dip", "idle"),
            _STOP_BY_EYE,
        ),
        Cause(
            "valve-inverted", "an idle valve that works the wrong way round, or not at all", "air", 0.6,
            ("idle_valve_pct",), ("valve sweep", "start"),
            MANOEUVRES["valve sweep"] + " Speed falls as the duty rises: it is inverted; it does not move: it is stuck.",
            6.0,
            "Turn the valve's polarity in the controller, or mend valve and wiring, before any table.",
            "In the sweep speed rises with the duty.",
            _BY_AIR,
            _VALVE_BY_HAND,
        ),
        Cause(
            "timing-off", "ignition timing that is not what the controller believes", "torque", 0.8,
            ("map_kpa",), ("warm idle", "timing light"),
            MANOEUVRES["timing light"], 10.0,
            "Set the base timing with the light before any table.",
            "The light shows the fixed advance.",
            _BY_AIR,
            "Read the timing with the light while it is cranked.",
        ),
        Cause(
            "weak-ignition", "ignition that is weak or fails on a cylinder", "torque", 0.8,
            (), ("start", "warm idle"),
            "Read the plugs, and unplug one coil or injector after the other at idle: the one that changes nothing is it. "
            "High voltage: never by hand on a live lead.",
            15.0,
            "Mend plugs, leads, coils or dwell of the weak cylinder before any table.",
            "Every cylinder takes its part.",
            ("run", "stall", "dip"),
            "Take out a plug: is it wet, and does it spark against the block? High voltage: clamp it, never by hand.",
        ),
        Cause(
            "wideband-dead", "a wideband sensor that does not measure", "wideband", 1.0,
            ("lambda",), ("start", "warm idle"),
            "Look at the sensor's own status, its heater supply and the wire to the controller.", 5.0,
            "Mend the sensor, its supply or its wire: mixture cannot be judged without it.",
            "Its reading follows the mixture.",
            (),
        ),
        Cause(
            "wideband-biased", "a wideband sensor that reads wrong", "fuel per pulse", 0.5,
            _FUEL, ("free air",),
            MANOEUVRES["free air"] + " It must read free air.", 10.0,
            "Calibrate or replace the sensor, or mend its ground and scaling, before any table.",
            "In free air it reads free air, and a second sensor agrees.",
            ("mixture",),
        ),
        Cause(
            "wideband-slow", "a wideband sensor that answers slowly", "wideband", 0.4,
            _FUEL, ("fast idle",),
            "Blip the throttle warm: a good sensor answers within half a second.", 2.0,
            "Move or replace the sensor; until then trust steady readings only.",
            "It answers within half a second.",
            (),
        ),
    )
}  # fmt: skip

#: The candidate that nothing is wrong under the bonnet and the tables are what has to change.
TABLES = "tables"
#: Weight of the tables against all causes: on a new build they are wrong until they are proven.
TABLES_WEIGHT = 12.0


@dataclass(frozen=True)
class Telling:
    """Whether a log can tell a cause.

    Attributes
    ----------
    cause : Cause
        Which.
    told : bool
        Whether the log has the channels and the manoeuvre.
    lacks : tuple of str
        Channels that it lacks.
    do : str
        What to do so that the next log tells it; empty where this one does.
    """

    cause: Cause
    told: bool
    lacks: tuple[str, ...]
    do: str
