"""Generic part types, no brands. Terminal names follow common usage; numbers on a real part may differ."""

from .model import Closed, PartType, Path, Role, Terminal


def _t(name: str, role: Role, side: str = "right") -> Terminal:
    return Terminal(name, role, side)


_LIST = (
    PartType(
        "supply_1ph",
        "Supply",
        (_t("L", Role.LIVE), _t("N", Role.NEUTRAL), _t("PE", Role.EARTH)),
    ),
    PartType("supply_dc", "DC supply", (_t("+", Role.DC_PLUS), _t("-", Role.DC_MINUS))),
    PartType(
        "breaker",
        "Breaker",
        (_t("1", Role.POWER, "left"), _t("2", Role.POWER)),
        (Path("1", "2", Closed.ALWAYS, breaks=True),),
    ),
    PartType(
        "fuse",
        "Fuse",
        (_t("1", Role.POWER, "left"), _t("2", Role.POWER)),
        (Path("1", "2", Closed.ALWAYS, breaks=True),),
    ),
    PartType(
        "contactor",
        "Contactor",
        (_t("1", Role.CONTACT, "left"), _t("2", Role.CONTACT), _t("A1", Role.COIL, "left"), _t("A2", Role.COIL)),
        (Path("1", "2", Closed.COIL), Path("A1", "A2", Closed.LOAD)),
    ),
    PartType(
        "relay",
        "Power relay",
        (
            _t("COM", Role.CONTACT, "left"),
            _t("NO", Role.CONTACT),
            _t("NC", Role.CONTACT),
            _t("A1", Role.COIL, "left"),
            _t("A2", Role.COIL),
        ),
        (Path("COM", "NO", Closed.COIL), Path("COM", "NC", Closed.NOT_COIL), Path("A1", "A2", Closed.LOAD)),
    ),
    PartType(
        "ssr",
        "Solid state relay",
        (
            _t("1", Role.CONTACT, "left"),
            _t("2", Role.CONTACT),
            _t("3+", Role.DRIVE_PLUS, "left"),
            _t("4-", Role.DRIVE_MINUS, "left"),
        ),
        (Path("1", "2", Closed.DRIVEN),),
    ),
    PartType(
        "controller_relay",
        "Controller, relay output",
        (
            _t("L", Role.SUPPLY_IN, "left"),
            _t("N", Role.SUPPLY_IN, "left"),
            _t("COM", Role.CONTACT),
            _t("NO", Role.CONTACT),
            _t("NC", Role.CONTACT),
            _t("IN+", Role.SENSOR_PLUS),
            _t("IN-", Role.SENSOR_MINUS),
            _t("IN3", Role.SENSOR),
        ),
        (Path("COM", "NO", Closed.OUTPUT), Path("COM", "NC", Closed.NOT_OUTPUT), Path("L", "N", Closed.LOAD)),
    ),
    PartType(
        "controller_ssr",
        "Controller, SSR drive",
        (
            _t("L", Role.SUPPLY_IN, "left"),
            _t("N", Role.SUPPLY_IN, "left"),
            _t("OUT+", Role.DRIVE_PLUS),
            _t("OUT-", Role.DRIVE_MINUS),
            _t("IN+", Role.SENSOR_PLUS),
            _t("IN-", Role.SENSOR_MINUS),
            _t("IN3", Role.SENSOR),
        ),
        (Path("L", "N", Closed.LOAD),),
    ),
    PartType(
        "limiter",
        "Independent limiter",
        (
            _t("L", Role.SUPPLY_IN, "left"),
            _t("N", Role.SUPPLY_IN, "left"),
            _t("COM", Role.CONTACT),
            _t("OK", Role.CONTACT),
            _t("TRIP", Role.CONTACT),
            _t("IN+", Role.SENSOR_PLUS),
            _t("IN-", Role.SENSOR_MINUS),
        ),
        (Path("COM", "OK", Closed.LIMIT_OK), Path("COM", "TRIP", Closed.LIMIT_TRIPPED), Path("L", "N", Closed.LOAD)),
    ),
    PartType("thermocouple", "Thermocouple", (_t("+", Role.SENSOR_PLUS, "left"), _t("-", Role.SENSOR_MINUS, "left"))),
    PartType(
        "pt100",
        "Pt100, 3-wire",
        (_t("A", Role.SENSOR_PLUS, "left"), _t("B", Role.SENSOR_MINUS, "left"), _t("B2", Role.SENSOR, "left")),
    ),
    PartType("pt1000", "Pt1000, 2-wire", (_t("A", Role.SENSOR_PLUS, "left"), _t("B", Role.SENSOR_MINUS, "left"))),
    PartType(
        "heater",
        "Heater",
        (_t("1", Role.POWER, "left"), _t("2", Role.POWER, "left")),
        (Path("1", "2", Closed.LOAD),),
    ),
    PartType("enclosure", "Metal enclosure", (_t("PE", Role.EARTH, "left"),)),
)

PART_TYPES = {t.kind: t for t in _LIST}
