"""What a mixture that is off costs an idling engine: work of the same air."""

from __future__ import annotations

import math

#: Most work of the same air is made a little rich. [–]
BEST_LAMBDA = 0.9
#: Share of work that is lost, per square of ln(λ / best): lean burns late and unevenly at an idle's late
#: spark, rich wants for air. Handbook curves of mean pressure over mixture at fixed air lose 6 to 8 % at
#: lambda 1.1, 15 % and more at 1.2, 5 to 10 % at 0.7 (from memory; Heywood ch. 15). [–]
_LEAN_COSTS, _RICH_COSTS = 2.2, 1.7
#: Farther off nothing is told: it misfires. [ln]
_FARTHEST = 0.45


def work_ln(lambda_: float) -> float:
    """Return ln(work of the same air ÷ the most that any mixture makes).

    Parameters
    ----------
    lambda_ : float
        Of the charge, above 0. [–]

    Returns
    -------
    float
        At most 0. [–]
    """
    off = max(-_FARTHEST, min(_FARTHEST, math.log(lambda_ / BEST_LAMBDA)))
    costs = _LEAN_COSTS if off > 0.0 else _RICH_COSTS
    return math.log1p(-costs * off * off)
