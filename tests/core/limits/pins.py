"""What each limit decides, on both sides of it: a pin is true as things are, and must not be when its constant is moved by a tenth."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from rellux.core.calibration.certificates import CertificateSays, Compared, doubts
from rellux.core.calibration.offsets import OffsetRule, OffsetSchool, Pair, work_out
from rellux.core.control.liveness import stale_after_s
from rellux.core.control.pid import PID, to_series
from rellux.core.control.steps import is_held
from rellux.core.errors import Refused
from rellux.core.heating import (
    conductors,
    dips,
    mosfet,
    outside,
    short_circuit,
    switches,
    tips,
    wire,
)
from rellux.core.heating.conductor_tables import Practice
from rellux.core.heating.run_of_wire import Insulation, Laying, Run
from rellux.core.heating.walls import Chamber, Layer, steady
from rellux.core.logs.columns import scale_of
from rellux.core.logs.guess import guess
from rellux.core.logs.lines import LineFormat, LineKind, learn, values_of
from rellux.core.logs.lines import check as check_lines
from rellux.core.logs.mapping import tolerable
from rellux.core.logs.times import check_span, repeated_hour
from rellux.core.logs.words import heading
from rellux.core.parts.mains import mains_findings
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.purpose import Effect, Limited, Purpose, RigKind, Supply, check_purpose
from rellux.core.questions.registry import QUESTIONS
from rellux.core.runs.channels import Channel
from rellux.core.runs.channels import check as check_channels
from rellux.core.runs.series import Series
from rellux.core.sensing import (
    feed_table,
    mistakes,
    resistance,
    signals,
    thermistors,
)
from rellux.core.sensing.suspects import explain_pairs
from rellux.core.sensing.unknown import Seen, identify_probe
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.tuning.identify import identify
from rellux.core.tuning.stretch import Stretch
from rellux.core.units import celsius_from_fahrenheit
from rellux.core.wiring.choice import Actuator, Choice, Output
from tests.core.nudging import Pin

CABINET = Purpose(60, 68, "the cement clouds", Supply.SINGLE_PHASE, 230, 300, 230, 57.5, "stays soft")


NESTED = LineFormat(LineKind.JSON, ("t",), {"reading": "t"})


def edge(told: Callable[[float], bool], below: float, above: float) -> Pin:
    """Silent below, said above."""
    return lambda: not told(below) and told(above)


def upto(told: Callable[[float], bool], below: float, above: float) -> Pin:
    """Said below, silent above."""
    return lambda: told(below) and not told(above)


def near(value: Callable[[], float], expected: float, within: float = 0.02) -> Pin:
    return lambda: value() == pytest.approx(expected, rel=within)


def every(*pins: Pin) -> Pin:
    return lambda: all(pin() for pin in pins)


def accepted(make: Callable[[float], object]) -> Callable[[float], bool]:
    def told(value: float) -> bool:
        try:
            make(value)
        except Refused:
            return False
        return True

    return told


def asked(key: str, rule: str, field: str, **values: object) -> Callable[[float], bool]:
    """Whether a bench question finds this, by one of its numbers."""
    return lambda x: rule in {f.rule for f in QUESTIONS[key].ask({**values, field: x}).findings}


def purpose_with(**changed: object) -> object:
    return check_purpose(replace(CABINET, **changed))  # type: ignore[arg-type]


def large(watts: float) -> bool:
    """Whether a heater of so much is said to be more than a workshop's own affair."""
    found = purpose_findings(replace(CABINET, heater_power_w=watts), RigKind.CABINET)
    return "purpose.large" in {f.rule for f in found}


