"""What each limit of the core outside the wiring decides, as behaviour on both sides of it; tables are sealed.

A pin is true as things are, and must not be when its constant is moved by a tenth. A *sealed* table was held against print or a
reference library by the test named beside it; the seal notices any cell that is changed since.
"""

import hashlib
import importlib
from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
import pytest

from rellux.core.calibration.offsets import OffsetRule, OffsetSchool, Pair, work_out
from rellux.core.calibration.references import references
from rellux.core.control.liveness import stale_after_s
from rellux.core.control.pid import PID, to_series
from rellux.core.control.steps import is_held
from rellux.core.errors import Refused
from rellux.core.heating import (
    conductors,
    dips,
    mosfet,
    outside,
    protection,
    switches,
    tips,
    wire,
)
from rellux.core.heating.conductor_tables import Practice
from rellux.core.heating.conductors import Insulation, Laying, Run
from rellux.core.heating.walls import Chamber, Layer
from rellux.core.logs.columns import scale_of
from rellux.core.logs.guess import guess
from rellux.core.logs.mapping import tolerable
from rellux.core.logs.times import check_span, repeated_hour
from rellux.core.logs.words import heading
from rellux.core.purpose.purpose import Limited, Purpose, Supply, check_purpose
from rellux.core.questions import QUESTIONS
from rellux.core.runs.series import Series
from rellux.core.sensing import (
    feed_table,
    mistakes,
    resistance,
    signals,
    thermistors,
)
from rellux.core.sensing.suspects import explain_pairs
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.proposals import RigFacts, propose
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.identify import identify
from rellux.core.tuning.stretch import Stretch
from rellux.core.units import celsius_from_fahrenheit
from tests.core.nudging import Pin

CABINET = Purpose(60, 68, "the cement clouds", Supply.SINGLE_PHASE, 230, 300, 230, 57.5, "stays soft")


def seal(constant: str, digest: str) -> Pin:
    """The table is, cell by cell, the one that was checked."""
    module, name = constant.rsplit(".", 1)

    def same() -> bool:
        found = hashlib.sha256(
            repr(getattr(importlib.import_module(f"rellux.core.{module}"), name)).encode()
        ).hexdigest()[:12]
        assert found == digest, f"{constant} is now {found}"
        return True

    return same


def stated(constant: str, value: object) -> bool:
    module, name = constant.rsplit(".", 1)
    return bool(getattr(importlib.import_module(f"rellux.core.{module}"), name) == value)


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


def heat_up(span_s: float, rows: int, noise: float = 0.0, output: float = 50.0, lag: float = 600.0) -> Stretch:
    t = np.linspace(0.0, span_s, rows)
    y = 20.0 + output * 1.0 * (1 - np.exp(-np.maximum(t - 30.0, 0) / lag))
    y = y + noise * np.ptp(y) * np.sqrt(2) * np.sin(t / 7.0)
    return Stretch(t, y, np.full(rows, output), 20.0)


def verdict(span_s: float, rows: int = 400, noise: float = 0.0) -> FitVerdict:
    return identify(heat_up(span_s, rows, noise)).verdict


def sheet_finds(rule: str, actuator: str) -> Callable[[float], bool]:
    facts = RigFacts(CABINET, "Pt100", actuator)
    usual = {p.name: p.value for p in propose(facts)}
    return lambda x: rule in {f.rule for f in check_sheet({**usual, "mode": "pid", "period_s": x}, facts)}


def pairs(count: float, celsius: float = 60.0) -> object:
    many = tuple(Pair(celsius, celsius - 1) for _ in range(int(count)))
    return work_out(many, OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0), "K")


def tip(**changed: float) -> tips.Tool:
    return tips.Tool(
        **{"working_c": 350.0, "idle_c": 200.0, "ambient_c": 20.0, "power_w": 50.0, "hold_w": 8.0, **changed}
    )


WALL = Chamber(0.4, 0.4, 0.4, (Layer("brick_23", 0.1),))

