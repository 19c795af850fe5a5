"""Calibration offsets: pairs of display and reference, the two schools, rounding and limits, and whether to touch it.

*Added to the reading*: raw = display − old; new = reference − raw = old + (reference − display).
*Temperature adjustment*: the number moves the delivered temperature; new = old + (set-point − mean trusted reading).
For the same fault the two have opposite signs, so they are never mixed. All in °C; differences from °F divide by 1.8.
Uncertainty: JCGM 100 (GUM), t at 95.45 %.
"""

from dataclasses import dataclass, field
from math import hypot, sqrt

import numpy as np
from numpy.typing import NDArray

from ..control.steps import held
from ..errors import Problem, refuse_all
from ..explain import Figure, Input
from ..findings import Finding
from ..messages import difference, quantity, span, temperature
from ..sensing.sensors import tolerance
from ..units import ABSOLUTE_ZERO_C, Kind
from .belief import Belief, Circumstances, believed
from .causes import Causes
from .certificates import HOTTEST_C, MOST_CERTIFIED_C, CertificateSays, Compared, correction, doubts, reads_high
from .conformity import WHOLE_U, Conformity, conformity
from .corrections import Correction, CorrectionPoint
from .lines import ErrorLine, error_line
from .repeats import UNRECOVERED, Pooled, repeats
from .schools import OffsetSchool, converted
from .verdicts import NEEDS_REASON, Advice, Found, raw_reading, verdict

MOST_PAIRS = 50
"""Comparisons at once (our choice)."""

MOST_DOUBT_C = 200.0
"""The largest doubt about how they were compared that is taken, °C (our choice: a slip of unit is asked back)."""

MOST_RAMP_C_PER_MIN = 100.0
"""The steepest ramp that is compared on, °C/min (our choice)."""
MOST_LAG_S = 3600.0
"""The most one probe can follow slower than another, s (our choice)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Pair:
    """One comparison in °C, taken at the same moment."""

    display_c: float
    reference_c: float


@dataclass(frozen=True)
class OffsetRule:
    """What the controller accepts: its school, the offset in it now, resolution and largest magnitude, °C.

    ``setpoint_c`` is needed by the temperature-adjustment school, whose reading the trusted instrument replaces.
    ``reference_u_c`` is the standard uncertainty of the reference (certificate U/2, or strip step/√12). ``certificate_c`` is the
    number of its certificate near this temperature, which is a correction or an error as ``certificate_says``; the pairs hold what
    the reference reads, without it. ``how``: the circumstances of the comparison. ``gain``, ``points``: what the controller has in it
    beside the offset.
    """

    school: OffsetSchool
    existing_c: float
    resolution_c: float = 0.1
    limit_c: float = 20.0
    setpoint_c: float | None = None
    display_digit_c: float = 0.1
    reference_u_c: float = 0.0
    certificate_c: float = 0.0
    certificate_says: CertificateSays | None = None
    how: Circumstances = field(default_factory=Circumstances)
    gain: float = 1.0
    points: tuple[CorrectionPoint, ...] = ()

    def beside_c(self, display_c: float) -> float:
        """What gain and points add beside the offset where this is shown, °C."""
        if self.school is OffsetSchool.TEMPERATURE_ADJUST:
            return 0.0
        return Correction(self.existing_c, self.gain, self.points).beside(display_c)

    def adds_now_c(self, display_c: float) -> float:
        """All that is in force where this is shown, °C."""
        return self.existing_c + self.beside_c(display_c)

    @property
    def certified_c(self) -> float:
        """What is added to the reference's reading for its certificate, °C."""
        return correction(self.certificate_c, self.certificate_says)

    @property
    def added_c(self) -> float:
        """What is added to the reference's reading for its certificate, and for being behind on a ramp, °C."""
        return self.certified_c + self.how.behind_c


