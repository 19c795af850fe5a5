"""How far a comparison can be believed: every doubt as a standard uncertainty, the biggest first, what they come to, and what would
halve it (JCGM 100:2008; each term's formula is its own)."""

from collections.abc import Iterable
from dataclasses import dataclass
from math import hypot, inf, isinf, sqrt

from ..explain import Figure, Input
from ..messages import quantity
from ..units import Kind
from .coverage import LEVEL, Law, Spread, coverage_factor, effective_freedom, sampled
from .repeats import Repeats

DOMINATES = 0.5
"""Share of the variance from which one evenly spread doubt makes the t interval too wide (our choice): Monte Carlo is shown beside it."""
FEW_FREEDOM = 3.0
"""Degrees of freedom of the scatter below which Welch–Satterthwaite covers too little (simulated: 88 of 100 for two pairs, 92 for three,
94 for four)."""
LAG_KNOWN_TO = 0.25
"""How well a difference of lags is known, ± (our choice: two probes in air are seldom told apart better)."""
WORDS = {
    "repeats": "how well the pairs repeat",
    "digit": "the display's digit",
    "reference": "the reference",
    "reference_digit": "the reference's digit",
    "places": "the two are not in one place",
    "drift": "it was still drifting",
    "ramp": "it was on a ramp",
    "cycle": "it was cycling",
}


@dataclass(frozen=True)
class Circumstances:
    """How the two were compared, all 0 or more. ``reference_digit_c``: the reference's smallest step; ``places_c``: how much the two
    places may differ, ±; ``drift_c_per_min`` while reading and ``follows_slower_s``, by how much one follows slower than the other;
    ``swing_c``: from trough to peak of a cycling rig, whose pairs were not spread over whole cycles; ``recovered``: it was left to
    recover between pairs. ``rose_c_per_min``, by which it rose (falling: negative), and ``reference_slower_s``, by how much the reference
    is the slower one (else negative), are known and worked in. °C."""

    reference_digit_c: float = 0.0
    places_c: float = 0.0
    drift_c_per_min: float = 0.0
    follows_slower_s: float = 0.0
    swing_c: float = 0.0
    recovered: bool = True
    rose_c_per_min: float = 0.0
    reference_slower_s: float = 0.0

    @property
    def behind_c(self) -> float:
        """By how much more the reference is behind on a ramp than the display, which is added to its reading, °C.

        >>> Circumstances(rose_c_per_min=2.0, reference_slower_s=30.0).behind_c
        1.0
        """
        return self.rose_c_per_min * self.reference_slower_s / 60.0


@dataclass(frozen=True)
class Term:
    """One doubt: ``u`` its standard uncertainty; ``share`` of the variance; ``shrinks``: more pairs make it smaller; ``halve``: what
    does."""

    key: str
    u: Figure
    share: float
    shrinks: bool
    halve: str


@dataclass(frozen=True)
class Belief:
    """Terms, the biggest first. ``freedom``: effective degrees of freedom, ``None`` where nothing was estimated from readings.
    ``sampled``: the half-width by Monte Carlo, where an evenly spread term makes most of it."""

    terms: tuple[Term, ...]
    combined: Figure
    expanded: Figure
    freedom: float | None
    sampled: Figure | None
    advice: str


def believed(repeat: Repeats, digit_c: float, reference_u_c: float, how: Circumstances) -> Belief:
    """What a mean of pairs is worth: ``digit_c`` the display's smallest step, ``reference_u_c`` the reference's standard uncertainty,
    °C."""
    found = [t for t in _terms(repeat, digit_c, reference_u_c, how) if t[1].value > 0]
    inputs = [
        Spread(u.value, repeat.freedom if key == "repeats" else inf, _LAWS.get(key, Law.NORMAL))
        for key, u, _, _ in found
    ]
    total = sum(i.u_c**2 for i in inputs)
    terms = sorted(
        (Term(key, u, u.value**2 / total, shrinks, halve) for key, u, shrinks, halve in found), key=lambda t: -t.u.value
    )
    freedom = effective_freedom(inputs) if inputs else inf
    combined = Figure(
        "combined standard uncertainty",
        sqrt(total),
        Kind.DIFFERENCE,
        formula="u = √(Σ uᵢ²)",
        inputs=tuple(
            Input(t.u.name, t.u.value, Kind.DIFFERENCE, f"u{_index(i)}", "computed") for i, t in enumerate(terms)
        ),
        reason="Doubts that have nothing to do with each other add as squares.",
        source="JCGM 100:2008, 5.1.2",
        symbol="u",
    )
    expanded = _expanded(repeat, combined, freedom)
    return Belief(
        tuple(terms),
        combined,
        expanded,
        None if isinf(freedom) else freedom,
        _sampled(terms, inputs, expanded),
        _advice(terms),
    )


