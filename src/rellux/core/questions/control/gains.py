"""What are these PID numbers in another controller's words?"""

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from math import isfinite

from ...control.languages import RATES, TIMES, Form, Language, Proportional, Rate, Times, look, span, spoken, understood
from ...control.pid import PID, SERIES_EXISTS
from ...errors import Refused
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import difference, spoken_time
from ...units import Kind
from ..answer import Alternative, Answer, Question, Topic

SOURCE = "Åström & Hägglund, PID Controllers, 2nd ed., ch. 3"
SHORT = {Proportional.BAND: "band", Proportional.PERCENT: "band, % of span", Proportional.GAIN: "gain"}


@dataclass(frozen=True)
class Three:
    """The numbers as they stand in a controller."""

    p: float = number("P, as it stands there", Kind.COEFFICIENT, 1e-6, 1e6, 12)
    i: float = number("I", Kind.COEFFICIENT, 0, 1e6, 240, hint="0 for none")
    d: float = number("D", Kind.COEFFICIENT, 0, 1e6, 60, hint="0 for none")


@dataclass(frozen=True)
class GainsInput(Language, Three):
    """They, and how it means them. Span and looks are asked for even where it needs none: others do."""

    span_c: float = span()
    look_s: float = look()

    @property
    def language(self) -> Language:
        return Language(*(getattr(self, f.name) for f in fields(Language)))


def _others(own: Language) -> Iterator[tuple[str, Language]]:
    """Every other way to say it, with the same degrees, span, looks and counts."""
    for form in (Form.STANDARD, Form.SERIES):
        for band in Proportional:
            for times in Times:
                yield (
                    f"{form}: {SHORT[band]}, {TIMES[times].partition(',')[0]}",
                    replace(own, form=form, proportional=band, times=times),
                )
    for rate in Rate:
        yield f"parallel: gains {RATES[rate].partition(',')[0]}", replace(own, form=Form.PARALLEL, rate=rate)


def _key(language: Language) -> str:
    """What tells one way to say it from another."""
    if language.form is Form.PARALLEL:
        return f"{language.form}-{language.rate}"
    return f"{language.form}-{language.proportional}-{language.times}"


def _said(language: Language, pid: PID) -> str:
    return " · ".join(f"{name} {value:.4g}" for name, value in zip("PID", spoken(language, pid), strict=True))


def _gains(g: GainsInput) -> Answer:
    own = g.language
    pid = understood(own, (g.p, g.i, g.d))
    ways, findings = [], []
    for words, language in _others(own):
        if _key(language) == _key(own):
            continue
        try:
            ways.append(Alternative(_key(language), words, None, says=_said(language, pid)))
        except Refused:
            ways.append(Alternative(_key(language), words, Severity.FAULT, says="cannot be said so"))
    if any(w.verdict for w in ways):
        findings.append(
            Finding(
                "gains.no-series",
                Severity.ADVICE,
                title="One after another these cannot be set",
                reason=f"There the integral time would have to be at least {SERIES_EXISTS:g} times the derivative time; it is "
                f"{spoken_time(pid.integral_time_s)} and {spoken_time(pid.derivative_time_s)}.",
                fix=f"A derivative time of {spoken_time(pid.integral_time_s / SERIES_EXISTS)} at most, for such a controller.",
                source=SOURCE,
            )
        )
    integral = f", integral {spoken_time(pid.integral_time_s)}" if isfinite(pid.integral_time_s) else ", no integral"
    derivative = f", derivative {spoken_time(pid.derivative_time_s)}" if pid.derivative_time_s else ", no derivative"
    band = difference(pid.proportional_band_c, ".3g")
    return Answer(
        f"A band of {band}{integral}{derivative}.", tuple(_figures(g, pid)), tuple(findings), alternatives=tuple(ways)
    )


def _figures(g: GainsInput, pid: PID) -> Iterator[Figure]:
    inputs = tuple(Input(n, v, Kind.COEFFICIENT, n, "given") for n, v in (("P", g.p), ("I", g.i), ("D", g.d)))

    def figure(name: str, value: float, kind: Kind, why: str) -> Figure:
        return Figure(name, value, kind, inputs=inputs, reason=why, source=SOURCE)

    yield figure(
        "band", pid.proportional_band_c, Kind.DIFFERENCE, "Over it proportional action alone moves the output by 100 %."
    )
    yield figure("gain", pid.gain, Kind.PERCENT_PER_DEGREE, "Of the standard form, where it acts on all three.")
    if isfinite(pid.integral_time_s):
        yield figure("integral time", pid.integral_time_s, Kind.TIME, "In it the integral repeats what the gain did.")
    yield figure("derivative time", pid.derivative_time_s, Kind.TIME, "It looks so far ahead.")


GAINS = Question(
    "gains",
    "What are these PID numbers in another controller’s words?",
    Topic.CONTROL,
    GainsInput,
    _gains,
    None,
    (
        "A larger band is less gain; more repeats per minute are more integral.",
        "Gains per look change their meaning with the time between two looks: slow the loop down and the integral shrinks.",
        "Only the manual says which form a controller has; where it says nothing, standard is usual.",
    ),
    "Numbers taken over from another controller are a beginning: stay beside the first run, with the limiter proved.",
)
