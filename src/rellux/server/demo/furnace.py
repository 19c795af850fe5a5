"""A furnace that fuses glass beads for spectroscopy: its fourth probe was ordered by the colour of the plug, and is another type than the
controller reads. Three before it drifted as type S does."""

from datetime import datetime

import numpy as np

from rellux.core.calibration.fixed_points import METALS
from rellux.core.calibration.offsets import OffsetRule, Pair
from rellux.core.calibration.references import ReferenceInput, ReferenceKind, worth
from rellux.core.calibration.schools import OffsetSchool
from rellux.core.sensing.inverse import emf_array, invert_array
from rellux.core.spine import Station
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run
from rellux.server.setup.models import Sheet
from rellux.server.zones.domain import told
from rellux.server.zones.models import Chamber, ChamberZone

from .making import TECHNICIAN, Day, book, calibration, described, guarded, identified, proved, run, sheet, wired

FORMER = (
    ((1005.0, 0.3), (880.0, 0.0), (720.0, -0.5)),
    ((710.0, 0.6), (560.0, 0.3), (420.0, -0.2)),
    ((410.0, 0.1), (250.0, -0.2), (40.0, -1.1)),
)
"""Probes before: when each was compared, and by how much it read too high (days ago, °C)."""
NEW_AGO, FOUND_AGO = 12.0, 20.0
SCATTER_C = (0.2, -0.1, 0.0)


def spectro_furnace(day: Day) -> Rig:
    """A muffle of 2.5 kW, by solid state relay and two loops, its beads fused near the freezing point of silver."""
    rig = Rig.objects.create(
        slug="spectro-furnace",
        name="Spectro furnace",
        kind="muffle",
        working_c=960.0,
        lowest_c=940.0,
        lowest_reason="the beads do not flow together",
        highest_c=1090.0,
        highest_reason="the beads take up the crucible",
        materials=[{"name": "muffle, mullite", "limit_c": 1400.0}],
        ambient_c=21.0,
        supply="single_phase",
        supply_voltage_v=230.0,
        heater_power_w=2500.0,
        heater_voltage_v=230.0,
        heater_sensor={"most_c": 1180.0, "hotter_c": 120.0, "lag_s": None},
        sensor="S",
        output="ssr_drive",
        actuator="ssr",
        limiter=True,
        practice="iec",
        created_at=day.ago(1012),
    )
    described(rig, day.ago(1012), TECHNICIAN)
    wired(rig, day.ago(1011), TECHNICIAN)
    tuned = {
        "mode": "pid",
        "period_s": 2.0,
        "setpoint_high_c": 1020.0,
    }
    values = sheet(rig, day.ago(1010), TECHNICIAN, tuned, Sheet.Kind.AS_LEFT)
    guarded(rig, day.ago(200), TECHNICIAN)
    proved(rig, day.ago(90), TECHNICIAN)
    for age in (44.0, FOUND_AGO, 9.0):
        done = run(rig, values, day.ago(age, 9), "Beads, fused", 5 * 3600, int(age), source=Run.Source.CSV)
        if age == FOUND_AGO:
            identified(rig, done, day.ago(19.0))
            guarded(rig, day.ago(18.0), TECHNICIAN)
            proved(rig, day.ago(17.0), TECHNICIAN)
    for seen in FORMER:
        for age, high in seen:
            _in_metal(rig, day.ago(age, 11), "silver", high)
    for hour, metal in ((10, "aluminium"), (13, "silver")):
        _in_metal(rig, day.ago(8.0, hour), metal, None)
    return rig


def entry_zone(day: Day) -> Rig:
    """The other end of its tube, where beads are put in: a phase-angle unit, built lately. The supply was laid for the furnace alone."""
    rig = Rig.objects.create(
        slug="spectro-entry",
        name="Spectro entry zone",
        kind="muffle",
        working_c=700.0,
        highest_c=900.0,
        highest_reason="the seal of the tube’s end softens",
        materials=[{"name": "end flange, steel", "limit_c": 950.0}],
        ambient_c=21.0,
        supply="single_phase",
        supply_voltage_v=230.0,
        heater_power_w=1400.0,
        heater_voltage_v=230.0,
        sensor="N",
        output="linear",
        actuator="phase_angle",
        limiter=True,
        practice="iec",
        created_at=day.ago(7),
    )
    described(rig, day.ago(7), TECHNICIAN)
    wired(rig, day.ago(6), TECHNICIAN)
    tuned = {
        "mode": "pid",
        "proportional_band_c": 60.0,
        "integral_time_s": 480.0,
        "derivative_time_s": 0.0,
        "setpoint_high_c": 740.0,
    }
    sheet(rig, day.ago(6), TECHNICIAN, tuned, Sheet.Kind.AS_LEFT)
    _one_tube(day.ago(5.8), Rig.objects.get(slug="spectro-furnace"), rig)
    guarded(rig, day.ago(5.5), TECHNICIAN)
    proved(rig, day.ago(5.2), TECHNICIAN)
    return rig


def _one_tube(at: datetime, *rigs: Rig) -> None:
    chamber = Chamber.objects.create(name="Spectro tube", along_percent=[25.0], supply_w=3600.0)
    for i, rig in enumerate(rigs):
        ChamberZone.objects.create(chamber=chamber, rig=rig, place=i)
        book(rig, at, TECHNICIAN, Station.PURPOSE, f"Zone of {chamber.name}", after=told(chamber))


def _in_metal(rig: Rig, at: datetime, metal: str, high_c: float | None) -> None:
    """A wire of the metal melts between the leads' ends; left as found. ``high_c``: what a type S probe reads too high, ``None`` for the
    one of another type."""
    freezes = METALS[metal]
    known = worth(ReferenceInput(kind=ReferenceKind.METAL, metal=metal), freezes, rig.ambient_c)
    rule = OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0, reference_u_c=known.u.value if known.u else 0.0)
    shown = _as_other_type(freezes) if high_c is None else freezes + high_c
    pairs = tuple(Pair(round(shown + by, 1), freezes) for by in SCATTER_C)
    calibration(rig, at, f"{metal.capitalize()}, melting", rule, pairs, enter=False, sensor="S")


def _as_other_type(true_c: float) -> float:
    """What a controller set to type S shows of a type R probe at ``true_c``, °C."""
    return float(invert_array("S", emf_array("R", np.array([true_c])))[0])
