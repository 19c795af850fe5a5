"""Stage 0, the sensor at its own leads: ohms of every kind."""

from collections.abc import Iterator

import numpy as np

from ..explain import Figure, Input
from ..sensing.resistance import resistance
from ..sensing.sensors import NOMINAL_OHM, tolerance
from ..units import Kind
from ..wiring.model import Part
from .facts import Citing, Fitted, ProvingFacts
from .step import Measure, MeterSetting, ProvingStep

LOOP_OHM = 100.0
"""Most of a thermocouple with its cable: a thin one of a few metres; more is a bad joint (common practice, no source)."""
CABLE_OHM = 2.5
"""Most of one lead of a resistance thermometer (common practice, no source)."""
SHEATH_OHM = 1e6
"""Least from an insulated junction to its sheath by an ordinary meter, Ω (IEC 61515 asks far more at its test volts; from memory)."""
ROOM_C = 3.0
"""How far the probe may be from the room that was said, °C (our choice)."""


def probe_steps(facts: ProvingFacts, part: Part) -> Iterator[ProvingStep]:
    """Of one sensor, off its input."""
    cite = Citing(facts)
    cite.part(part.name)
    cite.fitted(Fitted.SENSOR)
    ends = part.ends
    own = [w for w in facts.wiring.connections if part.name in w.parts]
    for wire in own:
        cite.wire(wire)
    sensor = str(part.ratings.get("sensor", ""))
    nominal = NOMINAL_OHM.get(sensor)
    apart = "Its wires off the input: the input’s own electronics would be measured along."
    if nominal:
        low_c, high_c = facts.room_c - ROOM_C, facts.room_c + ROOM_C
        off = tolerance(sensor, facts.room_c) or 0.0
        cold, warm, now = (float(v) for v in resistance(np.array([low_c - off, high_c + off, facts.room_c]), nominal))
        figure = Figure(
            f"{sensor} at the room",
            now,
            Kind.RESISTANCE,
            formula="R(T)",
            symbol="R",
            source="IEC 60751",
            inputs=(Input("room, and so the probe", facts.room_c, Kind.TEMPERATURE, "T", "measured"),),
        )
        yield ProvingStep(
            f"sensor {part.name}",
            0,
            f"{sensor} {part.name}",
            f"From {ends[0]} to {ends[1]}: ohms.",
            "As many as the room’s temperature makes.",
            Measure(figure, cold, warm + 2 * CABLE_OHM),
            MeterSetting.OHMS,
            isolated=apart,
            cites=cite.cites,
        )
        if len(ends) > 2:
            lead = Figure(
                "one lead",
                0.0,
                Kind.RESISTANCE,
                symbol="R",
                reason="Two leads of one end: hardly anything. As much as both ends have between them means that they are mixed up.",
            )
            yield ProvingStep(
                f"leads {part.name}",
                0,
                f"Leads of {part.name}",
                f"From {ends[1]} to {ends[2]}: ohms.",
                "The two leads of one end.",
                Measure(lead, 0.0, 2 * CABLE_OHM),
                MeterSetting.OHMS,
                isolated=apart,
                cites=cite.cites,
            )
    elif part.type.kind == "thermocouple":
        loop = Figure(
            "thermocouple with its cable",
            5.0,
            Kind.RESISTANCE,
            symbol="R",
            source="common practice, no source",
            reason="A few ohms. Swap the leads: what a warm probe makes itself changes its sign.",
        )
        yield ProvingStep(
            f"sensor {part.name}",
            0,
            f"Thermocouple {part.name}",
            f"From {ends[0]} to {ends[1]}: ohms, and again with the leads swapped.",
            "A few ohms, not open.",
            Measure(loop, 0.0, LOOP_OHM),
            MeterSetting.OHMS,
            isolated=apart,
            cites=cite.cites,
        )
        if part.ratings.get("junction") == "insulated":
            sheath = Figure(
                "junction to sheath",
                SHEATH_OHM,
                Kind.RESISTANCE,
                symbol="R",
                source="IEC 61515 asks far more at its test volts; from memory",
            )
            yield ProvingStep(
                f"sheath {part.name}",
                0,
                f"Junction of {part.name} to its sheath",
                f"From {ends[0]} to the sheath of {part.name}: ohms.",
                "No connection: it is sold as insulated.",
                Measure(sheath, SHEATH_OHM, None),
                MeterSetting.OHMS,
                isolated=apart,
                cites=cite.cites,
            )
    else:
        yield ProvingStep(
            f"sensor {part.name}",
            0,
            f"Thermistor {part.name}",
            f"From {ends[0]} to {ends[1]}: ohms, then warm the bead with two fingers.",
            "They fall as it warms; its curve is its own.",
            isolated=apart,
            meter=MeterSetting.OHMS,
            cites=cite.cites,
            constant="A thermistor’s curve is its own: no number is right for all.",
        )
