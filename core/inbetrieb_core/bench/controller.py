"""The simulated controller: it reads the job's own tables as a real one would."""

from __future__ import annotations

from dataclasses import dataclass

from mypy_extensions import mypyc_attr

from ..air import REFERENCE_CHARGE_K
from ..charge.fading import STRAIGHT, StartFading
from ..engine import EngineSpec
from ..quantities import kelvin
from ..tables import Calibration
from .lookup import curve, surface

#: Added cranking air fades in a straight line in this time after the start. [s]
CRANKING_AIR_FADE_S = 4.0
_IDLE_SPARK_AUTHORITY_DEG = 5.0
_IDLE_SPARK_GAIN = 0.03  # [°/rpm]
_TRIM_GAIN = 0.15  # [%/(rpm·s)]
#: A larger error does not trim faster: a loop that winds up in a stumble is none that anybody fits. [rpm]
_TRIM_HEARS_RPM = 80.0
#: A target of none would ask for endless fuel. [–]
_RICHEST_TARGET = 0.3
#: Tables of fuel multipliers, and what of the controller they run over.
_CORRECTIONS = {
    "charge_temperature_correction": "intake_c",
    "barometric_correction": "barometric_kpa",
}
#: The speed of the pedal is taken over so long. [s]
_RATE_OVER_S = 0.04
_FALL_BACK = 0.75  # of the crank-to-run speed: below it cranking fuel applies again


@dataclass
class ControllerState:
    """What the controller remembers from event to event."""

    running_since_s: float | None = None
    valve_trim_pct: float = 0.0
    seen_s: float = 0.0
    turns: float = 0.0
    ran_at_turn: float = 0.0
    pedal_pct: float = 0.0
    pedal_at_s: float = 0.0
    acceleration_pct: float = 0.0
    fades_pct_s: float = 0.0


