"""What the controller drives: which function is on which output, how it is timed and limited, what goes out as a signal."""

from ...units import Kind
from .control import PID
from .parameter import ANYTHING, Applies, Parameter

OUTPUTS = (1, 2, 3)
"""Outputs that the dictionary names: two relays or drives beside the one that regulates are what small controllers have."""
COOLING = "cooling"
"""The function of an output that a cooler beside the heater hangs on."""
FUNCTIONS = (
    ("control", "Regulates"),
    (COOLING, "Cools"),
    ("alarm_1", "Alarm 1"),
    ("alarm_2", "Alarm 2"),
    ("alarm_3", "Alarm 3"),
    ("retransmission", "Retransmission"),
    ("none", "Nothing"),
)
COMPRESSOR, FIRE, FAN, COOLER = "Compressor", "Fire", "Fan", "Cooler"
"""The groups of a rig with a compressor, of one with a fire, of one with a fan, and of one with a cooler beside its heater."""
_SENT = Applies("retransmission", ("reading", "setpoint"))
OUTPUT = (
    *(
        Parameter(
            f"output_{n}",
            f"Output {n} does",
            "Which function drives this output.",
            "Output",
            choices=FUNCTIONS,
            without=ANYTHING,
        )
        for n in OUTPUTS
    ),
    Parameter(
        "period_s",
        "Control period",
        "One on-and-off of the output. 0: it is continuous.",
        "Output",
        Kind.TIME,
        0,
        300,
        applies=(PID,),
    ),
    Parameter(
        "output_high", "Output high limit", "Most power it may use.", "Output", Kind.PERCENT, 1, 100, without=100.0
    ),
    Parameter(
        "output_low", "Output low limit", "It never goes below this.", "Output", Kind.PERCENT, 0, 100, without=0.0
    ),
    Parameter(
        "sensor_failure_output",
        "Output on sensor failure",
        "0 %: nothing while it is blind.",
        "Output",
        Kind.PERCENT,
        0,
        100,
    ),
    Parameter(
        "output_curve",
        "Output curve",
        "How the signal follows the output: even in power, or in voltage (power as its square).",
        "Output",
        choices=(("power", "Even in power"), ("voltage", "Even in voltage")),
        without="power",
    ),
    Parameter(
        "retransmission",
        "Retransmission",
        "What goes out as a signal.",
        "Retransmission",
        choices=(("off", "Nothing"), ("reading", "Reading"), ("setpoint", "Set-point"), ("output", "Output")),
        without="off",
    ),
    Parameter(
        "retransmission_signal",
        "Signal",
        "What the receiver expects.",
        "Retransmission",
        choices=(("4_20", "4–20 mA"), ("0_20", "0–20 mA")),
        applies=(Applies("retransmission", ("reading", "setpoint", "output")),),
    ),
    Parameter(
        "retransmission_low_c",
        "Least signal means",
        "The receiver must be scaled alike.",
        "Retransmission",
        Kind.TEMPERATURE,
        -273,
        2500,
        applies=(_SENT,),
    ),
    Parameter(
        "retransmission_high_c",
        "Full signal means",
        "The receiver must be scaled alike.",
        "Retransmission",
        Kind.TEMPERATURE,
        -273,
        2500,
        applies=(_SENT,),
    ),
    Parameter(
        "minimum_off_s",
        "Least time off",
        "A compressor rests until its pressures are even.",
        COMPRESSOR,
        Kind.TIME,
        0,
        3600,
        without=0.0,
    ),
    Parameter(
        "minimum_on_s", "Least time on", "Until its oil has come back.", COMPRESSOR, Kind.TIME, 0, 3600, without=0.0
    ),
    Parameter(
        "alive_after_s",
        "Longest time off",
        "Then the fan breathes once. 0: the fire may go out.",
        FIRE,
        Kind.TIME,
        0,
        86_400,
        without=0.0,
    ),
    Parameter(
        "alive_s", "One breath", "So long the fan runs to keep it alight.", FIRE, Kind.TIME, 0, 1800, without=0.0
    ),
    Parameter(
        "cool_above_c",
        "Cools from above the set-point",
        "The cooler comes on so far above the set-point; heat is off long before.",
        COOLER,
        Kind.DIFFERENCE,
        0,
        200,
        without=ANYTHING,
    ),
    Parameter(
        "cool_hysteresis_c",
        "Cooler’s hysteresis",
        "It goes off so far below where it came on, still above the set-point.",
        COOLER,
        Kind.DIFFERENCE,
        0,
        200,
        without=ANYTHING,
    ),
    Parameter(
        "fan_above_c",
        "Fan runs above",
        "It runs while the reading is above this.",
        FAN,
        Kind.TEMPERATURE,
        -50,
        1800,
        without=ANYTHING,
    ),
    Parameter("fan_speed", "Fan speed", "Of its full speed.", FAN, Kind.PERCENT, 0, 100, without=100.0),
    Parameter(
        "fan_run_on_s", "Fan runs on", "So long after the output was last on.", FAN, Kind.TIME, 0, 7200, without=0.0
    ),
)
