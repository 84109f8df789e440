"""Column names as words, and words that make a name mean something else."""

from __future__ import annotations

import functools
import re
import unicodedata

_OTHER_MEANING = """
error err limit limiter delta rate dot deriv derivative change min max minimum maximum
avg average status flag raw adc count counts counter bias comp compensation correction
corr trim table bin cell base initial offset filtered prediction predicted idle launch
cut 2 3 4 5 6 7 8 b2 bank2 accel protection barometric baro ambient oil fuel exhaust egt
gear gearbox trans transmission gauge differential fehler abweichung differenz grenze
schwelle mittel mittelwert erreur ecart limite moyenne desviacion media errore scarto
integral slope gradient threshold enable active aktiv source factor multiplier mult
enrichment enrich anreicherung timer duty
"""
#: Words that make a name mean something else than the measured quantity itself.
OTHER_MEANING = frozenset(_OTHER_MEANING.split())


@functools.lru_cache(maxsize=4096)  # every head is asked of for every channel
def normalise_name(text: str) -> str:
    """Return a column name in lower case, accents dropped, words parted by one space.

    Words are parted at spaces, punctuation, and where lower case turns to upper case.
    """
    text = re.sub(r"(?<=[a-zäöüé])(?=[A-ZÄÖÜ])", " ", text)
    text = re.sub(r"(?<=[A-Z])(?=[A-Z][a-z])", " ", text)
    text = text.replace("λ", " lambda ").replace("Λ", " lambda ")
    text = unicodedata.normalize("NFKD", text.casefold())  # ß as ss
    text = "".join(character for character in text if not unicodedata.combining(character))
    text = re.sub(r"(?<=[a-z])(?=\d)|(?<=\d)(?=[a-z])", " ", text)
    text = re.sub(r"[^a-z0-9]+", " ", text).strip()
    return text.replace("o 2", "o2").replace("wbo 2", "wbo2")