def _expanded(repeat: Repeats, combined: Figure, freedom: float) -> Figure:
    """By the guide's effective degrees of freedom, which promise too much where few pairs agree by chance: with very few the scatter keeps
    its own factor, and no other doubt makes it surer than the scatter alone."""
    own = coverage_factor(repeat.freedom) if repeat.freedom else 0.0
    factor, normal = coverage_factor(freedom), coverage_factor(inf)
    scatter = (
        Input("how well the pairs repeat", repeat.u_c, Kind.DIFFERENCE, "u_A", "computed"),
        Input("its factor", own, Kind.RATIO, "t", f"{repeat.freedom:.1f} degrees of freedom, {{{100 * LEVEL:g} %}}"),
    )
    if 0 < repeat.freedom < FEW_FREEDOM:
        rest = sqrt(max(combined.value**2 - repeat.u_c**2, 0.0))
        inputs: tuple[Input, ...] = (
            *scatter,
            Input("all other doubts", rest, Kind.DIFFERENCE, "u_B", "computed"),
            Input("their factor", normal, Kind.RATIO, "k", f"{{{100 * LEVEL:g} %}}"),
        )
        value, formula = hypot(own * repeat.u_c, normal * rest), "U = √((t u_A)² + (k u_B)²)"
        reason = "So few pairs may agree by chance: their scatter keeps its own factor."
    elif own * repeat.u_c > factor * combined.value:
        value, formula, inputs = own * repeat.u_c, "U = t u_A", scatter
        reason = "Of the scatter alone: with few pairs the usual sum would make other doubts seem to make it surer."
    else:
        value, formula = factor * combined.value, "U = t u"
        estimated = (
            "for so many readings" if isinf(freedom) else f"Welch–Satterthwaite, {freedom:.1f} degrees of freedom"
        )
        inputs = (
            combined.as_input(),
            Input("coverage factor", factor, Kind.RATIO, "t", f"{estimated}, {{{100 * LEVEL:g} %}}"),
        )
        reason = (
            "A change smaller than this is noise."
            if repeat.freedom
            else "Repeatability is unknown with one pair: this is too small."
        )
    return Figure(
        "uncertainty of the change",
        value,
        Kind.DIFFERENCE,
        formula=formula,
        inputs=inputs,
        reason=reason,
        source="JCGM 100:2008, annex G",
        symbol="U",
    )


def _sampled(terms: list[Term], inputs: list[Spread], expanded: Figure) -> Figure | None:
    even = max((t.share for t in terms if _LAWS.get(t.key) is Law.RECTANGULAR), default=0.0)
    if even < DOMINATES:
        return None
    return Figure(
        "the same by Monte Carlo",
        sampled(inputs),
        Kind.DIFFERENCE,
        formula="the middle 95.45 % of sums of draws",
        inputs=(expanded.as_input(),),
        reason="Most of the doubt is spread evenly between two ends, which it cannot pass: the usual factor is too wide for that.",
        source="JCGM 101:2008",
    )


def _advice(terms: list[Term]) -> str:
    if not terms:
        return "Nothing is known of how far to believe it."
    first = terms[0]
    makes = f"{WORDS[first.key].capitalize()} makes {quantity(100 * first.share, '%', '.0f')} of it."
    return f"{makes} To halve that: {first.halve}"


