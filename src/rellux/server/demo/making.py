"""Making the demo: every run comes from the simulator, every calibration from its computation."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rellux.core.calibration.certificates import CertificateSays
from rellux.core.calibration.offsets import OffsetRule, Pair, work_out
from rellux.core.calibration.schools import OffsetSchool
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.form import fill, plain
from rellux.core.guarding.plan import Plan
from rellux.core.guarding.proof import Observed, judge, proof_sheet
from rellux.core.messages import render
from rellux.core.plant.rig_models import network_for, with_cooler
from rellux.core.plant.simulation import Disturbance, Record, Simulation, looking
from rellux.core.process.networks import ThermalNetwork
from rellux.core.purpose.heater import heater_power
from rellux.core.questions.registry import QUESTIONS
from rellux.core.runs.channels import Channel
from rellux.core.runs.series import Points, Series
from rellux.core.setup.dictionary.alarms import ALARM_NUMBERS
from rellux.core.setup.parameters import FUNCTION_NAMES, parameters_for, settings_from
from rellux.core.spine import Station
from rellux.core.wiring.usual_circuits import starting_point, usual
from rellux.server.api.shapes import as_json
from rellux.server.calibration.models import Calibration
from rellux.server.calibration.reading import plain_rule
from rellux.server.guarding.domain import proposed, situation_of
from rellux.server.guarding.domain import told as told_of
from rellux.server.guarding.models import Proof
from rellux.server.guarding.stored import plan_of, save_plan
from rellux.server.links.models import Instrument, Link
from rellux.server.links.stand_ins import free_port
from rellux.server.questions.domain import answer_of, known_of, start_of
from rellux.server.questions.models import Kept
from rellux.server.rigs.domain import choice_of, kind_of, purpose_of
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs import store
from rellux.server.runs.buffer import told
from rellux.server.runs.models import Run, Track
from rellux.server.setup.domain import proposals
from rellux.server.setup.models import Sheet
from rellux.server.tuning.domain import learn
from rellux.server.tuning.models import Identification
from rellux.server.tuning.views import result_of, stretch_of
from rellux.server.wiring.domain import store as store_wiring
from rellux.server.wiring.models import Accepted, BuiltWire, FittedPart, Wire

OPTICIAN, TECHNICIAN = "Optician", "Technician"


@dataclass(frozen=True)
class Day:
    """Moments counted back from now."""

    now: datetime

    def ago(self, days: float, hour: int = 9) -> datetime:
        moment = self.now - timedelta(days=days)
        if days < 1:
            return moment
        return moment.replace(hour=hour, minute=12, second=0, microsecond=0)


def book(
    rig: Rig,
    at: datetime,
    who: str,
    station: Station,
    title: str,
    before: dict[str, object] | None = None,
    after: dict[str, object] | None = None,
    why: str = "",
) -> None:
    Entry.objects.create(
        rig=rig, at=at, who=who, station=station.value, title=title, before=before or {}, after=after or {}, why=why
    )


def described(rig: Rig, at: datetime, who: str) -> None:
    book(rig, at, who, Station.PURPOSE, f"Rig described: {rig.name}", after={"working_c": rig.working_c})


def wired(rig: Rig, at: datetime, who: str) -> None:
    choice = choice_of(rig)
    assert choice is not None
    wiring = usual(purpose_of(rig), choice, starting_point(rig.circuit))
    store_wiring(rig, wiring)
    book(rig, at, who, Station.WIRING, "Wiring laid out", after={"wires": len(wiring.connections)})


def fitted(
    rig: Rig, at: datetime, who: str, parts: list[tuple[str, str, dict[str, float]]], wires: list[tuple[str, str]]
) -> None:
    """Parts somebody added by hand, and the wires to them."""
    number = max(rig.wires.values_list("number", flat=True)) + 1
    for name, kind, ratings in parts:
        FittedPart.objects.create(rig=rig, name=name, kind=kind, ratings=ratings)
    for i, (a, b) in enumerate(wires):
        Wire.objects.create(rig=rig, number=number + i, a=a, b=b, circuit="control", area_mm2=0.5, colour="violet")
    names = ", ".join(name for name, _, _ in parts)
    book(rig, at, who, Station.WIRING, f"Added by hand: {names}", after={"wires": len(wires)})


def accepted(rig: Rig, at: datetime, who: str, rule: str, subjects: list[str], reason: str) -> None:
    """A finding somebody lives with."""
    Accepted.objects.create(rig=rig, rule=rule, subjects=subjects, reason=reason, who=who, at=at)


def ticked(rig: Rig, at: datetime, but: tuple[int, ...] = ()) -> None:
    """Wires ticked off at the rig, all but some."""
    BuiltWire.objects.bulk_create(
        BuiltWire(rig=rig, number=w.number, a=w.a, b=w.b, area_mm2=w.area_mm2, colour=w.colour, at=at)
        for w in rig.wires.all()
        if w.number not in but
    )


LATER = ("Link", "Loop", *(f"Alarm {n}" for n in ALARM_NUMBERS))
"""Groups of a sheet that are set once the plan and the link are there."""


def sheet(rig: Rig, at: datetime, who: str, changed: dict[str, object], kind: Sheet.Kind) -> dict[str, float | str]:
    names = {p.name for p in parameters_for(purpose_of(rig)) if p.group not in LATER and p.name not in FUNCTION_NAMES}
    values = {**{p.name: p.value for p in proposals(rig) if p.name in names}, **changed}
    Sheet.objects.create(rig=rig, at=at, kind=kind, values=values, why="first set-up")
    book(rig, at, who, Station.SETUP, f"Controller settings {kind.label.lower()}", after=changed)
    return values  # type: ignore[return-value]


def old_probe(rig: Rig, at: datetime, again: datetime) -> None:
    """The type K probe fitted before, against a reference whose certificate states its error of +2.9 °C: it was added as if it were
    a correction. Compared again with a probe, it read as much too high as it had seemed to read too low, and was replaced."""
    rule = OffsetRule(
        OffsetSchool.ADDED_TO_READING,
        0.0,
        reference_u_c=0.6,
        certificate_c=2.9,
        certificate_says=CertificateSays.CORRECTION,
    )
    pairs = (Pair(561.3, 562.8), Pair(561.5, 563.0), Pair(561.4, 562.9))
    left = calibration(rig, at, "Type S thermometer, certificate +2.9", rule, pairs)
    seen = OffsetRule(OffsetSchool.ADDED_TO_READING, left, reference_u_c=1.3)
    calibration(
        rig, again, "Second probe, class 1", seen, tuple(Pair(565.9 + w, 560.1 + w) for w in (-0.1, 0.0, 0.2)), False
    )


def offsets(
    rig: Rig, day: Day, steps: list[tuple[float, float]], reference: str, values: dict[str, float | str]
) -> None:
    """Calibrations whose offset creeps: a drifting probe."""
    existing = 0.0
    for age, left in steps:
        error = existing - left
        pairs = tuple(Pair(60.0 + at, 60.0 + at - error + by) for at, by in ((-0.1, 0.03), (0.0, -0.04), (0.1, 0.01)))
        rule = OffsetRule(OffsetSchool.ADDED_TO_READING, existing, reference_u_c=0.05)
        at = day.ago(age, 14)
        entered = calibration(rig, at, reference, rule, pairs, sensor=rig.sensor)
        Sheet.objects.create(
            rig=rig, at=at, kind=Sheet.Kind.AS_LEFT, values={**values, "offset_c": entered}, why="calibration"
        )
        existing = entered


def calibration(
    rig: Rig,
    at: datetime,
    reference: str,
    rule: OffsetRule,
    pairs: tuple[Pair, ...],
    enter: bool = True,
    sensor: str = "K",
) -> float:
    """One comparison, entered or left as found; the offset it left."""
    result = work_out(pairs, rule, sensor)
    found, left = rule.existing_c, result.to_enter.value if enter else rule.existing_c
    Calibration.objects.create(
        rig=rig,
        at=at,
        who=OPTICIAN,
        reference=reference,
        sensor=sensor,
        school=rule.school.value,
        pairs=[{"display_c": round(p.display_c, 2), "reference_c": round(p.reference_c, 2)} for p in pairs],
        rule=plain_rule(rule),
        as_found_c=found,
        as_left_c=left,
        error_c=result.error.value,
        uncertainty_c=result.uncertainty.value,
    )
    book(
        rig,
        at,
        OPTICIAN,
        Station.CALIBRATION,
        f"Calibrated against {reference}",
        {"offset_c": found},
        {"offset_c": left, "error_c": round(result.error.value, 2)},
    )
    return left


Build = Callable[[ThermalNetwork], ThermalNetwork]
"""What a rig is besides one of its kind."""


def usual_build(network: ThermalNetwork) -> ThermalNetwork:
    """As rigs of its kind are."""
    return network


STEP_S = 0.5
"""Of a recorded run's plant."""


