"""Every generic part kind by its key."""

from .kinds.guards import GUARDS
from .kinds.instruments import INSTRUMENTS
from .kinds.loads import LOADS
from .kinds.rails import RAILS
from .kinds.sensors import SENSORS
from .kinds.supplies import SUPPLIES
from .kinds.switching import SWITCHES

PART_TYPES = {t.kind: t for t in (*SUPPLIES, *GUARDS, *SWITCHES, *INSTRUMENTS, *SENSORS, *LOADS, *RAILS)}
