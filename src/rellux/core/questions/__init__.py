"""Questions of the bench that need no rig: what each asks for, and its answer. The registry of all of them, in order."""

from .along import RUN
from .answer import Question
from .appliance import APPLIANCE
from .bank import BANK
from .capability import CAPABILITY
from .coil import COIL
from .dip import DIP
from .element import ELEMENT
from .feed import FEED
from .firing import FIRING
from .flow import FLOW
from .front_end import FRONT
from .how_wrong import BUDGET
from .lining import LINING
from .mistake import MISTAKE
from .mosfet import MOSFET
from .panel import PANEL
from .signal import SIGNAL
from .sink import SINK
from .switch import SWITCH
from .thermistor import THERMISTOR
from .tip import TIP
from .walls import WALLS
from .warm_box import WARM
from .which_sensor import CHOICE
from .which_wire import COLOUR
from .wire import WIRE

ALL: tuple[Question, ...] = (
    CHOICE,
    RUN,
    MISTAKE,
    COLOUR,
    BUDGET,
    SIGNAL,
    FRONT,
    THERMISTOR,
    FEED,
    BANK,
    ELEMENT,
    FIRING,
    COIL,
    DIP,
    TIP,
    FLOW,
    WIRE,
    SWITCH,
    SINK,
    MOSFET,
    WALLS,
    CAPABILITY,
    LINING,
    PANEL,
    WARM,
    APPLIANCE,
)
QUESTIONS = {q.key: q for q in ALL}
