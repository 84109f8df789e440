"""The starts of a log in a list, before any of them becomes a trial."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..errors import CoreError
from ..logs.trace import Trace
from ..tables import Calibration
from .judge import judge_start
from .model import StartSetting
from .outcomes import Verdict
from .window import mended, starts_in

#: A log of so many starts is no log of starts.
MOST_STARTS = 200


@dataclass(frozen=True)
class StartSeen:
    """One start of a log.

    Attributes
    ----------
    number : int
        From 1.
    begin_s, end_s : float
        In the log. [s]
    coolant_c : float or None
        At its begin. [°C]
    verdict : str or None
        None where it cannot be judged.
    good : bool
        Whether it is acceptable.
    sentence : str
        What happened, or why it cannot be judged.
    """

    number: int
    begin_s: float
    end_s: float
    coolant_c: float | None
    verdict: Verdict | None
    good: bool
    sentence: str


def starts_seen(
    trace: Trace, calibration: Calibration, setting: StartSetting
) -> Iterator[StartSeen]:
    """Yield every start of a log as it would be judged on its own.

    Parameters
    ----------
    trace : Trace
        The log.
    calibration : Calibration
        Tables in force.
    setting : StartSetting
        Engine and circumstances.

    Raises
    ------
    CoreError
        If the log holds no start, or more than anybody makes.
    """
    log = mended(trace)
    windows = starts_in(log, setting.spec.crank_to_run_rpm)
    if len(windows) > MOST_STARTS:
        raise CoreError(
            f"The log seems to hold {len(windows)} starts; up to {MOST_STARTS} are read. Is another "
            "column the engine speed?"
        )
    for number, window in enumerate(windows, start=1):
        try:
            said = judge_start(log, windows, calibration, setting, (), number)
        except CoreError as error:
            yield StartSeen(number, window.begin_s, window.end_s, None, None, False, str(error))
            continue
        yield StartSeen(
            number,
            window.begin_s,
            window.end_s,
            said.figures.coolant_c,
            said.verdict,
            said.good,
            f"{said.sentence} {said.acceptance.sentence}".rstrip(),
        )
