"""Whether a start was too rich or too lean while cranking: what its log says, and what is likely.

Fuel that does not burn stays on the walls, so that every turn makes the charge richer. A start that
was too lean catches at last, after single charges that come late; one that was too rich burns early
or not at all and then only gets wetter. Common practice of the trade, no source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.special import ndtr

from ..charge import expected_start_value
from .case import Case
from .outcomes import RAN, STARTED

#: A charge that burned lifts the cranking speed by this factor.
_BURNED = 1.3
#: Cranking without a sign shorter than this says nothing.
_LONG_S = 2.5
#: Below this the evidence for too rich is none. [–]
_DOUBT = -0.25
#: How well the engine data say the need while cranking, and how much they may count. [ln, –]
_DATA_SPREAD, _DATA_MOST = 0.4, 1.5
#: What black smoke, a smell of fuel, and running once the pedal was down say of too rich, and how far
#: down that is. [log odds, log odds, log odds, %]
_SMOKE, _SMELL, _CLEARED, _CLEARING_PCT = 1.5, 1.0, 3.5, 70.0
#: The same of running fuel, and how much likelier an engine that caught dies lean. [ln, –]
_RUNNING_SPREAD, _DIES_LEAN = 0.25, 0.8
#: A sensor that reads so far off right after it ran, and what that says. [–, log odds]
_READ_OFF, _READ_ODDS = 0.05, 2.0
#: An engine that hung at a low speed after cranking and then pulled itself up had walls to fill first: one
#: that is too rich goes on dying, or lives without hanging. [log odds]
_PULLED_UP = 2.0
#: From these log odds on a start shows by itself which way. [–]
_SHOWN = 1.0


@dataclass(frozen=True)
class Leaning:
    """Which way cranking fuel should go.

    Attributes
    ----------
    log_odds : float
        ln(too lean ÷ too rich): above 0 more fuel is needed. [–]
    sentence : str
        What it is read from.
    """

    log_odds: float
    sentence: str

    @property
    def direction(self) -> int:
        """+1 for more fuel, -1 for less; more where little says which."""
        return -1 if self.log_odds < _DOUBT else 1

    @property
    def probability(self) -> float:
        """Of the direction. [–]"""
        return 1.0 / (1.0 + math.exp(-abs(self.log_odds)))


def leaning_of(case: Case) -> Leaning:
    """Return which way cranking fuel should go by this start alone.

    Parameters
    ----------
    case : Case
        One start.
    """
    odds, seen = signs_of(case)
    by_data = _by_engine_data(case)
    odds += by_data
    if abs(by_data) > 0.4:
        seen.append(f"the engine data make {'more' if by_data > 0 else 'less'} fuel likelier")
    if not seen:
        return Leaning(odds, "Rich and lean cannot be told apart yet, so this is a try.")
    text = f"{', and '.join(seen)}."
    return Leaning(odds, text[0].upper() + text[1:])


def signs_of(case: Case) -> tuple[float, list[str]]:
    """Return the log odds of too lean against too rich by what the record shows, and what that is.

    Parameters
    ----------
    case : Case
        One start.
    """
    f = case.figures
    odds, seen = seen_beside(case)
    need = f.need_after_start
    if need is not None and abs(need - 1.0) > 0.2:
        odds += 2.0 if need > 1.0 else -2.0
        seen.append(f"the sensor read {'lean' if need > 1.0 else 'rich'} right after it ran")
    cranked = f.run_after_s if case.verdict in STARTED else f.cranked_s
    long = cranked is not None and cranked > _LONG_S
    early = f.stirred_early is not None and f.stirred_early > _BURNED
    late = f.stirred_late is not None and f.stirred_late > _BURNED
    if case.verdict in RAN:
        odds += 2.5
        seen.append("it caught at last, as walls that fill up do")
    elif early and not late:
        odds -= 2.5
        seen.append("charges burned early and then no more, as in an engine that gets wetter")
    elif late and not early:
        odds += 2.0
        seen.append("charges burned only late, as walls that fill up do")
    elif long and f.fire_after_s is None and f.stirred_early is not None and not (early or late):
        odds -= 1.2
        seen.append("no charge burned however long it was cranked, and walls that fill up would")
    return odds, seen


def seen_beside(case: Case) -> tuple[float, list[str]]:
    """Return the log odds of too lean against too rich by what was seen beside speed and mixture.

    Parameters
    ----------
    case : Case
        One start.

    Returns
    -------
    odds : float
        At most zero: smoke, smell and an open pedal only ever speak for too rich. [–]
    seen : list of str
        What that is.
    """
    odds, seen = 0.0, []
    if case.setting.black_smoke:
        odds -= _SMOKE
        seen.append("black smoke was seen")
    if case.setting.fuel_smell and case.verdict not in STARTED:
        odds -= _SMELL
        seen.append("it smelled of fuel")
    if (case.figures.pedal_pct or 0.0) > _CLEARING_PCT and case.verdict in RAN:
        odds -= _CLEARED
        seen.append("it cleared itself with the pedal down, as a flooded engine does")
    return odds, seen


def running_direction(case: Case) -> int:
    """Return which way the running fuel of an engine that died goes first: +1 for more.

    Too little fuel kills an engine that has caught more often than too much, which makes it run
    badly; where warm-up and after-start together stand far above the engine data it is too much.
    """
    coolant_c, spec = case.figures.coolant_c, case.setting.spec
    value = case.value("warm_up_enrichment") * (100.0 + case.value("after_start_enrichment"))
    expected = expected_start_value(spec, "warm_up_enrichment", coolant_c) * (
        100.0 + expected_start_value(spec, "after_start_enrichment", coolant_c)
    )
    odds = _DIES_LEAN + run_up_log_odds(case) + _above(expected, value, _RUNNING_SPREAD)
    return -1 if odds < _DOUBT else 1


def run_up_log_odds(case: Case) -> float:
    """Return the log odds of too lean against too rich in the first seconds, by this start alone. [–]

    That lean engines die more often is no sign of this start: counted at each it would add up to a
    certainty that nothing has shown.
    """
    need = case.figures.need_after_start
    if need is not None and abs(need - 1.0) > _READ_OFF:
        return _READ_ODDS if need > 1.0 else -_READ_ODDS
    if case.setting.black_smoke:
        return -_SMOKE
    return _PULLED_UP if case.hung and case.verdict in STARTED else 0.0


def shown_by_itself(case: Case) -> int:
    """Return which way a start that hung after cranking showed by itself: +1 for more fuel, 0 for neither.

    A death or a dip shows it as well where lambda was read; there the measured need is followed.
    """
    odds = run_up_log_odds(case) if case.hung else 0.0
    return 0 if abs(odds) < _SHOWN else (1 if odds > 0.0 else -1)


def _by_engine_data(case: Case) -> float:
    """Return the log odds that the need lies above the table by the engine data alone. [–]"""
    value = case.value("cranking_fuel")
    expected = expected_start_value(case.setting.spec, "cranking_fuel", case.figures.coolant_c)
    return _above(expected, value, _DATA_SPREAD)


def _above(expected: float, value: float, spread: float) -> float:
    """Return the log odds that a need about the engine data lies above a value, limited. [–]"""
    above = float(ndtr(math.log(expected / max(value, 1.0)) / spread))
    above = min(max(above, 1e-6), 1.0 - 1e-6)
    return min(_DATA_MOST, max(-_DATA_MOST, math.log(above / (1.0 - above))))
