"""A platinum sensor or thermistor read by a current and an amplifier, or by a ratio converter: gain, step, self-heating."""

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...messages import difference, quantity, temperature
from ...sensing import resistance
from ...sensing.sensors import NOMINAL_OHM, sensor_range
from ...sensing.thermistors import Beta
from ...units import Kind
from ..answer import MEMORY, Answer, Axis, Curves, Mark, curve

USUAL_BETA = Beta(10_000.0, 3950.0)
"""The usual 10 kΩ bead (typical of data sheets); fit your own under the thermistor question."""
DISSIPATION_W_K = {"Pt100": 0.005, "Pt1000": 0.005, "NTC": 0.002}
"""Power in W that warms the element by 1 K in still air (typical, from memory)."""
RATIO_BITS = 15
REFERENCE_RATIO = 4.0
"""Usual ratio converters compare the sensor with a reference of four times its nominal resistance in 15 bits (memory)."""
WARM_LIMIT_C = 0.2


def ohms(sensor: str, celsius: float) -> float:
    """Resistance in Ω of a platinum sensor (IEC 60751) or the usual thermistor."""
    if sensor in NOMINAL_OHM:
        return float(resistance.resistance(celsius, NOMINAL_OHM[sensor]))
    return float(USUAL_BETA.resistance(celsius))


def _check(sensor: str, low_c: float, high_c: float) -> None:
    low, high = sensor_range(sensor)
    if not high_c <= high:
        raise refuse("highest_c", f"a {sensor} ends there", f"up to {temperature(high)}")
    if not low <= low_c < high_c:
        raise refuse(
            "lowest_c",
            "the lowest to be read lies below the highest, inside the sensor's range",
            f"from {temperature(low)}",
        )


def amplified(
    sensor: str, low_c: float, high_c: float, current_ma: float, full_v: float, bits: int, offset_uv: float
) -> Answer:
    """The sensor fed with a current in mA, amplified to a pin of ``full_v`` V; temperatures in °C."""
    _check(sensor, low_c, high_c)
    amps = current_ma / 1000
    hottest, coldest = ohms(sensor, high_c), ohms(sensor, low_c)
    most = max(hottest, coldest)
    gain = full_v / (amps * most)
    grid = [low_c + (high_c - low_c) * i / 60 for i in range(61)]
    slopes = [abs(ohms(sensor, min(t + 0.05, high_c)) - ohms(sensor, t - 0.05)) / 0.1 for t in grid[1:-1]]
    least = min(slopes)
    count = full_v / 2**bits / gain / amps / least
    warm = amps**2 * most / DISSIPATION_W_K[sensor]
    offset = offset_uv * 1e-6 / amps / least
    fed = Input("current", current_ma, Kind.MILLIAMPERES, "I", "given")
    reason = (
        "Full scale at the largest resistance of the span; the empty bottom of the scale is what a bridge would save."
    )
    return Answer(
        f"Gain {quantity(gain, '', '.3g')}; one count is at most {difference(count, '.2g')}.",
        (
            Figure(
                "gain",
                gain,
                Kind.RATIO,
                formula="V_full / (I R_max)",
                inputs=(
                    Input("pin takes", full_v, Kind.VOLTAGE, "V_full", "given"),
                    fed,
                    Input("", most, Kind.RESISTANCE, "R_max"),
                ),
                reason=reason,
                source="IEC 60751" if sensor in NOMINAL_OHM else "beta equation",
            ),
            Figure(
                "one count is",
                count,
                Kind.DIFFERENCE,
                formula="V_full / 2^bits / gain / (I dR/dT)",
                inputs=(Input("least slope, Ω/°C", least, Kind.RATIO, "dR/dT", "reference function"), fed),
                reason="The coarsest of the span.",
                source="converter",
            ),
            Figure(
                "warms itself by",
                warm,
                Kind.DIFFERENCE,
                formula="I² R / δ",
                inputs=(fed, Input("dissipation, W/K", DISSIPATION_W_K[sensor], Kind.RATIO, "δ", MEMORY)),
                reason="In still air; less in a liquid or a well.",
                source=MEMORY,
            ),
            Figure(
                "offset makes",
                offset,
                Kind.DIFFERENCE,
                formula="V_os / (I dR/dT)",
                inputs=(Input("offset", offset_uv / 1000, Kind.MILLIVOLTS, "V_os", "data sheet"),),
                reason="At the flattest place of the span; trim it.",
                source="data sheet",
            ),
        ),
        _warm(warm, current_ma),
        Curves(
            Axis("sensor", Kind.TEMPERATURE),
            Axis("across it", Kind.MILLIVOLTS),
            (curve("voltage", grid, [1000 * amps * ohms(sensor, t) for t in grid]),),
            (Mark("highest", high_c, 1000 * amps * hottest),),
        ),
    )


def _warm(warm: float, current_ma: float) -> tuple[Finding, ...]:
    if warm <= WARM_LIMIT_C:
        return ()
    return (
        Finding(
            "front.warm",
            Severity.FAULT if warm > 1 else Severity.ADVICE,
            title=f"The current warms the sensor by {difference(warm, '.1g')}",
            reason="It reads its own heat beside the load's, and more so in still air.",
            fix=f"A current well below {quantity(current_ma, 'mA')}, or feed it only while reading.",
        ),
    )


def ratio_converter(sensor: str, low_c: float, high_c: float) -> Answer:
    """A digital converter that compares a platinum sensor with a reference resistor. Raises ``Refused`` for others."""
    if sensor not in NOMINAL_OHM:
        raise refuse("way", "thermistors are read by a divider: ask what the thermistor reads", "amplifier")
    _check(sensor, low_c, high_c)
    reference = REFERENCE_RATIO * NOMINAL_OHM[sensor]
    slope = ohms(sensor, high_c) - ohms(sensor, high_c - 1.0)
    step = reference / 2**RATIO_BITS / slope
    full = min(reference, ohms(sensor, sensor_range(sensor)[1]))
    return Answer(
        f"Steps of {difference(step, '.2g')}.",
        (
            Figure(
                "one step is",
                step,
                Kind.DIFFERENCE,
                formula="R_ref / 2^15 / (dR/dT)",
                inputs=(
                    Input("reference", reference, Kind.RESISTANCE, "R_ref", MEMORY),
                    Input("slope, Ω/°C", slope, Kind.RATIO, "dR/dT", "IEC 60751"),
                ),
                reason="At the highest temperature to be read, where it is coarsest.",
                source="IEC 60751; the converter from memory",
            ),
            Figure(
                "it can measure up to",
                full,
                Kind.RESISTANCE,
                formula="R_ref",
                reason="Beyond its reference it only says 'too much'.",
                source=MEMORY,
            ),
        ),
        (
            Finding(
                "front.leads",
                Severity.ADVICE,
                title="Set the converter to the number of leads you have",
                reason="Set for two leads it counts them as temperature, about {2.6 Δ°C} an ohm for a Pt100.",
                fix="Three or four leads, and the link on the board set for them.",
            ),
        ),
    )
