"""What protects: breakers, fuses, switches that people or heat open."""

from ...units import Kind
from ..model import Closed, PartType, Path, Rating, Role
from .shapes import amps, pole_pairs, pole_terminals, volts


def _breaker(poles: int) -> PartType:
    paths = tuple(Path(a, b, Closed.HAND, breaks=True) for a, b in pole_pairs(poles))
    kind, title = ("breaker", "Breaker") if poles == 1 else (f"breaker_{poles}p", f"Breaker, {poles} poles")
    curve = Rating("curve", "Curve", None, "B", ("B", "C", "D"))
    return PartType(kind, title, pole_terminals(poles, Role.POWER), paths, of="breaker", ratings=(amps(16), curve))


def _closed(kind: str, title: str, poles: int, *ratings: Rating) -> PartType:
    """A switch that is closed in normal work, and opens when it is operated."""
    paths = tuple(Path(a, b, Closed.HAND) for a, b in pole_pairs(poles))
    return PartType(kind, title, pole_terminals(poles, Role.CONTACT), paths, ratings=(amps(16), *ratings))


def _open(kind: str, title: str) -> PartType:
    """A button that closes only while it is pressed."""
    return PartType(
        kind, title, pole_terminals(1, Role.CONTACT), (Path("1", "2", Closed.NOT_HAND),), ratings=(amps(6),)
    )


def _rcd(poles: int) -> PartType:
    """An earth-leakage breaker: opens when what goes out through its poles does not come back through them."""
    paths = tuple(Path(a, b, Closed.HAND, breaks=True) for a, b in pole_pairs(poles))
    kind, title = ("rcd", "Earth-leakage breaker") if poles == 2 else ("rcd_4p", "Earth-leakage breaker, 4 poles")
    ratings = (amps(40), amps(0.03, "Trips at", "trips_a"))
    return PartType(kind, title, pole_terminals(poles, Role.CONTACT), paths, of="rcd", ratings=ratings)


_OPENS_AT = Rating("opens_c", "Opens at", Kind.TEMPERATURE, 120.0)

GUARDS = (
    *(_breaker(poles) for poles in (1, 2, 3)),
    PartType(
        "fuse",
        "Fuse",
        pole_terminals(1, Role.POWER),
        (Path("1", "2", Closed.HAND, breaks=True),),
        ratings=(amps(6), volts(250)),
    ),
    *(_rcd(poles) for poles in (2, 4)),
    PartType(
        "motor_breaker",
        "Motor-protection switch",
        pole_terminals(3, Role.POWER),
        tuple(Path(a, b, Closed.HAND, breaks=True) for a, b in pole_pairs(3)),
        of="breaker",
        ratings=(amps(2.5, "Set to"),),
    ),
    _closed("switch", "Switch", 1),
    _closed("isolator", "Switch-disconnector, all poles", 3),
    _closed("estop", "Emergency stop, opening", 1),
    _closed("door_switch", "Door switch", 1),
    _closed("flow_switch", "Flow switch", 1),
    _closed("level_switch", "Level switch", 1),
    _closed("thermal_fuse", "Thermal fuse", 1, _OPENS_AT),
    _closed("cutout_manual", "Thermal cut-out, manual reset", 1, _OPENS_AT),
    _closed("cutout_auto", "Thermal cut-out, resets by itself", 1, _OPENS_AT),
    PartType(
        "selector",
        "Selector, two positions",
        pole_terminals(2, Role.CONTACT),
        (Path("1", "2", Closed.HAND), Path("3", "4", Closed.NOT_HAND)),
        ratings=(amps(6),),
    ),
    _open("pushbutton", "Push-button, closing"),
    _open("estop_no", "Emergency stop, closing"),
)
