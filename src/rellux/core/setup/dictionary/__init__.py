"""The neutral dictionary of controller parameters, by subject: standard names, meaning, kind, range, choices, when each applies.

Names and meanings are the field's (common practice, no source); ranges are our choice: wide enough for any controller, narrow enough that a
slip of a digit is seen.
"""

from .alarms import ALARMS
from .control import CONTROL
from .front import FRONT
from .inner import INNER
from .input import INPUT
from .link import LINK
from .output import OUTPUT
from .parameter import Parameter

PARAMETERS: tuple[Parameter, ...] = (*INPUT, *CONTROL, *INNER, *OUTPUT, *ALARMS, *LINK, *FRONT)
"""All of them, in the order in which a controller is set: what everything else is counted in first, who may change it last."""
SCHOOLS = ("offset_school", "hysteresis_school", "anti_windup")
"""How a controller is made: it has no page for them, and they are asked for all the same."""
BY_NAME = {p.name: p for p in PARAMETERS}