@dataclass(frozen=True)
class KnownBefore:
    """What is known of this sensor and place: its last comparison, how single pairs scattered in earlier ones, the room, the hottest it
    may be and how far the display may be off, °C; ``allowed_c`` is by default what its class permits when new;
    ``guard``: the guard band in expanded uncertainties."""

    before: Compared | None = None
    pooled: Pooled | None = None
    room_c: float = 20.0
    highest_c: float | None = None
    allowed_c: float | None = None
    guard: float = WHOLE_U


@dataclass(frozen=True)
class OffsetResult:
    """What to enter, what stays over after rounding and clipping, and what the display will read then. ``needs_reason``: entered only
    with one. ``belief``: what its uncertainty is made of. ``conforms``: the display as found against what is allowed, ``None`` where
    nothing says. ``doubts``: what speaks against it in the record."""

    mean_display: Figure
    mean_reference: Figure
    error: Figure
    spread: Figure
    uncertainty: Figure
    exact: Figure
    to_enter: Figure
    left_over: Figure
    sentence: str
    touch: bool
    verdict: Advice
    advice: str
    needs_reason: bool
    belief: Belief
    conforms: Conformity | None
    line: ErrorLine | None
    causes: Causes | None
    doubts: tuple[Finding, ...] = ()


def work_out(pairs: tuple[Pair, ...], rule: OffsetRule, sensor: str, known: KnownBefore | None = None) -> OffsetResult:
    """The offset for these pairs of a rig with this sensor, and whether to enter it; ``touch`` where that is advised.

    Raises ``Refused`` for missing pairs or numbers that cannot be temperatures."""
    _check(pairs, rule)
    known = known or KnownBefore()
    n = len(pairs)
    display = np.array([p.display_c for p in pairs])
    reference = np.array([p.reference_c for p in pairs]) + rule.added_c
    deviation = deviations(display, reference, rule.school)
    mean_display = _mean("mean display", display, "display")
    mean_reference = _mean("mean reference", reference, "reference", rule)
    scatter = float(np.std(deviation, ddof=1)) if n > 1 else 0.0
    repeat = repeats(deviation, 0.0 if rule.how.recovered else UNRECOVERED, known.pooled)
    spread = Figure(
        "spread of the pairs",
        scatter,
        Kind.DIFFERENCE,
        formula="s = √[Σ(dᵢ − d̄)² / (n − 1)]",
        inputs=(Input("pairs", n, Kind.COUNT, "n", "entered"),),
        reason=_agreement(n, scatter),
        symbol="s",
    )
    target = rule.setpoint_c if rule.school is OffsetSchool.TEMPERATURE_ADJUST else None
    error, exact = _exact(mean_display, mean_reference, rule, target)
    belief = believed(repeat, rule.display_digit_c, rule.reference_u_c, rule.how)
    uncertainty = belief.expanded
    rounded = held(exact.value, rule.resolution_c)
    entered = min(max(rounded, -rule.limit_c), rule.limit_c)
    clipped = entered != rounded
    to_enter = Figure(
        "offset to enter",
        round(entered, 6),
        Kind.DIFFERENCE,
        formula="round to the controller's step, within its limit",
        inputs=(
            exact.as_input(),
            Input("step", rule.resolution_c, Kind.DIFFERENCE, "step", "controller"),
            Input("limit", rule.limit_c, Kind.DIFFERENCE, "±", "controller"),
        ),
        reason="The controller cannot take more than its limit: find the real cause of so large an error."
        if clipped
        else "The nearest value the controller takes.",
        source=exact.source,
        school=exact.school,
    )
    left = exact.value - entered
    left_over = Figure(
        "left over",
        left,
        Kind.DIFFERENCE,
        formula="exact − entered",
        inputs=(exact.as_input(), to_enter.as_input()),
        reason="What the controller's step and limit leave uncorrected.",
    )
    judged = verdict(
        Found(
            tuple(raw_reading(p.display_c, rule.adds_now_c(p.display_c), target, rule.school) for p in pairs),
            tuple(reference.tolist()),
            exact.value + rule.beside_c(mean_display.value),
            exact.value - rule.existing_c,
            uncertainty.value,
            rule.reference_u_c,
            abs(entered - rule.existing_c) > 0,
            hypot(repeat.s_c, rule.display_digit_c / sqrt(12.0), rule.reference_u_c),
            added_offset(rule.school, rule.adds_now_c(mean_display.value)),
            known.room_c,
            known.highest_c if known.highest_c is not None else max(float(np.max(reference)), known.room_c),
        ),
        sensor,
    )
    allowed = known.allowed_c if known.allowed_c is not None else tolerance(sensor, mean_reference.value)
    high = reads_high(rule.school, rule.adds_now_c(mean_display.value), error.value)
    before = known.before
    piece = before.piece if before else ""
    now = Compared("this comparison", sensor, mean_reference.value, high, uncertainty.value, rule.certified_c, piece)
    return OffsetResult(
        mean_display,
        mean_reference,
        error,
        spread,
        uncertainty,
        exact,
        to_enter,
        left_over,
        _sentence(rule, mean_display.value, mean_reference.value, entered),
        judged.advice is Advice.CORRECT,
        judged.advice,
        judged.says,
        judged.advice in NEEDS_REASON,
        belief,
        conformity(error.value, belief.combined.value, uncertainty.value, allowed, known.guard) if allowed else None,
        error_line(display, reference),
        judged.causes,
        doubts((before, now)) if before else (),
    )


