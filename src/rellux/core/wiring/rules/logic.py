"""Logic level: grounds, pins and what they can, what they carry, rails, and what happens while a board starts."""

from ...findings import Finding, Severity
from ...messages import quantity
from ..circuit.branches import Sort, is_coil, switches_dc
from ..driven import BLOWING
from ..graph import FEEDS
from ..model import Closed, Part, Role
from ..names import TerminalName, split
from ..pins import ABILITIES, NEEDS, SUPPLY_PINS, Ability
from ..switching import ON
from .case import Case

SHARED_PINS = (Ability.BUS, Ability.CLOCKED)
PIN_OVER = 1.02
"""How far beyond its rating a pin's current is said (our choice: rounding)."""
PIN_ABOVE_V = 0.5
"""Volts a pin stands beyond its supply before its protection conducts (typical of data sheets, from memory)."""
PULL_UP_OHM = (500.0, 50_000.0)
"""Resistors that hold an input and do not overload a pin (common practice, no source)."""
CONTROLS = ("ssr", "relay_module", "relay_module_low", "mosfet", "triac")


def _boards(case: Case) -> list[Part]:
    return case.wiring.of_kind("microcontroller")


def _peers(case: Case, board: Part, pin: str) -> list[tuple[Part, str]]:
    """Terminals of other parts that wires join to a pin, without resistors and supplies."""
    found = []
    for terminal in sorted(case.joined(board.at(pin))):
        name, other = split(terminal)
        if name != board.name and case.wiring.part(name).type.kind not in ("resistor", "terminal_block"):
            found.append((case.wiring.part(name), other))
    return found


def common_ground(case: Case) -> list[Finding]:
    """A signal needs a way back: boards that talk share their ground."""
    found = []
    for board in _boards(case):
        ground = case.joined(board.at("GND"))
        strangers = {
            part.name
            for pin in ABILITIES
            for part, _ in _peers(case, board, pin)
            if (minus := _ground_of(part)) and part.at(minus) not in ground
        }
        found += [
            Finding(
                "wiring.common-ground",
                Severity.FAULT,
                title=f"{name} and {board.name} have no ground in common",
                reason="The signal has no way back: it works by chance, or through something else.",
                fix=f"Join {name}'s ground to {board.at('GND')}.",
                subjects=(name, board.name),
            )
            for name in sorted(strangers)
        ]
    return found


def _ground_of(part: Part) -> str | None:
    names = {t.name for t in part.type.terminals}
    return next((n for n in ("GND", "4-", "A2-") if n in names), None)


def pins(case: Case) -> list[Finding]:
    """A pin does one thing, and one that it is able to."""
    found = []
    for board in _boards(case):
        found += _both(board)
        for pin, able in ABILITIES.items():
            peers = _peers(case, board, pin)
            found += _twice(board, pin, able, peers)
            for part, terminal in peers:
                found += _able(board, pin, able, part, terminal)
    return found


def _both(board: Part) -> list[Finding]:
    """One pin named for the heater and for the cooler."""
    drive = board.drive()
    if not drive or board.cooling_pin != drive[0]:
        return []
    return [
        Finding(
            "wiring.pin-both",
            Severity.DANGER,
            title=f"{board.name}.{drive[0]} is to heat and to cool",
            reason="Whichever the firmware means, the other comes with it.",
            fix="A pin of its own for the cooler, in the board’s ratings and at its wire.",
            subjects=(board.name,),
        )
    ]


def _twice(board: Part, pin: str, able: tuple[Ability, ...], peers: list[tuple[Part, str]]) -> list[Finding]:
    names = sorted({p.name for p, _ in peers})
    if len(names) < 2 or (set(able) & set(SHARED_PINS) and all(t != "CS" for _, t in peers)):
        return []
    selects = [p.name for p, t in peers if t == "CS"]
    if len(selects) > 1:
        return [
            Finding(
                "wiring.select-shared",
                Severity.FAULT,
                title=f"{' and '.join(selects)} share the select on {board.name}.{pin}",
                reason="Both answer at once and both readings are nonsense.",
                fix="A select pin for each converter.",
                subjects=(board.name, *selects),
            )
        ]
    return [
        Finding(
            "wiring.pin-twice",
            Severity.FAULT,
            title=f"{board.name}.{pin} is used by {' and '.join(names)}",
            reason="One pin has one job.",
            fix="A free pin for one of them.",
            subjects=(board.name, *names),
        )
    ]


def _able(board: Part, pin: str, able: tuple[Ability, ...], part: Part, terminal: str) -> list[Finding]:
    needed = NEEDS.get(terminal)
    if part.type.family in ("thermistor", "pt100", "pt1000"):
        needed = Ability.ANALOGUE
    if needed and needed not in able:
        return [
            Finding(
                "wiring.pin-able",
                Severity.FAULT,
                title=f"{board.name}.{pin} cannot do what {part.name}.{terminal} needs",
                reason=f"It needs {needed.value}; this pin is plain{' or ' + ', '.join(a.value for a in able) if able else ''}.",
                fix="Pins that can: " + ", ".join(n for n, a in ABILITIES.items() if needed in a) + ".",
                subjects=(board.name, part.name),
            )
        ]
    starts = next((a for a in able if a in (Ability.BOOT, Ability.BLINKS)), None)
    if starts and part.type.kind in CONTROLS and part.type.terminal(terminal) in _drives(part):
        return [
            Finding(
                "wiring.pin-boot",
                Severity.DANGER,
                title=f"{part.name} moves while {board.name} starts",
                reason=(
                    f"{pin} is driven by the board itself at start-up: what it drives "
                    "comes on for a moment, or longer if the board hangs."
                ),
                fix="A pin that stays quiet, and a pull-down at the input.",
                subjects=(board.name, part.name),
            )
        ]
    return []


