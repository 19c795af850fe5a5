"""How finely does an amplifier or converter read a sensor?"""

from dataclasses import dataclass
from typing import Any

from ...errors import Refused, refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...messages import difference, quantity, span, temperature
from ...sensing import thermocouples
from ...sensing.sensors import NOMINAL_OHM, NTC
from ...sensing.thermocouples import TYPES, emf, seebeck, temperature_range
from ...units import Kind
from ..answer import Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from .front_resistance import amplified, ratio_converter
from .sensor_words import STANDARD

RESISTIVE = (*NOMINAL_OHM, NTC)


@dataclass(frozen=True)
class FrontInput:
    """A sensor into an amplifier, or a digital converter."""

    sensor: str = choice("Sensor", {**STANDARD, NTC: "Thermistor, 10 kΩ"}, "K")
    highest_c: float = number("Highest to be read", Kind.TEMPERATURE, 1, 1800, 400)
    lowest_c: float = number("Lowest to be read", Kind.TEMPERATURE, -200, 800, 0, when=("sensor", RESISTIVE))
    cold_c: float = number("Terminals at", Kind.TEMPERATURE, -40, 85, 25, when=("sensor", tuple(TYPES)))
    current_ma: float = number("Current through it, mA", Kind.COUNT, 0.001, 50, 1, when=("sensor", RESISTIVE))
    way: str = choice(
        "Read by",
        {
            "amp": "Amplifier and analogue pin",
            "linear": "Converter that is linear ({41.276 µV/°C})",
            "digital": "Digital converter made for it",
        },
        "amp",
    )
    full_v: float = number("Pin takes up to", Kind.VOLTAGE, 0.5, 10, 3.3, when=("way", ("amp",)))
    bits: str = choice(
        "Analogue converter", {"10": "10 bit", "12": "12 bit", "16": "16 bit"}, "10", when=("way", ("amp",))
    )
    offset_uv: float = number("Amplifier's input offset, µV", Kind.COUNT, 0, 10_000, 150, when=("way", ("amp",)))
    shown_c: float | None = number(
        "It showed (if known)", Kind.TEMPERATURE, -270, 1800, None, optional=True, when=("way", ("linear",))
    )
    period_s: float = number("Read every", Kind.TIME, 0.001, 3600, 0.1, when=("way", ("linear", "digital")))


LINEAR_MV = 0.041276

CONVERSION_S = 0.25

STEP_C = 0.25


def _front(g: FrontInput) -> Answer:
    if g.sensor in RESISTIVE:
        return _resistive(g)
    low, high = temperature_range(g.sensor)
    if not g.highest_c <= high:
        raise refuse("highest_c", f"type {g.sensor} ends there", f"up to {temperature(high)}")
    if not low <= g.cold_c < g.highest_c:
        raise refuse("cold_c", "terminals of this type, cooler than the tip", span(max(low, -40), g.highest_c, "°C"))
    if g.way == "amp":
        return _amplifier(g)
    return _converter(g)


def _resistive(g: FrontInput) -> Answer:
    if g.way == "linear":
        raise refuse("way", "that converter is made for thermocouples", "amplifier, or a converter made for the sensor")
    if g.way == "digital":
        return ratio_converter(g.sensor, g.lowest_c, g.highest_c)
    return amplified(g.sensor, g.lowest_c, g.highest_c, g.current_ma, g.full_v, int(g.bits), g.offset_uv)


def _amplifier(g: FrontInput) -> Answer:
    top_mv = float(emf(g.sensor, g.highest_c) - emf(g.sensor, g.cold_c))
    gain = g.full_v * 1000 / float(emf(g.sensor, g.highest_c))
    slope = float(seebeck(g.sensor, g.highest_c))
    count = g.full_v / 2 ** int(g.bits) / gain * 1000 / slope
    offset = g.offset_uv / 1000 / float(seebeck(g.sensor, 25.0))
    return Answer(
        f"Gain {gain:.0f}; one count is {difference(count, '.2g')}.",
        (
            Figure(
                "gain",
                gain,
                Kind.RATIO,
                formula="V_full / E(T)",
                inputs=(
                    Input("pin takes", g.full_v, Kind.VOLTAGE, "V_full", "given"),
                    Input(
                        "thermocouple", float(emf(g.sensor, g.highest_c)), Kind.MILLIVOLTS, "E(T)", "reference function"
                    ),
                ),
                reason="Full scale at the highest temperature, terminals at {0 °C}: room for any terminal temperature above.",
                source="NIST Monograph 175",
            ),
            Figure(
                "into the amplifier",
                top_mv,
                Kind.MILLIVOLTS,
                formula="E(T) − E(T_cj)",
                inputs=(Input("terminals", g.cold_c, Kind.TEMPERATURE, "T_cj", "given"),),
                reason="At the highest temperature, terminals as given.",
                source="NIST Monograph 175",
            ),
            Figure(
                "one count is",
                count,
                Kind.DIFFERENCE,
                formula="V_full / 2^bits / gain / S",
                inputs=(Input("slope at the top", slope, Kind.MILLIVOLTS, "S", "per °C"),),
                reason="The finest step.",
                source="converter",
            ),
            Figure(
                "offset makes",
                offset,
                Kind.DIFFERENCE,
                formula="V_os / S",
                inputs=(Input("offset", g.offset_uv / 1000, Kind.MILLIVOLTS, "V_os", "data sheet"),),
                reason="Near room temperature; trim it, or take a zero-drift amplifier.",
                source="data sheet",
            ),
        ),
        (
            Finding(
                "front.cold",
                Severity.ADVICE,
                title="Without cold-junction compensation it reads a difference",
                reason="The voltage tells how much hotter the tip is than the terminals, no more.",
                fix="Measure the terminals' temperature, add E of it in millivolts, then convert.",
            ),
        ),
        _emf_curve(g),
    )


