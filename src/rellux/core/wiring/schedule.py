"""The wire schedule: what to cut, what to print on labels, and the totals."""

from collections import defaultdict
from dataclasses import dataclass

from .insulation import insulation_words
from .model import Circuit, ConnectionList

FERRULE = {
    0.5: "ferrule 8 mm",
    0.75: "ferrule 8 mm",
    1.0: "ferrule 8 mm",
    1.5: "ferrule 8 mm",
    2.5: "ferrule 8 mm",
    4.0: "ferrule 10 mm",
}


@dataclass(frozen=True)
class Cut:
    """One wire as it is cut and labelled."""

    number: int
    a: str
    b: str
    circuit: Circuit
    area_mm2: float
    colour: str
    insulation: str
    length_m: float
    ferrule: str
    label: str


@dataclass(frozen=True)
class Total:
    """How much of one wire is needed."""

    area_mm2: float
    colour: str
    wires: int
    length_m: float


def schedule(wiring: ConnectionList) -> tuple[tuple[Cut, ...], tuple[Total, ...]]:
    """Every wire in order of its number, and the totals by size and colour. Ends carry the numbers on the user's own parts."""
    shown = {p.at(t): p.at(n) for p in wiring.parts for t, n in p.numbers.items()}
    cuts = tuple(
        Cut(
            w.number,
            shown.get(w.a, w.a),
            shown.get(w.b, w.b),
            w.circuit,
            w.area_mm2,
            w.colour,
            insulation_words(w),
            w.length_m,
            FERRULE.get(w.area_mm2, "crimped lug"),
            f"{w.number}: {shown.get(w.a, w.a)} / {shown.get(w.b, w.b)}",
        )
        for w in sorted(wiring.connections, key=lambda w: w.number)
    )
    sums: dict[tuple[float, str], list[Cut]] = defaultdict(list)
    for cut in cuts:
        sums[(cut.area_mm2, cut.colour)].append(cut)
    totals = tuple(
        Total(area, colour, len(these), sum(c.length_m for c in these))
        for (area, colour), these in sorted(sums.items())
    )
    return cuts, totals
