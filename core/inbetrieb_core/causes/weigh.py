"""From what a job's logs show to ranked causes: probabilities, evidence, and the deciding test."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..charge.cold_fuel import WARM_C
from ..engine import EngineSpec
from ..logs.names import CHANNELS
from ..sentences import fixed, quantity
from .air import AirFit, fit_air
from .alike import alike, deciding_test
from .catalogue import CAUSES, MANOEUVRES, TABLES, TABLES_WEIGHT, Telling
from .mixture import MixtureFit, fit_mixture
from .observed import Observed, Stretch
from .signs import Sign, Size, failed_with, signs_of

#: A start that was accepted in spite of a cause speaks against it.
_ACCEPTED = -3.0
#: Starts nearer than this tell the same. [K]
_APART_K = 12.0
#: An engine that lived shorter never was steady. [s]
_STEADY_S = 25.0
#: From which odds on a sign is worth telling, and from which probability on a cause is.
_TELLING, _WORTH = 0.7, 0.02


@dataclass(frozen=True)
class Ranked:
    """One candidate.

    Attributes
    ----------
    key, title, family : str
        Of the cause; :data:`TABLES` for the tables.
    probability : float
        Of all candidates. [–]
    evidence : tuple of str
        What speaks for it, the strongest first.
    told : bool
        Whether the logs have what tells it.
    size : Size or None
        How large it would be, by the evidence that tells it best.
    """

    key: str
    title: str
    family: str
    probability: float
    evidence: tuple[str, ...]
    told: bool
    size: Size | None = None


@dataclass(frozen=True)
class Diagnosis:
    """What the logs say of the causes.

    Attributes
    ----------
    ranked : tuple of Ranked
        The most probable first; the tables are one of them.
    leading : str
        Key of the leading candidate: the tables, or the best of the leading family.
    alike : tuple of str
        Keys of causes that these logs cannot tell from the leading one, be it a table or a cause.
    test : str
        The test that tells the leading candidate from the next; empty where none is next.
    not_told : tuple of Telling
        Causes that these logs cannot tell, with what would.
    """

    ranked: tuple[Ranked, ...]
    leading: str
    alike: tuple[str, ...]
    test: str
    not_told: tuple[Telling, ...]

    @property
    def blocks(self) -> bool:
        """Whether the leading cause is under the bonnet: then no table is changed."""
        return self.leading != TABLES

    def probability(self, key: str) -> float:
        """Return the probability of a candidate. [–]"""
        return next((r.probability for r in self.ranked if r.key == key), 0.0)


def diagnose(logs: Sequence[Observed], spec: EngineSpec) -> Diagnosis:
    """Return the causes of what a job's logs show.

    Parameters
    ----------
    logs : sequence of Observed
        Oldest first; the last is the start in question. Earlier ones are read together with it
        for what a single log cannot tell.
    spec : EngineSpec
        The engine.
    """
    here = logs[-1]
    logs = _apart(logs)
    signs = list(signs_of(here, spec))
    mixture = fit_mixture([_trusted(log) for log in logs], spec, here.map_spread)
    if mixture is not None:
        signs += _mixture_signs(mixture, here)
    signs += _air_signs(fit_air(logs, spec))
    signs += failed_with(logs)
    if here.accepted:
        signs += [Sign(key, _ACCEPTED) for key in CAUSES]
    spoken = dict.fromkeys(CAUSES, 0.0)
    for sign in signs:
        spoken[sign.cause] += sign.log_odds
    weights = {key: CAUSES[key].weight * math.exp(value) for key, value in spoken.items()}
    weights[TABLES] = TABLES_WEIGHT
    whole = sum(weights.values())
    told = {telling.cause.key: telling for telling in tellings(here)}
    ranked = tuple(
        _ranked(key, weight / whole, signs, key == TABLES or told[key].told)
        for key, weight in sorted(weights.items(), key=lambda item: -item[1])
        if weight / whole >= _WORTH or key == TABLES
    )
    leading = _leading(ranked)
    likewise = alike(leading, ranked, spoken, here.wrong)
    return Diagnosis(
        ranked,
        leading,
        likewise,
        deciding_test(leading, likewise, ranked, lives=here.ran and not here.stalled),
        tuple(telling for telling in told.values() if not telling.told),
    )


def _trusted(log: Observed) -> tuple[Stretch, ...]:
    """Return the stretches whose mixture counts: an engine that dies soon is not steady."""
    return () if log.stalled and log.ran_s < _STEADY_S else log.stretches


def _apart(logs: Sequence[Observed]) -> list[Observed]:
    """Return the last log of each temperature: what is not known of an engine does not cancel
    where the same start is repeated, it only looks surer."""
    last = {round(log.coolant_c / _APART_K): number for number, log in enumerate(logs)}
    return [log for number, log in enumerate(logs) if number in last.values()]


def tellings(log: Observed) -> tuple[Telling, ...]:
    """Return for every cause whether a log can tell it, and what would.

    Parameters
    ----------
    log : Observed
        The log.
    """
    done = {"cranking"} if log.turned else set()
    if log.rest_map_kpa is not None or log.battery_rest_v is not None:
        done.add("key on")
    if log.ran:
        done.add("start")
        if any(s.coolant_c >= WARM_C for s in log.stretches):
            done.add("warm idle")
    if log.lambda_lag_s is not None or log.rail_falls is not None:
        done.add("fast idle")
    result = []
    for cause in CAUSES.values():
        lacks = tuple(name for name in cause.channels if name not in log.channels)
        manoeuvre = any(way in done for way in cause.manoeuvres)
        do = ""
        if lacks:
            do = f"Log {' and '.join(_channel(name) for name in lacks)}, too."
        elif not manoeuvre:
            do = MANOEUVRES[cause.manoeuvres[0]]
        result.append(Telling(cause, not lacks and manoeuvre, lacks, do))
    return tuple(result)


def _channel(name: str) -> str:
    return CHANNELS[name].title.lower()


def _mixture_signs(fit: MixtureFit, here: Observed) -> list[Sign]:
    signs = []
    for cause, odds in fit.log_odds.items():
        if cause == "low-pressure" and here.rail_share is not None:
            continue  # measured, so not guessed
        size = _size_of(cause, *fit.sizes[cause])
        signs.append(Sign(cause, odds, f"{_needs(fit)}: as if {_as_if(cause, size)}.", size))
    return signs


def _as_if(cause: str, size: Size) -> str:
    """Return what the mixture would mean if it were this cause."""
    over = size.value > 0
    if cause == "dead-time":
        return f"dead time were {_said(size)} {'longer' if over else 'shorter'}"
    if cause == "map-sensor":
        return f"the manifold sensor read {_said(size)} {'too high' if over else 'too low'}"
    if cause == "wideband-biased":
        return f"the wideband read {_said(size)} {'lean' if over else 'rich'}"
    what = "fuel pressure" if cause == "low-pressure" else "the flow"
    return f"{what} were {_share(size)} of what was entered"


def _said(size: Size) -> str:
    """Return a size without its sign, with its error."""
    decimals = {"%": 0, "ms": 2, "kPa": 1}[size.unit]
    value = quantity(abs(size.value), size.unit, decimals, bare=True)
    return f"{value} ± {quantity(size.error, size.unit, decimals)}"


def _share(size: Size) -> str:
    """Return a departure in percent as the share that there is."""
    return f"{fixed(100.0 + size.value, 0)} ± {fixed(size.error, 0)} %"


def _needs(fit: MixtureFit) -> str:
    percent = 100.0 * math.expm1(fit.residual)
    return (
        f"The mixture needs {abs(percent):.0f} % {'more' if percent > 0 else 'less'} fuel than "
        f"the engine should, over {fit.stretches} readings"
    )


def _size_of(cause: str, size: float, error: float) -> Size:
    """Return how large a cause of the mixture is; the fit tells ln shares, milliseconds or kilopascal."""
    if cause == "dead-time":
        return Size(round(size, 3), round(error, 3), "ms")
    if cause == "map-sensor":
        # More pressure than the sensor shows means that more fuel is needed.
        return Size(round(-size, 1), round(error, 1), "kPa")
    # Less fuel than entered means that more is needed; flow goes with the root of pressure; and a
    # biased sensor shows what seems to be needed.
    power = {"wideband-biased": 1.0, "low-pressure": -2.0}.get(cause, -1.0)
    return _in_percent(power * size, abs(power) * error)


def _in_percent(off: float, error: float) -> Size:
    """Return a logarithm and its error as a departure in percent. [ln]"""
    share = math.exp(off)
    return Size(round(100.0 * (share - 1.0), 1), round(100.0 * share * error, 1), "%")


def _air_signs(fit: AirFit) -> list[Sign]:
    """Return what air says in all logs together."""
    surplus, size, effort = "", None, ""
    if fit.surplus is not None:
        size = _in_percent(fit.surplus, fit.surplus_error)
        surplus = f"It has {_share(size)} of the air that valve and stop should pass as commanded."
    if fit.effort is not None:
        effort = (
            f"It draws {100 * math.exp(fit.effort):.0f} % of the air that this speed should need."
        )
    sized = ("air-leak", "too-little-air")
    return [
        Sign(
            cause,
            odds,
            effort if cause == "timing-off" else surplus,
            size if cause in sized else None,
        )
        for cause, odds in fit.log_odds.items()
    ]


def _ranked(key: str, probability: float, signs: Sequence[Sign], told: bool) -> Ranked:
    if key == TABLES:
        return Ranked(key, "a table that is not right yet", TABLES, round(probability, 4), (), True)
    cause = CAUSES[key]
    mine = sorted((s for s in signs if s.cause == key), key=lambda sign: -sign.log_odds)
    evidence = tuple(s.sentence for s in mine if s.log_odds >= _TELLING and s.sentence)
    sizes = [s.size for s in mine if s.size is not None and s.log_odds >= _TELLING]
    size = min(sizes, key=lambda one: one.error, default=None)
    return Ranked(key, cause.title, cause.family, round(probability, 4), evidence, told, size)


def _leading(ranked: Sequence[Ranked]) -> str:
    """Return the best candidate of the family that is together the most probable."""
    families: dict[str, float] = {}
    for entry in ranked:
        families[entry.family] = families.get(entry.family, 0.0) + entry.probability
    best = max(families, key=lambda family: families[family])
    return next(entry.key for entry in ranked if entry.family == best)
