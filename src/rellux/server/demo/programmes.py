"""Profiles of the demo's rigs, and runs of them."""

from dataclasses import replace
from datetime import datetime
from typing import Any

import numpy as np

from rellux.core.control.settings import FULL_OUTPUT
from rellux.core.guarding.family import Family
from rellux.core.plant.rig_models import network_for
from rellux.core.profiles.kinds import KINDS
from rellux.core.profiles.load import Load
from rellux.core.profiles.predict import Conditions, course
from rellux.core.profiles.profile import EndAction, Profile, Segment, SegmentKind
from rellux.core.purpose.heater import heater_power
from rellux.core.runs.channels import Channel
from rellux.core.runs.series import Points, Series
from rellux.core.setup.parameters import settings_from
from rellux.core.spine import Station
from rellux.server.profiles.domain import save_version
from rellux.server.profiles.models import ProfileVersion
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.buffer import told
from rellux.server.runs.models import Run, Track

from .making import OPTICIAN, book

READ_S = 0.5
"""Between two readings of a plate."""


def by_hand(*segments: Segment) -> Profile:
    """A profile that somebody drew; it ends with the heat off."""
    return Profile((*segments, Segment(SegmentKind.END, end=EndAction.OFF)))


def anneal(soak_c: float, up: float, hold_s: float, down: float) -> Profile:
    """Up and down at rates in °C/h, and a soak between."""
    return by_hand(
        Segment(SegmentKind.RAMP_RATE, soak_c, up / 60.0),
        Segment(SegmentKind.SOAK, time_s=hold_s),
        Segment(SegmentKind.RAMP_RATE, 60.0, down / 60.0, says="keep it shut"),
    )


def profiled(
    rig: Rig, at: datetime, name: str, profile: Profile | None = None, kind: str = "", **inputs: Any
) -> ProfileVersion:
    """A profile in the library: drawn by hand, or what follows from a kind of work."""
    if profile is None:
        profile = KINDS[kind].build(KINDS[kind].read(inputs))
    made = save_version(rig, OPTICIAN, None, name, kind, inputs, profile, "")
    ProfileVersion.objects.filter(pk=made.pk).update(at=at)
    book(rig, at, OPTICIAN, Station.PROFILES, f"Profile made: {name}", after={"highest_c": profile.highest_c})
    return made


def was_of(done: Run, version: ProfileVersion) -> None:
    """Say of which profile a run was."""
    done.programme = {"key": version.key, "number": version.number, "start_s": 0.0}
    done.save(update_fields=["programme"])


def programme_run(
    rig: Rig, version: ProfileVersion, profile: Profile, values: dict[str, Any], at: datetime, name: str, load: Load
) -> Run:
    """A run of a profile as the rig's plant makes it, a second probe in the load."""
    purpose = purpose_of(rig)
    network = network_for(kind_of(rig), purpose, heater_power(purpose).value)
    settings = replace(settings_from(values), output_high=float(FULL_OUTPUT))
    likely = Family(network, network, network, "")
    found = course(profile, network, Conditions(likely, settings, purpose.ambient_c, purpose.ambient_c, load))
    every = max(1, round(READ_S / float(found.time_s[1] - found.time_s[0]))) if found.time_s[-1] < 3600 else 4
    rows = slice(None, None, every)
    noise = np.random.default_rng(version.pk).normal(0.0, 0.08, (2, len(found.time_s[rows])))
    done = Run.objects.create(
        rig=rig, name=name, source=Run.Source.CSV, status=Run.Status.FINISHED, started_at=at, sheet=values
    )
    t, out = np.round(found.time_s[rows], 2), found.output[rows]
    series = Series(
        t,
        np.round(found.setpoint_c[rows], 1),
        np.round(found.reading_c[rows] + noise[0], 1),
        out,
        np.full(len(t), np.nan),
    )
    store.append(done, series)
    track = Track.objects.create(
        run=done,
        device="log",
        channels=[told(Channel("load_c", "load", "in the load"))],
        interval_s=float(np.median(np.diff(t))),
    )
    store.append(track, Points(t, (np.round(found.core_c[rows] + noise[1], 2),)))
    was_of(done, version)
    book(rig, at, OPTICIAN, Station.RUNS, f"Log imported: {name}")
    return done