def _drives(part: Part) -> list[object]:
    return [t for t in part.type.terminals if t.role is Role.DRIVE_PLUS]


def pin_current(case: Case) -> list[Finding]:
    """What hangs on a pin takes no more than the pin gives."""
    found = []
    for board in _boards(case):
        most, volts = board.number("pin_a", 0.02), board.number("pin_v", 5.0)
        back = case.joined(board.at("GND")) | case.joined(board.at("5V"))
        for pin in ABILITIES:
            joined = case.joined(board.at(pin))
            taken = [
                branch
                for branch in case.circuit.branches
                if branch.sort is Sort.LOAD and _between(branch.a, branch.b, joined, back)
            ]
            amps = sum(volts / branch.ohm for branch in taken)
            if amps > most * PIN_OVER:
                names = tuple(sorted({branch.name for branch in taken}))
                found.append(
                    Finding(
                        "wiring.pin-current",
                        Severity.DANGER,
                        title=f"{board.name}.{pin} would give {quantity(amps * 1000, 'mA', '.0f')} to {' and '.join(names)}",
                        reason=(
                            f"A pin gives {quantity(most * 1000, 'mA', '.0f')}; more "
                            "destroys it, and it fails on or off by chance."
                        ),
                        fix="A transistor, a MOSFET board or a relay module between them.",
                        subjects=(board.name, *names),
                    )
                )
    return found


def _between(a: TerminalName, b: TerminalName, here: frozenset[TerminalName], there: frozenset[TerminalName]) -> bool:
    return (a in here and b in there) or (b in here and a in there)


def pin_voltage(case: Case) -> list[Finding]:
    """No pin sees more than the board's own voltage."""
    found = []
    on = case.solved(ON)
    for board in _boards(case):
        most = board.number("pin_v", 5.0)
        for pin in ABILITIES:
            if not case.wires_at(board.at(pin)):
                continue
            volts = on.between(board.at(pin), board.at("GND"))
            if volts is not None and volts > most + PIN_ABOVE_V:
                found.append(
                    Finding(
                        "wiring.pin-voltage",
                        Severity.DANGER,
                        title=f"{board.name}.{pin} sees {quantity(volts, 'V', '.1f')}",
                        reason=f"The board's pins stand {quantity(most, 'V')}: it is destroyed, and perhaps what feeds it.",
                        fix="A divider or a level converter.",
                        subjects=(board.name,),
                    )
                )
    return found


INDUCTIVE = ("solenoid", "fan", *BLOWING, "motor", "relay", "contactor", "timer")
"""Loads that throw a voltage back when a transistor lets them go."""
FLYBACK_A = 0.001
"""Amperes through a load from which it is the transistor's (our choice)."""


def flyback(case: Case) -> list[Finding]:
    """A coil or motor on a transistor needs its diode."""
    switches = [p for p in case.wiring.of_kind("ssr") if switches_dc(p)]
    fixed = case.conduction.reach(end for p in case.wiring.of_kind(*FEEDS) for end in p.ends)
    found = []
    for load in case.wiring.of_kind(*INDUCTIVE):
        a, b = ("A1", "A2") if is_coil(load) else ("1", "2")
        ends = case.joined(load.at(a)), case.joined(load.at(b))
        snubbed = load.ratings.get("suppressor") == "fitted" or any(
            _between(s.at("1"), s.at("2"), *ends) for s in case.wiring.of_kind("snubber")
        )
        through = [
            s.name for s in switches for way in s.ways(Closed.DRIVEN) if any(({*way} - fixed) & end for end in ends)
        ]
        carried = max((s.loads[load.name].amps for _, s in case.everywhere if load.name in s.loads), default=0.0)
        if snubbed or not through or carried < FLYBACK_A:
            continue
        found.append(
            Finding(
                "wiring.flyback",
                Severity.FAULT,
                title=f"{load.name} on {through[0]} has no diode",
                reason="When the transistor opens, the coil throws many times its voltage back: it fails, shorted as a rule.",
                fix=f"A diode across {load.name}, its ring at plus.",
                subjects=(load.name, through[0]),
                source="common practice, no source",
            )
        )
    return found


def active_low(case: Case) -> list[Finding]:
    """A relay module that pulls in on a low input pulls in while the board has not yet woken up."""
    found = []
    for module in case.wiring.of_kind("relay_module_low"):
        joined = case.joined(module.at("IN"))
        boards = [
            b for b in _boards(case) if any(split(t)[0] == b.name and split(t)[1] not in SUPPLY_PINS for t in joined)
        ]
        if not boards or _pulled_up(case, module, joined):
            continue
        found.append(
            Finding(
                "wiring.active-low",
                Severity.DANGER,
                title=f"{module.name} pulls in while {boards[0].name} starts",
                reason=f"Its input works low, and a pin that floats or starts low means on: the {case.driven.noun} is on at every reset.",
                fix=f"A resistor of 10 kΩ from {module.name}.IN to its supply, or a module whose input works high.",
                subjects=(module.name, boards[0].name),
            )
        )
    return found


def _pulled_up(case: Case, module: Part, joined: frozenset[TerminalName]) -> bool:
    low, high = PULL_UP_OHM
    supply = case.joined(module.at("VCC"))
    return any(
        low <= r.number("ohm", 10_000.0) <= high and {r.at("1"), r.at("2")} & joined and {r.at("1"), r.at("2")} & supply
        for r in case.wiring.of_kind("resistor")
    )
