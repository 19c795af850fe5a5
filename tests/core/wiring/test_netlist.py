"""The netlist, run in ngspice: every terminal must stand at the volts that were solved here."""

import re
import subprocess
from dataclasses import replace

import pytest

from rellux.core.wiring.circuit.netlist import netlist, node_names
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import ConnectionList, Part
from rellux.core.wiring.switching import OFF, ON
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.mistakes import rated
from tests.oracle.circuits import RIGS, added, part

VALUE = re.compile(r"^(?:v\()?([a-z0-9_]+)\)?\s*=\s*([-+.\de]+)(?:,([-+.\de]+))?", re.M)
WITHIN = 2e-3
"""Share within which both agree: ngspice adds its own small conductances."""


def simulated(text: str, tmp_path) -> dict[str, complex]:
    """Volts of every node by ngspice, in its batch mode; alternating where the netlist alternates."""
    alternates = ".ac " in text
    control = f".control\nset noaskquit\n{'ac lin 1 50 50' if alternates else 'op'}\nprint all\nquit\n.endc\n.end\n"
    file = tmp_path / "circuit.cir"
    file.write_text(re.sub(r"^\.(op|ac .*|end)$", "", text, flags=re.M) + control)
    done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=60, check=False)
    found = {name: complex(float(re_), float(im or 0)) for name, re_, im in VALUE.findall(done.stdout)}
    assert found, done.stdout[-2000:] + done.stderr[-2000:]
    return found


def awkward() -> ConnectionList:
    """Names that differ by accents and capitals only in part, and elements that are no plain resistance."""
    wiring = usual(*RIGS["kiln"], Usual.PARTS)
    more = [part(n, "lamp", power_w=5.0, voltage_v=230.0) for n in ("Ö1", "Ä1", "h1", "H-1", "H_1")]
    pairs = [p for x in more for p in (("F2.2", f"{x.name}.1"), (f"{x.name}.2", "Q0.N"))]
    return rated(added(wiring, *pairs, parts=tuple(more)), "E1", element="halogen")


LISTS = {
    **{
        name: (usual(purpose, choice, Usual.PARTS), purpose.control_voltage_v)
        for name, (purpose, choice) in RIGS.items()
    },
    "kiln started": (usual(*RIGS["kiln"], Usual.START), 230.0),
    "shell cascade": (usual(*RIGS["shell"], Usual.CASCADE_BEACON), 230.0),
    "kiln in TT": (rated(usual(*RIGS["kiln"], Usual.PARTS), "Q0", earthing="tt"), 230.0),
    "awkward names": (awkward(), 230.0),
}


@pytest.mark.slow
@pytest.mark.parametrize("switching", [OFF, ON], ids=["off", "on"])
@pytest.mark.parametrize("name", LISTS)
def test_ngspice_finds_the_same_volts(name, switching, tmp_path):
    wiring, volts = LISTS[name]
    circuit = CircuitSolver(wiring, volts)
    solved = circuit.solve(switching, start=circuit.begun(switching))
    text = netlist(circuit, switching, name)
    spice, compared = simulated(text, tmp_path), 0
    ours = solved.ac if ".ac " in text else solved.dc
    named = node_names(circuit, switching)
    back = "Q0.-" if "Q0.-" in named else ""  # a DC rig floats: its volts are those against its own minus
    for terminal, node in named.items():
        if terminal in ours and node != "0" and terminal not in solved.undefined:
            theirs = spice[node] - (spice[named[back]] if back else 0)
            expected = ours[terminal] - (ours[back] if back else 0)
            assert abs(theirs - expected) <= WITHIN * volts, terminal
            compared += 1
    assert compared > 10


def test_names_are_one_to_one_after_folding():
    circuit = CircuitSolver(awkward(), 230.0)
    names = [n for n in node_names(circuit, ON).values() if n != "0"]
    assert len(names) == len({n.casefold() for n in names}) and all(
        (n.isascii() and n.islower()) or n[0].isdigit() for n in names
    )


def test_a_part_that_is_called_like_an_inner_point_keeps_its_terminals():
    """A list of before may hold a name with a star in it: its terminals are terminals still."""
    wiring = usual(*RIGS["kiln"], Usual.PARTS)
    parts = tuple(Part("E1*", p.type, p.ratings) if p.name == "E1" else p for p in wiring.parts)
    wires = tuple(replace(w, a=w.a.replace("E1.", "E1*."), b=w.b.replace("E1.", "E1*.")) for w in wiring.connections)
    starred = CircuitSolver(ConnectionList(parts, wires), 230.0)
    from rellux.core.wiring.circuit.positions import position

    assert "E1*.1" in position(starred, "output on", ON).live
