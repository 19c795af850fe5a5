"""What each limit of the core outside the wiring decides: behaviour on both sides of it, a stated value, or a sealed table."""

from .exempt import EXEMPT, PASSED
from .pins import BEHAVIOUR
from .tables import TABLES

PINS = {**BEHAVIOUR, **TABLES}

__all__ = ["EXEMPT", "PASSED", "PINS"]
