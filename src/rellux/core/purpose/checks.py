"""What is wrong with a purpose that is possible: materials that do not stand what is allowed."""

from ..findings import Finding, Severity, worst_first
from ..messages import temperature
from .purpose import Purpose


def purpose_findings(purpose: Purpose) -> list[Finding]:
    """Every material whose own limit lies below the highest allowed, or even below the working temperature."""
    found = []
    for material in purpose.materials:
        if material.limit_c >= purpose.highest_c:
            continue
        at_work = material.limit_c < purpose.working_c
        allowed = purpose.working_c if at_work else purpose.highest_c
        found.append(
            Finding(
                "purpose.material",
                Severity.DANGER if at_work else Severity.FAULT,
                title=f"{material.name} stands {temperature(material.limit_c)}",
                reason=(
                    f"The rig {'works at' if at_work else 'may get as hot as'} "
                    f"{temperature(allowed)}: what is weakest decides."
                ),
                fix="Another material, or place it where it stays cooler and say so."
                if at_work
                else f"Bring the highest allowed temperature down to {temperature(material.limit_c)}, or use another material.",
                subjects=(material.name,),
            )
        )
    return worst_first(found)
