"""Limits of controllers' menus: by their value; what they decide is tested in tests/core/menus."""

from functools import partial

from .exempt import NUMERICAL
from .tables import stated

_STATED: dict[str, object] = {
    "menus.description.FORMAT": 1,
    "menus.entry.POWER": 10.0,
    "menus.entry.SECOND": 1.0,
    "menus.entry.SWITCH": 20.0,
    "menus.problems.LONGEST_CODE": 16,
    "menus.problems.LONGEST_OPTION": 40,
    "menus.options.MOST_OPTIONS": 6,
    "menus.problems.LONGEST_HOLD_S": 60.0,
    "menus.problems.LONGEST_WORDS": 160,
    "menus.problems.LEAST_SCALE": 1e-3,
    "menus.problems.LONGEST_WAIT_S": 3600.0,
    "menus.problems.MOST_COUNTS": 10**9,
    "menus.problems.MOST_SCALE": 1e4,
    "menus.problems.MOST_STEPS": 1000,
    "menus.problems.MOST_CHOICES": 64,
    "menus.problems.MOST_DECIMALS": 6,
    "menus.routes.KEPT": 4,
    "menus.problems.MOST_REGISTER": 65_535,
    "menus.problems.MOST_DIGITS": 16,
    "menus.problems.MOST_GROUPS": 40,
    "menus.problems.MOST_PAGES": 400,
    "menus.walk.FEW": 12,
    "menus.pasted.MOST_TEXT": 40_000,
}
MENUS = {name: partial(stated, name, value) for name, value in _STATED.items()}
INVENTED = "an invented controller: any other would do"
MENUS_EXEMPT = {
    **dict.fromkeys(("menus.entry.FAR", *(f"menus.walk.{n}" for n in ("BUDGET", "EXACT", "MANY", "ROUNDS", "WEIGHTED"))), NUMERICAL),
    **{f"menus.shipped.{name.lower()}.{name}": INVENTED for name in ("BASALT", "HERON", "LARCH", "OSIER", "PLOVER", "TEASEL")},
    "menus.shipped.SHIPPED": INVENTED,
    "menus.contents.SWITCHED_OFF": "a gesture",
    "menus.description.PLAIN_LANGUAGE": "a form of words",
}  # fmt: skip