def fed_too_high(volts: float) -> bool:
    choice = Choice("K", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
    return bool(mains_findings(replace(CABINET, supply_voltage_v=volts), choice))


BOX = Purpose(4, 10, "x", Supply.SINGLE_PHASE, 230, 90, 230, -100, "y", 20, effect=Effect.COOLS)


def chilled(x: float) -> object:
    return check_purpose(replace(BOX, working_c=x))


def restless(seconds: float) -> bool:
    facts = RigFacts(BOX, "Pt100", "relay")
    sheet = {p.name: p.value for p in propose(facts)}
    return "setup.rest" in {f.rule for f in check_sheet({**sheet, "minimum_off_s": seconds}, facts)}


def room(x: float) -> object:
    return purpose_with(ambient_c=x, working_c=70.0, highest_c=90.0, lowest_c=None)


def hot(x: float) -> object:
    return purpose_with(working_c=x, highest_c=x + 1, lowest_c=None)


def material(**changed: object) -> object:
    return purpose_with(materials=(Limited(**{"name": "seal", "limit_c": 90.0, **changed}),))  # type: ignore[arg-type]


def run(**changed: object) -> Run:
    usual = Run(Practice.IEC, Laying.CONDUIT, Insulation.PVC, 2, 30.0, 1, 3.0, 230.0)
    return replace(usual, **changed)  # type: ignore[arg-type]


def best(amps: float, **changed: object) -> str:
    found = conductors.size(amps, run(**changed)).best
    return found.label if found else ""


def recorded(t: np.ndarray, y: np.ndarray, u: np.ndarray, setpoint: float = 60.0) -> Series:
    return Series(t, np.full(len(t), setpoint), y, u, np.full(len(t), np.nan))


def heat_up(span_s: float, rows: int, output: float = 50.0, lag: float = 600.0) -> Stretch:
    t = np.linspace(0.0, span_s, rows)
    y = 20.0 + output * 1.0 * (1 - np.exp(-np.maximum(t - 30.0, 0) / lag))
    return Stretch(t, y, np.full(rows, output), 20.0)


def sheet_finds(rule: str, actuator: str) -> Callable[[float], bool]:
    facts = RigFacts(CABINET, "Pt100", actuator)
    usual = {p.name: p.value for p in propose(facts)}
    return lambda x: rule in {f.rule for f in check_sheet({**usual, "mode": "pid", "period_s": x}, facts)}


def pairs(count: float, celsius: float = 60.0) -> object:
    many = tuple(Pair(celsius, celsius - 1) for _ in range(int(count)))
    return work_out(many, OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0), "K")


def certified(number: float) -> object:
    rule = OffsetRule(
        OffsetSchool.ADDED_TO_READING, 0.0, certificate_c=number, certificate_says=CertificateSays.CORRECTION
    )
    return work_out((Pair(60.0, 59.0),), rule, "K")


def fields(count: float) -> None:
    keys = tuple(f"k{i}" for i in range(int(count)))
    check_lines(LineFormat(LineKind.NAMED, keys, {"reading": "k0"}))


def tip(**changed: float) -> tips.Tool:
    return tips.Tool(
        **{"working_c": 350.0, "idle_c": 200.0, "ambient_c": 20.0, "power_w": 50.0, "hold_w": 8.0, **changed}
    )


WALL = Chamber(0.4, 0.4, 0.4, (Layer("brick_23", 0.1),))

