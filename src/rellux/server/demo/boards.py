"""The pitch plate's board: how it prints, and what it takes."""

from typing import Any

PLATE_LINES: dict[str, Any] = {
    "kind": "named",
    "keys": ["T", "SP", "OUT", "ON", "BOX"],
    "roles": {"reading": "T", "setpoint": "SP", "output": "OUT", "switch": "ON", "air": "BOX"},
    "unit": "C",
    "output_scale": "percent",
    "divider": ",",
    "decimal": ".",
}
PLATE_COMMANDS: dict[str, Any] = {
    "rows": [
        {"name": "setpoint_c", "send": "SP {value}", "low": 20.0, "high": 80.0},
        {
            "name": "mode",
            "send": "RUN {value}",
            "ask": "RUN?",
            "answer": "RUN={value}",
            "words": {"off": "0", "on_off": "1", "pid": "2"},
        },
        {"name": "proportional_band_c", "send": "PB {value}", "ask": "PB?", "answer": "PB={value}", "decimals": 2},
        {"name": "integral_time_s", "send": "TI {value}", "ask": "TI?", "answer": "TI={value}", "decimals": 0},
    ],
    "safe_off": [{"name": "mode", "value": "off"}],
}
