"""Send a log as a logger of one's own would: python examples/send_lines.py LOG PLACE [TIMES]

PLACE is a file that is appended to. Point the server at it (INBETRIEB_LIVE_LINES=PLACE), open the live link and listen.
"""

import json
import sys
import time
from pathlib import Path

import numpy as np
from inbetrieb_core.logs import import_log


def main(log: str, place: str, times: str = "1") -> None:
    trace = import_log(Path(log).read_bytes()).trace
    began, quicker = time.monotonic(), float(times)
    with Path(place).open("a", buffering=1) as out:
        for row, moment in enumerate(trace.time_s):
            time.sleep(max(0.0, moment / quicker - (time.monotonic() - began)))
            sample = {
                name: values[row]
                for name, values in trace.channels.items()
                if np.isfinite(values[row])
            }
            out.write(json.dumps(sample) + "\n")


if __name__ == "__main__":
    main(*sys.argv[1:])
