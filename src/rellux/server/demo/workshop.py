"""The demo workshop: an invented observatory's optics shop, with the mistakes such a shop has.

Every run is made by the simulator from the rig's own purpose and settings; nothing is drawn by hand.
"""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np
from django.db import transaction
from django.utils import timezone

from rellux.core.calibration.offsets import OffsetRule, OffsetSchool, Pair, work_out
from rellux.core.control.settings import ControllerSettings
from rellux.core.heating.loads import power_at
from rellux.core.plant.rig_models import network_for
from rellux.core.plant.simulation import Record, Simulation
from rellux.core.runs.series import Series
from rellux.core.setup.parameters import settings_from
from rellux.core.spine import Station
from rellux.core.tuning.identify import identify
from rellux.core.wiring.generate import generate
from rellux.server.calibration.models import Calibration
from rellux.server.links.models import Link
from rellux.server.links.stand_ins import free_port
from rellux.server.rigs.domain import choice_of, kind_of, purpose_of
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs import store
from rellux.server.runs.models import Event, Run
from rellux.server.setup.domain import proposals
from rellux.server.setup.models import Sheet
from rellux.server.tuning.models import Identification
from rellux.server.tuning.views import result_of, stretch_of
from rellux.server.wiring.domain import store as store_wiring

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


def load_demo() -> list[Rig]:
    """Fill an empty database. Does nothing where rigs exist already."""
    if Rig.objects.exists():
        return []
    day = Day(timezone.now())
    with transaction.atomic():
        return [cement_cabinet(day), blank_annealer(day)]


def cement_cabinet(day: Day) -> Rig:
    """On/off with a visible swing, a probe that drifts, and nothing independent that would stop the heater."""
    rig = Rig.objects.create(
        slug="cement-cabinet",
        name="Cement cabinet",
        kind="cabinet",
        working_c=60.0,
        lowest_c=57.5,
        lowest_reason="the lens cement stays soft",
        highest_c=68.0,
        highest_reason="the cement clouds",
        ambient_c=21.0,
        supply="single_phase",
        supply_voltage_v=230.0,
        heater_power_w=300.0,
        heater_voltage_v=230.0,
        sensor="Pt100",
        output="relay",
        actuator="relay",
        limiter=False,
        practice="iec",
        created_at=day.ago(40),
    )
    _described(rig, day.ago(40), TECHNICIAN)
    _wired(rig, day.ago(39), TECHNICIAN)
    values = _sheet(rig, day.ago(38), TECHNICIAN, {"hysteresis_c": 2.0, "setpoint_high_c": 60.5}, Sheet.Kind.AS_FOUND)
    for age, hours in ((19.2, 3.0), (15.1, 5.0), (11.3, 2.5), (6.2, 4.0)):
        _run(rig, values, day.ago(age), "Doublets, on/off", hours * 3600, seed=int(age * 10))
    _offsets(rig, day, [(24, -0.2), (10, -0.5)], "reference thermometer in the tray", values)
    newest = _run(rig, {**values, "offset_c": -0.5}, day.ago(2.1), "Heat-up from cold, on/off", 2.5 * 3600, seed=7)
    _identified(rig, newest, day.ago(2))
    _link(rig, speed=20.0)
    return rig


def blank_annealer(day: Day) -> Rig:
    """A kiln with limiter and contactor; its new probe inherited the old one's offset, and it heats slower than in spring."""
    rig = Rig.objects.create(
        slug="blank-annealer",
        name="Blank annealer",
        kind="kiln",
        working_c=515.0,
        lowest_c=500.0,
        lowest_reason="stress stays in the blank",
        highest_c=600.0,
        highest_reason="the blank begins to slump",
        ambient_c=21.0,
        supply="single_phase",
        supply_voltage_v=230.0,
        heater_power_w=3200.0,
        heater_voltage_v=230.0,
        sensor="N",
        output="ssr_drive",
        actuator="ssr",
        limiter=True,
        practice="iec",
        created_at=day.ago(120),
    )
    _described(rig, day.ago(120), TECHNICIAN)
    _wired(rig, day.ago(119), TECHNICIAN)
    tuned = {
        "mode": "pid",
        "proportional_band_c": 24.0,
        "integral_time_s": 620.0,
        "derivative_time_s": 0.0,
        "period_s": 2.0,
        "offset_c": -7.0,
    }
    values = _sheet(rig, day.ago(118), TECHNICIAN, tuned, Sheet.Kind.AS_LEFT)
    _old_probe(rig, day.ago(90))
    _book(
        rig,
        day.ago(30),
        TECHNICIAN,
        Station.PARTS,
        "Probe replaced: type K by type N",
        {"sensor": "K"},
        {"sensor": "N"},
    )
    for age, vigour in ((17.4, 1.0), (12.2, 1.0), (7.3, 0.94), (3.4, 0.88)):
        run = _run(
            rig, values, day.ago(age, 7), "Anneal, 200 mm blank", 14 * 3600, int(age * 10), vigour, ramp=(515.0, 150.0)
        )
        if vigour < 0.9:
            Event.objects.create(run=run, time_s=4200.0, kind="note", text="slower than last month?")
    _link(rig, speed=30.0, start_c=312.0, vigour=0.88)
    return rig


