"""Generic part types, no brands. Terminal names follow common usage; numbers on a real part may differ."""

from .model import Closed, PartType, Path, Role, Terminal


def _t(name: str, role: Role, side: str = "right") -> Terminal:
    return Terminal(name, role, side)


def _pairs(poles: int) -> tuple[tuple[str, str], ...]:
    """Terminals of each pole: 1-2, 3-4, 5-6."""
    return tuple((str(2 * i + 1), str(2 * i + 2)) for i in range(poles))


def _poles(poles: int, role: Role) -> tuple[Terminal, ...]:
    return tuple(_t(name, role, side) for a, b in _pairs(poles) for name, side in ((a, "left"), (b, "right")))


def _breaker(poles: int) -> PartType:
    paths = tuple(Path(a, b, Closed.ALWAYS, breaks=True) for a, b in _pairs(poles))
    return PartType(f"breaker_{poles}p", f"Breaker, {poles} poles", _poles(poles, Role.POWER), paths, of="breaker")


def _contactor(poles: int) -> PartType:
    coil = (_t("A1", Role.COIL, "left"), _t("A2", Role.COIL))
    paths = (*(Path(a, b, Closed.COIL) for a, b in _pairs(poles)), Path("A1", "A2", Closed.LOAD))
    return PartType(
        f"contactor_{poles}p", f"Contactor, {poles} poles", (*_poles(poles, Role.CONTACT), *coil), paths, of="contactor"
    )


_LIST = (
    PartType(
        "supply_1ph",
        "Supply",
        (_t("L", Role.LIVE), _t("N", Role.NEUTRAL), _t("PE", Role.EARTH)),
        of="supply",
    ),
    PartType(
        "supply_split",
        "Supply, split-phase",
        (_t("L1", Role.LIVE), _t("L2", Role.LIVE), _t("N", Role.NEUTRAL), _t("PE", Role.EARTH)),
        of="supply",
    ),
    PartType(
        "supply_3ph",
        "Supply, three-phase",
        (
            _t("L1", Role.LIVE),
            _t("L2", Role.LIVE),
            _t("L3", Role.LIVE),
            _t("N", Role.NEUTRAL),
            _t("PE", Role.EARTH),
        ),
        of="supply",
    ),
    PartType("supply_dc", "DC supply", (_t("+", Role.DC_PLUS), _t("-", Role.DC_MINUS)), of="supply"),
    *(_breaker(poles) for poles in (2, 3)),
    *(_contactor(poles) for poles in (2, 3)),
    PartType(
        "ssr_3p",
        "Solid state relay, three legs",
        (*_poles(3, Role.CONTACT), _t("A1+", Role.DRIVE_PLUS, "left"), _t("A2-", Role.DRIVE_MINUS, "left")),
        tuple(Path(a, b, Closed.DRIVEN) for a, b in _pairs(3)),
        of="ssr",
    ),
    PartType(
        "heater_3ph",
        "Heaters, three in star",
        tuple(_t(n, Role.POWER, "left") for n in ("1", "2", "3")),
        (Path("1", "2", Closed.LOAD), Path("2", "3", Closed.LOAD), Path("3", "1", Closed.LOAD)),
        of="heater",
    ),
    PartType(
        "mosfet",
        "MOSFET board",
        (
            _t("VIN+", Role.POWER, "left"),
            _t("VIN-", Role.POWER, "left"),
            _t("SIG", Role.DRIVE_PLUS, "left"),
            _t("GND", Role.DRIVE_MINUS, "left"),
            _t("OUT+", Role.POWER),
            _t("OUT-", Role.POWER),
        ),
        (Path("VIN+", "OUT+", Closed.ALWAYS), Path("OUT-", "VIN-", Closed.DRIVEN)),
        of="ssr",
    ),
    PartType(
        "regulator",
        "Regulator",
        (
            _t("VIN+", Role.SUPPLY_IN, "left"),
            _t("VIN-", Role.SUPPLY_IN, "left"),
            _t("OUT+", Role.SUPPLY_IN),
            _t("OUT-", Role.SUPPLY_IN),
        ),
        (
            Path("VIN+", "VIN-", Closed.LOAD),
            Path("VIN+", "OUT+", Closed.COIL),
            Path("VIN-", "OUT-", Closed.ALWAYS),
        ),
    ),
    PartType(
        "microcontroller",
        "Microcontroller board",
        (
            _t("5V", Role.SUPPLY_IN, "left"),
            _t("GND", Role.DRIVE_MINUS, "left"),
            _t("D9", Role.DRIVE_PLUS),
            _t("A0", Role.SENSOR_PLUS),
            _t("AREF", Role.SENSOR),
            _t("AGND", Role.SENSOR_MINUS),
            *(_t(pin, Role.SENSOR) for pin in ("D10", "D12", "D13")),
        ),
        (Path("5V", "GND", Closed.LOAD),),
        of="controller_ssr",
    ),
    PartType(
        "converter",
        "Sensor converter board",
        (
            _t("VCC", Role.SUPPLY_IN, "left"),
            _t("GND", Role.SUPPLY_IN, "left"),
            *(_t(pin, Role.SENSOR, "left") for pin in ("CS", "DO", "CLK")),
            _t("IN+", Role.SENSOR_PLUS),
            _t("IN-", Role.SENSOR_MINUS),
            _t("IN3", Role.SENSOR),
        ),
        (Path("VCC", "GND", Closed.LOAD),),
    ),
    PartType("thermistor", "Thermistor", (_t("A", Role.SENSOR_PLUS, "left"), _t("B", Role.SENSOR_MINUS, "left"))),
    PartType("resistor", "Series resistor", (_t("1", Role.SENSOR, "left"), _t("2", Role.SENSOR, "left"))),
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
