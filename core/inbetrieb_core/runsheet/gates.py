"""What a missing gate risks at the first start, in one sentence each. Common practice, no source."""

from __future__ import annotations

GATE_RISKS: dict[str, str] = {
    "intake": "What somebody else left in the controller decides the first start.",
    "wiring": "A wrong pin can burn a driver, or hold an injector open.",
    "sensors": "Fuel and spark follow a temperature or a pressure that is not there.",
    "injectors": "Every pulse is wrong by the same share: flooded, or lean under load.",
    "trigger": "Spark at the wrong moment: it kicks back, or fires into the intake.",
    "base-maps": "The tables themselves say stop.",
    "hot-idle": "What was read of an earlier idle speaks against it: it may not hold by itself.",
}