BEHAVIOUR: dict[str, Pin] = {
    "calibration.certificates.NEARBY_C": upto(
        lambda x: bool(
            doubts(
                Compared(d, "N", c, h, 1.0, a) for d, c, h, a in (("1", 500.0, -4.0, 3.0), ("2", 500.0 + x, 2.0, 0.0))
            )
        ),
        39.9,
        40.1,
    ),
    "calibration.certificates.MOST_CERTIFIED_C": upto(accepted(certified), 49.9, 50.1),
    "calibration.offsets.MOST_PAIRS": upto(accepted(pairs), 50, 51),
    "calibration.certificates.HOTTEST_C": upto(accepted(lambda x: pairs(2, x)), 1990, 2010),
    "control.liveness.LEAST_STALE_S": near(lambda: stale_after_s(0.25), 5.0, 0.01),
    "control.liveness.POLLS_MISSED": near(lambda: stale_after_s(60.0), 180.0, 0.01),
    "control.pid.SERIES_EXISTS": edge(accepted(lambda x: to_series(PID(1.0, x, 10.0))), 39.0, 41.0),
    "control.steps.HALF": upto(lambda x: is_held(60.0, 60.0 + x, 1.0), 0.48, 0.52),
    "heating.conductors.COLDEST_ROW_C": near(lambda: conductors.ambient_factor(70, 0.0), 1.22, 0.001),
    "heating.conductors.ROW_C": near(lambda: conductors.ambient_factor(70, 36.0), 0.87, 0.001),
    "heating.run_of_wire.TABLE_AMBIENT_C": near(lambda: conductors.ambient_factor(70, 40.0), 0.87, 0.001),
    "heating.conductors.CONTINUOUS_FACTOR": lambda: (
        conductors.breaker_for(16.0, Practice.IEC) == 16.0
        and conductors.breaker_for(16.01, Practice.IEC) == 20.0
        and conductors.breaker_for(16.0, Practice.NEC) == 20.0
        and conductors.breaker_for(15.9, Practice.NEC) == 20.0
        and conductors.breaker_for(16.1, Practice.NEC) == 25.0
    ),
    "heating.dips.BOILING_C": near(lambda: dips.BOILING_C, 100.0, 0.001),
    "heating.fluids.AIR_J_M3_K": near(lambda: dips.flow_power(60.0, 10.0, water=False), 12.0, 0.01),
    "heating.fluids.WATER_J_KG_K": near(lambda: dips.flow_power(6.0, 10.0, water=True), 0.0998 * 41860, 0.001),
    "heating.fluids.WATER_KG_L": near(lambda: dips.flow_power(6.0, 10.0, water=True), 0.0998 * 41860, 0.001),
    "heating.mosfet.HOT_RESISTANCE": near(
        lambda: mosfet.loss(mosfet.Transistor(0.01, 40e-9, 0.02, 60), 10, 24, 1.0, 20, 40).conduction_w, 1.7, 0.01
    ),
    "heating.outside.STEFAN_BOLTZMANN": near(
        lambda: outside.radiation(100.0, 20.0, 1.0) * 80, 5.670e-8 * (373.15**4 - 293.15**4), 0.001
    ),
    "heating.short_circuit.AT_ONCE": lambda: (
        [round(short_circuit.fault_loop(230, 10, c), 3) for c in "BCD"] == [4.6, 2.3, 1.15]
    ),
    "heating.switches.JUNCTION_AIM_C": near(lambda: switches.most_current(1.2, 1.4, 40.0), 70 / (1.2 * 2.0), 0.001),
    "heating.tips.COPPER_J_G_K": near(
        lambda: tips.heat_up_s(tip(), 10.0, 20.0), 3.9 / (8 / 330) * np.log(50 / 42), 0.001
    ),
    "heating.tips.SPARE": edge(accepted(lambda x: tip(power_w=x)), 8.35, 8.45),
    "heating.wire.COPPER_OHM_M": near(lambda: wire.ohm_per_metre("14 AWG", 2.081, 75.0) * 304.8, 3.14, 0.015),
    "heating.wire.COPPER_PER_KELVIN": near(
        lambda: wire.ohm_per_metre("1.5 mm²", 1.5, 120.0) / wire.ohm_per_metre("1.5 mm²", 1.5, 20.0), 1.393, 0.005
    ),
    "heating.wire.STRANDING": near(lambda: wire.ohm_per_metre("14 AWG", 2.081, 75.0) * 304.8, 3.14, 0.015),
    "purpose.purpose.HOTTEST_C": upto(accepted(hot), 1799.0, 1801.0),
    "purpose.purpose.COLDEST_ROOM_C": edge(accepted(room), -41.0, -39.0),
    "purpose.purpose.HOTTEST_ROOM_C": upto(accepted(room), 59.0, 61.0),
    "purpose.purpose.MOST_W": upto(accepted(lambda x: purpose_with(heater_power_w=x)), 199_000, 201_000),
    "purpose.cooler.COLDEST_STAGE_C": edge(accepted(chilled), -45.1, -44.9),
    "setup.checks.LEAST_REST_S": upto(restless, 179.0, 181.0),
    "purpose.purpose.LARGE_W": edge(large, 19_900, 20_100),
    "purpose.purpose.LEAST_HZ": edge(accepted(lambda x: purpose_with(frequency_hz=x)), 15.9, 16.1),
    "purpose.purpose.MOST_HZ": upto(accepted(lambda x: purpose_with(frequency_hz=x)), 399, 401),
    "parts.mains.CONTROLS_V": edge(fed_too_high, 252.0, 254.0),
    "purpose.purpose.MOST_V": upto(accepted(lambda x: purpose_with(heater_voltage_v=x)), 995, 1005),
    "purpose.purpose.LONGEST_NAME": upto(accepted(lambda n: material(name="x" * int(n))), 40, 41),
    "purpose.purpose.COLDEST_LIMIT_C": edge(accepted(lambda x: material(limit_c=x)), -201, -199),
    "purpose.purpose.HOTTEST_LIMIT_C": upto(accepted(lambda x: material(limit_c=x)), 2490, 2510),
    "questions.load.element.TOO_MUCH": edge(asked("element", "element.over", "supply_v", rated_v=230.0), 252.5, 253.5),
    "questions.load.element.TOO_LITTLE": upto(
        asked("element", "element.under", "supply_v", rated_v=230.0), 206.5, 207.5
    ),
    "questions.sensor.signal.DISAGREE_C": edge(
        asked("signal", "signal.disagree", "shown_c", at=12.0, low_c=0.0, high_c=100.0), 50.48, 50.52
    ),
    "questions.switch.phase_angle.FEW_STEPS": upto(
        asked("phase_angle", "phase_angle.steps", "period_s", way="burst"), 0.195, 0.205
    ),
    "questions.switch.sink.MOST_SHARE": edge(asked("sink", "sink.rating", "current_a", rating_a=25.0), 19.9, 20.1),
    "questions.wire.judging.AT_LIMIT": edge(asked("wire", "wire.limit", "current_a"), 12.3, 12.4),
    "questions.wire.judging.DROP_SHARE": edge(asked("wire", "wire.drop", "length_m", current_a=10.0), 14.0, 15.5),
    "sensing.feed_table.COLDEST_C": edge(accepted(lambda x: feed_table.table("K", 0, 100, 10, x)), -41, -39),
    "sensing.feed_table.HOTTEST_C": upto(accepted(lambda x: feed_table.table("K", 0, 100, 10, x)), 99, 101),
    "sensing.mistakes.MOST_ERROR_C": upto(
        accepted(lambda x: mistakes.mistakes("K", mistakes.Circumstances(junction_error_c=x))), 99, 101
    ),
    "sensing.mistakes.MOST_LEAD_OHM": upto(
        accepted(lambda x: mistakes.mistakes("Pt100", mistakes.Circumstances(lead_ohm=x))), 499, 501
    ),
    "sensing.resistance.A": near(lambda: float(resistance.resistance(100.0, 100.0)), 138.5055, 1e-5),
    "sensing.resistance.B": near(lambda: float(resistance.resistance(850.0, 100.0)), 390.48, 1e-4),
    "sensing.resistance.C": near(lambda: float(resistance.resistance(-200.0, 100.0)), 18.52, 1e-4),
    "sensing.signals.FAULT_MA": lambda: (
        [signals.judge(signals.SIGNALS["4-20"], x).value for x in (3.59, 3.61, 20.9, 21.1)]
        == ["fault", "saturated", "saturated", "fault"]
    ),
    "sensing.signals.MEASURED_MA": lambda: (
        [signals.judge(signals.SIGNALS["4-20"], x).value for x in (3.79, 3.81, 20.4, 20.6)]
        == ["saturated", "measured", "measured", "saturated"]
    ),
    "sensing.thermistors.COLDEST_C": edge(
        accepted(lambda x: thermistors.fit(((1e6, x), (1e4, 25.0), (1e3, 90.0)))), -101, -99
    ),
    "setup.checks.RELAY_PERIOD_S": upto(sheet_finds("setup.period-relay", "relay"), 9.9, 10.1),
    "setup.checks.SSR_PERIOD_S": edge(sheet_finds("setup.period-ssr", "ssr"), 4.9, 5.1),
    "tuning.stretch.LEAST_POINTS": edge(accepted(lambda n: identify(heat_up(3000, int(n)))), 19, 20),
    "tuning.stretch.LEAST_CHANGE": edge(accepted(lambda u: identify(heat_up(3000, 100, output=u))), 4.9, 5.1),
    "units.ABSOLUTE_ZERO_C": edge(accepted(lambda x: pairs(2, x)), -273.2, -271.0),
    "units.FAHRENHEIT_PER_KELVIN": near(lambda: celsius_from_fahrenheit(212.0), 100.0, 1e-6),
}


