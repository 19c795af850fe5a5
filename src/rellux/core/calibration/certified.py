"""A reference's certificates: their number and uncertainty at any temperature between their points, and how it drifted from one
certificate to the next."""

from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from math import sqrt

import numpy as np

from ..errors import Problem, refuse, refuse_all
from ..messages import difference, span, temperature
from ..units import ABSOLUTE_ZERO_C
from .certificates import HOTTEST_C, MOST_CERTIFIED_C, CertificateSays, correction

MOST_POINTS, MOST_CERTIFICATES = 20, 20
"""Points of one certificate, and certificates of one reference (our choice)."""
NEAR_SHARE, NEAR_C = 0.02, 5.0
"""So far beyond its outermost points a certificate is still read: this share of their span, or so many °C (our choice)."""
YEAR_DAYS = 365.25


@dataclass(frozen=True)
class CertificatePoint:
    """At a temperature: the number that stands there, and its expanded uncertainty, °C."""

    at_c: float
    number_c: float
    expanded_c: float


@dataclass(frozen=True)
class Certificate:
    """``says``: what its numbers are; ``coverage``: the k its U is stated with."""

    dated: date
    says: CertificateSays
    points: tuple[CertificatePoint, ...]
    coverage: float = 2.0


@dataclass(frozen=True)
class CertifiedAt:
    """``added_c``: what is added to the reading; ``u_c``: standard uncertainty, drift since the certificate in it; ``drifted_c``: by
    how much it may have moved since, ±."""

    added_c: float
    u_c: float
    drifted_c: float
    reason: str


def check_certificates(given: tuple[Certificate, ...], today: date) -> None:
    """Raise ``Refused`` with everything that cannot be."""
    problems = []
    if len(given) > MOST_CERTIFICATES:
        problems.append(Problem("certificates", f"{len(given)} of them", f"up to {MOST_CERTIFICATES}"))
    for i, one in enumerate(given):
        path = f"certificates[{i}]"
        if one.dated > today:
            problems.append(Problem(f"{path}.dated", "a certificate is not from the future", f"up to {today}"))
        if not 1.0 <= one.coverage <= 4.0:
            problems.append(Problem(f"{path}.coverage", f"{one.coverage:g} is no coverage factor", "1…4, mostly 2"))
        if not 1 <= len(one.points) <= MOST_POINTS:
            problems.append(Problem(f"{path}.points", f"{len(one.points)} points", f"1…{MOST_POINTS}"))
        if len({p.at_c for p in one.points}) < len(one.points):
            problems.append(Problem(f"{path}.points", "two of them are at the same temperature", "one for each"))
        for k, p in enumerate(one.points):
            problems += _point_problems(f"{path}.points[{k}]", p)
    refuse_all(problems)


def _point_problems(path: str, p: CertificatePoint) -> list[Problem]:
    found = []
    if not ABSOLUTE_ZERO_C < p.at_c < HOTTEST_C:
        found.append(Problem(f"{path}.at_c", f"{temperature(p.at_c)} is not a temperature here", "{-273…2000 °C}"))
    if not abs(p.number_c) <= MOST_CERTIFIED_C:
        found.append(
            Problem(f"{path}.number_c", "is more than any reference is off by", f"±{difference(MOST_CERTIFIED_C)}")
        )
    if not 0.0 < p.expanded_c <= MOST_CERTIFIED_C:
        found.append(Problem(f"{path}.expanded_c", "no certificate is exact, and none is that wide", "{0.001…50 Δ°C}"))
    return found


def certified(given: tuple[Certificate, ...], at_c: float, today: date) -> CertifiedAt:
    """What its certificates say near ``at_c`` °C on a day: linear between points, U the larger of both neighbours'.

    Raises ``Refused`` for none, and outside the points of the newest one: a certificate says nothing there."""
    if not given:
        raise refuse("certificates", "it has none", "enter its points, or say how good it is yourself")
    ordered = sorted(given, key=lambda c: c.dated)
    newest = ordered[-1]
    number, u = _between(newest, at_c)
    added = correction(number, newest.says)
    rate = _drift_c_per_day(ordered, at_c)
    drifted = abs(rate) * max((today - newest.dated).days, 0)
    reason = f"Certificate of {newest.dated:%-d %B %Y}: {newest.says.value} {difference(number, '+.3g')}."
    if len(ordered) > 1:
        reason += f" From one certificate to the next it moved {difference(abs(rate) * YEAR_DAYS, '.2g')} a year."
    else:
        reason += " With one certificate nobody knows how it drifts."
    return CertifiedAt(added, sqrt(u**2 + drifted**2 / 3.0), drifted, reason)


def _between(one: Certificate, at_c: float) -> tuple[float, float]:
    """Number and standard uncertainty at a temperature."""
    points = sorted(one.points, key=lambda p: p.at_c)
    low, high = points[0].at_c, points[-1].at_c
    room = max(NEAR_SHARE * (high - low), NEAR_C)
    if not low - room <= at_c <= high + room:
        raise refuse(
            "certificates",
            f"its points do not reach {temperature(at_c, '.0f')}",
            f"{span(low, high, '°C')}, or say how good it is there",
        )
    number = float(np.interp(at_c, [p.at_c for p in points], [p.number_c for p in points]))
    near = [p for a, b in pairwise(points) if a.at_c <= at_c <= b.at_c for p in (a, b)] or [
        min(points, key=lambda p: abs(p.at_c - at_c))
    ]
    return number, max(p.expanded_c for p in near) / one.coverage


def _drift_c_per_day(ordered: list[Certificate], at_c: float) -> float:
    """The fastest move between two certificates that follow each other and both reach the temperature, °C per day."""
    fastest = 0.0
    for one, other in pairwise(ordered):
        days = (other.dated - one.dated).days
        if days <= 0 or not all(_reaches(c, at_c) for c in (one, other)):
            continue
        moved = correction(_between(other, at_c)[0], other.says) - correction(_between(one, at_c)[0], one.says)
        fastest = max(fastest, abs(moved) / days)
    return fastest


def _reaches(one: Certificate, at_c: float) -> bool:
    at = [p.at_c for p in one.points]
    return min(at) <= at_c <= max(at)