PINS: dict[str, Pin] = {
    "calibration.offsets.MOST_PAIRS": upto(accepted(pairs), 50, 51),
    "calibration.offsets.HOTTEST_C": upto(accepted(lambda x: pairs(2, x)), 1990, 2010),
    "control.liveness.LEAST_STALE_S": near(lambda: stale_after_s(0.25), 5.0, 0.01),
    "control.liveness.POLLS_MISSED": near(lambda: stale_after_s(60.0), 180.0, 0.01),
    "control.pid.SERIES_EXISTS": edge(accepted(lambda x: to_series(PID(1.0, x, 10.0))), 39.0, 41.0),
    "control.steps.HALF": upto(lambda x: is_held(60.0, 60.0 + x, 1.0), 0.48, 0.52),
    "heating.conductors.COLDEST_ROW_C": near(lambda: conductors.ambient_factor(70, 0.0), 1.22, 0.001),
    "heating.conductors.ROW_C": near(lambda: conductors.ambient_factor(70, 36.0), 0.87, 0.001),
    "heating.conductors.TABLE_AMBIENT_C": near(lambda: conductors.ambient_factor(70, 40.0), 0.87, 0.001),
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
    "heating.protection.AT_ONCE": lambda: (
        [round(protection.fault_loop(230, 10, c), 3) for c in "BCD"] == [4.6, 2.3, 1.15]
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
    "purpose.purpose.MOST_W": upto(accepted(lambda x: purpose_with(heater_power_w=x)), 19_900, 20_100),
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
    "questions.wire.conductor.AT_LIMIT": edge(asked("wire", "wire.limit", "current_a"), 12.3, 12.4),
    "questions.wire.conductor.DROP_SHARE": edge(asked("wire", "wire.drop", "length_m", current_a=10.0), 14.0, 15.5),
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


def worth(key: str, celsius: float) -> float:
    """Standard uncertainty of a reference at a temperature."""
    return next(r.u_c for r in references(celsius) if r.key == key)


def counted(step: float, start: float = 0.0, head: str = "time") -> str:
    """The time format guessed for a count with this step."""
    rows = "".join(f"{start + i * step!r},{20 + i}\n" for i in range(9))
    return guess(f"{head},temp\n{rows}".encode()).time_format


def put_back(at_s: float) -> object:
    """The row of a repeated hour whose clock is put back at this time of day."""
    day = np.array([at_s, at_s + 600, at_s + 1200, at_s - 1800, at_s - 1200])
    return repeated_hour(day, day)


PINS |= {
    "calibration.references.BOILING_WITHIN_C": upto(
        lambda x: "boiling" in {r.key for r in references(x)}, 109.5, 110.5
    ),
    "calibration.references.ICE_WITHIN_C": upto(lambda x: "ice" in {r.key for r in references(x)}, 4.9, 5.1),
    "calibration.references.STRIP_STEP_C": near(lambda: worth("strip", 0.0), 5.0 / 12**0.5, 0.001),
    "calibration.references.STRIP_SHARE": near(lambda: worth("strip", 1000.0), 5.95, 0.001),
    "calibration.references.BLOCK_U_C": near(lambda: worth("block", 0.0), 0.2, 0.001),
    "calibration.references.BLOCK_SHARE": near(lambda: worth("block", 1000.0), 1.0198, 0.001),
    "calibration.references.INFRARED_U_C": near(lambda: worth("infrared", 0.0), 1.5 / 3**0.5, 0.001),
    "calibration.references.INFRARED_SHARE": near(lambda: worth("infrared", 500.0), 5.838, 0.001),
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

STATED: dict[str, object] = {
    "tuning.rules.LARGEST_STEP": 5.0,
    "setup.loop_checks.DIGIT_C": 0.1,
    "setup.loop_checks.LEAST_OUTPUT": 10.0,
    "setup.loop_checks.MOST_DERIVATIVE": 0.25,
    "setup.loop_checks.MOST_JUMP": 0.1,
    "setup.loop_checks.RIPPLE_SHARE": 0.5,
    "setup.loop_checks.TRANSISTOR_S": 1.0,
    "heating.dips.AIR_J_KG_K": 1006.0,
    "heating.dips.ATMOSPHERE_PA": 101_325.0,
    "heating.dips.VAPOUR_TO_AIR": 0.622,
    "questions.load.dip.CONVECTION": {"still": 5.0, "fan": 28.0},
    "questions.load.dip.HUMIDITY": 0.5,
    "questions.load.dip.MUCH": 0.05,
    "questions.sensor.thermistor.LEAST_SPREAD_C": 30.0,
    "questions.sensor.thermistor.NEAR_C": 5.0,
    "questions.switch.switch.BLOCKING_V": (600.0, 800.0, 1200.0, 1600.0),
    "questions.switch.switch.DC_CONTACT": ((30.0, 16.0), (48.0, 3.0), (60.0, 1.5), (110.0, 0.5), (220.0, 0.3)),
    "questions.switch.switch.FASTEST_PWM_HZ": 1000.0,
    "questions.switch.mosfet.DEAD_C": 300.0,
    "questions.sensor.signal.HOTTEST_C": 4000.0,
    "questions.switch.switch.FLICKER_HZ": 25.0,
    "questions.load.dip.UNNOTICED_C": 0.5,
    "questions.switch.switch.LONGEST_S": 120.0,
    "questions.switch.switch.SSR_USUAL_S": 2.0,
    "questions.switch.switch.USUAL_PWM_HZ": 10.0,
    "questions.switch.switch.USUAL_S": 20.0,
    "sensing.budget.TERMINALS_C": 25.0,
    "calibration.references.BOILING_C": 100.0,
    "calibration.references.BOILING_U_C": 0.1,
    "calibration.references.ICE_U_C": 0.03,
    "calibration.verdicts.MOST_CAUSES": 4,
    "logs.columns.PERCENT": (-0.5, 100.5),
    "logs.dialect.MOSTLY": 0.6,
    "logs.mapping.READINGS_C": (-273.15, 2500.0),
    "logs.guess.LAST_HOUR": 23,
    "logs.guess.SPREADSHEET_EPOCH": 25_569.0,
    "calibration.verdicts.LEAST_REASON": 8,
    "logs.text.MOST_CONTROLS": 0.01,
    "logs.times.CENTURY": 2000,
    "logs.times.COUNTED": {"milliseconds": 1e-3, "seconds": 1.0, "minutes": 60.0, "hours": 3600.0, "days": 86_400.0},
    "logs.times.DAYS_A_MONTH": 31,
    "logs.times.DAY_S": 86_400.0,
    "logs.times.HOURS_OF_HALF_A_DAY": 12,
    "logs.times.HOUR_S": 3600.0,
    "logs.times.LAST_MINUTE": 59,
    "logs.times.LEAP_S": 60.99,
    "logs.times.MONTHS_A_YEAR": 12,
    "logs.times.YEARS": (1970, 2199),
    "control.liveness.CONFIRM_S": 3.0,
    "control.liveness.DIRECT_TIMEOUT_S": 0.4,
    "control.liveness.NOT_ALIVE_S": 5.0,
    "control.liveness.RECORDER_S": 1.4,
    "control.settings.FULL_OUTPUT": 100,
    "heating.banks.CARRIES_A": 0.01,
    "heating.banks.MOST_ELEMENTS": 24,
    "heating.banks.MOST_V": 1000.0,
    "heating.banks.MOST_W": 50000.0,
    "heating.banks.OVER": 1.21,
    "heating.banks.SUPPLY_HIGH": 1.1,
    "heating.banks.WEAK": 0.81,
    "heating.conductor_tables.IEC_BREAKERS": (6, 10, 13, 16, 20, 25, 32, 40, 50, 63),
    "heating.conductor_tables.NEC_BREAKERS": (15, 20, 25, 30, 35, 40, 45, 50, 60),
    "heating.conductor_tables.NEC_SMALL": {"14 AWG": 15, "12 AWG": 20, "10 AWG": 30},
    "heating.conductor_tables.NEC_TOGETHER": ((3, 1.0), (6, 0.8), (9, 0.7), (20, 0.5), (30, 0.45), (40, 0.4)),
    "heating.conductors.CORD_LIMIT_C": 60,
    "heating.conductors.HOTTEST_COLUMN_C": 90,
    "heating.conductors.ROUNDED": 1.001,
    "heating.dips.LATENT_J_KG": 2257000.0,
    "heating.lining.K_RANGE": (0.01, 5.0),
    "heating.lining.LEAST_RISE_C": 20.0,
    "heating.lining.LEAST_ROWS": 4,
    "heating.lining.OUTSIDE_W_M2K": 10.0,
    "heating.lining.RHO_C_RANGE": (10000.0, 5000000.0),
    "heating.outside.AIR_PRANDTL": 0.71,
    "heating.outside.EMISSIVITY": {"painted": 0.9, "oxidised": 0.8, "stainless": 0.3, "bright": 0.1},
    "heating.outside.GRAVITY": 9.80665,
    "heating.outside.PRESSURE_PA": 101325.0,
    "heating.protection.FUSE_AT_ONCE": 10.0,
    "heating.switches.CASE_TO_SINK": 0.1,
    "heating.switches.RELAY_OPERATIONS": 100000.0,
    "heating.switches.SSR_DROP_V": 1.2,
    "heating.tips.CONTACT_W_K": 0.6,
    "heating.transient.HIGHEST_C": 1900.0,
    "heating.walls.MOST_OPEN": 0.5,
    "heating.walls.THICKEST": 0.6,
    "heating.wire.THICKEST_GAUGE": -3,
    "heating.wire.THINNEST_GAUGE": 40,
    "panel.enclosure.TRANSFER": {"steel": 5.5, "stainless": 4.5, "plastic": 3.5},
    "panel.layout.EDGE_MM": 15.0,
    "panel.layout.GAP_MM": 12.0,
    "panel.layout.LIVE_TO_METAL_MM": 8.0,
    "parts.chain.BOX_AMBIENT_C": 40.0,
    "parts.chain.DC_PLUGS_A": (3.0, 5.0, 10.0, 15.0, 30.0, 45.0),
    "parts.chain.NEC_PLUG_SHARE": 0.8,
    "parts.chain.COOL_SHARE": 0.9,
    "heating.protection.PLUG_TAKES_MM2": {
        Practice.IEC: {10.0: 1.0, 13.0: 1.5, 16.0: 2.5, 32.0: 6.0, 63.0: 16.0},
        Practice.NEC: {15.0: 3.31, 20.0: 3.31, 30.0: 5.26, 50.0: 13.3},
    },
    "questions.wire.conductor.NEC_NOT_YET": 5.0,
    "questions.wire.conductor.NOT_YET": {"B": 3.0, "C": 5.0, "D": 10.0},
    "parts.checks.ALLOWED": 1.0001,
    "parts.checks.HEATER_SHARE": 1.1,
    "plant.rig_models.MOST_VIGOUR": 1.5,
    "purpose.purpose.MOST_MATERIALS": 8,
    "questions.box.warm_box.HIGHEST_INSIDE_C": 50.0,
    "questions.load.coil.ROUNDING": 1.02,
    "questions.load.dip.COEFFICIENT": {"still": 12.0, "fan": 35.0},
    "questions.load.dip.STEEL_J_KG_K": 490.0,
    "questions.load.element.NOTICED_INRUSH": 1.5,
    "questions.load.tip.APART_C": 5.0,
    "questions.load.tip.SAG_C": 60.0,
    "questions.sensor.front_end.CONVERSION_S": 0.25,
    "questions.sensor.front_end.LINEAR_MV": 0.041276,
    "questions.sensor.front_end.STEP_C": 0.25,
    "questions.sensor.front_resistance.DISSIPATION_W_K": {"Pt100": 0.005, "Pt1000": 0.005, "NTC": 0.002},
    "questions.sensor.front_resistance.RATIO_BITS": 15,
    "questions.sensor.front_resistance.REFERENCE_RATIO": 4.0,
    "questions.sensor.front_resistance.WARM_LIMIT_C": 0.2,
    "questions.sensor.sensor_run.IMMERSED_DIAMETERS": 10.0,
    "questions.sensor.sensor_run.LEAST_IMMERSED_MM": 25.0,
    "questions.sensor.thermistor.HOTTEST_C": 300.0,
    "questions.sensor.thermistor.OFF_C": 0.5,
    "questions.sensor.thermistor.WARM_C": 0.5,
    "questions.sensor.which_sensor.COARSE_BELOW_C": 600.0,
    "questions.sensor.which_sensor.STEADY_ABOVE_C": 500.0,
    "questions.switch.mosfet.HEARD_HZ": (30.0, 18000.0),
    "questions.switch.mosfet.JUNCTION_C": 125.0,
    "questions.switch.switch.IN_YEARS_H": 10000.0,
    "questions.switch.switch.LARGEST_SSR_A": 56.0,
    "questions.switch.switch.YEAR_H": 8760.0,
    "questions.wall.capability.RUNS_AWAY": 1.3,
    "questions.wall.capability.RUNS_AWAY_C": 50.0,
    "questions.wall.lining.ALIKE": 0.7,
    "heating.lining.MOST_MISS_C": 3.0,
    "heating.lining.MOST_MISS": 0.05,
    "heating.lining.AT_END": 1.02,
    "questions.wall.lining.WELL_KNOWN": 0.3,
    "questions.wall.walls.HABIT_C": 60.0,
    "questions.wall.walls.MUCH_OPEN": 0.25,
    "questions.wall.walls.SEARING_C": 100.0,
    "questions.wire.conductor.AS_THICK": 0.99,
    "runs.approach.MOVED_C": 0.05,
    "runs.approach.NEARLY": 0.9,
    "runs.approach.STAYS_CYCLES": 2.0,
    "runs.approach.STAYS_RISES": 0.5,
    "runs.approach.STAYS_ROWS": 10,
    "runs.approach.WIDE": 0.75,
    "runs.cycles.ABOVE_NOISE": 6.0,
    "runs.cycles.COVERS": 0.4,
    "runs.cycles.ENDS": (5.0, 95.0),
    "runs.cycles.EVEN": 0.5,
    "runs.cycles.GUARD": 0.1,
    "runs.cycles.GUARD_NOISE": 2.5,
    "runs.cycles.LEAST_CYCLE_ROWS": 6,
    "runs.cycles.MEDIAN_OF_NORMAL": 0.6745,
    "runs.metrics.LEAST_ROWS": 10,
    "runs.series.GAP": 5.0,
    "sensing.budget.HALF": 0.5,
    "sensing.choosing.STEEL_J_M3_K": 3871000.0,
    "sensing.feed_table.MOST_ROWS": 500,
    "sensing.inverse.TYPE_B_ROOT_C": 42.13,
    "sensing.mistakes.COLDEST_HEAD_C": -40.0,
    "sensing.mistakes.HOTTEST_HEAD_C": 200.0,
    "sensing.mistakes.LINEAR_MV_PER_C": 0.041276,
    "sensing.resistance.RANGE_C": (-200.0, 850.0),
    "sensing.sensors.NOMINAL_OHM": {"Pt100": 100.0, "Pt1000": 1000.0},
    "sensing.sensors.NTC_RANGE_C": (-40.0, 150.0),
    "sensing.sensors.NTC_TOLERANCE_C": 0.5,
    "sensing.thermistors.HOTTEST_C": 400.0,
    "sensing.thermistors.ZERO_K": 273.15,
    "sensing.thermocouples.TYPE_B_MINIMUM_MV": -0.0025849,
    "sensing.tolerances.COMPENSATING_C": 100.0,
    "sensing.tolerances.EXTENSION_C": 200.0,
    "setup.proposals.PERIODS": {"relay": 20.0, "contactor": 20.0, "ssr": 2.0, "mosfet": 0.1},
    "tuning.candidates.REACHES": 0.98,
    "tuning.candidates.ROBUST_MS": 2.0,
    "tuning.candidates.SETTLED_FROM": 0.35,
    "tuning.candidates.UNCERTAINTY": 0.25,
    "tuning.candidates.UNTIL_DOOR": 0.6,
    "tuning.identify.CHI2_95": 3.84,
    "tuning.fit_verdict.MANY_LEVELS": 10,
    "tuning.fit_verdict.MISSES": 0.05,
    "tuning.fit_verdict.MOVED_C": 0.5,
    "tuning.stretch.SAMPLES_A_PERIOD": 5.0,
    "tuning.fit_verdict.SATURATED": 0.5,
    "tuning.fit_verdict.SHORT": 0.4,
    "tuning.identify.AMBIENT_SHARE": 0.25,
    "tuning.identify.AMBIENT_SURE_C": 2.0,
    "tuning.stretch.COLD_C": 3.0,
    "tuning.fit_verdict.COLOURED": 3.0,
    "tuning.fit_verdict.FINE": 0.015,
    "tuning.stretch.HALF_ON": 0.5,
    "tuning.identify.LEAST_NOISE_C": 0.05,
    "tuning.identify.START_SURE_C": 5.0,
    "tuning.fit_verdict.WELL_KNOWN": 0.2,
}
"""Values stated a second time: what they decide is tested by range, in the tests of their subject, not at the very number."""

SEALED = {
    "sensing.older_types.OLDER": "a249a1a60581",
    "sensing.suspects.FREE": "2b3752e85a50",
    "heating.banks.VOLTAGES": "5b372d9447ea",
    "heating.conductor_tables.CLASS_5_OHM_PER_KM": "b23cd100f56a",
    "heating.conductor_tables.IEC_B1": "3cb8fd402be0",
    "heating.conductor_tables.IEC_CORD": "9118ae352490",
    "heating.conductor_tables.IEC_TOGETHER": "bd3e8ea04f27",
    "heating.conductor_tables.NEC_310_16": "8ce847f79a23",
    "heating.conductor_tables.NEC_CORD": "25dd22ebd6bd",
    "heating.conductors.ENDS_C": "0a4e39fd3356",
    "heating.conductors.HOT_LIMIT_C": "16abf9cd73b7",
    "heating.conductors.LIMIT_C": "fe03a5d509b6",
    "heating.elements.ALLOYS": "d836b4baf834",
    "heating.elements.ELEMENT_KINDS": "138926f2ecce",
    "heating.elements.WIRE_SIZES_MM": "ca832b1e4d50",
    "heating.materials.MATERIALS": "6eee1ab7d26f",
    "heating.outside.TOUCH_LIMITS": "22d9ff0bac43",
    "heating.protection.ENDS_AT_C": "d38f96745aaa",
    "panel.parts_data.PANEL_PARTS": "560d10492377",
    "parts.chain.PLUGS_A": "510b5163ae42",
    "plant.rig_models.CHARACTERS": "5e6364c8f935",
    "purpose.purpose.PROPOSED_V": "e3e72997cda9",
    "purpose.purpose.SUPPLY_VOLTAGES": "c65ded791834",
    "purpose.purpose.TO_NEUTRAL": "748cf91487b6",
    "questions.box.panel.USUAL": "6d68eba15e65",
    "questions.load.tip.TIPS": "a19e1ac755e8",
    "questions.sensor.front_resistance.USUAL_BETA": "b2f6d63516df",
    "questions.sensor.thermistor.USUAL_BEAD": "7ee2d07e715f",
    "questions.wall.chamber.KILN": "bf4c6fee8ed0",
    "questions.wall.chamber.USUAL": "aa9583225a99",
    "questions.wall.lining.EXAMPLE": "3e4ab23c03fc",
    "sensing.choosing.ALONG": "262bf194b66b",
    "sensing.choosing.FILM": "9da551738e97",
    "sensing.choosing.SENSORS": "027832238442",
    "sensing.choosing.SHEATHS": "4f56d6db9941",
    "sensing.signals.SIGNALS": "09ad84c49036",
    "sensing.thermocouple_data.SEGMENTS": "04004e64608d",
    "sensing.tolerances.ASTM_BELOW_ZERO": "e4b203483853",
    "sensing.tolerances.ASTM_SPECIAL": "bc3ea37d03ee",
    "sensing.tolerances.ASTM_STANDARD": "58fc0d05ffeb",
    "sensing.tolerances.IEC_CLASS_1": "080fdf0507ef",
    "sensing.tolerances.IEC_CLASS_2": "616f3081f8d1",
    "sensing.tolerances.IEC_CLASS_3": "5e117aabff1f",
    "sensing.tolerances.PLATINUM_CLASSES": "ddfdddbc346d",
    "setup.parameters.PARAMETERS": "ea5bf5caba62",
}
"""Tables: held against print and reference libraries in the tests of their subject (thermocouples and resistance: NIST and IEC tables;
tolerances: the standards' classes; conductors: the codes' tables; materials, alloys and kinds: from memory, marked so there)."""

PINS |= {name: partial(stated, name, value) for name, value in STATED.items()}
PINS |= {name: seal(name, digest) for name, digest in SEALED.items()}

NUMERICAL = "numerical: how finely, how long or how near an iteration goes"
EXEMPT = {
    "tuning.robustness.A_DECADE": NUMERICAL,
    "tuning.robustness.BEYOND": NUMERICAL,
    "heating.walls.LEAST_WARMER_C": NUMERICAL,
    "runs.cycles.NO_CYCLES": "nothing is in it",
    "sensing.suspects.GRID": NUMERICAL,
    "sensing.suspects.NOWHERE_C": NUMERICAL,
    "logs.dialect.SETTLED": NUMERICAL,
    "logs.guess.SAMPLE_BYTES": NUMERICAL,
    "logs.guess.SAMPLE_ROWS": NUMERICAL,
    "logs.guess.SHOWN": NUMERICAL,
    "heating.banks.NOTHING_A": NUMERICAL,
    "heating.conductors.SAME": NUMERICAL,
    "heating.dips.FINE_STEPS": NUMERICAL,
    "heating.dips.GIVE_UP_S": NUMERICAL,
    "heating.dips.STEP_S": NUMERICAL,
    "heating.lining.SLICES": NUMERICAL,
    "heating.lining.STEPS": NUMERICAL,
    "heating.tips.STEP_S": NUMERICAL,
    "heating.transient.LONGEST_S": NUMERICAL,
    "heating.transient.MOVE_K": NUMERICAL,
    "heating.transient.NEVER_S": NUMERICAL,
    "heating.transient.SHORTEST_S": NUMERICAL,
    "heating.transient.SLICES": NUMERICAL,
    "heating.walls.CUTS": NUMERICAL,
    "heating.walls.NEVER_C": NUMERICAL,
    "plant.simulation.FEW_STEPS": NUMERICAL,
    "plant.simulation.MOST_STEPS": NUMERICAL,
    "process.cycles.LOOKS": NUMERICAL,
    "process.cycles.REPEATS": NUMERICAL,
    "process.cycles.TINY": NUMERICAL,
    "process.models.APART": NUMERICAL,
    "process.response.SHORT": NUMERICAL,
    "questions.sensor.mistake.POINTS": NUMERICAL,
    "sensing.inverse.CELLS": NUMERICAL,
    "tuning.candidates.MEMBERS": NUMERICAL,
    "tuning.candidates.ROWS": NUMERICAL,
    "tuning.stretch.MOST_POINTS": NUMERICAL,
    "tuning.search.CYCLES_AWAY": NUMERICAL,
    "tuning.stretch.LEAST_CYCLES": NUMERICAL,
    "tuning.search.LONGEST_DEAD": NUMERICAL,
    "tuning.search.MANY": NUMERICAL,
    "heating.conductor_tables.BREAKERS": "the two lists of breakers, sealed each",
    "setup.parameters.BY_NAME": "the parameters, sealed",
    "sensing.tolerances.THERMOCOUPLE_CLASSES": "the classes, sealed each",
}
PASSED = ("wiring", "plant.kernel")
"""The wiring has pins of its own; the kernel's constants are places in its arrays, and test_simulation holds it against another
integration."""
