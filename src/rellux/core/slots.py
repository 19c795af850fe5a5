"""Places for values in a text of the user's own: ``{name}``, ``{name*1000:.0f}`` with a factor, and how many digits behind the point."""

SLOT = r"\{([a-z][a-z0-9_]*)(?:\*([0-9.eE+-]+))?(?::\.(\d+)f)?\}"
"""A place: its name, its factor, its digits, where they are given."""
NUMBER = r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?"
"""A number as it is written into one."""
MOST_DECIMALS = 9
LEAST_FACTOR, MOST_FACTOR = 1e-9, 1e9
"""Digits behind the point, and factors, of a place (our choice: beyond it a slip is likelier)."""


def factor_of(text: str) -> float:
    """The factor that is written in a place; 0 for none that makes sense.

    >>> factor_of("1000"), factor_of("1e"), factor_of("0")
    (1000.0, 0.0, 0.0)
    """
    try:
        value = float(text)
    except ValueError:
        return 0.0
    return value if LEAST_FACTOR <= value <= MOST_FACTOR else 0.0
