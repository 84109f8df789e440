"""What stops the work at a first start. Common practice, no source."""

from __future__ import annotations

#: Oil pressure that is some, when cranked and when it runs; within so long. [kPa, kPa, s]
CRANKED_OIL_KPA, RUNNING_OIL_KPA, OIL_WITHIN_S = 30.0, 100.0, 5.0
#: The starter turns so long, then rests so long. [s]
CRANK_S, REST_S = 10.0, 30.0
CHARGING_V = (13.0, 15.0)
HOTTEST_C = 105.0
TIMING_DEG = 2.0
#: Fuel pressure at prime, as a share of what is wanted, and its fall in a minute. [–, kPa]
PRIME_SHARE, FALL_KPA = (0.85, 1.2), 60.0
#: Leaner than this, nothing is loaded. [–]
LEANEST = 1.15
#: A wideband reads between these; outside of them it says nothing. [–]
LAMBDA_READS = (0.66, 1.34)
#: From this manifold pressure on the engine is under load. [kPa]
UNDER_LOAD_KPA = 60.0
#: A speed so far above what it should idle at, the pedal at rest, runs away. [1/min]
RUNS_AWAY_RPM = 1500.0
