"""What is known of the offset in a rig's controller: which kind it is, what fixed that, how much is in it now, and its record."""

from dataclasses import dataclass
from typing import Any

from django.utils.timezone import localtime

from rellux.core.calibration.certificates import CertificateSays, Compared, reads_high
from rellux.core.calibration.offsets import OffsetRule
from rellux.core.calibration.schools import OffsetSchool, converted
from rellux.core.setup.proposals import offset_school
from rellux.core.setup.schools import school_of
from rellux.server.equipment.places import sensors_of
from rellux.server.links.live import live_of
from rellux.server.links.maps import map_of
from rellux.server.links.models import LinkState
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values, rig_facts, working_values

from .models import Calibration

USUAL_STEP_C = 0.1
"""Step of an offset where nothing is known of the controller, °C (common practice, no source)."""


@dataclass(frozen=True)
class Known:
    """``offset_c`` in ``school``. ``fixed_by`` says what fixed the school; empty where it may still be chosen."""

    school: OffsetSchool
    fixed_by: str
    offset_c: float
    step_c: float


def offset_of(rig: Rig) -> Known:
    """The controller itself is asked where it answers; else its sheet is believed."""
    if not rig.sensor:
        return Known(OffsetSchool.ADDED_TO_READING, "", 0.0, USUAL_STEP_C)
    link, sheet, facts = getattr(rig, "link", None), working_values(rig), rig_facts(rig)
    written_in = school_of(current_values(rig))
    school = written_in or offset_school(facts)
    offset = float(sheet["offset_c"])
    step = USUAL_STEP_C
    if link:
        register = map_of(link).by_name.get("offset_c")
        step = register.step if register else step
        state = LinkState.objects.filter(link=link).first()
        if state and facts.controller_school and "offset_c" in state.values and live_of(rig).status == "online":
            offset = converted(float(state.values["offset_c"]), facts.controller_school, school)
    by = "as its sheet says" if written_in else "as the controller is made" if facts.controller_school else ""
    return Known(school, by, offset, step)


def compared(rig: Rig) -> list[Compared]:
    """The comparisons of its record, oldest first."""
    stays = sensors_of(rig)
    return [
        _compared(c, next((s.equipment for s in stays if s.covers(c.at)), ""))
        for c in rig.calibrations.order_by("at", "pk")
    ]


def rule_from(plain: dict[str, Any], school: str) -> OffsetRule:
    """A rule as it was recorded. Raises ``ValueError`` or ``TypeError`` for what is none."""
    says = plain.get("certificate_says")
    return OffsetRule(
        **{**plain, "school": OffsetSchool(school), "certificate_says": CertificateSays(says) if says else None}
    )


def _compared(c: Calibration, piece: str) -> Compared:
    rule = rule_from(c.rule, c.school)
    near = sum(p["reference_c"] for p in c.pairs) / len(c.pairs) + rule.added_c
    high = reads_high(rule.school, c.as_found_c, c.error_c)
    return Compared(f"{localtime(c.at):%-d %B %Y}", c.sensor, near, high, c.uncertainty_c, rule.added_c, piece)
