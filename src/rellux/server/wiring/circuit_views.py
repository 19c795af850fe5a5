"""The circuit solved: volts and amperes in each state, single faults, what a meter shows, schedule and netlist."""

import csv
import io
from dataclasses import dataclass, field, replace

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.cells import neutral
from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.explain import Figure, Input
from rellux.core.messages import render
from rellux.core.units import Kind
from rellux.core.wiring.circuit.faults import Analysis
from rellux.core.wiring.circuit.memory import memory
from rellux.core.wiring.circuit.meter import MeterReading, moves, plan, states
from rellux.core.wiring.circuit.netlist import netlist
from rellux.core.wiring.circuit.positions import operable, position
from rellux.core.wiring.circuit.solution import Solution
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.circuit.suspects import Measured, Suspect, explain
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.names import is_inner, is_input
from rellux.core.wiring.schedule import Cut, Total, schedule
from rellux.core.wiring.switching import OFF, ON, Switching
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.rigs.revised import revised

from .domain import connection_list, faults_of, positions_of
from .views import StateView, state_view

SOURCE = "nodal analysis with rms phasors; wires and contacts in milliohms"
MOST_MEASURED, LARGEST_READING = 40, 1e9


def circuit_of(rig: Rig) -> CircuitSolver:
    """The rig's list ready to be solved. Raises ``Refused`` before anything is wired."""
    wiring = connection_list(rig)
    if not wiring.connections:
        raise refuse("wiring", "nothing is wired yet", "lay the wiring out first")
    return CircuitSolver(wiring, purpose_of(rig).control_voltage_v)


@dataclass(frozen=True)
class SolvedPart:
    """What a load gets in this state; ``heats``: a heating element; ``turned``: a module that cools, its current the other way round."""

    name: str
    figures: list[Figure]
    heats: bool
    turned: bool


@dataclass(frozen=True)
class WireCurrent:
    number: int
    amps: float


@dataclass(frozen=True)
class SolvedState:
    name: str
    parts: list[SolvedPart]
    wires: list[WireCurrent]
    tripped: list[str]
    undefined: list[str]
    settled: bool


def _solved(name: str, s: Solution, heaters: frozenset[str]) -> SolvedState:
    parts = [
        SolvedPart(
            part,
            [
                Figure(
                    f"across {part}",
                    t.volts,
                    Kind.VOLTAGE,
                    formula="Y v = i",
                    source=SOURCE,
                    reason=f"With the {name}.",
                ),
                Figure(
                    f"through {part}",
                    t.amps,
                    Kind.CURRENT,
                    formula="I = V / R",
                    inputs=(Input("across it", t.volts, Kind.VOLTAGE, "V", "solved"),),
                    reason=f"With the {name}.",
                    source=SOURCE,
                ),
                Figure(
                    f"power of {part}",
                    t.watts,
                    Kind.POWER,
                    formula="P = V I",
                    inputs=(
                        Input("across it", t.volts, Kind.VOLTAGE, "V", "solved"),
                        Input("through it", t.amps, Kind.CURRENT, "I", "solved"),
                    ),
                    reason=f"With the {name}.",
                    source=SOURCE,
                ),
            ],
            part in heaters,
            part in s.turned,
        )
        for part, t in (s.loads | s.turned).items()
        if not is_input(part)
    ]
    wires = [WireCurrent(int(w.split()[1]), t.amps) for w, t in s.wires.items()]
    return SolvedState(
        name, parts, wires, sorted(s.tripped), sorted(t for t in s.undefined if not is_inner(t)), s.settled
    )


def _heaters(wiring: ConnectionList) -> frozenset[str]:
    return frozenset(p.name for p in wiring.parts if p.heats)


class SolvedStates(APIView):
    @revised
    @endpoint("solvedStates", SolvedState, many=True)
    def get(self, request: Request, slug: str) -> Response:
        rig = _wired(slug)
        heaters = _heaters(connection_list(rig))
        return reply([_solved(p.name, p.solution, heaters) for p in positions_of(rig)])


def _wired(slug: str) -> Rig:
    """A rig with something wired. Raises ``Refused`` for others."""
    rig = get_object_or_404(Rig, slug=slug)
    if not rig.wires.exists():
        raise refuse("wiring", "nothing is wired yet", "lay the wiring out first")
    return rig


@dataclass(frozen=True)
class Remembers:
    """``holds``: coils that stay as they were where nothing commands them; ``restarts``: heaters on again by themselves once
    the supply is back."""

    holds: list[str]
    restarts: list[str]


class CircuitMemory(APIView):
    @revised
    @endpoint("circuitMemory", Remembers)
    def get(self, request: Request, slug: str) -> Response:
        found = memory(circuit_of(_wired(slug)))
        return reply(Remembers(list(found.holds), list(found.restarts)))


class SingleFaults(APIView):
    @revised
    @endpoint("singleFaults", Analysis)
    def get(self, request: Request, slug: str) -> Response:
        return reply(faults_of(_wired(slug)))


@dataclass(frozen=True)
class MeasuredInput:
    """``state``: volts with the output off or on; empty, or a part moved (``F1 open``): ohms with the plug out. ``value``
    None: no connection, or nothing to read."""

    a: str
    b: str
    value: float | None = None
    state: str = ""


@dataclass(frozen=True)
class ExplainInput:
    measured: list[MeasuredInput] = field(default_factory=list)


