"""A recorded comparison read back: its rule, what it says of the sensor, and when it was."""

from dataclasses import asdict
from datetime import datetime
from typing import Any

from django.utils.timezone import localtime

from rellux.core.calibration.belief import Circumstances
from rellux.core.calibration.certificates import CertificateSays, Compared, reads_high
from rellux.core.calibration.corrections import CorrectionPoint
from rellux.core.calibration.offsets import OffsetRule
from rellux.core.calibration.schools import OffsetSchool

from .models import Calibration


def rule_from(plain: dict[str, Any], school: str) -> OffsetRule:
    """A rule as it was recorded. Raises ``ValueError`` or ``TypeError`` for what is none."""
    says = plain.get("certificate_says")
    return OffsetRule(
        **{
            **plain,
            "school": OffsetSchool(school),
            "certificate_says": CertificateSays(says) if says else None,
            "how": Circumstances(**plain.get("how", {})),
            "points": tuple(CorrectionPoint(**p) for p in plain.get("points", ())),
        }
    )


def plain_rule(rule: OffsetRule) -> dict[str, Any]:
    """As it is recorded."""
    return {**asdict(rule), "school": rule.school.value}


def compared_as(c: Calibration, piece: str = "") -> Compared:
    """What a comparison says of its sensor, which was the ``piece`` of that name."""
    rule = rule_from(c.rule, c.school)
    near = sum(p["reference_c"] for p in c.pairs) / len(c.pairs) + rule.added_c
    display = sum(p["display_c"] for p in c.pairs) / len(c.pairs)
    high = reads_high(rule.school, c.as_found_c + rule.beside_c(display), c.error_c)
    return Compared(f"{localtime(c.at):%-d %B %Y}", c.sensor, near, high, c.uncertainty_c, rule.certified_c, piece)


def spread_of(c: Calibration) -> float:
    """Over how many degrees its pairs are spread, °C."""
    references = [p["reference_c"] for p in c.pairs]
    return float(max(references) - min(references))


def day_of(at: datetime) -> float:
    return at.timestamp() / 86400.0
