"""What else could stand at a place of the chain, each with what it would mean for the whole."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from ..errors import Refused
from ..findings import Finding
from ..heating.conductor_tables import Practice
from ..heating.switches import heat_sink, relay_life, ssr_dissipation
from ..messages import difference, quantity
from ..purpose.heater import heater_current
from ..purpose.purpose import Purpose
from ..sensing.sensors import NAMES, describe, tolerance
from ..wiring.choice import DRIVES, Actuator, Choice, Output, check_choice
from .chain import BOX_AMBIENT_C, Piece, chain, plugs
from .checks import chain_findings, is_overloaded


@dataclass(frozen=True)
class Compared:
    """One alternative: the choice it would make, and its piece of the chain, ``over`` what it may carry or not. ``refused``:
    why it cannot be at all; ``findings``: what the whole chain would then say."""

    title: str
    says: str
    choice: Choice
    piece: Piece | None
    fill: float
    over: bool
    chosen: bool
    refused: str = ""
    findings: tuple[Finding, ...] = ()


PRACTICE_WORDS = {Practice.IEC: "IEC 60364", Practice.NEC: "NEC"}
ACTUATOR_WORDS = {
    Actuator.RELAY: "Power relay",
    Actuator.CONTACTOR: "Contactor",
    Actuator.SSR: "Solid state relay",
    Actuator.MOSFET: "MOSFET board",
    Actuator.PHASE_ANGLE: "Phase-angle unit",
}


def alternatives(
    purpose: Purpose, choice: Choice, period_of: Callable[[Actuator], float], key: str
) -> tuple[Compared, ...]:
    """Every alternative for the piece ``key``; empty where the place leaves no choice. ``period_of``: control period in s
    for a switch, for the life of its contacts."""
    variations = {
        "plug": _plugs,
        "breaker": _practices,
        "conductor": _practices,
        "actuator": _switches,
        "limit": _limiters,
        "sensor": _sensors,
    }.get(key)
    if variations is None:
        return ()
    return tuple(_tried(purpose, title, other, choice, period_of, key) for title, other in variations(purpose, choice))


def _tried(
    purpose: Purpose, title: str, other: Choice, choice: Choice, period_of: Callable[[Actuator], float], key: str
) -> Compared:
    chosen = other == choice
    try:
        check_choice(purpose, other)
        found = chain(purpose, other, period_of(other.actuator))
    except Refused as refused:
        return Compared(title, "", other, None, 0.0, False, chosen, refused.problems[0].reason)
    piece = next((p for p in found.pieces if p.key == key), None)
    aside = _aside(purpose, other, period_of(other.actuator), key)
    says = ", ".join(filter(None, (piece.says if piece else "none", aside)))
    fill, over = (piece.fill, is_overloaded(piece)) if piece else (0.0, False)
    return Compared(title, says, other, piece, fill, over, chosen, findings=tuple(chain_findings(found)))


def _aside(purpose: Purpose, choice: Choice, period_s: float, key: str) -> str:
    """What the piece's own words do not tell."""
    if key == "actuator":
        return _of_switch(choice.actuator, heater_current(purpose).value, period_s)
    if key == "sensor":
        allowed = tolerance(choice.sensor, purpose.working_c)
        return (
            "not covered by its usual class here" if allowed is None else f"new within ± {difference(allowed, '.2g')}"
        )
    if key == "limit" and not choice.limiter:
        return f"a stuck switch then {'heats' if purpose.heats else 'cools'} without end"
    return ""


def _of_switch(actuator: Actuator, current_a: float, period_s: float) -> str:
    if actuator is Actuator.SSR:
        heat = ssr_dissipation(current_a).value
        return (
            f"sheds {quantity(heat, 'W', '.0f')} into a heat sink of at most "
            f"{quantity(heat_sink(heat, BOX_AMBIENT_C).value, 'K/W', '.2g')}"
        )
    if actuator is Actuator.PHASE_ANGLE:
        return f"no contacts and no period, sheds {quantity(ssr_dissipation(current_a).value, 'W', '.0f')}"
    if actuator is Actuator.MOSFET:
        return "needs the two grounds joined"
    return f"contacts last {quantity(relay_life(period_s).value / 3600, 'h', '.0f')} at {quantity(period_s, 's')}"


def _plugs(purpose: Purpose, choice: Choice) -> list[tuple[str, Choice]]:
    enough = heater_current(purpose).value / 2
    return [(f"{r:g} A", replace(choice, plug_a=r)) for r in plugs(purpose, choice) if r > enough] + [
        ("Smallest that carries it", replace(choice, plug_a=None))
    ]


def _practices(_purpose: Purpose, choice: Choice) -> list[tuple[str, Choice]]:
    return [(f"Sized by {words}", replace(choice, practice=practice)) for practice, words in PRACTICE_WORDS.items()]


def _switches(_purpose: Purpose, choice: Choice) -> list[tuple[str, Choice]]:
    return [
        (words, replace(choice, actuator=a, output=driver_of(a, choice.output))) for a, words in ACTUATOR_WORDS.items()
    ]


def driver_of(actuator: Actuator, present: Output) -> Output:
    """The controller output that drives this switch: the present one where it can."""
    if actuator in DRIVES[present]:
        return present
    return next(output for output, driven in DRIVES.items() if actuator in driven)


def _limiters(_purpose: Purpose, choice: Choice) -> list[tuple[str, Choice]]:
    return [("Fitted, with its own sensor", replace(choice, limiter=True)), ("None", replace(choice, limiter=False))]


def _sensors(_purpose: Purpose, choice: Choice) -> list[tuple[str, Choice]]:
    return [(describe(n), replace(choice, sensor=n)) for n in NAMES]
