"""Whether a column is what was measured, what was asked for, or something derived from it.

The words are those of the field in English, German, French, Spanish and Italian.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from typing import Literal

Role = Literal["measured", "target", "plain"]

_TARGET_WORDS = """
target tgt trgt targ desired des desir soll sollwert sollw vorgabe ziel zielwert
setpoint setpt set sp stp command commanded cmd cmded comm request requested req rqst
demand demanded dmd wanted goal aim nominal consigne cons cible vise visee voulu voulue
demande demandee commande objetivo obj consigna deseado deseada demandado demandada
mando referencia obiettivo obbiettivo richiesto richiesta comandato comandata desiderato
desiderata riferimento
"""
TARGET_WORDS = frozenset(_TARGET_WORDS.split())
_MEASURED_WORDS = """
act actual measured meas mes msd ist istwert istw gemessen messwert mess real live
current sensed reading read feedback fb fbk mesure mesuree reel reelle actuel actuelle
lu lue releve medido medida actuales leido leida misurato misurata misura reale
effettivo effettiva attuale letto letta true sensor probe sonde sonda fuhler
"""
MEASURED_WORDS = frozenset(_MEASURED_WORDS.split())
#: Role words that may be grown together with the quantity, such as "solldrehzahl" or "lambdaist".
_GROWN = (
    "sollwert", "istwert", "zielwert", "soll", "ist", "ziel", "target", "tgt", "actual", "act", "meas",
    "cmd", "setpoint", "desired", "des",
)  # fmt: skip
#: Channels of which the command is the quantity itself: nobody measures them back.
COMMANDED = frozenset(["idle_valve_pct", "spark_deg", "pulse_ms", "boost_duty_pct"])
#: The channel that holds the target of another.
TARGET_OF = {"lambda": "lambda_target"}
_IDLE_WORDS = frozenset(["idle", "idling", "leerlauf", "ralenti", "minimo", "isc"])


def split_grown(words: Sequence[str], known: Collection[str]) -> tuple[str, ...]:
    """Return words with role words parted from the quantities they have grown together with.

    Parameters
    ----------
    words : sequence of str
        Of a normalised column name.
    known : collection of str
        Whole spellings of quantities, which alone may stand beside a role word.
    """
    return tuple(part for word in words for part in _parted(word, known))


def _parted(word: str, known: Collection[str]) -> Iterator[str]:
    if word in known or word in TARGET_WORDS or word in MEASURED_WORDS:
        yield word
        return
    for role in _GROWN:
        if word.startswith(role) and word[len(role) :] in known:
            yield role
            yield word[len(role) :]
            return
        if word.endswith(role) and word[: -len(role)] in known:
            yield word[: -len(role)]
            yield role
            return
    yield word


def role_of(words: Sequence[str]) -> tuple[Role, tuple[str, ...]]:
    """Return the role that a name states, and its words without those that state it.

    Parameters
    ----------
    words : sequence of str
        Of a normalised column name.

    Returns
    -------
    role : {"measured", "target", "plain"}
        Plain where nothing is said; a name that says both is a target.
    rest : tuple of str
        The quantity.
    """
    said = [word in TARGET_WORDS for word in words]
    rest = tuple(w for w in words if w not in TARGET_WORDS and w not in MEASURED_WORDS)
    if any(said):
        return "target", rest
    return ("measured" if len(rest) < len(words) else "plain"), rest


def speaks_of_idle(words: Sequence[str]) -> bool:
    """Say whether a name speaks of idle."""
    return any(word in _IDLE_WORDS or word.startswith("leerlauf") for word in words)