HEAD = mistakes.Circumstances(60.0, 25.0)


def flows(reached_c: float) -> set[str]:
    """Findings of air heated to this at full power."""
    watts = (reached_c - 15.0) * 100.0 / 60.0 * 1.2
    return {
        f.rule
        for f in QUESTIONS["flow"].ask({"medium": "air", "flow": 100.0, "out_c": 200.0, "power_w": watts}).findings
    }


def offered(key: str, **values: object) -> bool:
    """Whether a switch is among those that do what is asked."""
    return next(a for a in QUESTIONS["switch"].ask(values).alternatives if a.key == key).verdict is None


def counted(step: float, start: float = 0.0, head: str = "time") -> str:
    """The time format guessed for a count with this step."""
    rows = "".join(f"{start + i * step!r},{20 + i}\n" for i in range(9))
    return guess(f"{head},temp\n{rows}".encode()).time_format


def put_back(at_s: float) -> object:
    """The row of a repeated hour whose clock is put back at this time of day."""
    day = np.array([at_s, at_s + 600, at_s + 1200, at_s - 1800, at_s - 1200])
    return repeated_hour(day, day)


BEHAVIOUR |= {
    "questions.load.flow.TOO_HOT_C": every(
        edge(lambda x: "flow.burns" in flows(x), 780.0, 825.0),
        upto(lambda x: "flow.burns" not in flows(x), 795.0, 805.0),
    ),
    "questions.sensor.thermistor.BEYOND_C": edge(asked("thermistor", "thermistor.beyond", "high_c"), 109.5, 110.5),
    "sensing.feed_table.READABLE_B_C": near(lambda: feed_table.table("B", 0, 60, 1, 25).rows[0].celsius, 43.0, 0.001),
    "questions.switch.switch.LEAST_LOAD_A": edge(lambda x: offered("ssr", current_a=x), 0.14, 0.16),
    "questions.switch.switch.SHORTEST_CONTACT_S": upto(
        lambda x: offered("contactor", rise_per_min=x, years=0.1), 59.0, 61.0
    ),
    "questions.switch.switch.LEAST_STEPS": upto(lambda x: offered("ssr", rise_per_min=x), 595.0, 605.0),
    "questions.switch.switch.SURGE": upto(lambda x: offered("ssr", voltage_v=x), 627.0, 630.0),
    "questions.box.warm_box.OVEN_C": edge(
        lambda x: not accepted(lambda w: QUESTIONS["warm"].ask({"heat_w": w}))(x), 140.0, 145.0
    ),
    "sensing.suspects.FAR": upto(
        lambda x: "copper" in {e.key for e in explain_pairs("K", HEAD, ((x, 400.0),), 3.0)}, 394.0, 396.0
    ),
    "logs.columns.BYTE": upto(lambda x: scale_of(heading("out"), [x]) == "byte", 254.0, 256.0),
    "logs.lines.LEAST_LINES": edge(accepted(lambda x: learn(["T=20.5"] * int(x))), 2.0, 3.0),
    "logs.lines.MOSTLY": edge(accepted(lambda x: learn(["T=20.5"] * int(x) + ["hello"] * (100 - int(x)))), 58.0, 61.0),
    "logs.lines.MOST_NESTED": upto(
        lambda x: values_of('{"t": 20, "x": "' + "[" * (int(x) - 1) + '"}', NESTED) is not None, 64.0, 65.0
    ),
    "runs.channels.LONGEST_NAME": upto(
        accepted(lambda x: check_channels([Channel("load_c", "load", "x" * int(x))], ["load_c"], True)), 60.0, 61.0
    ),
    "runs.channels.MOST_OFFSET": upto(
        accepted(lambda x: check_channels([Channel("load_c", "load", offset=x)], ["load_c"], True)), 100.0, 101.0
    ),
    "logs.lines.MOST_FIELDS": upto(accepted(fields), 40.0, 41.0),
    "logs.mapping.TOLERATED": upto(lambda x: tolerable(int(x), 1000), 20, 21),
    "logs.mapping.FEW": upto(lambda x: tolerable(int(x), 100), 3, 4),
    "logs.guess.SLOW_S": upto(lambda x: counted(x) == "seconds", 199.0, 201.0),
    "logs.guess.SPREADSHEET_STEP": upto(lambda x: counted(x, 46_000.0) == "days", 0.19, 0.21),
    "logs.guess.SPREADSHEET_DAYS": every(
        edge(lambda x: counted(0.1, x) == "days", 19_999.0, 20_001.0),
        upto(lambda x: counted(0.1, x) == "days", 79_999.0, 80_001.0),
    ),
    "logs.guess.UNIX_S": edge(lambda x: counted(1.0, x) == "unix", 9.9e7, 1.01e8),
    "logs.guess.UNIX_MS": edge(lambda x: counted(1.0, x) == "unix_ms", 9.9e10, 1.01e11),
    "logs.times.NIGHT_S": upto(lambda x: put_back(x) is not None, 15_900.0, 16_500.0),
    "logs.times.LONGEST_S": upto(accepted(lambda x: check_span(np.array([0.0, x * 86_400.0]))), 365.9, 366.1),
}

BEHAVIOUR |= {
    "sensing.unknown.OPEN_OHM": edge(lambda x: identify_probe(Seen(ohm=x)).is_open, 0.99e6, 1.01e6),
    "sensing.unknown.LEAST_WARMING_C": edge(
        accepted(lambda x: identify_probe(Seen(ohm=100.0, warm_c=20.0 + x, warm_ohm=103.0))), 7.9, 8.1
    ),
    "heating.walls.SLENDER": upto(
        accepted(lambda x: steady(Chamber(0.04, 0.4, 0.4, (Layer("brick_23", x),)), 500, 20)), 0.199, 0.201
    ),
}
