"""The store of the shop's cements and pitches: a thermometer with alarms, and no heater."""

from dataclasses import replace

import numpy as np

from rellux.core.guarding.plan import Plan
from rellux.core.runs.series import Series
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Event
from rellux.server.setup.models import Sheet

from .making import OPTICIAN, TECHNICIAN, Day, described, guarded, link, ran, sheet, wired

AJAR_FROM_S, AJAR_TO_S = 3.1 * 3600.0, 6.4 * 3600.0
"""The night somebody left its door ajar."""


def cement_store(day: Day) -> Rig:
    """A cooled cabinet that regulates itself; Rellux only watches it. Its alarm is set so close to the bound that it calls when the cement
    is too warm already."""
    rig = Rig.objects.create(
        slug="cement-store",
        name="Cement store",
        kind="cold",
        effect="watches",
        working_c=6.0,
        lowest_c=2.0,
        lowest_reason="it crystallises",
        highest_c=12.0,
        highest_reason="the cement ages",
        ambient_c=21.0,
        supply="single_phase",
        supply_voltage_v=230.0,
        sensor="Pt100",
        output="relay",
        actuator="none",
        practice="iec",
        circuit="beacon",
        created_at=day.ago(50),
    )
    described(rig, day.ago(50), OPTICIAN)
    wired(rig, day.ago(49), TECHNICIAN)
    sheet(rig, day.ago(49), TECHNICIAN, {"offset_c": 0.2}, Sheet.Kind.AS_LEFT)
    guarded(rig, day.ago(48), TECHNICIAN, _too_close)
    for age, ajar in ((9.0, False), (4.0, True)):
        done = ran(
            rig, day.ago(age, 19), "Night" if not ajar else "Night with the door ajar", OPTICIAN, _night(ajar, int(age))
        )
        if ajar:
            Event.objects.create(run=done, time_s=AJAR_TO_S, kind="note", text="door found ajar, 3 bottles thrown away")
    link(rig, speed=1.0)
    return rig


def _too_close(plan: Plan) -> Plan:
    """Set to the bound itself, nearly."""
    hot = plan.alarms[0]
    return replace(plan, alarms=(replace(hot, alarm=replace(hot.alarm, value=11.8)), *plan.alarms[1:]))


def _night(ajar: bool, seed: int) -> Series:
    """Twelve hours, a row every half minute: its own compressor swings it by a degree or so; ajar it warms towards the room."""
    t = np.arange(0.0, 12 * 3600.0, 30.0)
    swing = 6.0 + 0.7 * np.sin(2.0 * np.pi * t / 2700.0)
    open_s = np.clip(t - AJAR_FROM_S, 0.0, AJAR_TO_S - AJAR_FROM_S) if ajar else np.zeros_like(t)
    shut_s = np.clip(t - AJAR_TO_S, 0.0, None)
    warmer = 8.5 * -np.expm1(-open_s / 4200.0) * np.exp(-shut_s / 2600.0)
    noise = np.random.default_rng(seed).normal(0.0, 0.03, len(t))
    nothing = np.full(len(t), np.nan)
    return Series(t, nothing, np.round(swing + warmer + noise, 1), nothing, nothing)