def simulate_run(
    rig: Rig,
    settings: ControllerSettings,
    length_s: float,
    vigour: float = 1.0,
    ramp: tuple[float, float] | None = None,
    build: Build = usual_build,
    brought: tuple[Disturbance, ...] = (),
) -> Record:
    """The rig's own plant under these settings from cold. ``ramp``: (°C soak, °C/h up), then half an hour's soak and off.
    ``build``: what it is besides a rig of its kind; ``brought``: heat that comes or goes besides."""
    purpose = purpose_of(rig)
    power = heater_power(purpose).value
    every = 2.0 if length_s < 6 * 3600 else 10.0
    network = build(with_cooler(network_for(kind_of(rig), purpose, power, vigour), purpose))
    simulation = Simulation(network, looking(settings, network, STEP_S), purpose.ambient_c, STEP_S, brought)
    if ramp is None:
        return simulation.advance(length_s, every)
    soak, rate = ramp
    rise_s = (soak - purpose.ambient_c) / rate * 3600.0
    pieces = []
    for start in np.arange(0.0, length_s, 60.0):
        if start < rise_s:
            target = min(purpose.ambient_c + rate * start / 3600.0, soak)
        else:
            target = (
                soak if start < rise_s + 3 * 3600.0 else max(soak - (start - rise_s - 3 * 3600.0) / 3600.0 * 60.0, 21.0)
            )
        simulation.apply(replace(simulation.settings, setpoint_c=float(target)))
        pieces.append(simulation.advance(60.0, every))
    return Record(*(np.concatenate(columns) for columns in zip(*(p.columns for p in pieces), strict=True)))


