"""How the controller talks to a computer, and what it does when nobody talks to it any more."""

from ...units import Kind
from .parameter import ANYTHING, Applies, Parameter

BAUDS = ("1200", "2400", "4800", "9600", "19200", "38400", "57600", "115200")
PARITIES = (("N", "None"), ("E", "Even"), ("O", "Odd"))
_LINKED = Applies("protocol", ("rtu", "ascii", "tcp"))
_SERIAL = Applies("protocol", ("rtu", "ascii"))
LINK = (
    Parameter(
        "protocol",
        "Protocol",
        "What it speaks.",
        "Link",
        choices=(("none", "None"), ("rtu", "Modbus RTU"), ("ascii", "Modbus ASCII"), ("tcp", "Modbus TCP")),
        without=ANYTHING,
    ),
    Parameter("link_address", "Address", "No two on one line alike.", "Link", Kind.COUNT, 1, 247, applies=(_LINKED,)),
    Parameter(
        "link_baud",
        "Baud",
        "Alike on the whole line.",
        "Link",
        choices=tuple((b, b) for b in BAUDS),
        applies=(_SERIAL,),
    ),
    Parameter("link_parity", "Parity", "Alike on the whole line.", "Link", choices=PARITIES, applies=(_SERIAL,)),
    Parameter(
        "link_stop_bits",
        "Stop bits",
        "Alike on the whole line.",
        "Link",
        choices=(("1", "1"), ("2", "2")),
        applies=(_SERIAL,),
    ),
    Parameter(
        "write_enable",
        "May be written",
        "Whether values come in over the link.",
        "Link",
        choices=(("off", "No"), ("on", "Yes")),
        applies=(_LINKED,),
    ),
    Parameter(
        "link_lost",
        "When the link is lost",
        "What it does when nobody talks to it any more.",
        "Link",
        choices=(("goes_on", "Goes on"), ("local", "Takes its own set-point"), ("output_off", "Output off")),
        applies=(_LINKED,),
        without="goes_on",
    ),
)
