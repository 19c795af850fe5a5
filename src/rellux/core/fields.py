"""What the fields of a rig are called, of what kind they are, and what their choices say: one description for the screens, for
refusals and for the Book. Parameters of the sheet and ratings of parts bring their own."""

from dataclasses import dataclass

from .calibration.certificates import SAYS as CERTIFICATE
from .calibration.corrections import SAYS as CORRECTING
from .calibration.schools import SAYS, OffsetSchool
from .calibration.verdicts import SAYS as ADVICE
from .control.alarms.settings import KINDS as ALARMS
from .control.alarms.settings import Standby
from .equipment.equipment import JUNCTIONS, ROLES
from .heating.conductor_tables import Practice
from .logs import lines
from .logs import mapping as logs
from .logs.times import FORMATS
from .purpose.controls import ControlsFedBy
from .purpose.cooler import CooledBy
from .purpose.kinds import KINDS
from .purpose.own_mains import MadeBy
from .purpose.purpose import SUPPLY_WORDS, Effect
from .sensing.feed_table import LEADS
from .sensing.sensors import NAMES, describe
from .setup.auto_tune import AUTO_TUNE, TITLE, WORDS
from .setup.dictionary import PARAMETERS
from .units import Kind
from .wiring.choice import Actuator, Output
from .wiring.library import PART_TYPES

Choices = tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class FieldWords:
    """A field by its name, or by the end of its path where the name alone is another's: its label, the kind of a number, and what its
    choices are called."""

    name: str
    label: str
    kind: Kind | None = None
    choices: Choices = ()


YES_NO: Choices = (("true", "yes"), ("false", "no"))
OUTPUTS = {
    Output.RELAY: "Relay contact",
    Output.SSR_DRIVE: "SSR drive",
    Output.LINEAR: "Linear, 4–20 mA or 0–10 V",
    Output.PIN: "Logic pin",
}
ACTUATORS = {
    Actuator.RELAY: "Power relay",
    Actuator.CONTACTOR: "Contactor",
    Actuator.SSR: "Solid state relay",
    Actuator.MOSFET: "MOSFET",
    Actuator.PHASE_ANGLE: "Phase-angle unit",
    Actuator.NONE: "Nothing: it only watches",
}
STANDBY: dict[str, str] = {
    Standby.NONE: "watches at once",
    Standby.FIRST: "held until first in range",
    Standby.EVERY: "held again at each new set-point",
}
CONTROLS_FED_BY = {
    ControlsFedBy.MAINS: "Mains of their own",
    ControlsFedBy.DC: "DC of their own",
    ControlsFedBy.MODULE: "A DC supply module",
}
MADE_BY = {MadeBy.GENERATOR: "A generator", MadeBy.INVERTER: "An inverter"}
COOLED_BY = {
    CooledBy.FAN: "A fan cools it",
    CooledBy.VALVE: "Water cools it",
    CooledBy.COMPRESSOR: "A compressor cools it",
    CooledBy.MODULE: "A thermo-electric module cools it",
    CooledBy.TURNED: "The module that heats it, turned round",
}
EFFECTS = {Effect.HEATS: "Heats it", Effect.COOLS: "Cools it", Effect.WATCHES: "Only watches it"}
PRACTICES = {Practice.IEC: "IEC 60364", Practice.NEC: "NEC"}
VERDICTS = {"supported": "supported", "slope_only": "slope only", "poor": "poor", "biased": "biased"}


def _said(words: dict[str, str]) -> Choices:
    return tuple((str(key), said) for key, said in words.items())


