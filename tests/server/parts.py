"""Parts for tests, invented, as they travel."""

COOLANT = {
    "function": "coolant",
    "name": "Sender in the housing",
    "transfer": {
        "kind": "thermistor",
        "pull_up_ohm": 2490,
        "points": [[-20, 15460], [20, 2500], [100, 186]],
    },
    "provenance": "measured",
}
MAP = {
    "function": "manifold_pressure",
    "name": "Plenum",
    "transfer": {"kind": "linear", "points": [[0.4, 20], [4.65, 250]]},
    "provenance": "data_sheet",
}
INTAKE = {**COOLANT, "function": "intake_air", "name": "Air"}
THROTTLE = {
    "function": "throttle",
    "name": "Pot",
    "transfer": {"kind": "linear", "points": [[0.6, 0], [4.2, 100]]},
}
WIDEBAND = {
    "function": "wideband",
    "name": "Gauge with output",
    "transfer": {"kind": "linear", "points": [[0, 0.68], [5, 1.36]]},
}
PRESSURE = {
    "function": "fuel_pressure",
    "name": "Rail",
    "transfer": {"kind": "linear", "points": [[0.5, 0], [4.5, 1000]]},
}
BATTERY = {
    "function": "battery",
    "name": "Own input",
    "transfer": {"kind": "linear", "points": [[0, 0], [20, 20]]},
}
SENSORS = [THROTTLE, MAP, COOLANT, INTAKE, WIDEBAND, PRESSURE, BATTERY]
PAIRS = [[0.8, 0.79], [0.9, 0.885], [1.0, 0.985], [1.1, 1.09], [1.2, 1.185]]
INJECTORS = {
    "name": "Four of a kind",
    "count": 4,
    "flow": 390,
    "dead_time": {"voltage_v": [8, 12, 14], "dead_time_ms": [[2.4, 1.2, 0.9]]},
    "provenance": "data_sheet",
}
SUPPLY = {
    "name": "In the tank",
    "readings": [
        {"voltage_v": 13.5, "pressure_kpa": 200, "flow_l_h": 134},
        {"voltage_v": 13.5, "pressure_kpa": 300, "flow_l_h": 120},
        {"voltage_v": 13.5, "pressure_kpa": 400, "flow_l_h": 104},
    ],
    "provenance": "data_sheet",
}
TRIGGER = {
    "kind": "pattern",
    "pattern": "36−1 with cam",
    "offset_deg": 90.0,
    "firing_order": [1, 3, 4, 2],
}
COIL = {
    "name": "One at each plug",
    "coil": {"resistance_ohm": 0.5, "inductance_mh": 3.0, "current_a": 8.0},
    "provenance": "measured",
}
READINGS = [
    {"rpm": 900, "commanded_deg": 10, "seen_deg": 12},
    {"rpm": 2500, "commanded_deg": 10, "seen_deg": 11.5},
    {"rpm": 4500, "commanded_deg": 10, "seen_deg": 11},
]
WIRES = [
    {"name": "red", "open_v": 5.0},
    {"name": "black", "open_v": 0.0, "ground_ohm": 0.5},
    {"name": "green", "open_v": 2.1},
]
PIN_LIST = "pin;ability\nA1;battery supply\nA2;power ground\nA3;low side\n"

#: Limits of full load.
LIMITS = {
    "boost_kpa": 200.0, "leanest": 0.95, "exhaust_c": 950.0, "knock": 2.0, "duty_pct": 88.0, "pressure_falls_kpa": 25.0,
    "charge_c": 80.0, "speed_rpm": 7000.0,
}  # fmt: skip
