"""Small lists around a threshold: what is said just below it and just above."""

from dataclasses import replace

from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import Circuit, Connection, ConnectionList, Part
from rellux.core.wiring.rules import check
from rellux.core.wiring.rules.case import Context
from tests.oracle.circuits import part

MAINS = part("Q0", "supply_1ph", voltage_v=230.0)
EARTH_WIRE = ("Q0.PE", "X1.PE")


def built(parts: tuple[Part, ...], *pairs: tuple[str, str], area: float = 50.0, supply: Part = MAINS) -> ConnectionList:
    """Parts behind a supply, joined by wires so thick that they take nothing; earth wires as earths."""
    wires = tuple(
        Connection(i, a, b, Circuit.EARTH if a.endswith(".PE") else Circuit.POWER, area,
                   "green-yellow" if a.endswith(".PE") else "brown", 0.05)
        for i, (a, b) in enumerate(pairs, 1)
    )  # fmt: skip
    return ConnectionList((supply, *parts), wires)


def load(
    name: str = "E1", watts: float = 1000.0, volts: float = 230.0, kind: str = "heater", **ratings: float | str
) -> Part:
    return part(name, kind, power_w=watts, voltage_v=volts, **ratings)


def straight(one: Part, *more: Part, supply: Part = MAINS) -> ConnectionList:
    """Loads side by side straight on the supply."""
    back = "Q0.-" if supply.type.kind == "supply_dc" else "Q0.N"
    first = "Q0.+" if supply.type.kind == "supply_dc" else "Q0.L"
    pairs = [p for x in (one, *more) for p in ((first, f"{x.name}.1"), (f"{x.name}.2", back))]
    return built((one, *more), *pairs, supply=supply)


def dc(volts: float = 24.0, **ratings: float) -> Part:
    return part("Q0", "supply_dc", voltage_v=volts, **ratings)


def findings(wiring: ConnectionList, **context: object):
    supply = wiring.part("Q0")
    known = Context(supply.number("voltage_v"), Practice.IEC, "N")
    return check(wiring, replace(known, **context))  # type: ignore[arg-type]


def says(wiring: ConnectionList, rule: str, about: str = "", **context: object) -> bool:
    """Whether a rule has something to say, about this part."""
    return any(f.rule == rule and (not about or about in f.subjects) for f in findings(wiring, **context))


def solver(wiring: ConnectionList, volts: float | None = None) -> CircuitSolver:
    return CircuitSolver(wiring, volts or wiring.part("Q0").number("voltage_v"))


def purpose(
    watts: float = 1000.0, supply: Supply = Supply.SINGLE_PHASE, volts: float = 230.0, working_c: float = 60.0
) -> Purpose:
    return Purpose(working_c, working_c + 30, "spoils", supply, volts, watts, volts)