def _emf_curve(g: FrontInput) -> Curves:
    grid = [g.highest_c * i / 60 for i in range(61)]
    start = float(emf(g.sensor, g.cold_c))
    return Curves(
        Axis("tip", Kind.TEMPERATURE),
        Axis("into the amplifier", Kind.MILLIVOLTS),
        (curve("voltage", grid, [float(emf(g.sensor, t)) - start for t in grid]),),
        (Mark("highest", g.highest_c, float(emf(g.sensor, g.highest_c)) - start),),
    )


def _converter(g: FrontInput) -> Answer:
    findings = []
    if g.period_s < CONVERSION_S:
        findings.append(
            Finding(
                "front.fast",
                Severity.ADVICE,
                title=f"Read every {quantity(g.period_s, 's')} it gives the same value again",
                reason="A conversion takes {0.1…0.25 s}; derivative action sees steps and zeros.",
                fix="Read every {0.25 s} or slower, and throw the first values after power-up away.",
            )
        )
    step = Figure(
        "one step is",
        STEP_C,
        Kind.DIFFERENCE,
        reason="Of common converters for type K.",
        source="common practice, from memory",
    )
    if g.way == "digital":
        return Answer(
            f"Steps of {difference(STEP_C, '.2f')}, a new value every {quantity(CONVERSION_S, 's')}.",
            (step,),
            tuple(findings),
        )
    if g.sensor != "K":
        findings.append(
            Finding(
                "front.type",
                Severity.FAULT,
                title="This converter is made for type K",
                reason=f"It multiplies by {{41.276 µV/°C}}; type {g.sensor} has another slope.",
                fix="A converter for this type, or recover the voltage and convert yourself.",
            )
        )
    grid = [g.cold_c + (g.highest_c - g.cold_c) * i / 60 for i in range(61)]
    errors = [_linear_error(g, t) for t in grid]
    worst = max(errors, key=abs)
    recovered: tuple[Figure, ...] = ()
    if g.shown_c is not None and g.sensor == "K":
        recovered = (
            Figure(
                "really it was",
                from_linear(g.shown_c, g.cold_c),
                Kind.TEMPERATURE,
                formula="E⁻¹(E(T_cj) + 41.276 µV (T_out − T_cj))",
                inputs=(
                    Input("it showed", g.shown_c, Kind.TEMPERATURE, "T_out", "given"),
                    Input("terminals", g.cold_c, Kind.TEMPERATURE, "T_cj", "given"),
                ),
                reason="The voltage recovered, the reference function applied.",
                source="NIST Monograph 175",
            ),
        )
    return Answer(
        f"Up to {difference(worst, '+.1f')} from being linear.",
        (
            step,
            *recovered,
            Figure(
                "error at the top",
                errors[-1],
                Kind.DIFFERENCE,
                formula="T_out = T_cj + V / 41.276 µV",
                inputs=(Input("terminals", g.cold_c, Kind.TEMPERATURE, "T_cj", "given"),),
                reason="Recover the voltage from what it shows, then apply the reference function.",
                source="NIST Monograph 175",
            ),
        ),
        tuple(findings),
        Curves(Axis("tip", Kind.TEMPERATURE), Axis("error", Kind.DIFFERENCE), (curve("shown − true", grid, errors),)),
    )


def _linear_error(g: FrontInput, true_c: float) -> float:
    return float(g.cold_c + (emf(g.sensor, true_c) - emf(g.sensor, g.cold_c)) / LINEAR_MV - true_c)


def from_linear(shown_c: float, cold_c: float) -> float:
    """What a linear type K converter should have shown, °C: voltage recovered, reference function applied.
    Raises ``Refused`` for a voltage that no type K gives.
    """
    try:
        return float(thermocouples.temperature("K", (shown_c - cold_c) * LINEAR_MV + float(emf("K", cold_c))))
    except Refused:
        raise refuse("shown_c", "no type K thermocouple gives that", "{-270…1372 °C} shown rightly") from None


def _front_of_rig(known: Known) -> dict[str, Any]:
    sensor = known.choice.sensor
    milliamps = {"current_ma": 0.1} if sensor == NTC else {}
    return {"highest_c": known.purpose.highest_c, "sensor": sensor, **milliamps}


FRONT = Question(
    "front",
    "How finely does my input read?",
    Topic.SENSOR,
    FrontInput,
    _front,
    _front_of_rig,
    (
        "Type K gives about 41 µV a degree: a grounded junction on an earthed case upsets inputs that are not isolated.",
        "Some converters recognise an open sensor and a short to ground, others only an open one.",
    ),
    "Let firmware switch the heater off when the converter does not answer.",
    ("sensor",),
)
