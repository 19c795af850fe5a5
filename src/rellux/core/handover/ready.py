"""What is missing before a rig should be handed over; said on the first page of the pack, never hidden."""

from ..findings import Severity
from ..spine import Facts

WANTED = (
    ("has_wiring", "Nothing is laid out: there is no diagram and no list of wires."),
    ("has_sheet", "No settings are recorded: what its controller was left at is not known."),
    ("has_plan", "No alarms or limits are planned."),
    ("is_calibrated", "Its sensor was not compared with a reference since it was fitted."),
)
"""What a pack lives on, and what is said where it is missing."""
PROOF = "guarding.proof"


def lacking(facts: Facts) -> tuple[str, ...]:
    """Sentences, what is dangerous first; empty where nothing is missing."""
    found = [f for at_station in facts.findings.values() for f in at_station]
    dangers = [f"Danger, open: {f.title}." for f in found if f.severity is Severity.DANGER]
    unproved = [f"{f.title}." for f in found if f.rule == PROOF]
    return (*dangers, *unproved, *(says for name, says in WANTED if not getattr(facts, name)))
