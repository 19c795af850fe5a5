"""What did the parts taken out of an appliance protect?"""

from dataclasses import dataclass

from ...explain import Figure
from ...findings import Finding, Severity, worst_first
from ...form import choice, flag, number, rows
from ...panel.parts_data import REMOVED, LostProtection
from ...units import Kind
from ..answer import Alternative, Answer, Question, Topic


@dataclass(frozen=True)
class RemovedRow:
    """Something taken out of the appliance."""

    what: str = choice("Removed", {p.key: p.name for p in REMOVED}, "thermostat")
    replaced: bool = flag("Something takes over", False)


@dataclass(frozen=True)
class ApplianceInput:
    """An appliance about to be converted."""

    removed: tuple[RemovedRow, ...] = rows(
        "Taken out", RemovedRow, (RemovedRow("thermostat", True), RemovedRow("timer"), RemovedRow("cutout")), 1, 12
    )
    baseline: bool = flag("Its dial was measured first, set against true", False)
    swing_c: float | None = number(
        "It swung by, top to bottom", Kind.DIFFERENCE, 0.1, 300, None, optional=True, when=("baseline", (True,))
    )


def _appliance(g: ApplianceInput) -> Answer:
    known = {p.key: p for p in REMOVED}
    open_ = [known[row.what] for row in g.removed if not row.replaced]
    severe = [p for p in open_ if p.severe]
    findings = [
        Finding(
            f"appliance.{p.key}",
            Severity.DANGER if p.severe else Severity.ADVICE,
            title=f"Nothing does what the {p.name.lower()} did",
            reason=f"It {p.gave}.",
            fix=f"Now {p.needs}.",
            subjects=(p.name,),
        )
        for p in open_
    ]
    if not g.baseline:
        findings.append(
            Finding(
                "appliance.baseline",
                Severity.ADVICE,
                title="The old dial was not measured",
                reason="Without it nobody can say that the conversion is better.",
                fix="Before taking it out: set three marks, wait, note what a thermometer shows and how it swings.",
            )
        )
    figures: tuple[Figure, ...] = ()
    if g.swing_c is not None:
        figures = (
            Figure(
                "baseline to beat",
                g.swing_c,
                Kind.DIFFERENCE,
                reason="Swing of the original, top to bottom.",
                source="measured by you",
            ),
        )
    return Answer(
        _headline(severe, open_),
        figures,
        tuple(worst_first(findings)),
        alternatives=tuple(
            Alternative(
                row.what,
                known[row.what].name,
                None if row.replaced else (Severity.DANGER if known[row.what].severe else Severity.ADVICE),
                says=f"It {known[row.what].gave}. {'Takes over' if row.replaced else 'Needed'}: {known[row.what].needs}.",
            )
            for row in g.removed
        ),
    )


def _headline(severe: list[LostProtection], missing: list[LostProtection]) -> str:
    named = ", ".join(p.name.lower() for p in (severe or missing))
    if severe:
        return f"{'One protection is' if len(severe) == 1 else f'{len(severe)} protections are'} missing: {named}."
    if missing:
        return f"Nothing does what was done by: {named}."
    return "What was taken out has something that takes over: make sure of each by trying it."


APPLIANCE = Question(
    "appliance",
    "What did the removed parts protect?",
    Topic.BOX,
    ApplianceInput,
    _appliance,
    None,
    ("Duration, temperature, door, fan: each thing taken out did more than its name says.",),
    "A converted appliance is no longer what its maker tested. Unattended only with an independent limiter.",
    ("limit",),
)
