"""Injector resistance and the driver it needs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..errors import field_refused

DriverKind = Literal["plain", "current_limiting", "unknown"]

#: About 2–3 Ω needs a limited current, about 12–16 Ω does not (common practice, no source). [Ω]
_LOW_OHM, _HIGH_OHM = 5.0, 9.0
CHARGING_V = 14.2
_SAFE_CURRENT_A = 1.5


@dataclass(frozen=True)
class DriverJudgement:
    """What an injector's resistance asks of its driver.

    Attributes
    ----------
    resistance_class : {"low", "between", "high"}
    current_a : float
        Through one injector without a limit, charging voltage. [A]
    level : {"fits", "attention", "stop"}
    sentence : str
    series_ohm : float or None
        Series resistor with which a plain driver could live; None where none is needed. [Ω]
    """

    resistance_class: Literal["low", "between", "high"]
    current_a: float
    level: Literal["fits", "attention", "stop"]
    sentence: str
    series_ohm: float | None


def needs_current_limit(resistance_ohm: float) -> bool:
    """Say whether an injector without a series resistor wants a driver that limits its current.

    Parameters
    ----------
    resistance_ohm : float
        Of one injector, measured cold. [Ω]
    """
    return resistance_ohm < _HIGH_OHM


def series_resistor_ohm(resistance_ohm: float) -> float:
    """Return the series resistor with which a plain driver can live, to the half ohm. [Ω]

    Parameters
    ----------
    resistance_ohm : float
        Of one injector, measured cold. [Ω]
    """
    return round(max(0.0, CHARGING_V / _SAFE_CURRENT_A - resistance_ohm) * 2.0) / 2.0


def judge_driver(resistance_ohm: float, driver: DriverKind = "unknown") -> DriverJudgement:
    """Judge whether a driver suits an injector.

    Parameters
    ----------
    resistance_ohm : float
        Of one injector, measured cold. [Ω]
    driver : {"plain", "current_limiting", "unknown"}
        What the controller has.

    Raises
    ------
    InputRefused
        If the resistance cannot be that of an injector.
    """
    if not 0.3 <= resistance_ohm <= 60.0:
        raise field_refused(
            "resistance_ohm",
            f"An injector has between 0.3 and 60 Ω, not {resistance_ohm:g}: a coil that is "
            "open or shorted is broken.",
        )
    current = CHARGING_V / resistance_ohm
    if not needs_current_limit(resistance_ohm):
        return DriverJudgement(
            "high",
            current,
            "fits",
            f"{resistance_ohm:g} Ω draws {current:.1f} A: a plain driver does.",
            None,
        )
    series = series_resistor_ohm(resistance_ohm)
    between = resistance_ohm >= _LOW_OHM
    text = f"{resistance_ohm:g} Ω would draw {current:.1f} A"
    kind: Literal["low", "between"] = "between" if between else "low"
    if driver == "current_limiting":
        return DriverJudgement(
            kind, current, "fits", f"{text}; the current-limiting driver holds it down.", None
        )
    if driver == "plain":
        return DriverJudgement(
            kind,
            current,
            "attention" if between else "stop",
            f"{text}: a plain driver needs a series resistor of about {series:g} Ω for each, which "
            "also lengthens the dead time. Enter the dead time measured with it.",
            series,
        )
    return DriverJudgement(
        kind,
        current,
        "attention",
        f"{text}: it needs a current-limiting driver, or about {series:g} Ω in series.",
        series,
    )
