"""Figures of the trade on which more than one rule rests (common practice, no source)."""

from __future__ import annotations

#: The usual boost valve does nothing below, and nothing more above. [%]
BOOST_VALVE_LEAST_PCT, BOOST_VALVE_MOST_PCT = 10.0, 90.0
#: Authority of the mixture loop that does not yet hide a fault, up and down. [%]
LOOP_AUTHORITY_PCT = 10.0
#: What a gauge or a table calls lambda 1 where it shows an air–fuel ratio of petrol. [–]
PETROL_GAUGE_AFR = 14.7
