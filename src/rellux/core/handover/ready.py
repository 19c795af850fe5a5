"""What is missing before a rig should be handed over; said on the first page of the pack, never hidden."""

from ..findings import Finding, Severity
from ..spine import Facts

WANTED = (
    ("has_wiring", "Nothing is laid out: there is no diagram and no list of wires."),
    ("is_proved", "Its first power-up is not proved and signed to the end, or something was changed since."),
    ("has_sheet", "No settings are recorded: what its controller was left at is not known."),
    ("has_plan", "No alarms or limits are planned."),
    ("is_calibrated", "Its sensor was not compared with a reference since it was fitted."),
)
"""What a pack lives on, and what is said where it is missing."""
PROOF = "guarding.proof"


def lacking(facts: Facts, lived_with: tuple[Finding, ...] = ()) -> tuple[str, ...]:
    """Sentences, what is dangerous first; empty where nothing is missing. ``lived_with``: findings somebody accepted with a reason, of
    which whoever takes the rig over has to know the dangerous ones."""
    found = [f for at_station in facts.findings.values() for f in at_station]
    dangers = [f"Danger, open: {f.title}." for f in found if f.severity is Severity.DANGER]
    accepted = [f"Danger, lived with: {f.title}." for f in lived_with if f.severity is Severity.DANGER]
    unproved = [f"{f.title}." for f in found if f.rule == PROOF]
    faults = [f"Fault, open: {f.title}." for f in found if f.severity is Severity.FAULT and f.rule != PROOF]
    missing = [says for name, says in WANTED if not getattr(facts, name)]
    return (*dangers, *accepted, *unproved, *missing, *faults)