def _check(pairs: tuple[Pair, ...], rule: OffsetRule) -> None:
    problems = []
    if not 1 <= len(pairs) <= MOST_PAIRS:
        problems.append(Problem("pairs", f"{len(pairs)} pairs", "1…50; three with strips, six for a cycling oven"))
    for i, pair in enumerate(pairs):
        for name, value in (("display_c", pair.display_c), ("reference_c", pair.reference_c)):
            if not ABSOLUTE_ZERO_C < value < HOTTEST_C:
                problems.append(
                    Problem(f"pairs[{i}].{name}", f"{temperature(value)} is not a temperature here", "{-273…2000 °C}")
                )
    if not rule.reference_u_c >= 0:
        problems.append(Problem("reference_u_c", "cannot be negative", "more than {0 Δ°C}"))
    if not rule.resolution_c > 0:
        problems.append(Problem("resolution_c", "must be more than zero", "{0.01…10 Δ°C}"))
    if not rule.limit_c > 0:
        problems.append(Problem("limit_c", "must be more than zero", "more than {0 Δ°C}"))
    if not abs(rule.existing_c) <= rule.limit_c:
        problems.append(
            Problem(
                "existing_c",
                "is beyond the limit given for this controller",
                f"±{difference(rule.limit_c, 'g')}",
            )
        )
    if not abs(rule.certificate_c) <= MOST_CERTIFIED_C:
        problems.append(
            Problem("certificate_c", "is more than any reference is off by", f"±{difference(MOST_CERTIFIED_C, 'g')}")
        )
    if rule.certificate_c and rule.certificate_says is None:
        problems.append(
            Problem(
                "certificate_says",
                "a correction is added to the reading, an error is taken from it: its certificate says which",
                "correction or error",
            )
        )
    for name in ("reference_digit_c", "places_c", "drift_c_per_min", "follows_slower_s", "swing_c"):
        value = getattr(rule.how, name)
        if not 0 <= value <= (MOST_LAG_S if name == "follows_slower_s" else MOST_DOUBT_C):
            accepted = f"0…{MOST_LAG_S:g} s" if name == "follows_slower_s" else f"{{0…{MOST_DOUBT_C:g} Δ°C}}"
            problems.append(Problem(f"how.{name}", f"{value:g} cannot be right; a slip of unit?", accepted))
    if rule.school is OffsetSchool.TEMPERATURE_ADJUST and rule.setpoint_c is None:
        problems.append(Problem("setpoint_c", "this school compares with the set-point", "the set-point in °C"))
    for name, most in (("rose_c_per_min", MOST_RAMP_C_PER_MIN), ("reference_slower_s", MOST_LAG_S)):
        if not abs(getattr(rule.how, name)) <= most:
            accepted = f"±{most:g} s" if name == "reference_slower_s" else f"±{quantity(most, '°C/min', 'g')}"
            problems.append(Problem(f"how.{name}", "cannot be right; a slip of unit?", accepted))
    refuse_all(problems)


