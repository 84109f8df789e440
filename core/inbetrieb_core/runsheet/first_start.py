"""The first start of an engine: its steps, and what follows from what it does. Common practice, no source."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from ..engine import EngineSpec
from ..errors import field_refused
from .limits import (
    CHARGING_V,
    CRANK_S,
    CRANKED_OIL_KPA,
    FALL_KPA,
    HOTTEST_C,
    LEANEST,
    OIL_WITHIN_S,
    PRIME_SHARE,
    REST_S,
    RUNNING_OIL_KPA,
    TIMING_DEG,
)
from .run_in import BAND_RPM, LENGTH_S, SPEED_RPM
from .steps import Clock, Reading, Step

OutcomeKey = Literal["nothing", "fires_and_dies", "dies_after_cranking", "only_on_pedal", "runs"]

_FUEL = "Fuel under pressure: look and smell for leaks, extinguisher to hand, no sparks. Local codes come first."
_TURNING = "Turning parts: hands, sleeves and leads away from belts, fans and pulleys."


@dataclass(frozen=True)
class Setup:
    """What the sheet depends on, beside the engine data.

    Attributes
    ----------
    fresh : bool
        Built anew and never run.
    flat_tappets : bool
        Whether its cam has to be run in.
    plugs_out : bool
        Whether the spark plugs can be taken out.
    oil_sender : bool
        Whether oil pressure can be read; else the lamp.
    coolant_filled : bool
        Else it runs for seconds only.
    automatic : bool
        Whether the gearbox has its own oil to look at.
    """

    fresh: bool = True
    flat_tappets: bool = False
    plugs_out: bool = True
    oil_sender: bool = True
    coolant_filled: bool = True
    automatic: bool = False


@dataclass(frozen=True)
class Outcome:
    """What the engine did, and the one thing to do next.

    Attributes
    ----------
    key, title : str
    next : str
        One sentence.
    verdict : str
        As a start trial says it; empty where it is none.
    """

    key: OutcomeKey
    title: str
    next: str
    verdict: str


OUTCOMES: dict[OutcomeKey, Outcome] = {
    outcome.key: outcome
    for outcome in (
        Outcome(
            "nothing", "Nothing: it cranks and does not fire",
            "Look that speed shows while cranking, that a plug sparks and that fuel pressure holds; only then the "
            "prime and cranking fuel.",
            "no fire",
        ),
        Outcome(
            "fires_and_dies", "It fires and dies at once",
            "Cranking fuel: record it as a trial and take the one step that its sheet proposes.",
            "fired and died",
        ),
        Outcome(
            "dies_after_cranking", "It runs, and dies as cranking ends",
            "The running air is too little, or the after-start too lean: record the trial with its log.",
            "started and died",
        ),
        Outcome(
            "only_on_pedal", "It runs on the pedal only",
            "It wants more air while cranking: raise the cranking air, the pedal stays alone.",
            "started on the pedal",
        ),
        Outcome("runs", "It runs", "Oil pressure first: look at it now.", "started"),
    )
}  # fmt: skip


def outcome_of(key: str) -> Outcome:
    """Return what follows from what an engine did.

    Parameters
    ----------
    key : str
        Of :data:`OUTCOMES`.

    Raises
    ------
    InputRefused
        If there is no such outcome.
    """
    if key not in OUTCOMES:
        raise field_refused(
            "choice",
            "Say what it did: nothing, fires and dies, dies after cranking, only on the pedal, or runs.",
        )
    return OUTCOMES[key]


def steps_of(spec: EngineSpec, setup: Setup) -> tuple[Step, ...]:
    """Return the steps of a first start, in order.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    setup : Setup
        How it stands there.
    """
    return (
        *_before(spec, setup),
        *_oil(setup),
        *_key_on(spec),
        *_start(),
        *_first_minute(setup),
        *_run_in(setup),
        *_after(setup),
    )


def _before(spec: EngineSpec, setup: Setup) -> Iterator[Step]:
    yield Step("fluids", "before", "Fluids", "Engine oil to its mark, fuel in the tank, brake fluid seen." + (" Gearbox oil of the automatic to its mark." if setup.automatic else ""))  # fmt: skip
    if spec.induction == "boosted":
        yield Step("turbo_oil", "before", "Oil in the turbocharger", "Fill its feed by hand and turn the shaft with a finger before it is connected.", caution="A turbocharger that starts dry is lost in seconds.")  # fmt: skip
    if setup.coolant_filled:
        yield Step("coolant", "before", "Coolant", "Filled and bled, hoses tight.")
    else:
        yield Step("coolant_short", "before", "No coolant: seconds only", "Without coolant it runs ten seconds at a time, then stands until the head is cold to the hand.", caution="An engine without coolant is lost within a minute.")  # fmt: skip
    yield Step("loose", "before", "Nothing loose", "Tools and rags out of belts and fans, vacuum lines on, throttle shuts by itself.", caution=_TURNING)  # fmt: skip
    yield Step("safety", "before", "Safety", "Extinguisher to hand, gas extracted or outdoors, car in neutral, wheels chocked, charger on.", caution="Exhaust gas kills indoors. Local codes and licensed practice come first.")  # fmt: skip
    yield Step("who", "before", "Who does what", "One at the key, one at the switch that kills fuel and spark; both know the word for stop.")  # fmt: skip
    yield Step("kill", "before", "The kill switch works", "Switch it: pump and coils must be dead. Proven now, not believed.")  # fmt: skip
    yield Step(
        "handover", "before", "Two settings are known",
        f"Cranking ends at {spec.crank_to_run_rpm:.0f} rpm, and above what pedal the controller clears a flooded engine.",
        (Reading("flood_clear_pct", "Flood-clear from a pedal of", "%", 30.0, 100.0),),
    )  # fmt: skip


def _oil(setup: Setup) -> Iterator[Step]:
    if not setup.fresh:
        return
    yield Step(
        "disable", "oil", "Fuel and spark off",
        ("Plugs out, " if setup.plugs_out else "") + "injectors and coils unplugged.",
    )  # fmt: skip
    low = Reading(
        "oil_kpa", "Oil pressure while cranking", "kPa", 0.0, 1500.0, CRANKED_OIL_KPA, None,
        "Do not start it: find out why (pump, level, filter, sender) before it turns again.",
    )  # fmt: skip
    yield Step(
        "crank_oil", "oil", "Crank until oil pressure shows",
        f"{CRANK_S:.0f} s of starter, {REST_S:.0f} s of rest, three times at most. "
        + ("Read the pressure." if setup.oil_sender else "The lamp must go out."),
        (low,) if setup.oil_sender else (), Clock(CRANK_S, REST_S), _TURNING,
    )  # fmt: skip
    yield Step("enable", "oil", "Everything plugged in again", ("Plugs in, leads on, " if setup.plugs_out else "") + "coils plugged in; injectors after the next steps.")  # fmt: skip


def _key_on(spec: EngineSpec) -> Iterator[Step]:
    rail = spec.rail_pressure_kpa
    pressure = Reading(
        "rail_kpa", "Fuel pressure at prime", "kPa", 0.0, 2000.0, PRIME_SHARE[0] * rail, PRIME_SHARE[1] * rail,
        "Mend pump, filter, regulator or return before it is cranked.",
    )  # fmt: skip
    fall = Reading(
        "fall_kpa", "Fall in the minute after the pump stops", "kPa", 0.0, 2000.0, None, FALL_KPA,
        "A leak, an injector that does not shut, or the pump's check valve: find it before it is cranked.",
    )  # fmt: skip
    for number in (1, 2):
        yield Step(
            f"key_{number}", "key_on", f"Key on, {'once' if number == 1 else 'once more'}",
            "Pump runs and stops. Read the pressure, look for leaks at every joint, read the fall.",
            (pressure, fall, Reading("to_pressure_s", "Time until it stood", "s", 0.0, 30.0)), None, _FUEL,
        )  # fmt: skip
    speed = Reading(
        "cranking_rpm", "Speed in the controller while cranking", "rpm", 0.0, 600.0, 60.0, None,
        "No speed, no spark and no fuel: look at the crank sensor before ignition is enabled.",
    )  # fmt: skip
    yield Step("speed_shows", "key_on", "Speed shows while cranking", "Ignition and injection still off: crank three seconds and read the speed in the controller.", (speed,), Clock(3.0), _TURNING)  # fmt: skip


def _start() -> Iterator[Step]:
    yield Step(
        "crank", "start", "Crank it",
        "Injectors and coils on. No pedal. Ten seconds at most, then thirty of rest. Stop at once if it kicks back, "
        "if fuel is smelled or seen, or if speed runs away.",
        (), Clock(CRANK_S, REST_S), f"{_FUEL} {_TURNING}", True, True,
    )  # fmt: skip


def _first_minute(setup: Setup) -> Iterator[Step]:
    oil = Reading(
        "oil_kpa", "Oil pressure", "kPa", 0.0, 1500.0, RUNNING_OIL_KPA, None,
        f"Key off now: none within {OIL_WITHIN_S:.0f} s means the bearings run dry.",
    )  # fmt: skip
    yield Step("oil_runs", "first_minute", "Oil pressure within 5 s", "Before anything else." if setup.oil_sender else "The lamp goes out within 5 s; else key off.", (oil,) if setup.oil_sender else (), Clock(OIL_WITHIN_S))  # fmt: skip
    yield Step(
        "charging", "first_minute", "Charging", "Voltage at the battery, the engine at a fast idle.",
        (Reading("charging_v", "Charging voltage", "V", 8.0, 18.0, CHARGING_V[0], CHARGING_V[1], "Key off: the alternator or its wire is wrong, and too much kills the controller."),),
    )  # fmt: skip
    yield Step("leaks", "first_minute", "Leaks", "Fuel first, then oil, then coolant; with the light, from below too.", caution=f"{_FUEL} {_TURNING}")  # fmt: skip
    yield Step(
        "coolant_rises", "first_minute", "Temperature", "It rises evenly and the thermostat opens; the upper hose gets warm.",
        (Reading("coolant_c", "Coolant", "°C", -40.0, 150.0, None, HOTTEST_C, "Key off and let it stand; never open a hot cap."),),
    )  # fmt: skip
    yield Step(
        "lambda", "first_minute", "Mixture", "Once the sensor is warm. Rich is safe for now, lean is not.",
        (Reading("lambda", "Lambda at a fast idle", "–", 0.5, 2.0, None, LEANEST, "Too lean to load it: fuel first."),),
    )  # fmt: skip
    yield Step(
        "timing", "first_minute", "Base timing on the running engine", "Advance locked in the controller, read the mark with the light.",
        (Reading("timing_off_deg", "Seen minus commanded, either way", "°", 0.0, 90.0, None, TIMING_DEG, "Set the trigger offset and read again before it is loaded."),),
        None, _TURNING,
    )  # fmt: skip


def _run_in(setup: Setup) -> Iterator[Step]:
    if setup.fresh and setup.flat_tappets:
        yield Step(
            "run_in", "run_in", "Run the cam in",
            f"{LENGTH_S / 60.0:.0f} min at {SPEED_RPM:.0f} ± {BAND_RPM:.0f} rpm without a break. Time outside the band does not "
            "count. Watch oil pressure and temperature all the time.",
            (Reading("counted_min", "Minutes inside the band", "min", 0.0, 120.0),), Clock(LENGTH_S),
        )  # fmt: skip
    if setup.fresh:
        yield Step("light_pulls", "run_in", "Light pulls", "Ten pulls at part throttle, each followed by a long overrun, to seat the rings. Nothing above half of the rev limit yet.", (Reading("pulls", "Pulls done", "–", 0.0, 100.0),), caution="On a lawful road or on rollers, somebody watching the gauges. Local codes come first.")  # fmt: skip


def _after(setup: Setup) -> Iterator[Step]:
    yield Step("saved", "after", "Saved in the controller?", "Before key-off: write the settings into the controller, wait until it says so, then key off and wait before it is switched on again.")  # fmt: skip
    yield Step("cold_look", "after", "After the first heat", "Cold again: coolant and oil level, head and manifold bolts where the maker asks for it, every hose clamp, every leak.")  # fmt: skip
    yield Step("later", "after", "After 50 km and after the first hard pulls", "Everything that was ever loosened is looked at: most faults show there. Oil and filter of a fresh engine are changed.", serious=False)  # fmt: skip


def contradiction(outcome: Outcome, verdict: str) -> tuple[str, ...]:
    """Return what to say where a log shows another start than somebody saw; empty where they agree.

    Parameters
    ----------
    outcome : Outcome
        What was seen.
    verdict : str
        What the log says.
    """
    if outcome.verdict == verdict:
        return ()
    return (
        f"You saw “{outcome.title[0].lower()}{outcome.title[1:]}”, its log says “{verdict}”: the log counts in the trial. "
        "Look at both before you go on.",
    )
