"""What is held, between which limits, by which rule; what happens when the power comes back."""

from ...units import Kind
from .parameter import ANYTHING, Applies, Parameter

PID_NAMES = ("proportional_band_c", "integral_time_s", "derivative_time_s")

ON_OFF, PID = Applies("mode", ("on_off",)), Applies("mode", ("pid",))
THRESHOLDS = "thresholds"
_BETWEEN = Applies("hysteresis_school", (THRESHOLDS,))
_SECOND = Applies("second_setpoint", ("idle", "contact"))
CONTROL = (
    Parameter("setpoint_c", "Set-point", "What it holds.", "Control", Kind.TEMPERATURE, -200, 1800),
    Parameter(
        "setpoint_high_c", "Set-point high limit", "Nobody can ask for more.", "Limits", Kind.TEMPERATURE, -200, 1800
    ),
    Parameter(
        "setpoint_low_c", "Set-point low limit", "Nobody can ask for less.", "Limits", Kind.TEMPERATURE, -200, 1800
    ),
    Parameter(
        "mode",
        "Control mode",
        "How the output is decided.",
        "Control",
        choices=(("on_off", "On/off"), ("pid", "PID"), ("off", "Off")),
    ),
    Parameter(
        "run_state",
        "Run state",
        "Whether it regulates, holds an output set by hand, or stands by: apart from the mode.",
        "Control",
        choices=(("automatic", "Automatic"), ("manual", "Manual"), ("inhibited", "Inhibited")),
        without="automatic",
    ),
    Parameter(
        "setpoint_source",
        "Set-point comes from",
        "Its own keys, or a signal or register from elsewhere.",
        "Control",
        choices=(("local", "Its keys"), ("remote", "Elsewhere")),
        without="local",
    ),
    Parameter(
        "action",
        "Action",
        "Whether more output comes when it is too cold, or when it is too warm.",
        "Control",
        choices=(("heating", "Heating"), ("cooling", "Cooling")),
    ),
    Parameter(
        "hysteresis_school",
        "Hysteresis lies",
        "Where it sits round the set-point; some controllers ask for the two temperatures instead.",
        "On/off",
        choices=(("one_sided", "Before it"), ("centred", "Half and half"), (THRESHOLDS, "As start and stop")),
        applies=(ON_OFF,),
        without=ANYTHING,
    ),
    Parameter(
        "hysteresis_c",
        "Hysteresis",
        "Between switching off and on.",
        "On/off",
        Kind.DIFFERENCE,
        0,
        50,
        applies=(ON_OFF, Applies("hysteresis_school", ("one_sided", "centred"))),
    ),
    Parameter(
        "switch_on_c",
        "Starts at",
        "Where the output comes on.",
        "On/off",
        Kind.TEMPERATURE,
        -200,
        1800,
        applies=(ON_OFF, _BETWEEN),
    ),
    Parameter(
        "switch_off_c",
        "Stops at",
        "Where it goes off.",
        "On/off",
        Kind.TEMPERATURE,
        -200,
        1800,
        applies=(ON_OFF, _BETWEEN),
    ),
    Parameter(
        "proportional_band_c",
        "Proportional band",
        "Over which the output goes from full to none.",
        "PID",
        Kind.DIFFERENCE,
        0.1,
        3000,
        applies=(PID,),
    ),
    Parameter("integral_time_s", "Integral time", "0 switches it off.", "PID", Kind.TIME, 0, 36000, applies=(PID,)),
    Parameter("derivative_time_s", "Derivative time", "0 switches it off.", "PID", Kind.TIME, 0, 9000, applies=(PID,)),
    Parameter(
        "programme",
        "Programme",
        "Whether a programme moves the set-point.",
        "Start and return",
        choices=(("off", "Off"), ("on", "On")),
        without=ANYTHING,
    ),
    Parameter(
        "ramp_c_per_min",
        "Set-point ramp",
        "The set-point moves no faster than this. 0: at once.",
        "Start and return",
        Kind.RATE,
        0,
        500,
        without=0.0,
    ),
    Parameter(
        "soft_start_s",
        "Soft start",
        "The output is let up to full over this time after power comes on. 0: at once.",
        "Start and return",
        Kind.TIME,
        0,
        3600,
        without=0.0,
    ),
    Parameter(
        "after_power",
        "After a power cut",
        "What it does when the supply comes back.",
        "Start and return",
        choices=(
            ("stand_by", "Stands by"),
            ("go_on", "Goes on as before"),
            ("start_setpoint", "Takes the start-up set-point"),
        ),
        without="go_on",
    ),
    Parameter(
        "start_setpoint_c",
        "Start-up set-point",
        "What it holds when the supply came back.",
        "Start and return",
        Kind.TEMPERATURE,
        -200,
        1800,
        applies=(Applies("after_power", ("start_setpoint",)),),
    ),
    Parameter(
        "second_setpoint",
        "Second set-point",
        "When it is taken instead of the first.",
        "Start and return",
        choices=(("off", "Never"), ("idle", "When nobody uses it"), ("contact", "By a contact")),
        without="off",
    ),
    Parameter(
        "second_setpoint_c",
        "Second set-point is",
        "Stand-by, or a boost.",
        "Start and return",
        Kind.TEMPERATURE,
        -200,
        1800,
        applies=(_SECOND,),
    ),
    Parameter(
        "idle_s",
        "Idle time",
        "So long without use until the second set-point is taken.",
        "Start and return",
        Kind.TIME,
        0,
        86_400,
        applies=(Applies("second_setpoint", ("idle",)),),
    ),
)
