"""PID settings in the words of one controller, and in those of another: exact, by way of the standard form.

The forms are those of :mod:`rellux.core.control.pid`; gains of firmware that multiplies without the time between two looks are
``Ki = Kc·Ts/Ti`` and ``Kd = Kc·Td/Ts`` (common practice, no source).
"""

from dataclasses import dataclass
from enum import StrEnum
from functools import partial
from math import inf, isinf

from ..errors import refuse
from ..form import Field, choice, fields_of, flag, number
from ..units import FAHRENHEIT_PER_KELVIN, Kind
from .pid import PID, from_series, to_series

MINUTE_S = 60.0


class Form(StrEnum):
    """How the three act: the gain on all of them; one after another; three gains of their own."""

    STANDARD = "standard"
    SERIES = "series"
    PARALLEL = "parallel"


class Proportional(StrEnum):
    """What the first number is, where the gain acts on all three."""

    BAND = "band"
    PERCENT = "percent"
    GAIN = "gain"


class Times(StrEnum):
    """What integral and derivative are, where they are times; with repeats the derivative is in minutes."""

    SECONDS = "seconds"
    MINUTES = "minutes"
    REPEATS = "repeats"


class Rate(StrEnum):
    """What gains of their own count by."""

    SECOND = "second"
    LOOK = "look"


FORMS = {
    Form.STANDARD: "standard: the gain on all three",
    Form.SERIES: "series: one after another",
    Form.PARALLEL: "parallel: three gains of their own",
}
BANDS = {
    Proportional.BAND: "a band, in degrees",
    Proportional.PERCENT: "a band, % of span",
    Proportional.GAIN: "a gain",
}
TIMES = {Times.SECONDS: "seconds", Times.MINUTES: "minutes", Times.REPEATS: "repeats per minute, D in minutes"}
RATES = {Rate.SECOND: "per second", Rate.LOOK: "per look, without the time between"}
WITH_TIMES, WITH_RATES = ("form", (Form.STANDARD, Form.SERIES)), ("form", (Form.PARALLEL,))
span = partial(number, "Span of the scale", Kind.DIFFERENCE, 1, 5000, 400.0, hint="its high end less its low end")
look = partial(number, "It looks every", Kind.TIME, 0.001, 600, 1.0)
"""Fields of a form that some ask for at all times, others only where they count."""


@dataclass(frozen=True)
class Language:
    """How one controller says it, as a form that asks for it. ``span_c``: scale high less low, for a band in percent; ``look_s``: between
    two looks; ``full``: what its output counts to at full power, for gains."""

    form: Form = choice("How P, I and D act", FORMS, Form.STANDARD)
    proportional: Proportional = choice("P is", BANDS, Proportional.BAND, when=WITH_TIMES)
    times: Times = choice("I and D are", TIMES, Times.SECONDS, when=WITH_TIMES)
    rate: Rate = choice("I and D count", RATES, Rate.SECOND, when=WITH_RATES)
    fahrenheit: bool = flag("Its degrees are °F", False)
    span_c: float = span(when=("proportional", (Proportional.PERCENT,)))
    look_s: float = look(when=("rate", (Rate.LOOK,)))
    full: float = number("Output at full power", Kind.COEFFICIENT, 1, 1e6, 100.0, hint="100 for %, 255 for eight bits")

    @property
    def degree(self) -> float:
        """Its degrees in one °C."""
        return FAHRENHEIT_PER_KELVIN if self.fahrenheit else 1.0

    @property
    def percent(self) -> float:
        """%/°C in one of its counts per degree."""
        return 100.0 / self.full * self.degree


def asked() -> tuple[Field, ...]:
    """Its form where the unit of its temperatures is told elsewhere."""
    return tuple(f for f in fields_of(Language) if f.name != "fahrenheit")


Numbers = tuple[float, float, float]
"""P, I and D as they stand in a controller; nothing of I or D is 0."""


def understood(language: Language, numbers: Numbers) -> PID:
    """The standard form of what stands there. Raises ``Refused`` for a P of nothing or below, or a negative I or D.

    >>> understood(Language(times=Times.MINUTES), (12.0, 4.0, 1.0)).integral_time_s
    240.0
    """
    p, i, d = numbers
    for name, value, fine in (("p", p, p > 0), ("i", i, i >= 0), ("d", d, d >= 0)):
        if not fine:
            raise refuse(name, f"{value:g} is no setting", "more than 0" if name == "p" else "0 or more")
    if language.form is Form.PARALLEL:
        gain, look = p * language.percent, language.look_s if language.rate is Rate.LOOK else 1.0
        return PID(gain, p * look / i if i else inf, d * look / p)
    minute = 1.0 if language.times is Times.SECONDS else MINUTE_S
    gain = {
        Proportional.BAND: 100.0 * language.degree / p,
        Proportional.PERCENT: 100.0 * 100.0 / (p * language.span_c),
        Proportional.GAIN: p * language.percent,
    }[language.proportional]
    integral = inf if not i else minute / i if language.times is Times.REPEATS else i * minute
    if language.form is Form.SERIES:
        return from_series(gain, integral, d * minute)
    return PID(gain, integral, d * minute)


def spoken(language: Language, pid: PID) -> Numbers:
    """What has to stand there. Raises ``Refused`` for a series form where there is none.

    >>> spoken(Language(Form.SERIES, Proportional.GAIN), PID(12.5, 10.0, 1.6))
    (10.0, 8.0, 2.0)
    """
    if language.form is Form.PARALLEL:
        p, look = pid.gain / language.percent, language.look_s if language.rate is Rate.LOOK else 1.0
        return p, p * look / pid.integral_time_s, p * pid.derivative_time_s / look
    gain, integral, derivative = pid.gain, pid.integral_time_s, pid.derivative_time_s
    if language.form is Form.SERIES:
        gain, integral, derivative = to_series(pid)
    minute = 1.0 if language.times is Times.SECONDS else MINUTE_S
    p = {
        Proportional.BAND: 100.0 * language.degree / gain,
        Proportional.PERCENT: 100.0 * 100.0 / (gain * language.span_c),
        Proportional.GAIN: gain / language.percent,
    }[language.proportional]
    i = 0.0 if isinf(integral) else minute / integral if language.times is Times.REPEATS else integral / minute
    return p, i, derivative / minute
