"""What each setting of an ordinary meter shows, and its traps."""

from .step import MeterSetting

METER_HELP: dict[MeterSetting, str] = {
    MeterSetting.CONTINUITY: "Milliohms, by a tester that drives {200 mA} or more. Zero it with its own leads touching, at the same clips.",
    MeterSetting.OHMS: "Ω. Nothing may be live: volts from outside make any number, or break the meter. Fingers across "
    "the tips add some {100…1000 kΩ} "
    "beside. OL means more than its range: type that as beyond range. Mind the k and the M beside the number.",
    MeterSetting.INSULATION: "MΩ at the volts named, by an insulation tester. It stores charge in what it tests: let it "
    "discharge before you let go.",
    MeterSetting.VOLTS_AC: "V∼. A meter of {10 MΩ} shows almost all of the mains through a solid state relay that is "
    "off, and ghosts on wires that end in air: "
    "a low-impedance tester does not.",
    MeterSetting.VOLTS_DC: "V⎓. Red to plus: the sign tells what is swapped. A drive that pulses shows its mean: half on "
    "is half the volts.",
    MeterSetting.CLAMP: "A∼, one lead only in the jaws: both together show nothing. Small currents: wind the lead "
    "through several times, and divide. An alternating "
    "clamp shows no direct current, and a plain one reads bursts and cut waves wrongly.",
    MeterSetting.THERMOMETER: "A contact thermometer needs a minute and a dab of paste. An infrared one reads bright "
    "metal far too cold: put a matt sticker there.",
    MeterSetting.RCD_TESTER: "Milliseconds, with the load on. Its own button tests the mechanism, not the time.",
    MeterSetting.CLOCK: "A stopwatch, or the run itself where one is recorded.",
}
