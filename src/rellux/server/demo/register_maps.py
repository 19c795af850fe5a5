"""Invented devices of the optics shop, as their register maps."""

from typing import Any

KILN: dict[str, Any] = {
    "title": "Kiln controller, grey",
    "gap": 4,
    "link_loss": "Heat off.",
    "offset_school": "added_to_reading",
    "registers": [
        {"name": "reading_c", "address": "30001", "coding": "float32", "order": "CDAB"},
        {
            "name": "setpoint_c",
            "address": "40001",
            "coding": "float32",
            "order": "CDAB",
            "writable": True,
            "low": 0,
            "high": 1200,
        },
        {"name": "output", "address": "30003", "coding": "uint16", "scale": 10},
        {"name": "switch", "address": "30004", "coding": "bit", "bit": 0},
        {"name": "alarm_1", "address": "30004", "coding": "bit", "bit": 4},
        {"name": "sensor_fault", "address": "30004", "coding": "bit", "bit": 7},
        {"name": "clock_s", "address": "30011", "coding": "uint32", "scale": 10},
        {"name": "link_timer_s", "address": "30013"},
        {"name": "mode", "address": "40010", "choices": ["off", "on_off", "pid"], "codes": [0, 1, 2], "writable": True},
        {
            "name": "proportional_band_c",
            "address": "40011",
            "scale": 10,
            "writable": True,
            "stored": True,
            "endurance": 100_000,
        },
        {"name": "integral_time_s", "address": "40012", "writable": True, "stored": True, "endurance": 100_000},
        {"name": "derivative_time_s", "address": "40013", "writable": True, "stored": True, "endurance": 100_000},
        {"name": "period_s", "address": "40014", "scale": 10, "writable": True, "stored": True, "endurance": 100_000},
        {"name": "offset_c", "address": "40015", "scale": 10, "writable": True, "stored": True, "endurance": 100_000},
        {"name": "auto_tune", "address": "40016", "choices": ["off", "on"], "writable": True},
    ],
    "safe_off": {
        "writes": [["mode", "off"], ["auto_tune", "off"]],
        "off_when": [["mode", "off"], ["output", 0], ["switch", 0]],
    },
}
LOGGER: dict[str, Any] = {
    "title": "Four-channel logger, read only",
    "registers": [
        {"name": "reading_c", "address": 512, "scale": 10, "no_value": [32767]},
        {"name": "second_c", "address": 513, "scale": 10, "no_value": [32767]},
        {"name": "load_c", "address": 514, "scale": 10, "no_value": [32767]},
        {"name": "air_c", "address": 515, "scale": 10, "no_value": [32767]},
    ],
}
METER: dict[str, Any] = {
    "title": "Supply meter, read only",
    "registers": [
        {"name": "supply_v", "address": "30001", "coding": "float32"},
        {"name": "load_a", "address": "30007", "coding": "float32"},
        {"name": "power_w", "address": "30013", "coding": "float32"},
    ],
}