_OWN = (
    FieldWords("name", "Name"),
    FieldWords("kind", "Kind", choices=_said({k.value: known.title for k, known in KINDS.items()})),
    FieldWords("effect", "What it does to the temperature", choices=_said({k.value: v for k, v in EFFECTS.items()})),
    FieldWords("working_c", "Working temperature", Kind.TEMPERATURE),
    FieldWords("highest_c", "Highest allowed", Kind.TEMPERATURE),
    FieldWords("highest_reason", "Above it"),
    FieldWords("lowest_c", "Lowest useful (if any)", Kind.TEMPERATURE),
    FieldWords("lowest_reason", "Below it"),
    FieldWords("ambient_c", "Room", Kind.TEMPERATURE),
    FieldWords("supply", "Supply", choices=_said({s.value: w for s, w in SUPPLY_WORDS.items()})),
    FieldWords("supply_voltage_v", "Supply voltage", Kind.VOLTAGE),
    FieldWords("frequency_hz", "Frequency", Kind.FREQUENCY),
    FieldWords("heater_power_w", "Heater power, nameplate", Kind.POWER),
    FieldWords("heater_voltage_v", "Heater voltage, nameplate", Kind.VOLTAGE),
    FieldWords("materials", "Materials"),
    FieldWords("fire", "Fire"),
    FieldWords("fire_w", "Heat of the fire, fan full on", Kind.POWER),
    FieldWords("idle_percent", "Left of it with the fan standing", Kind.PERCENT),
    FieldWords("dies_s", "Dies down to a third in", Kind.TIME),
    FieldWords("cooler", "Cooler"),
    FieldWords("cooled_by", "Cooled by", choices=_said({c.value: w for c, w in COOLED_BY.items()})),
    FieldWords("cooler_w", "Heat it takes out", Kind.POWER),
    FieldWords("coolant_c", "Water that comes in", Kind.TEMPERATURE),
    FieldWords("coldest_c", "Takes out nothing any more at", Kind.TEMPERATURE),
    FieldWords("drive_w", "What cools it draws", Kind.POWER),
    FieldWords("controls", "What feeds the controls"),
    FieldWords("fed_by", "Controls are fed by", choices=_said({f.value: w for f, w in CONTROLS_FED_BY.items()})),
    FieldWords("controls_v", "Voltage of the controls", Kind.VOLTAGE),
    FieldWords("own_mains", "What makes the mains"),
    FieldWords("heater_sensor", "Sensor at the heater"),
    FieldWords("hotter_c", "While it holds, that shows more by", Kind.DIFFERENCE),
    FieldWords("made_by", "The mains are made by", choices=_said({m.value: w for m, w in MADE_BY.items()})),
    FieldWords("made_w", "It gives for hours", Kind.POWER),
    FieldWords("chamber", "Chamber"),
    FieldWords("zones", "Zones"),
    FieldWords("along_percent", "With one of these two heated alone, the other comes to", Kind.PERCENT),
    FieldWords("supply_w", "The supply of all of them gives", Kind.POWER),
    FieldWords("limit_c", "Stands", Kind.TEMPERATURE),
    FieldWords("sensor", "Sensor", choices=tuple((n, describe(n)) for n in NAMES)),
    FieldWords("output", "Controller output", choices=_said({o.value: w for o, w in OUTPUTS.items()})),
    FieldWords("actuator", "Switch", choices=_said({a.value: w for a, w in ACTUATORS.items()})),
    FieldWords("limiter", "Independent limiter", choices=YES_NO),
    FieldWords("practice", "Sized by", choices=_said({p.value: w for p, w in PRACTICES.items()})),
    FieldWords("plug_a", "Plug or inlet", Kind.CURRENT),
    FieldWords("host", "Address"),
    FieldWords("port", "Port"),
    FieldWords("unit_id", "Unit"),
    FieldWords("poll_s", "Poll every", Kind.TIME),
    FieldWords("register_map", "It speaks by"),
    FieldWords("device", "Serial port"),
    FieldWords("baud", "Speed, baud"),
    FieldWords("parity", "Parity"),
    FieldWords("stop_bits", "Stop bits"),
    FieldWords("speed", "Times faster than real"),
    FieldWords("armed", "Arming"),
    FieldWords("relay", "Relay test"),
    FieldWords("stays", "Somebody stays with it"),
    FieldWords("link", "Link"),
    FieldWords("wires", "Wires", Kind.COUNT),
    FieldWords("number", "Wire"),
    FieldWords("a", "From"),
    FieldWords("b", "To"),
    FieldWords("area_mm2", "Size", Kind.AREA),
    FieldWords("colour", "Colour"),
    FieldWords("length_m", "Length", Kind.METRES),
    FieldWords("insulation", "Covering"),
    FieldWords("route", "Duct or bundle"),
    FieldWords("samples", "Samples", Kind.COUNT),
    FieldWords("gain", "Process gain", Kind.GAIN),
    FieldWords("lag_s", "Lag", Kind.TIME),
    FieldWords("dead_time_s", "Dead time", Kind.TIME),
    FieldWords("verdict", "Verdict", choices=_said(VERDICTS)),
    FieldWords("school", "Offset is", choices=_said({s.value: SAYS[s] for s in OffsetSchool})),
    FieldWords("display_c", "Display", Kind.TEMPERATURE),
    FieldWords("reference_c", "Reference", Kind.TEMPERATURE),
    FieldWords("reference", "Compared with"),
    FieldWords("existing_c", "Offset in it now", Kind.DIFFERENCE),
    FieldWords("resolution_c", "Its smallest step", Kind.DIFFERENCE),
    FieldWords(
        "correcting", "The controller takes", choices=_said({c.value: w.capitalize() for c, w in CORRECTING.items()})
    ),
    FieldWords("points", "Points it has", Kind.COUNT),
    FieldWords("gain_step", "Smallest step of its gain", Kind.RATIO),
    FieldWords("step_c", "Smallest step of its offset", Kind.DIFFERENCE),
    FieldWords("levels", "Comparisons"),
    FieldWords("comparisons", "Comparisons"),
    FieldWords("fed", "What was fed"),
    FieldWords("feed", "Fed"),
    FieldWords("reference_u_c", "Reference, standard uncertainty", Kind.DIFFERENCE),
    FieldWords("certificate_c", "Its certificate’s number here", Kind.DIFFERENCE),
    FieldWords("certificate_says", "The number is its", choices=_said({c.value: w for c, w in CERTIFICATE.items()})),
    FieldWords("setpoint_c", "Set-point", Kind.TEMPERATURE),
    FieldWords("display_digit_c", "Display, smallest step", Kind.DIFFERENCE),
    FieldWords("reference_digit_c", "Reference, smallest step", Kind.DIFFERENCE),
    FieldWords("places_c", "Their places may differ, ±", Kind.DIFFERENCE),
    FieldWords("swing_c", "It cycles, from trough to peak", Kind.DIFFERENCE),
    FieldWords("drift_c_per_min", "It still drifts by", Kind.RATE),
    FieldWords("follows_slower_s", "One follows slower by", Kind.TIME),
    FieldWords("rose_c_per_min", "It rose by (falling: −)", Kind.RATE),
    FieldWords("reference_slower_s", "Reference slower by (faster: −)", Kind.TIME),
    FieldWords("lead", "Fed by", choices=_said({lead.value: words for lead, words in LEADS.items()})),
    FieldWords("junction_c", "Where the junction is, it is at", Kind.TEMPERATURE),
    FieldWords("known_c", "Known to, ±", Kind.DIFFERENCE),
    FieldWords("accuracy", "What it feeds is right to, ±"),
    FieldWords("recovered", "Left to recover between pairs", choices=YES_NO),
    FieldWords("interval", "Compared again"),
    FieldWords("days", "Every so many days", Kind.COUNT),
    FieldWords("allowed_c", "It may be off by, ±", Kind.DIFFERENCE),
    FieldWords("guard", "Guard band, times U", Kind.RATIO),
    FieldWords("hot_c", "Its sensor ages above", Kind.TEMPERATURE),
    FieldWords("dated", "Certificate of"),
    FieldWords("coverage", "Coverage factor k", Kind.RATIO),
    FieldWords("at_c", "At", Kind.TEMPERATURE),
    FieldWords("number_c", "Its number", Kind.DIFFERENCE),
    FieldWords("expanded_c", "Its U, ±", Kind.DIFFERENCE),
    FieldWords("verdict_of_offset", "Advice", choices=_said({a.value: w for a, w in ADVICE.items()})),
    FieldWords("anyway", "Enter it all the same, because"),
    FieldWords("error_c", "Display error", Kind.DIFFERENCE),
    FieldWords("uncertainty_c", "Uncertainty", Kind.DIFFERENCE),
    FieldWords("revision", "State of the rig"),
    FieldWords("delimiter", "Columns divided by", choices=_said(logs.DELIMITERS)),
    FieldWords("decimal", "Decimal mark", choices=_said(logs.DECIMALS)),
    FieldWords("skip", "Lines before the table", Kind.COUNT),
    FieldWords("time_format", "Time is in", choices=_said(FORMATS)),
    FieldWords("unit", "Temperatures in", choices=_said(logs.TEMPERATURES)),
    FieldWords("output_scale", "Output full on", choices=_said(logs.SCALES)),
    FieldWords("live_role", "Field", choices=_said(lines.LIVE_ROLES)),
    FieldWords("columns", "Column", choices=_said(logs.ROLES)),
    FieldWords("path", "Where the log is, on this machine"),
    FieldWords("topic", "Topic"),
    FieldWords("username", "User"),
    FieldWords("password", "Password"),
    FieldWords("authority", "Certificate that vouches for it"),
    FieldWords(
        "commanded",
        "Sets",
        choices=_said({**{p.name: p.title for p in PARAMETERS}, "output": "Output", AUTO_TUNE: TITLE}),
    ),
    FieldWords(AUTO_TUNE, TITLE, choices=WORDS),
    FieldWords("alarms", "Alarms"),
    FieldWords("limiter_trip_c", "Limiter trips at", Kind.TEMPERATURE),
    FieldWords("fuse_rating_c", "Thermal fuse opens at", Kind.TEMPERATURE),
    FieldWords("hold_s", "A lost reading is waited for", Kind.TIME),
    FieldWords("prove_days", "Proved every (days)", Kind.COUNT),
    FieldWords("trip_c", "Trips at", Kind.TEMPERATURE),
    FieldWords("rating_c", "Opens at", Kind.TEMPERATURE),
    FieldWords("holding_c", "Holds for good", Kind.TEMPERATURE),
    FieldWords("place_c", "Its place, at work", Kind.TEMPERATURE),
    FieldWords("terminals_c", "The input’s terminals are at", Kind.TEMPERATURE),
    FieldWords("on_delay_s", "Only after", Kind.TIME),
    FieldWords("off_delay_s", "Stays for", Kind.TIME),
    FieldWords("gap_s", "No reading for", Kind.TIME),
    FieldWords("response", "What to do then"),
    FieldWords("does", "It does"),
    FieldWords("role", "It is a", choices=_said({r.value: w for r, w in ROLES.items()})),
    FieldWords("note", "Note"),
    FieldWords("probe", "Sensor"),
    FieldWords("leads", "Wires out of it"),
    FieldWords("elements", "Elements in it"),
    FieldWords("junction", "Junction", choices=_said({j.value: w for j, w in JUNCTIONS.items()})),
    FieldWords("sheath_mm", "Sheath, diameter", Kind.MILLIMETRES),
    FieldWords("length_mm", "Length that goes in", Kind.MILLIMETRES),
    FieldWords("lead_m", "Its lead", Kind.METRES),
    FieldWords("lead_mm2", "One wire of it", Kind.AREA),
    FieldWords("changed", "Changed on the rig"),
    FieldWords("life", "Made for (operations)", Kind.COUNT),
    FieldWords("due", "Certificate until"),
    FieldWords("equipment", "Equipment"),
    FieldWords("controller", "Controller"),
    FieldWords("switch", "Switch"),
    FieldWords("text", "Remark"),
    FieldWords("why", "Why"),
    FieldWords("at", "When"),
    FieldWords("rig", "Rig"),
    FieldWords("run", "Run"),
    FieldWords("title", "Name"),
    FieldWords("cause", "Cause"),
    FieldWords("consequence", "What comes of it"),
    FieldWords("maximum_c", "Its firmware ends the heat at", Kind.TEMPERATURE),
    FieldWords("relay_s", "Contactor opens in", Kind.TIME),
    FieldWords("uneven_c", "The load is uneven by, ±", Kind.DIFFERENCE),
    FieldWords("segments", "Segments"),
    FieldWords("time_step_s", "Steps of time", Kind.TIME),
    FieldWords("rate_step", "Steps of rate"),
    FieldWords("degree_step", "Steps of temperature", Kind.DIFFERENCE),
    FieldWords("longest_s", "Longest segment", Kind.TIME),
    FieldWords("begins_c", "The rig is at", Kind.TEMPERATURE),
    FieldWords("begins_h", "Starts at (o’clock)"),
    FieldWords("finish_h", "Over at (o’clock)"),
    FieldWords("start_c", "Its first ramp begins at", Kind.TEMPERATURE),
    FieldWords("align_c", "Lay over one another at", Kind.TEMPERATURE),
    FieldWords("start_s", "It began after", Kind.TIME),
    FieldWords("end_s", "It ends after", Kind.TIME),
    FieldWords("start", "From address"),
    FieldWords("count", "Registers", Kind.COUNT),
    FieldWords("shown", "The display shows"),
    FieldWords("link_loss", "When nobody asks any more it"),
    FieldWords("address", "Address"),
    FieldWords("coding", "Coded as"),
    FieldWords("scale", "Counts a unit"),
    FieldWords("writes", "Safe-off: write"),
    FieldWords("off_when", "It is off when it says"),
    FieldWords("terminals", "What stands at its terminals"),
    FieldWords("options", "What one may have, and another not"),
    FieldWords("tuned", "The line it prints when tuned"),
    FieldWords("divided_by", "Amperes"),
    FieldWords("skipped", "Because"),
    FieldWords("sure", "It was read so", choices=YES_NO),
    FieldWords("room_c", "The room is at", Kind.TEMPERATURE),
    FieldWords("digits", "Digits of its display", Kind.COUNT),
    FieldWords("timeout_s", "Back by itself after", Kind.TIME),
    FieldWords("tune", "Sent to make it tune itself"),
)
_BY_PATH = (
    FieldWords("heater_sensor.most_c", "The heater’s sensor may show at most", Kind.TEMPERATURE),
    FieldWords("heater_sensor.lag_s", "Heat off, it comes down with", Kind.TIME),
    FieldWords("segments.kind", "It is a"),
    FieldWords("segments.target_c", "To", Kind.TEMPERATURE),
    FieldWords("segments.rate_c_per_min", "At", Kind.RATE),
    FieldWords("segments.end", "Then"),
    FieldWords("segments.pid_set", "Control values, set"),
    FieldWords("segments.says", "Say to the operator"),
    FieldWords("holdback.band_c", "Behind by more than", Kind.DIFFERENCE),
    FieldWords("loops.first", "Repeat from segment"),
    FieldWords("loops.times", "Times in all", Kind.COUNT),
    FieldWords("after_power.resume_c", "It goes on if it fell by up to", Kind.DIFFERENCE),
    FieldWords("after_power.ramp_back_c", "Ramps back first, up to", Kind.DIFFERENCE),
    FieldWords("after_power.longest_s", "If it lasted no longer than", Kind.TIME),
    FieldWords("load.mass_kg", "Load weighs"),
    FieldWords("load.half_mm", "Half as thick as, or radius", Kind.MILLIMETRES),
    FieldWords("alarm.kind", "Watches for", choices=_said({kind.value: words.label for kind, words in ALARMS.items()})),
    FieldWords("alarm.value", "At"),
    FieldWords("alarm.hysteresis", "Clears by"),
    FieldWords("alarm.window_s", "Looks", Kind.TIME),
    FieldWords("alarm.move_c", "The reading", Kind.DIFFERENCE),
    FieldWords("alarm.standby", "At the start", choices=_said(STANDBY)),
    FieldWords("alarm.latching", "Ends", choices=(("false", "by itself"), ("true", "when a person resets it"))),
    FieldWords(
        "alarm.de_energise", "Its contact", choices=(("true", "drops out to alarm"), ("false", "pulls in to alarm"))
    ),
    FieldWords("fuse.lag_s", "It follows in", Kind.TIME),
    FieldWords(
        "limiter.reset", "Stays tripped", choices=(("manual", "until reset by hand"), ("self", "closes by itself"))
    ),
    FieldWords(
        "limiter.trips_on_break", "Its sensor broken", choices=(("true", "trips at once"), ("false", "does not trip"))
    ),
    FieldWords("tariff.day", "A kWh by day"),
    FieldWords("tariff.night", "A kWh by night"),
    FieldWords("tariff.night_from_h", "Night from (o’clock)"),
    FieldWords("tariff.night_to_h", "Night up to (o’clock)"),
    FieldWords("editing.kept_by", "Kept by"),
    FieldWords("editing.store", "The key that keeps"),
    FieldWords("editing.pause_s", "Pause", Kind.TIME),
    FieldWords("editing.per_second", "Steps a second, held"),
    FieldWords("policy.hold_s", "Waits for", Kind.TIME),
    FieldWords("light.warm_c", "Cool below", Kind.TEMPERATURE),
    FieldWords("light.hot_c", "Hot from", Kind.TEMPERATURE),
    FieldWords("light.after_s", "Hot for so long after it heated", Kind.TIME),
    FieldWords("leave_out.start_s", "Leave out from", Kind.TIME),
    FieldWords("leave_out.end_s", "Leave out up to", Kind.TIME),
    FieldWords("rows.name", "Sets"),
    FieldWords("rows.send", "Send"),
    FieldWords("rows.ask", "Ask with"),
    FieldWords("rows.answer", "It answers"),
    FieldWords("rows.decimals", "Decimals", Kind.COUNT),
    FieldWords("rows.low", "Never less than"),
    FieldWords("rows.high", "Nor more than"),
    FieldWords("commands.safe_off", "The heat is ended by setting"),
)
"""Where the last name alone means something else in another place."""


def fields() -> tuple[FieldWords, ...]:
    """Every field that has words of its own, each name once: the rig's, the sheet's, and the ratings of parts."""
    found = {f.name: f for f in (*_OWN, *_BY_PATH)}
    for p in PARAMETERS:
        found.setdefault(p.name, FieldWords(p.name, p.title, p.kind, p.choices))
    for part in PART_TYPES.values():
        for r in part.ratings:
            found.setdefault(r.name, FieldWords(r.name, r.label, r.kind))
    return tuple(found.values())
