"""The job spine: the stations in the order people work, what is open at each, and the one next action."""

from dataclasses import dataclass, field
from enum import StrEnum

from .findings import Finding, Severity, worst_first
from .purpose.purpose import Effect


class Station(StrEnum):
    """Stations of this version, in working order."""

    PURPOSE = "purpose"
    PARTS = "parts"
    WIRING = "wiring"
    PROVING = "proving"
    SETUP = "setup"
    GUARDING = "guarding"
    TUNING = "tuning"
    PROFILES = "profiles"
    RUNS = "runs"
    CALIBRATION = "calibration"
    BOOK = "book"


class Progress(StrEnum):
    """``done``: nothing open. ``open``: begun, something waits. ``untouched``: not begun."""

    DONE = "done"
    OPEN = "open"
    UNTOUCHED = "untouched"


@dataclass(frozen=True)
class Facts:
    """What exists of a rig, and what it does to its temperature. Findings by station. ``to_prove``: by the station after which it belongs,
    what is to be proved next; ``has_proved``: something was, ``is_proved``: all of it, and it holds."""

    has_parts: bool
    has_wiring: bool
    has_sheet: bool
    has_run: bool
    is_recording: bool
    is_tuned: bool
    is_calibrated: bool
    has_plan: bool = False
    has_profile: bool = False
    to_prove: dict[Station, str] = field(default_factory=dict)
    is_proved: bool = False
    has_proved: bool = False
    effect: Effect = Effect.HEATS
    findings: dict[Station, tuple[Finding, ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class StationState:
    """One terminal on the spine."""

    station: Station
    progress: Progress
    waiting: int
    worst: Severity | None


@dataclass(frozen=True)
class NextAction:
    """The one thing to do. ``rule`` names the finding it settles, if any."""

    station: Station
    text: str
    severity: Severity | None = None
    rule: str = ""


_STEPS = (
    ("has_parts", Station.PARTS, "Choose sensor, output and switch"),
    ("has_wiring", Station.WIRING, "Lay out the wiring"),
    ("has_sheet", Station.SETUP, "Enter what the controller is set to"),
    ("has_plan", Station.GUARDING, "Plan what stops it, and in which order"),
    ("has_run", Station.RUNS, "Record a heat-up, or import a log"),
    ("is_tuned", Station.TUNING, "Find the process from a run and choose the control"),
    ("is_calibrated", Station.CALIBRATION, "Compare the display with a trusted thermometer"),
)


HEATED = (Station.TUNING, Station.PROFILES)
"""Stations of a rig that heats."""
_OTHERWISE = {
    Effect.COOLS: {Station.RUNS: "Record a cool-down, or import a log"},
    Effect.WATCHES: {
        Station.PARTS: "Choose the sensor",
        Station.SETUP: "Enter what the instrument is set to",
        Station.GUARDING: "Plan what calls, and when",
        Station.RUNS: "Record a run, or import a log",
    },
}
"""Steps of a rig that cools or only watches, where they are others."""


def stations(effect: Effect) -> tuple[Station, ...]:
    """The stations of a rig, in working order."""
    return tuple(s for s in Station if effect is Effect.HEATS or s not in HEATED)


def spine(facts: Facts) -> tuple[StationState, ...]:
    """State of every station."""
    done = {
        Station.PURPOSE: True,
        Station.PARTS: facts.has_parts,
        Station.WIRING: facts.has_wiring,
        Station.PROVING: facts.has_proved,
        Station.SETUP: facts.has_sheet,
        Station.GUARDING: facts.has_plan,
        Station.TUNING: facts.is_tuned,
        Station.PROFILES: facts.has_profile,
        Station.RUNS: facts.has_run,
        Station.CALIBRATION: facts.is_calibrated,
        Station.BOOK: True,
    }
    states = []
    for station in stations(facts.effect):
        findings = worst_first(facts.findings.get(station, ()))
        serious = [f for f in findings if f.severity is not Severity.ADVICE]
        if not done[station]:
            progress = Progress.UNTOUCHED
        elif serious or (station is Station.PROVING and not facts.is_proved):
            progress = Progress.OPEN
        else:
            progress = Progress.DONE
        states.append(StationState(station, progress, len(findings), findings[0].severity if findings else None))
    return tuple(states)


def next_action(facts: Facts) -> NextAction:
    """Dangers first, then faults, then the next step of the job, then advice. What is to be proved comes between the steps it belongs
    between; a rig that has runs already is not held up by it."""
    everything = [(s, f) for s in Station for f in facts.findings.get(s, ())]
    for severity in (Severity.DANGER, Severity.FAULT):
        for station, finding in everything:
            if finding.severity is severity:
                return NextAction(station, finding.title, severity, finding.rule)
    for name, station, text in _STEPS:
        if not getattr(facts, name) and station in stations(facts.effect):
            return NextAction(station, _OTHERWISE.get(facts.effect, {}).get(station, text))
        if station in facts.to_prove and not facts.has_run:
            return NextAction(Station.PROVING, facts.to_prove[station])
    if everything:
        station, finding = everything[0]
        return NextAction(station, finding.title, finding.severity, finding.rule)
    if facts.is_recording:
        return NextAction(Station.RUNS, "Watch the run")
    return NextAction(Station.RUNS, "Nothing is open. Start a run when you are ready")