def _book(
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


def _described(rig: Rig, at: datetime, who: str) -> None:
    _book(rig, at, who, Station.PURPOSE, f"Rig described: {rig.name}", after={"working_c": rig.working_c})


def _wired(rig: Rig, at: datetime, who: str) -> None:
    choice = choice_of(rig)
    assert choice is not None
    wiring = generate(purpose_of(rig), choice)
    store_wiring(rig, wiring)
    _book(rig, at, who, Station.WIRING, "Wiring laid out", after={"wires": len(wiring.connections)})


def _sheet(rig: Rig, at: datetime, who: str, changed: dict[str, object], kind: Sheet.Kind) -> dict[str, float | str]:
    values = {**{p.name: p.value for p in proposals(rig)}, **changed}
    Sheet.objects.create(rig=rig, at=at, kind=kind, values=values, why="first set-up")
    _book(rig, at, who, Station.SETUP, f"Controller settings {kind.label.lower()}", after=changed)
    return values  # type: ignore[return-value]


def _old_probe(rig: Rig, at: datetime) -> None:
    """The calibration of the type K probe fitted before."""
    pairs = (Pair(521.8, 515.1), Pair(522.3, 515.2), Pair(522.0, 515.0))
    rule = OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0)
    result = work_out(pairs, rule)
    _calibration(
        rig, at, "certified type S probe", "K", rule, pairs, 0.0, -7.0, result.error.value, result.uncertainty.value
    )


def _offsets(
    rig: Rig, day: Day, steps: list[tuple[float, float]], reference: str, values: dict[str, float | str]
) -> None:
    """Calibrations whose offset creeps: a drifting probe."""
    existing = 0.0
    for age, left in steps:
        error = existing - left
        pairs = tuple(Pair(60.0 + wobble, 60.0 + wobble - error) for wobble in (-0.1, 0.0, 0.1))
        rule = OffsetRule(OffsetSchool.ADDED_TO_READING, existing, reference_u_c=0.05)
        result = work_out(pairs, rule)
        entered = result.to_enter.value
        at = day.ago(age, 14)
        _calibration(
            rig, at, reference, rig.sensor, rule, pairs, existing, entered, result.error.value, result.uncertainty.value
        )
        Sheet.objects.create(
            rig=rig, at=at, kind=Sheet.Kind.AS_LEFT, values={**values, "offset_c": entered}, why="calibration"
        )
        existing = entered


def _calibration(
    rig: Rig,
    at: datetime,
    reference: str,
    sensor: str,
    rule: OffsetRule,
    pairs: tuple[Pair, ...],
    found: float,
    left: float,
    error: float,
    uncertainty: float,
) -> None:
    Calibration.objects.create(
        rig=rig,
        at=at,
        who=OPTICIAN,
        reference=reference,
        sensor=sensor,
        school=rule.school.value,
        pairs=[{"display_c": round(p.display_c, 2), "reference_c": round(p.reference_c, 2)} for p in pairs],
        rule={"school": rule.school.value, "existing_c": rule.existing_c},
        as_found_c=found,
        as_left_c=left,
        error_c=error,
        uncertainty_c=uncertainty,
    )
    _book(
        rig,
        at,
        OPTICIAN,
        Station.CALIBRATION,
        f"Calibrated against {reference}",
        {"offset_c": found},
        {"offset_c": left, "error_c": round(error, 2)},
    )


def simulate_run(
    rig: Rig,
    settings: ControllerSettings,
    length_s: float,
    vigour: float = 1.0,
    ramp: tuple[float, float] | None = None,
) -> Record:
    """The rig's own plant under these settings from cold. ``ramp``: (°C soak, °C/h up), then half an hour's soak and off."""
    purpose = purpose_of(rig)
    power = power_at(purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v).value
    every = 2.0 if length_s < 6 * 3600 else 10.0
    simulation = Simulation(network_for(kind_of(rig), purpose, power, vigour), settings, purpose.ambient_c, 0.5)
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


def _run(
    rig: Rig,
    values: dict[str, float | str],
    at: datetime,
    name: str,
    length_s: float,
    seed: int = 0,
    vigour: float = 1.0,
    ramp: tuple[float, float] | None = None,
) -> Run:
    record = simulate_run(rig, settings_from(values), length_s, vigour, ramp)
    noise = np.random.default_rng(seed).normal(0.0, 0.03 if rig.sensor == "Pt100" else 0.12, len(record.time_s))
    reading = np.round(record.reading_c + noise, 1)
    run = Run.objects.create(
        rig=rig,
        name=name,
        source=Run.Source.SIMULATED,
        status=Run.Status.FINISHED,
        started_at=at,
        sheet=values,
    )
    store.append(run, Series(record.time_s, np.round(record.setpoint_c, 1), reading, record.output, record.switch))
    _book(rig, at + timedelta(seconds=length_s), OPTICIAN, Station.RUNS, f"Run recorded: {name}")
    return run


def _identified(rig: Rig, run: Run, at: datetime) -> None:
    found = identify(stretch_of(run, None, None, rig.ambient_c))
    Identification.objects.create(
        rig=rig,
        run=run,
        at=at,
        start_s=float(found.time_s[0]),
        end_s=float(found.time_s[-1]),
        gain=found.process.gain,
        lag_s=found.process.lag_s,
        dead_time_s=found.process.dead_time_s,
        verdict=found.verdict.value,
        result=result_of(found),
    )
    _book(rig, at, TECHNICIAN, Station.TUNING, f"Process found from {run.name}")


def _link(rig: Rig, speed: float, start_c: float | None = None, vigour: float = 1.0) -> None:
    Link.objects.create(
        rig=rig, stand_in=True, port=free_port(), speed=speed, start_c=start_c, vigour=vigour, poll_s=0.1
    )
