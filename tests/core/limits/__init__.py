"""What each limit of the core outside the wiring decides: behaviour on both sides of it, a stated value, or a sealed table."""

from .calibration import CALIBRATION, CALIBRATION_EXEMPT
from .exempt import EXEMPT as GENERALLY_EXEMPT
from .exempt import PASSED
from .menus import MENUS, MENUS_EXEMPT
from .pins import BEHAVIOUR
from .profiles import PROFILES, PROFILES_EXEMPT
from .proving import PROVING, PROVING_EXEMPT
from .tables import TABLES
from .tuning import TUNING, TUNING_EXEMPT

PINS = {**BEHAVIOUR, **TABLES, **PROFILES, **MENUS, **PROVING, **TUNING, **CALIBRATION}
EXEMPT = {
    **GENERALLY_EXEMPT,
    **PROFILES_EXEMPT,
    **MENUS_EXEMPT,
    **PROVING_EXEMPT,
    **TUNING_EXEMPT,
    **CALIBRATION_EXEMPT,
}

__all__ = ["EXEMPT", "PASSED", "PINS"]
