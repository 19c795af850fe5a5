"""How wrong can the reading be? Sensor, wire, input and display, each with its share.

Every contribution is a half-width with nothing known about where inside it lies: rectangular, u = a/√3 (JCGM 100, 4.3.7).
Independent ones add as squares; expanded with k = 2. The plain sum is what could happen if all erred the same way.
"""

from dataclasses import dataclass
from math import sqrt

from ..errors import Problem, refuse, refuse_all
from ..explain import Figure, Input
from ..messages import quantity, temperature
from ..units import Kind
from .sensors import describe, is_thermocouple
from .thermocouples import seebeck
from .tolerances import cable_permitted, permitted

HALF = 0.5
"""A contribution with more than half of the variance is the one to improve first."""

TERMINALS_C = 25.0
"""Where an instrument's terminals usually are, °C."""

SOURCE = "JCGM 100:2008 (GUM), 4.3.7 and 5.1"


@dataclass(frozen=True)
class ReadingChain:
    """The reading chain at one temperature: sensor and class; cable (with the temperature of its joint) or none;
    input accuracy as °C and as percent of reading; cold-junction accuracy; display digit; placement, all in °C."""

    sensor: str
    tolerance_class: str
    celsius: float
    joint_c: float | None = None
    input_c: float = 0.5
    input_percent: float = 0.1
    cold_junction_c: float = 1.0
    digit_c: float = 0.1
    placement_c: float = 0.0


@dataclass(frozen=True)
class Budget:
    """Contributions as half-widths in °C, the largest first; what they come to; and each one's share of the variance."""

    parts: tuple[Figure, ...]
    shares: tuple[float, ...]
    expanded: Figure
    worst: Figure
    advice: str


def budget(chain: ReadingChain) -> Budget:
    """Raises ``Refused`` for negative contributions and where the class does not cover the temperature."""
    refuse_all(
        Problem(name, "cannot be negative", "0 or more")
        for name in ("input_c", "input_percent", "cold_junction_c", "digit_c", "placement_c")
        if getattr(chain, name) < 0
    )
    parts = sorted(_parts(chain), key=lambda f: -f.value)
    variances = [f.value**2 / 3.0 for f in parts]
    total = sum(variances)
    inputs = tuple(Input(f.name, f.value, Kind.DIFFERENCE, f"a{_index(i)}", "half-width") for i, f in enumerate(parts))
    expanded = Figure(
        "reading, expanded uncertainty",
        2.0 * sqrt(total),
        Kind.DIFFERENCE,
        formula="U = 2 √(Σ aᵢ² / 3)",
        inputs=inputs,
        reason="The truth lies this near the display about 19 times in 20, if no mistake was made.",
        source=SOURCE,
        symbol="U",
    )
    worst = Figure(
        "if all erred the same way",
        sum(f.value for f in parts),
        Kind.DIFFERENCE,
        formula="Σ aᵢ",
        inputs=inputs,
        reason="Unlikely, but nothing forbids it.",
    )
    largest = parts[0]
    share = largest.value**2 / 3.0 / total if total else 0.0
    advice = (
        f"{largest.name.capitalize()} makes {quantity(share * 100, '%', '.0f')} of it: improve that first."
        if share > HALF
        else "No single part dominates: improving one alone changes little."
    )
    return Budget(tuple(parts), tuple(v / total if total else 0.0 for v in variances), expanded, worst, advice)


def _index(i: int) -> str:
    return "₁₂₃₄₅₆₇₈₉"[i]


def _parts(chain: ReadingChain) -> list[Figure]:
    at = Input("temperature", chain.celsius, Kind.TEMPERATURE, "t", "chosen")
    own = permitted(chain.sensor, chain.tolerance_class, chain.celsius)
    if own is None:
        raise refuse(
            "celsius",
            f"{chain.tolerance_class} of a {describe(chain.sensor)} does not cover {temperature(chain.celsius)}",
            "a temperature or class that is covered",
        )

    def part(name: str, value: float, formula: str, inputs: tuple[Input, ...], reason: str, source: str = "") -> Figure:
        return Figure(name, value, Kind.DIFFERENCE, formula=formula, inputs=inputs, reason=reason, source=source)

    sensor_source = "IEC 60584-1, ASTM E230" if is_thermocouple(chain.sensor) else "IEC 60751"
    found = [
        part(
            "sensor",
            own,
            chain.tolerance_class,
            (at,),
            "As delivered; a used one drifts beyond it.",
            sensor_source,
        ),
        part(
            "input",
            chain.input_c + chain.input_percent / 100.0 * abs(chain.celsius),
            "a + p |t|",
            (
                Input("fixed", chain.input_c, Kind.DIFFERENCE, "a", "data sheet"),
                Input("of reading", chain.input_percent, Kind.PERCENT, "p", "data sheet"),
                at,
            ),
            "The controller's own accuracy.",
        ),
        part(
            "display digit",
            chain.digit_c / 2.0,
            "digit / 2",
            (Input("digit", chain.digit_c, Kind.DIFFERENCE, "digit", "controller"),),
            "Rounded to the nearest digit.",
        ),
    ]
    if chain.placement_c:
        given = Input("given", chain.placement_c, Kind.DIFFERENCE, "", "entered")
        found.append(
            part("placement", chain.placement_c, "as given", (given,), "What the sensor's place differs from the load.")
        )
    if is_thermocouple(chain.sensor):
        found.append(_cold_junction(chain))
        if chain.joint_c is not None:
            found.append(_cable(chain, chain.joint_c))
    return found


def _cold_junction(chain: ReadingChain) -> Figure:
    """An error of the terminals is one of voltage: it counts by the slope there over the slope at the load."""
    ratio = abs(seebeck(chain.sensor, TERMINALS_C) / seebeck(chain.sensor, chain.celsius))
    return Figure(
        "cold junction",
        chain.cold_junction_c * ratio,
        Kind.DIFFERENCE,
        formula="a S(T_cj) / S(t)",
        inputs=(
            Input("data sheet", chain.cold_junction_c, Kind.DIFFERENCE, "a", "controller"),
            Input(
                "slope at the terminals over slope at the load", ratio, Kind.RATIO, "S(T_cj)/S(t)", "reference function"
            ),
        ),
        reason=f"How well the input knows its own terminals, at {temperature(TERMINALS_C)}: a voltage, and so more degrees where the "
        "load's slope is less.",
        source="NIST Monograph 175",
    )


def _cable(chain: ReadingChain, joint_c: float) -> Figure:
    error = cable_permitted(chain.sensor, joint_c)
    if error is None:
        raise refuse(
            "joint_c",
            f"no extension cable for type {chain.sensor} with its joint at {temperature(joint_c)}",
            "a cooler joint",
        )
    return Figure(
        "extension cable",
        error,
        Kind.DIFFERENCE,
        formula="class 2",
        inputs=(Input("joint", joint_c, Kind.TEMPERATURE, "", "chosen"),),
        reason="Extension wire is not the probe's own wire.",
        source="IEC 60584-3, from memory",
    )