class Meter(APIView):
    changes_rig = False

    @revised
    @endpoint("meterPlan", MeterReading, query={"pairs": str}, many=True)
    def get(self, request: Request, slug: str) -> Response:
        circuit = circuit_of(get_object_or_404(Rig, slug=slug))
        pairs = [tuple(p.split(">")) for p in request.query_params.get("pairs", "").split(",") if p]
        known = circuit.wiring.terminals
        wrong = next((p for p in pairs if len(p) != 2 or not set(p) <= known or p[0] == p[1]), None)
        if wrong or len(pairs) > MOST_MEASURED:
            raise refuse(
                "pairs", f"{' to '.join(wrong or ())} cannot be measured", "two terminals of this list: A.1>B.2"
            )
        return reply(list(plan(circuit, tuple((a, b) for a, b in pairs))))

    @endpoint("explainMeter", Suspect, ExplainInput, many=True)
    def post(self, request: Request, slug: str) -> Response:
        circuit = circuit_of(get_object_or_404(Rig, slug=slug))
        given = read(request, ExplainInput).measured
        _check(circuit, given)
        return reply(list(explain(circuit, tuple(Measured(m.a, m.b, m.value, m.state) for m in given)))[:8])


def _check(circuit: CircuitSolver, given: list[MeasuredInput]) -> None:
    known = circuit.wiring.terminals
    known_states = ("", *states(circuit.wiring), *moves(circuit.wiring))
    problems = []
    if not 1 <= len(given) <= MOST_MEASURED:
        problems.append(Problem("measured", "nothing was measured, or too much", f"1…{MOST_MEASURED} readings"))
    for i, m in enumerate(given):
        problems += [
            Problem(f"measured[{i}].{end}", f"there is no terminal {name!r}", "part.terminal")
            for end, name in (("a", m.a), ("b", m.b))
            if name not in known
        ]
        if m.state not in known_states:
            said = f"{m.state[:40]!r} is no state"
            problems.append(Problem(f"measured[{i}].state", said, ", ".join(known_states[1:])))
        if m.value is not None and not 0 <= m.value <= LARGEST_READING:
            problems.append(
                Problem(f"measured[{i}].value", "this is no reading", f"0…{LARGEST_READING:g}, without its sign")
            )
    refuse_all(problems)


@dataclass(frozen=True)
class ScheduleView:
    cuts: list[Cut]
    totals: list[Total]


class Schedule(APIView):
    @revised
    @endpoint("wireSchedule", ScheduleView)
    def get(self, request: Request, slug: str) -> Response:
        cuts, totals = schedule(connection_list(get_object_or_404(Rig, slug=slug)))
        return reply(ScheduleView(list(cuts), list(totals)))


class ScheduleCsv(APIView):
    @endpoint("wireScheduleCsv", None)
    def get(self, request: Request, slug: str) -> HttpResponse:
        cuts, _ = schedule(connection_list(get_object_or_404(Rig, slug=slug)))
        out = io.StringIO()
        writer = csv.writer(out)
        writer.writerow(
            ("number", "from", "to", "circuit", "mm2", "colour", "insulation", "length_m", "ferrule", "label")
        )
        rows = (
            (c.number, c.a, c.b, c.circuit.value, c.area_mm2, c.colour, c.insulation, c.length_m, c.ferrule, c.label)
            for c in cuts
        )
        writer.writerows(tuple(render(c) if isinstance(c, str) else c for c in map(neutral, row)) for row in rows)
        return _file(out.getvalue(), "text/csv; charset=utf-8", f"{slug}-wires.csv")


class Netlist(APIView):
    @endpoint("netlist", None, query={"output": str})
    def get(self, request: Request, slug: str) -> HttpResponse:
        rig = get_object_or_404(Rig, slug=slug)
        on = request.query_params.get("output", "on") != "off"
        text = netlist(circuit_of(rig), ON if on else OFF, f"{rig.name}, output {'on' if on else 'off'}")
        return _file(text, "text/plain; charset=utf-8", f"{slug}.cir")


def _file(text: str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(text, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@dataclass(frozen=True)
class OwnPosition:
    """A position put together by hand. ``operated``: parts in their other position; ``power``: the supply is there."""

    output_on: bool = False
    limit_tripped: bool = False
    alarm_on: bool = False
    operated: list[str] = field(default_factory=list)
    power: bool = True


@dataclass(frozen=True)
class SolvedPosition:
    """What is on and live there, and what every load gets."""

    state: StateView
    solved: SolvedState


class OwnPositions(APIView):
    changes_rig = False

    @endpoint("solvePosition", SolvedPosition, OwnPosition)
    def post(self, request: Request, slug: str) -> Response:
        circuit, g = circuit_of(_wired(slug)), read(request, OwnPosition)
        known = {p.name for p in operable(circuit.wiring)}
        refuse_all(
            Problem(f"operated[{i}]", f"{name} is nothing somebody operates", ", ".join(sorted(known)))
            for i, name in enumerate(g.operated)
            if name not in known
        )
        switching = Switching(g.output_on, g.limit_tripped, g.alarm_on, frozenset(g.operated), g.power)
        found = position(circuit, OWN, switching, circuit.begun(replace(switching, operated=frozenset())))
        return reply(SolvedPosition(state_view(found), _solved(OWN, found.solution, _heaters(circuit.wiring))))


OWN = "your own position"