@mypyc_attr(allow_interpreted_subclasses=True)
class Controller:
    """Commands from measured quantities, by the tables of one calibration.

    Parameters
    ----------
    spec : EngineSpec
        What the installer entered: the controller knows nothing else.
    calibration : Calibration
        The job's tables.
    idle_trim : bool
        Whether it trims the idle valve slowly towards the target, up to its ends.
    fading : StartFading
        How it runs its start fuel down.
    """

    def __init__(
        self,
        spec: EngineSpec,
        calibration: Calibration,
        *,
        idle_trim: bool,
        fading: StartFading = STRAIGHT,
    ) -> None:
        self.spec = spec
        self.fading = fading
        self.reference_ms = spec.reference_pulse_ms
        self.idle_trim = idle_trim
        self.state = ControllerState()
        #: Opening of the throttle; only maps by throttle angle read it. [%]
        self.throttle_pct = 0.0
        #: Intake air and air pressure as its sensors have them. [°C, kPa]
        self.intake_c, self.barometric_kpa = 20.0, spec.barometric_kpa
        self._by_throttle = calibration["ve"].by_throttle
        self._ve = surface(calibration["ve"])
        self._lambda = surface(calibration["lambda_target"])
        self._spark = surface(calibration["spark"])
        self._curves = {
            key: curve(table) for key, table in calibration.tables.items() if len(table.axes) == 1
        }
        #: Fuel multipliers that this calibration has, and whether it enriches an opening pedal: most have none.
        self._corrections = [key for key in _CORRECTIONS if key in self._curves]
        self._accelerates = "acceleration_enrichment" in self._curves
        fade = calibration.tables.get("acceleration_fade")
        self._fade_s = 0.5 if fade is None else float(fade.values)

    def start_value(self, key: str, coolant_c: float) -> float:
        """Return a start table's value. [unit of the table]"""
        return self._curves[key](coolant_c)

    def prime_ms(self, coolant_c: float, battery_v: float) -> float:
        """Return the whole prime pulse; none where the table says none. [ms]"""
        pulse = self.start_value("prime_pulse", coolant_c)
        return pulse + self.dead_time_ms(battery_v) if pulse > 0.0 else 0.0

    def dead_time_ms(self, battery_v: float) -> float:
        """Return the entered dead time at a voltage. [ms]"""
        return self._curves["dead_time"](battery_v)

    def update_phase(self, rpm: float, time_s: float) -> bool:
        """Return whether the engine counts as running; it falls back below the speed again."""
        self.state.turns += rpm / 60.0 * max(0.0, time_s - self.state.seen_s)
        self.state.seen_s = time_s
        if self.state.running_since_s is None and rpm > self.spec.crank_to_run_rpm:
            self.state.running_since_s = time_s
            self.state.ran_at_turn = self.state.turns
        elif (
            self.state.running_since_s is not None and rpm < _FALL_BACK * self.spec.crank_to_run_rpm
        ):
            self.state.running_since_s = None
            self.state.turns = 0.0  # it cranks anew
        return self.state.running_since_s is not None

    def lambda_target(self, rpm: float, map_kpa: float) -> float:
        """Return the mixture target. [–]"""
        return max(self._lambda(rpm, self._load(map_kpa)), _RICHEST_TARGET)

    def _load(self, map_kpa: float) -> float:
        """Return where on the load axis of the maps the engine is. [%] or [kPa]"""
        return self.throttle_pct if self._by_throttle else map_kpa

    def pulse_ms(
        self,
        rpm: float,
        map_kpa: float,
        coolant_c: float,
        charge_k: float,
        battery_v: float,
        time_s: float,
    ) -> float:
        """Return the whole injection pulse with dead time. [ms]"""
        dead_time = self.dead_time_ms(battery_v)
        since = self.state.running_since_s
        if since is None:
            share = self.fading.cranking_now(self.state.turns)
            percent = self.start_value("cranking_fuel", coolant_c) * share
            return self.reference_ms * percent / 100.0 + dead_time
        curves = self._curves
        left = self.fading.left_after(
            time_s - since,
            self.state.turns - self.state.ran_at_turn,
            curves["idle_target"](coolant_c),
            curves["after_start_fade"](coolant_c),
        )
        enrichment = curves["warm_up_enrichment"](coolant_c) / 100.0
        if left > 0.0:
            enrichment *= 1.0 + curves["after_start_enrichment"](coolant_c) / 100.0 * left
        # By throttle angle the fuel table holds charge against a full one, not filling.
        filling = self._ve(rpm, self._load(map_kpa)) / 100.0
        load = filling if self._by_throttle else filling * map_kpa / 100.0
        load *= REFERENCE_CHARGE_K / charge_k
        if self._corrections:
            enrichment *= self._corrects_pct() / 100.0
        if self._accelerates:
            enrichment *= 1.0 + self._accelerates_pct(time_s, coolant_c) / 100.0
        return self.reference_ms * load * enrichment / self.lambda_target(rpm, map_kpa) + dead_time

    def _corrects_pct(self) -> float:
        """Return the fuel multiplier over intake air and air pressure; 100 where no table has one. [%]"""
        percent = 100.0
        for key in self._corrections:
            percent *= self._curves[key](getattr(self, _CORRECTIONS[key])) / 100.0
        return percent

    def _accelerates_pct(self, time_s: float, coolant_c: float) -> float:
        """Return the enrichment of a pedal that opens, falling in a straight line once it rests. [%]"""
        state = self.state
        passed = time_s - state.pedal_at_s
        if passed >= _RATE_OVER_S:
            rate = (self.throttle_pct - state.pedal_pct) / passed
            state.pedal_pct, state.pedal_at_s = self.throttle_pct, time_s
            cold = (
                self._curves["acceleration_cold"](coolant_c)
                if "acceleration_cold" in self._curves
                else 100.0
            )
            asked = (
                self._curves["acceleration_enrichment"](rate) * cold / 100.0 if rate > 0.0 else 0.0
            )
            left = state.acceleration_pct - state.fades_pct_s * passed
            state.acceleration_pct = max(asked, left, 0.0)
            if asked >= left:
                state.fades_pct_s = asked / max(self._fade_s, 0.05)
        return state.acceleration_pct

    def valve_pct(self, rpm: float, coolant_c: float, time_s: float, dt_s: float) -> float:
        """Return the commanded idle-valve opening. [%]"""
        since = self.state.running_since_s
        left = 1.0 if since is None else 1.0 - (time_s - since) / CRANKING_AIR_FADE_S
        added = self.start_value("cranking_air", coolant_c) * left if left > 0.0 else 0.0
        if since is not None and self.idle_trim:
            error = self.start_value("idle_target", coolant_c) - rpm
            error = min(_TRIM_HEARS_RPM, max(-_TRIM_HEARS_RPM, error))
            trim = self.state.valve_trim_pct + _TRIM_GAIN * error * dt_s
            self.state.valve_trim_pct = min(100.0, max(-100.0, trim))
        opening = self.start_value("idle_valve", coolant_c) + added + self.state.valve_trim_pct
        return min(100.0, max(0.0, opening))

    def spark_deg(self, rpm: float, map_kpa: float, coolant_c: float) -> float:
        """Return the ignition advance with a small idle-speed correction. [°]"""
        base = self._spark(rpm, self._load(map_kpa))
        if self.state.running_since_s is None:
            return 8.0  # cranking advance above 5° (common practice, no source)
        error = self.start_value("idle_target", coolant_c) - rpm
        correction = _IDLE_SPARK_GAIN * error
        return base + min(_IDLE_SPARK_AUTHORITY_DEG, max(-_IDLE_SPARK_AUTHORITY_DEG, correction))


def charge_temperature_k(intake_c: float, coolant_c: float) -> float:
    """Return the charge temperature as controllers estimate it: a quarter of the way to coolant. [K]"""
    return kelvin(intake_c + 0.25 * (coolant_c - intake_c))
