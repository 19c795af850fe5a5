"""What may be written to a controller: every value bounded by the rig it heats, by the rules its sheet is checked with."""

from collections.abc import Mapping

from ..control.steps import held
from ..errors import Problem, refuse_all
from ..findings import Finding
from ..messages import temperature
from .auto_tune import AUTO_TUNE, check_auto_tune
from .checks import check_sheet
from .dictionary.parameter import Value
from .parameters import Sheet, check_has, check_period, check_values, settings_from
from .proposals.facts import RigFacts

BARRED = (
    "setup.input-type",
    "setup.limit-above-highest",
    "setup.limit-below-lowest",
    "setup.rest",
    "setup.asks-too-hot",
    "setup.never-lets-go",
    "setup.limit-above-sensor",
    "setup.setpoint-outside-limits",
    "setup.action",
    "setup.failure-output",
    "setup.offset-school",
    "setup.offset-large",
    "setup.offset-inherited",
    "setup.gain-inherited",
    "setup.points-inherited",
    "setup.points-order",
    "setup.slope",
    "setup.start-stop",
    "setup.stop-setpoint",
    "setup.manual",
    "setup.output-low",
    "setup.other-setpoint",
)
"""Findings about a sheet with which it is not sent: with each of them the controller holds another temperature than it shows,
asks for more than the rig stands, or does not let go."""


ENDINGS = {"mode": "off", AUTO_TUNE: "off"}
"""What ends the heating, or a test that swings."""


def as_held(values: Sheet, steps: Mapping[str, float]) -> Sheet:
    """The values as a controller with these ``steps`` (by parameter, in its unit) can hold them: what is judged and sent."""
    return {
        name: held(value, steps[name]) if name in steps and isinstance(value, int | float) else value
        for name, value in values.items()
    }


def is_ending(values: Mapping[str, Value]) -> bool:
    """Whether these values do nothing but end the heating, or a test: that needs no judging."""
    return all(ENDINGS.get(name) == value for name, value in values.items())


def check_write(values: Sheet, beside: Sheet, facts: RigFacts) -> None:
    """Raise ``Refused`` for values that would bring this rig into danger together with those the controller holds ``beside``
    them. To switch off is never refused."""
    asked = dict(values)
    tune = asked.pop(AUTO_TUNE, "off")
    check_values(asked)
    check_period(asked, facts.actuator)
    check_has([n for n in values if ENDINGS.get(n) != values[n]], facts.purpose)
    sheet = {**beside, **asked}
    if not is_ending({AUTO_TUNE: tune}):
        check_auto_tune(tune, sheet, facts)
    if not asked or is_ending(asked):
        return
    problems = [
        _problem(f, values) for f in check_sheet(sheet, facts) if f.rule in BARRED and set(f.subjects) & set(values)
    ]
    settings = settings_from(sheet, facts.purpose)
    highest, off_at = facts.purpose.highest_c, settings.setpoint_c + settings.switch_off_offset
    changed = next((n for n in ("hysteresis_c", "hysteresis_school", "setpoint_c", "mode") if n in values), None)
    if sheet["mode"] == "on_off" and not facts.purpose.cools and off_at >= highest and changed and not problems:
        reason = (
            f"on/off would heat on to {temperature(off_at)}, and {temperature(highest)} "
            f"is the most: {facts.purpose.highest_reason}"
        )
        problems.append(Problem(changed, reason, f"switching off below {temperature(highest)}"))
    refuse_all(problems)


def _problem(finding: Finding, values: Sheet) -> Problem:
    name = next(s for s in finding.subjects if s in values)
    return Problem(name, f"{finding.title}: {finding.reason}", finding.fix)
