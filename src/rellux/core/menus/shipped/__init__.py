"""Six controllers that nobody makes, of six structures: to learn on, to rehearse, and to begin a description of one's own from."""

from ..description import Description
from .basalt import BASALT
from .heron import HERON
from .larch import LARCH
from .osier import OSIER
from .plover import PLOVER
from .teasel import TEASEL

SHIPPED: dict[str, Description] = {
    "larch": LARCH,
    "heron": HERON,
    "basalt": BASALT,
    "teasel": TEASEL,
    "osier": OSIER,
    "plover": PLOVER,
}
"""By the key they have in the application."""