def _terms(
    repeat: Repeats, digit_c: float, reference_u_c: float, how: Circumstances
) -> Iterable[tuple[str, Figure, bool, str]]:
    yield "repeats", _repeats(repeat), True, f"{4 * repeat.n} pairs instead of {repeat.n}."
    yield (
        "digit",
        _even(
            "digit",
            digit_c / 2,
            "digit",
            digit_c,
            "digit / √12",
            "Rounded to a step; pairs that all show the same do not average it.",
        ),
        False,
        "read it with one more decimal, if it has one.",
    )
    yield "reference", _given("reference", reference_u_c, "u_ref"), False, "compare with a better reference."
    yield (
        "reference_digit",
        _even(
            "reference_digit",
            how.reference_digit_c / 2,
            "digit",
            how.reference_digit_c,
            "digit / √12",
            "Rounded to its nearest step.",
        ),
        False,
        "read the reference with one more decimal.",
    )
    yield (
        "places",
        _even("places", how.places_c, "a", how.places_c, "a / √3", "The load is not equally warm everywhere."),
        False,
        "bring the tips together, or exchange their places and compare again: half the sum has no gradient in it.",
    )
    off = how.drift_c_per_min * how.follows_slower_s / 60.0
    yield (
        "drift",
        Figure(
            WORDS["drift"],
            off / sqrt(3.0),
            Kind.DIFFERENCE,
            formula="rate · lag / √3",
            inputs=(
                Input("drift while reading", how.drift_c_per_min, Kind.RATE, "rate", "the run"),
                Input("one follows slower by", how.follows_slower_s, Kind.TIME, "lag", "entered"),
            ),
            reason="On a ramp the slower one is behind by rate · lag.",
        ),
        False,
        "wait until it drifts half as fast.",
    )
    yield (
        "ramp",
        _even(
            "ramp",
            abs(how.behind_c) * LAG_KNOWN_TO,
            "rate · lag",
            how.behind_c,
            "¼ rate · lag / √3",
            "What the slower one was behind by is worked in; its lag is only known so well.",
        ),
        False,
        "hold it steady instead.",
    )
    yield (
        "cycle",
        _even(
            "cycle",
            odd_moments_off(how.swing_c),
            "swing",
            how.swing_c,
            "(swing / 2) / √3",
            "A few moments taken at hand may all fall on one side of the cycle.",
        ),
        False,
        "spread the pairs evenly over whole cycles, or let a steady output hold it.",
    )


_LAWS = {key: Law.RECTANGULAR for key in ("digit", "reference_digit", "places", "drift", "ramp", "cycle")}


def _repeats(repeat: Repeats) -> Figure:
    of = Input("pairs", repeat.n, Kind.COUNT, "n", "entered")
    scatter = Input(
        "spread of one pair",
        repeat.s_c,
        Kind.DIFFERENCE,
        "s",
        "with earlier comparisons" if repeat.from_before else "these pairs",
    )
    worth = Input("worth so many independent ones", repeat.worth, Kind.RATIO, "n′", "computed")
    return Figure(
        WORDS["repeats"],
        repeat.u_c,
        Kind.DIFFERENCE,
        formula="s / √n′",
        inputs=(scatter, of, worth),
        reason="The mean of pairs repeats better than one of them.",
        source="JCGM 100:2008, 4.2",
    )


def _given(key: str, u_c: float, symbol: str) -> Figure:
    return Figure(
        WORDS[key],
        u_c,
        Kind.DIFFERENCE,
        formula=symbol,
        inputs=(Input("standard uncertainty", u_c, Kind.DIFFERENCE, symbol, "entered"),),
        reason="The same in every pair: more of them do not help.",
    )


def odd_moments_off(swing_c: float) -> float:
    """How far a mean of a few moments at hand may be off in a cycle of this swing from trough to peak, ±, °C: all may fall on its peak."""
    return swing_c / 2.0


def _even(key: str, half_c: float, symbol: str, given_c: float, formula: str, reason: str) -> Figure:
    """Of a doubt that is spread evenly over ± ``half_c`` (JCGM 100:2008, 4.3.7)."""
    return Figure(
        WORDS[key],
        half_c / sqrt(3.0),
        Kind.DIFFERENCE,
        formula=formula,
        inputs=(Input(WORDS[key], given_c, Kind.DIFFERENCE, symbol, "entered"),),
        reason=reason,
        source="JCGM 100:2008, 4.3.7",
    )


def _index(i: int) -> str:
    return "₁₂₃₄₅₆₇₈"[i]
