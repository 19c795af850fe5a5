"""The registry of all questions, in order, and which are asked of which rig."""

from ..purpose.purpose import Effect
from .answer import Question, Topic
from .box.appliance import APPLIANCE
from .box.panel import PANEL
from .box.warm_box import WARM
from .cold.cold_box import COLD_BOX
from .cold.module import MODULE
from .control.cascade import CASCADE
from .control.gains import GAINS
from .control.split import SPLIT
from .control.zones import ZONES
from .load.bank import BANK
from .load.burner import BURNER
from .load.coil import COIL
from .load.dip import DIP
from .load.element import ELEMENT
from .load.flow import FLOW
from .load.series_tool import SERIES
from .load.tip import TIP
from .sensor.feed_table import FEED
from .sensor.front_end import FRONT
from .sensor.how_wrong import BUDGET
from .sensor.mistake import MISTAKE
from .sensor.sensor_run import RUN
from .sensor.signal import SIGNAL
from .sensor.thermistor import THERMISTOR
from .sensor.two_sensors import TWO
from .sensor.unknown_probe import UNKNOWN
from .sensor.which_sensor import CHOICE
from .sensor.which_wire import COLOUR
from .switch.early import EARLY
from .switch.marks import MARKS
from .switch.mosfet import MOSFET
from .switch.phase_angle import PHASE_ANGLE
from .switch.sink import SINK
from .switch.swing import SWING
from .switch.switch import SWITCH
from .wall.capability import CAPABILITY
from .wall.lining import LINING
from .wall.walls import WALLS
from .wire.conductor import WIRE

ALL: tuple[Question, ...] = (
    CHOICE,
    RUN,
    MISTAKE,
    COLOUR,
    UNKNOWN,
    BUDGET,
    TWO,
    SIGNAL,
    FRONT,
    THERMISTOR,
    FEED,
    BANK,
    ELEMENT,
    COIL,
    DIP,
    TIP,
    SERIES,
    FLOW,
    BURNER,
    WIRE,
    SWITCH,
    SWING,
    EARLY,
    MARKS,
    SINK,
    PHASE_ANGLE,
    MOSFET,
    GAINS,
    SPLIT,
    ZONES,
    CASCADE,
    WALLS,
    CAPABILITY,
    LINING,
    COLD_BOX,
    MODULE,
    PANEL,
    WARM,
    APPLIANCE,
)
TOPICS = {
    Effect.HEATS: tuple(t for t in Topic if t is not Topic.COLD),
    Effect.COOLS: (Topic.SENSOR, Topic.WIRE, Topic.COLD, Topic.BOX),
    Effect.WATCHES: (Topic.SENSOR, Topic.BOX),
}
"""What is asked about a rig, by what it does to its temperature."""
STARTED = {
    Effect.HEATS: tuple(Topic),
    Effect.COOLS: (Topic.SENSOR, Topic.COLD, Topic.WIRE),
    Effect.WATCHES: (Topic.SENSOR,),
}
"""Of which topics a rig knows something to start a question from; the others ask about what heats."""
QUESTIONS = {q.key: q for q in ALL}
FORMERLY = {"firing": "phase_angle"}
"""Keys of before, as rigs and files of before hold them."""
