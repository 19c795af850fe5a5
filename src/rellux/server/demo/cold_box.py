"""The shop's cold box for detectors: a compressor, a low limiter, and a controller that lets it start again too soon."""

from dataclasses import replace

import numpy as np

from rellux.core.guarding.plan import Plan
from rellux.core.plant.rig_models import network_of
from rellux.core.plant.simulation import Disturbance, Simulation
from rellux.core.runs.series import Series
from rellux.core.setup.parameters import settings_from
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Event
from rellux.server.setup.domain import working_values
from rellux.server.setup.models import Sheet

from .making import OPTICIAN, TECHNICIAN, Day, described, guarded, link, ran, sheet, wired

LOADED_S = 5.0 * 3600.0
"""When somebody puts detectors in, with the lid open for a quarter of an hour."""


def detector_box(day: Day) -> Rig:
    """At 4 °C; its rest was set by somebody who took it for a thermostat's, and its low limiter stands where it trips in ordinary work."""
    rig = Rig.objects.create(
        slug="detector-cold-box",
        name="Detector cold box",
        kind="cold",
        effect="cools",
        working_c=4.0,
        lowest_c=-6.0,
        lowest_reason="windows of the detectors ice up",
        highest_c=10.0,
        highest_reason="the detectors drift",
        ambient_c=23.0,
        supply="single_phase",
        supply_voltage_v=230.0,
        heater_power_w=90.0,
        heater_voltage_v=230.0,
        sensor="Pt100",
        output="relay",
        actuator="relay",
        limiter=True,
        practice="iec",
        circuit="beacon",
        created_at=day.ago(28),
    )
    described(rig, day.ago(28), TECHNICIAN)
    wired(rig, day.ago(27), TECHNICIAN)
    values = sheet(rig, day.ago(27), TECHNICIAN, {"minimum_off_s": 60.0}, Sheet.Kind.AS_LEFT)
    guarded(rig, day.ago(26), TECHNICIAN, _by_eye)
    for age, loaded in ((12.0, False), (5.0, True)):
        done = ran(
            rig,
            day.ago(age, 8),
            "Cooled down" if not loaded else "Detectors put in",
            OPTICIAN,
            _day(rig, values, loaded),
            values,
        )
        if loaded:
            Event.objects.create(
                run=done, time_s=LOADED_S, kind="note", text="six detectors, lid open a quarter of an hour"
            )
    link(rig, speed=10.0, start_c=4.6)
    return rig


def _by_eye(plan: Plan) -> Plan:
    """The low limiter as it was found."""
    return replace(plan, limiter=plan.limiter and replace(plan.limiter, trip_c=2.5))


def _day(rig: Rig, values: dict[str, float | str], loaded: bool) -> Series:
    """Eight hours from warm, a row every ten seconds."""
    purpose = purpose_of(rig)
    network = network_of(kind_of(rig), purpose)
    lid = (Disturbance(LOADED_S, LOADED_S + 900.0, 4.0 * sum(network.to_ambient)),) if loaded else ()
    settings = settings_from({**working_values(rig), **values}, purpose)
    record = Simulation(network, settings, purpose.ambient_c, 0.5, lid).advance(8 * 3600.0, 10.0)
    noise = np.random.default_rng(7 + loaded).normal(0.0, 0.03, len(record.time_s))
    reading = np.round(record.reading_c + noise, 1)
    return Series(record.time_s, np.round(record.setpoint_c, 1), reading, record.output, record.switch)