def run(
    rig: Rig,
    values: dict[str, float | str],
    at: datetime,
    name: str,
    length_s: float,
    seed: int = 0,
    vigour: float = 1.0,
    ramp: tuple[float, float] | None = None,
    build: Build = usual_build,
    source: Run.Source = Run.Source.SIMULATED,
    brought: tuple[Disturbance, ...] = (),
) -> Run:
    record = simulate_run(rig, settings_from(values, purpose_of(rig)), length_s, vigour, ramp, build, brought)
    noise = np.random.default_rng(seed).normal(0.0, 0.03 if rig.sensor == "Pt100" else 0.12, len(record.time_s))
    reading = np.round(record.reading_c + noise, 1)
    asked = np.round(record.setpoint_c, 1)
    series = Series(record.time_s, asked, reading, record.output, record.switch)
    return ran(rig, at, name, OPTICIAN, series, values, source)


def ran(
    rig: Rig,
    at: datetime,
    name: str,
    who: str,
    series: Series,
    values: dict[str, Any] | None = None,
    source: Run.Source = Run.Source.SIMULATED,
) -> Run:
    """A run as it was recorded; ``values``: the sheet that was in force."""
    done = Run.objects.create(
        rig=rig,
        name=name,
        source=source,
        status=Run.Status.FINISHED,
        started_at=at,
        sheet=values or {},
    )
    store.append(done, series)
    book(rig, at + timedelta(seconds=float(series.time_s[-1])), who, Station.RUNS, f"Run recorded: {name}")
    return done


def stepped(
    rig: Rig,
    at: datetime,
    name: str,
    outputs: tuple[float, ...],
    build: Build,
    each_s: float = 600.0,
    every_s: float = 2.0,
) -> Run:
    """The output stepped by hand from where it had settled, ``each_s`` long, in rows ``every_s`` apart; ``build``: what the
    rig is besides one of its kind."""
    purpose, (first, *others) = purpose_of(rig), outputs
    network = network_for(kind_of(rig), purpose, heater_power(purpose).value)
    settings = ControllerSettings(purpose.working_c, Mode.MANUAL, manual_output=first, period_s=0.0)
    simulation = Simulation(build(network), settings, purpose.ambient_c, 0.25)
    simulation.advance(12.0 * each_s)
    pieces = [simulation.advance(each_s / 5.0, every_s)]
    for output in others:
        simulation.apply(replace(simulation.settings, manual_output=output))
        pieces.append(simulation.advance(each_s, every_s))
    columns = [np.concatenate(c) for c in zip(*(p.columns for p in pieces), strict=True)]
    record = Record(columns[0] - columns[0][0], *columns[1:])
    reading = np.round(record.reading_c + np.random.default_rng(int(first)).normal(0.0, 0.12, len(record.time_s)), 1)
    return ran(rig, at, name, TECHNICIAN, replace(Series(*record.columns), reading_c=reading))


def beside(rig: Rig, done: Run, load_lag_s: float) -> None:
    """What a logger and a meter showed during a run: the load follows the reading slowly, the current is that of the heater."""
    series = store.read(done)
    load, noise = series.reading_c.copy(), np.random.default_rng(done.pk).normal(0.0, 0.05, len(series))
    share = 1.0 - np.exp(-np.diff(series.time_s) / load_lag_s)
    for i, part in enumerate(share):
        load[i + 1] = load[i] + part * (series.reading_c[i + 1] - load[i])
    logger = [Channel("load_c", "load", "mirror cell", "Pt100"), Channel("air_c", "air", "room")]
    room = np.round(rig.ambient_c + noise, 1)
    beside_it(done, "Logger", logger, series.time_s, np.round(load + noise, 1), room)
    amps = series.switch * rig.heater_power_w / rig.supply_voltage_v / np.sqrt(3.0)
    meter = [Channel("load_a", "current"), Channel("supply_v", "voltage")]
    beside_it(
        done, "Supply meter", meter, series.time_s, np.round(amps, 1), np.round(398.0 - 2.0 * series.switch + noise, 1)
    )


