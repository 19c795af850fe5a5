"""Stage 2, the output with the load still dead: what drives the switch, the fan, a board held in reset."""

from collections.abc import Iterator
from dataclasses import replace

from ..explain import Figure
from ..messages import quantity, spoken_time, temperature
from ..units import Kind
from ..wiring.circuit.branches import DRIVEN, is_coil
from ..wiring.circuit.solution import SOUND
from ..wiring.model import Part
from ..wiring.names import TerminalName
from . import cooler
from .facts import Citing, Fitted, ProvingFacts
from .isolating import calling, isolated
from .places import APART_V, OFF_SHARE, OFF_V, places
from .step import Measure, MeterSetting, ProvingStep

DRIVE, COIL = 0.25, 0.10
"""How far a drive’s volts, and a coil’s, may be from what is computed, as a share (common practice, no source)."""


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """For every place that the output moves: on, then off."""
    if not facts.purpose.acts:
        return
    yield _values(facts)
    for part, ends in places(facts.wiring):
        yield from _driven(facts, part, ends)
    yield from _shown(facts)
    yield from cooler.steps(facts)
    yield from _fan(facts)
    yield from _reset(facts)


def _values(facts: ProvingFacts) -> ProvingStep:
    cite = Citing(facts)
    for name in facts.sheet:
        cite.setting(name)
    cite.fitted(Fitted.CONTROLLER)
    return ProvingStep(
        "values",
        2,
        "Its values",
        f"Read every value that the controller has a page for, beside the sheet of {len(facts.sheet)}, or compare over "
        "the link under Set-up.",
        "Each is what the sheet says.",
        isolated=isolated(facts, cite),
        cites=cite.cites,
    )


def _driven(facts: ProvingFacts, part: Part, ends: tuple[TerminalName, TerminalName]) -> Iterator[ProvingStep]:
    circuit, on = facts.circuit, calling(facts)
    off = replace(on, output_on=False)
    solved = {
        s.output_on: circuit.solve(s, SOUND, circuit.running(on) if s.output_on else circuit.begun(s))
        for s in (on, off)
    }
    volts = {k: s.between(*ends) or 0.0 for k, s in solved.items()}
    if abs(volts[True] - volts[False]) < APART_V:
        return
    direct = abs(solved[True].direct(*ends)) + abs(solved[False].direct(*ends)) > solved[True].alternating(*ends)
    cite = Citing(facts)
    cite.part(part.name)
    cite.live(*ends)
    cite.fitted(Fitted.CONTROLLER)
    isolation = isolated(facts, cite)
    brief = _brief(facts, cite)
    most = max(volts.values())
    for up in (True, False):
        expected = cite.expects(volts[up])
        share = COIL if is_coil(part) else DRIVE
        low, high = (
            (expected * (1 - share), expected * (1 + share))
            if expected > OFF_SHARE * most
            else (0.0, max(OFF_V, OFF_SHARE * most))
        )
        if expected > OFF_SHARE * most and part.type.family in DRIVEN:
            low = max(low, part.number("input_least_v"))
            high = min(high, part.number("input_most_v", high))
        figure = Figure(
            f"across {part.name}, output {'on' if up else 'off'}",
            expected,
            Kind.VOLTAGE,
            symbol="U",
            reason="From the list as wired, solved with the load dead.",
        )
        tells = "Its lamp lights" if part.type.family == "ssr" else "It clicks"
        seen = tells if up == (volts[True] > volts[False]) else "It is off"
        yield ProvingStep(
            f"drive {part.name} {'on' if up else 'off'}",
            2,
            f"{part.name}, output {'on' if up else 'off'}",
            f"Set-point {'above' if facts.purpose.heats == up else 'below'} the reading; from {ends[0]} to {ends[1]}: volts.",
            f"{seen}, and the output’s lamp is {'on' if up else 'off'}.",
            Measure(figure, low, high),
            MeterSetting.VOLTS_DC if direct else MeterSetting.VOLTS_AC,
            isolation,
            brief if up else "",
            dict(cite.cites),
            between=ends,
            switching=on if up else off,
        )


def _brief(facts: ProvingFacts, cite: Citing) -> str:
    watched = cite.number("loop_break_s")
    if not watched:
        return "A controller that watches its loop calls a fault if it asks for long and nothing comes: keep it short."
    return f"It watches its loop: after {spoken_time(watched)} of asking for nothing it calls a fault. Keep it shorter."


def _shown(facts: ProvingFacts) -> Iterator[ProvingStep]:
    cite = Citing(facts)
    for name in ("action", "mode", "output_high"):
        cite.setting(name)
    cite.fitted(Fitted.CONTROLLER)
    isolation = isolated(facts, cite)
    high = cite.number("output_high")
    away = "above" if facts.purpose.heats else "below"
    yield ProvingStep(
        "asks",
        2,
        "It asks the right way",
        f"Set-point well {away} the reading, then well on the other side; read the output.",
        f"First it rises to {quantity(high, '%')} and no further, then it falls to {quantity(0.0, '%')}. The other way "
        "round the action is wrong.",
        isolated=isolation,
        cites=cite.cites,
    )


def _fan(facts: ProvingFacts) -> Iterator[ProvingStep]:
    beside = {p.name for p in cooler.coolers(facts)}
    fans = [p.name for p in facts.wiring.of_kind("fan", "fire_fan") if p.name not in beside]
    above = facts.sheet.get("fan_above_c")
    if not fans or not isinstance(above, float | int):
        return
    cite = Citing(facts)
    for fan in fans:
        cite.part(fan)
    threshold, on_s = cite.number("fan_above_c"), cite.number("fan_run_on_s")
    yield ProvingStep(
        "fan",
        2,
        "Fan",
        f"Bring the reading above {temperature(threshold)} by a source at the input or a warmed probe, then below.",
        f"{', '.join(fans)} starts above it, and runs on {spoken_time(on_s)} after the output was last on.",
        isolated=isolated(facts, cite),
        cites=cite.cites,
    )


def _reset(facts: ProvingFacts) -> Iterator[ProvingStep]:
    boards = facts.wiring.of_kind("microcontroller")
    low = [p.name for p in facts.wiring.of_kind("relay_module_low")] + [
        b.name for b in boards if b.ratings.get("active") == "low"
    ]
    if not boards:
        return
    cite = Citing(facts)
    for name in (*(b.name for b in boards), *low):
        cite.part(name)
    why = f"{', '.join(low)} works while its input is low: a pin that floats during reset may call." if low else ""
    yield ProvingStep(
        "reset",
        2,
        "Held in reset",
        f"Press and hold the reset of {', '.join(b.name for b in boards)}, then let go; then plug its supply off and on.",
        "The output stays off all the while.",
        isolated=isolated(facts, cite),
        caution=why,
        cites=cite.cites,
    )