def _mean(name: str, values: Array, symbol: str, rule: OffsetRule | None = None) -> Figure:
    added = (
        (
            Input("for its certificate", rule.certified_c, Kind.DIFFERENCE, "c", "certificate"),
            Input("behind on the ramp", rule.how.behind_c, Kind.DIFFERENCE, "b", "entered"),
        )
        if rule
        else ()
    )
    counted = tuple(a for a in added if a.value)
    return Figure(
        name,
        float(np.mean(values)),
        Kind.TEMPERATURE,
        formula=" + ".join(("Σ read / n" if counted else "Σ / n", *(a.symbol for a in counted))),
        inputs=(Input("pairs", len(values), Kind.COUNT, "n", "entered"), *counted),
        reason=f"From one to the other {span(float(np.min(values)), float(np.max(values)), '°C', '.1f')}.",
        symbol=symbol,
    )


def _exact(display: Figure, reference: Figure, rule: OffsetRule, target: float | None) -> tuple[Figure, Figure]:
    old = Input("offset in it now", rule.existing_c, Kind.DIFFERENCE, "old", "controller")
    if target is None:
        error = Figure(
            "display error",
            display.value - reference.value,
            Kind.DIFFERENCE,
            formula="display − reference",
            inputs=(display.as_input(), reference.as_input()),
            reason="Positive: the display reads too high.",
        )
        return error, Figure(
            "offset, exact",
            rule.existing_c + reference.value - display.value,
            Kind.DIFFERENCE,
            formula="new = old + (reference − display)",
            inputs=(old, reference.as_input(), display.as_input()),
            reason="The reading without any offset is display − old; the new offset takes it to the reference.",
            source="arithmetic of the school",
            school="added to the reading: display = raw + offset",
        )
    set_to = Input("set-point", target, Kind.TEMPERATURE, "SP", "entered")
    error = Figure(
        "delivered too hot by",
        reference.value - target,
        Kind.DIFFERENCE,
        formula="reference − SP",
        inputs=(reference.as_input(), set_to),
        reason="Positive: hotter than asked for.",
    )
    return error, Figure(
        "offset, exact",
        rule.existing_c + target - reference.value,
        Kind.DIFFERENCE,
        formula="new = old + (SP − mean reference)",
        inputs=(old, set_to, reference.as_input()),
        reason="A positive number makes the oven hotter, so an oven that is too hot needs a negative one.",
        source="arithmetic of the school",
        school="temperature adjustment: + makes it hotter",
    )


def _agreement(n: int, scatter: float) -> str:
    if n < 2:
        return "One pair says nothing about repeatability."
    if scatter == 0:
        return (
            "All pairs are the same: read anew each time, they only say that the digit is coarser than what scatters."
        )
    return "How well the pairs agree with each other."


def deviations(display_c: Array, reference_c: Array, school: OffsetSchool) -> Array:
    """What of the pairs scatters, shapes (n,): their differences; for a control that adjusts what it delivers, what was delivered."""
    return reference_c - display_c if school is OffsetSchool.ADDED_TO_READING else reference_c


def added_offset(school: OffsetSchool, existing_c: float) -> float:
    """The offset in force as one that is added to the reading, °C."""
    return converted(existing_c, school, OffsetSchool.ADDED_TO_READING)


def _sentence(rule: OffsetRule, display: float, reference: float, entered: float) -> str:
    if rule.school is OffsetSchool.ADDED_TO_READING or rule.setpoint_c is None:
        shown = display - rule.existing_c + entered
        return (
            f"After this the display will read {temperature(shown, '.1f')} "
            f"when the load is at {temperature(reference, '.1f')}."
        )
    delivered = reference + entered - rule.existing_c
    return (
        f"After this the load will be at {temperature(delivered, '.1f')} when "
        f"the set-point is {temperature(rule.setpoint_c, '.1f')}."
    )
