"""The simulated engine with its mixture in closed loop."""

from __future__ import annotations

from mypy_extensions import mypyc_attr

from .plant import LOGGED, Plant

_CORRECTION = LOGGED.index("lambda_correction_pct")


@mypyc_attr(allow_interpreted_subclasses=True)
class CorrectedPlant(Plant):
    """A plant whose fuel is corrected towards the target mixture, and whose log shows by how much."""

    #: Speed of the loop for one lambda of error, and its most. [%/s, %]
    correction_gain_pct_s: float = 60.0
    authority_pct: float = 30.0
    #: In force. [%]
    correction_pct: float = 0.0

    def injected_g(self, pulse_ms: float) -> float:
        """Return the fuel of one event after the correction of its open time, `pulse_ms`. [ms → g]"""
        entered_ms = self.controller.dead_time_ms(self.battery_v)
        corrected = (pulse_ms - entered_ms) * (1.0 + self.correction_pct / 100.0) + entered_ms
        self.pulse_ms = corrected
        return super().injected_g(corrected)

    def correct(self, dt_s: float) -> None:
        """Move the correction towards the target mixture for a time. [s]"""
        target = self.controller.lambda_target(max(self.rpm, 1.0), self.read_map_kpa)
        step = self.correction_gain_pct_s * (self.sensed_lambda - target) * dt_s
        limit = self.authority_pct
        self.correction_pct = min(limit, max(-limit, self.correction_pct + step))

    def sample(self, time_s: float) -> tuple[float, ...]:
        """Return one row of the log at `time_s` [s], the correction in it."""
        row = list(super().sample(time_s))
        row[_CORRECTION] = self.correction_pct
        return tuple(row)
