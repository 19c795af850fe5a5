"""Questions of the bench that need no rig: what each asks for, and its answer. The registry of all of them, in order."""

from .along import RUN
from .answer import Question
from .appliance import APPLIANCE
from .capability import CAPABILITY
from .coil import COIL
from .dip import DIP
from .element import ELEMENT
from .firing import FIRING
from .flow import FLOW
from .front_end import FRONT
from .mosfet import MOSFET
from .panel import PANEL
from .signal import SIGNAL
from .sink import SINK
from .switch import SWITCH
from .walls import WALLS
from .warm_box import WARM
from .which_sensor import CHOICE
from .wire import WIRE

ALL: tuple[Question, ...] = (
    CHOICE,
    RUN,
    SIGNAL,
    FRONT,
    ELEMENT,
    FIRING,
    COIL,
    DIP,
    FLOW,
    WIRE,
    SWITCH,
    SINK,
    MOSFET,
    WALLS,
    CAPABILITY,
    PANEL,
    WARM,
    APPLIANCE,
)
QUESTIONS = {q.key: q for q in ALL}
