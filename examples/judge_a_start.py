"""Judge the starts of a log: python examples/judge_a_start.py demo/kranich-morning.csv"""

import sys
from pathlib import Path

from inbetrieb_core.basemaps import generate
from inbetrieb_core.engine import engine_of
from inbetrieb_core.engine_data import EngineEntry, InjectorsEntry
from inbetrieb_core.logs import import_log
from inbetrieb_core.sentences import plain
from inbetrieb_core.starts import StartSetting, find_starts, judge_log

# What is known of the engine; everything else is taken as usual, and said to be assumed.
ENGINE = engine_of(
    EngineEntry(
        displacement_l=2.2, chambers=4, compression_ratio=10.2, cam="moderate", rev_limit_rpm=6600.0, torque_peak_rpm=4300.0,
        injectors=InjectorsEntry(flow_cm3_min=390.0),
    )
)  # fmt: skip


def main(path: str) -> None:
    log = import_log(Path(path).read_bytes())
    tables = generate(ENGINE)
    starts = find_starts(log.trace, ENGINE.crank_to_run_rpm)
    if not starts:
        print("There is no start in this log.")
    for number, _ in enumerate(starts, 1):
        start = judge_log(log.trace, tables, StartSetting(ENGINE), start_number=number)
        print(f"Start {number}: {plain(start.sentence)}")
        for advice in start.advice[:1]:
            print(f"  {plain(advice.reason)}")


if __name__ == "__main__":
    main(sys.argv[1])