def beside_it(
    done: Run, device: str, channels: list[Channel], time_s: NDArray[np.float64], *values: NDArray[np.float64]
) -> None:
    """What another device showed during a run."""
    interval = float(np.median(np.diff(time_s)))
    track = Track.objects.create(run=done, device=device, channels=[told(c) for c in channels], interval_s=interval)
    store.append(track, Points(time_s, values))


def identified(rig: Rig, run: Run, at: datetime) -> None:
    found, furnace = learn(rig, [stretch_of(run, None, None, rig.ambient_c)])
    Identification.objects.create(
        rig=rig,
        run=run,
        at=at,
        start_s=float(found.fitted[0].time_s[0]),
        end_s=float(found.fitted[0].time_s[-1]),
        gain=found.process.gain,
        lag_s=found.process.lag_s,
        dead_time_s=found.process.dead_time_s,
        verdict=found.verdict.value,
        result=result_of(found, [run.name], furnace),
    )
    book(rig, at, TECHNICIAN, Station.TUNING, f"Process found from {run.name}")


def keep(rig: Rig, at: datetime, question: str, **values: object) -> None:
    """Keep an answer in the rig: what the rig knows already, changed by ``values``."""
    asked = QUESTIONS[question]
    given = plain(fill(asked.shape, {**start_of(asked, known_of(rig)), **values}))
    Kept.objects.create(rig=rig, question=question, values=given, at=at)
    book(rig, at, TECHNICIAN, Station.PARTS, f"Kept: {asked.title} {answer_of(question, given).headline}")


def link(rig: Rig, speed: float, start_c: float | None = None, vigour: float = 1.0, **place: object) -> None:
    """A simulated controller; ``place`` where it is another than a TCP port with the stand-in's own map."""
    usual = {"poll_s": 0.1, "port": free_port() if "device" not in place else 0}
    Link.objects.create(rig=rig, stand_in=True, speed=speed, start_c=start_c, vigour=vigour, **{**usual, **place})


def instrument(rig: Rig, name: str, channels: list[dict[str, object]], **place: object) -> None:
    """A simulated instrument, with what its values are."""
    Instrument.objects.create(rig=rig, name=name, stand_in=True, port=0, channels=channels, **place)


def exchange_probes(rig: Rig, at: datetime) -> None:
    """Somebody put two probes back on each other's inputs; nothing in the book says so."""
    for first, second in (("A1.IN+", "A1.IN2+"), ("A1.IN-", "A1.IN2-")):
        a, b = rig.wires.get(b=first), rig.wires.get(b=second)
        a.b, b.b = second, first
        a.save()
        b.save()
    book(rig, at, TECHNICIAN, Station.WIRING, "Serviced: controller taken out and put back")


def guarded(rig: Rig, at: datetime, who: str, change: Callable[[Plan], Plan] = lambda plan: plan) -> None:
    """The plan Rellux proposes, with what the shop made of it."""
    plan = change(proposed(rig).plan)
    save_plan(rig, plan, "first plan")
    rig.guard_plans.update(at=at)
    book(rig, at, who, Station.GUARDING, "What guards it, as planned", after=told_of(plan), why="first plan")


def proved(rig: Rig, at: datetime, who: str, late: str = "", left_out: dict[int, str] | None = None) -> None:
    """A proof as it was done: the guard called ``late`` did not act where it must; steps left out, and why."""
    plan = plan_of(rig)
    assert plan is not None
    steps = proof_sheet(situation_of(rig, plan), 23.0)
    missing = left_out or {}
    seen = [
        Observed(None, missing[i])
        if i in missing
        else Observed(s.acts and not (s.guard == late and s.celsius is not None))
        for i, s in enumerate(steps.steps)
    ]
    verdict = judge(steps, seen)
    says = render(verdict.says)
    Proof.objects.create(
        rig=rig,
        at=at,
        who=who,
        plan=as_json(plan),
        terminals_c=23.0,
        by_heat=False,
        observed=as_json(seen),
        passed=verdict.passed,
        says=says,
    )
    book(
        rig, at, who, Station.GUARDING, "Every guard proved" if verdict.passed else "Proof not passed", why=verdict.says
    )
