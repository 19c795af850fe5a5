"""Checks of what holds which set-point, of starts, of outputs and of the link."""

from collections.abc import Iterator

from ..findings import Finding, Proposal, Severity
from ..messages import quantity, span, temperature
from .dictionary.output import OUTPUTS
from .dictionary.parameter import Value
from .parameters import Sheet
from .proposals.facts import RigFacts


def check_starts(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """Findings about run state, set-points beside the first, outputs and link; what the sheet does not say is not judged."""
    checks = (
        _programme_top,
        _run_state,
        _remote,
        _other_setpoints,
        _two_movers,
        _no_output,
        _output_low,
        _signal,
        _link,
        _link_lost,
    )
    return [f for check in checks for f in check(sheet, facts)]


def _programme_top(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    top, high = facts.programme_top_c, float(sheet["setpoint_high_c"])
    if top is None or top <= high or sheet.get("programme", "off") == "off":
        return
    fits = top < facts.purpose.highest_c
    yield Finding(
        "setup.limit-below-programme",
        Severity.FAULT,
        title="The limit stops the programme short",
        reason=f"A profile of this rig goes to {temperature(top)}; the set-point limit clips it at {temperature(high)}, and it holds there "
        "for its time as if it had arrived.",
        fix=f"At least {temperature(top)}." if fits else "A cooler profile: what must never happen comes before.",
        subjects=("setpoint_high_c", "programme"),
        proposal=Proposal("setup.setpoint_high_c", top, label=f"Raise it to {temperature(top)}") if fits else None,
    )


def _run_state(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    state = sheet.get("run_state", "automatic")
    if state == "automatic" or sheet["mode"] == "off":
        return
    back = Proposal("setup.run_state", "automatic", label="Set it to automatic")
    if state == "manual":
        yield Finding(
            "setup.manual",
            Severity.DANGER,
            title="In manual nobody regulates",
            reason="The output stays as it was set by hand, whatever the reading is; only the limiter ends it.",
            fix="Back to automatic before anybody leaves.",
            subjects=("run_state",),
            proposal=back,
        )
    else:
        yield Finding(
            "setup.stands-by",
            Severity.ADVICE,
            title="It stands by",
            reason="Whatever the set-point is, nothing happens.",
            fix="Automatic, when it is wanted.",
            subjects=("run_state",),
            proposal=back,
        )


def _remote(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    if sheet.get("setpoint_source", "local") != "remote" or (facts.linked and facts.linked.writes):
        return
    yield Finding(
        "setup.remote",
        Severity.FAULT,
        title="The set-point comes from nowhere",
        reason="It is taken from elsewhere, and nothing here sends one: what it holds then is not what its keys say.",
        fix="Its own set-point, or a link that may write.",
        subjects=("setpoint_source",),
        proposal=Proposal("setup.setpoint_source", "local", label="Take its own"),
    )


def _other_setpoints(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    low, high = float(sheet["setpoint_low_c"]), float(sheet["setpoint_high_c"])
    others = (
        ("start_setpoint_c", sheet.get("after_power") == "start_setpoint"),
        ("second_setpoint_c", sheet.get("second_setpoint", "off") != "off"),
    )
    for name, used in others:
        value = sheet.get(name)
        if used and isinstance(value, int | float) and not low <= value <= high:
            too_hot = value >= facts.purpose.highest_c
            yield Finding(
                "setup.other-setpoint",
                Severity.DANGER if too_hot else Severity.FAULT,
                title="Another set-point outside the limits",
                reason=f"{temperature(value)} would be taken by itself, and only {span(low, high, '°C')} may be asked for.",
                fix="A value inside the limits: not every controller holds these to them.",
                subjects=(name,),
                proposal=Proposal(f"setup.{name}", min(max(value, low), high), label="Bring it inside"),
            )


def _two_movers(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    ramp = float(sheet.get("ramp_c_per_min", 0.0))
    if not ramp or sheet.get("programme", "off") == "off":
        return
    yield Finding(
        "setup.ramp-and-programme",
        Severity.ADVICE,
        title="Ramp and programme both move the set-point",
        reason=f"The programme’s rates count only below {quantity(ramp, '°C/min')}: a faster segment takes longer than it says.",
        fix="No ramp while programmes run.",
        subjects=("ramp_c_per_min", "programme"),
        proposal=Proposal("setup.ramp_c_per_min", 0.0, label="Take the ramp out"),
    )


def _no_output(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    does = {n: str(sheet[f"output_{n}"]) for n in OUTPUTS if f"output_{n}" in sheet}
    if does and facts.purpose.acts and "control" not in does.values() and len(does) == len(OUTPUTS):
        yield Finding(
            "setup.no-output",
            Severity.FAULT,
            title="No output regulates",
            reason="Every output does something else: the heater never comes on, or an alarm switches it.",
            fix="The output that the switch is wired to.",
            subjects=tuple(f"output_{n}" for n in does),
            proposal=Proposal("setup.output_1", "control", label="Output 1 regulates"),
        )
    for n, function in does.items():
        if function.startswith("alarm_") and sheet.get(f"{function}_type", "off") == "off":
            yield Finding(
                "setup.output-idle",
                Severity.ADVICE,
                title=f"Output {n} is for an alarm that is off",
                reason=f"{function.replace('_', ' ').capitalize()} is off: what is wired there never acts.",
                fix="Set the alarm, or free the output.",
                subjects=(f"output_{n}", f"{function}_type"),
                proposal=Proposal(f"setup.output_{n}", "none", label="Nothing on it"),
            )


def _output_low(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    low, p = float(sheet.get("output_low", 0.0)), facts.purpose
    if not low or not p.heats:
        return
    rests = None if facts.process is None else p.ambient_c + facts.process.full_power_rise_c * low / 100.0
    told = (
        "how hot that gets nobody has measured here"
        if rests is None
        else f"by the identified process that settles at {temperature(rests, '.0f')}"
    )
    yield Finding(
        "setup.output-low",
        Severity.DANGER if rests is None or rests >= p.highest_c else Severity.FAULT,
        title="It never switches off",
        reason=f"{quantity(low, '%')} stay on whatever the set-point is: {told}.",
        fix="0 %.",
        subjects=("output_low",),
        proposal=Proposal("setup.output_low", 0.0, label="Set it to 0 %"),
    )


def _signal(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    if sheet.get("retransmission", "off") not in ("reading", "setpoint"):
        return
    low, high = float(sheet["retransmission_low_c"]), float(sheet["retransmission_high_c"])
    if low < high and high >= facts.purpose.highest_c:
        return
    title = "The signal ends below the hottest expected" if low < high else "The signal’s scale has no length"
    yield Finding(
        "setup.retransmission",
        Severity.FAULT,
        title=title,
        reason=f"It goes from {temperature(low)} to {temperature(high)}; {temperature(facts.purpose.highest_c)} may come.",
        fix="The input’s own scale, and the receiver set alike.",
        subjects=("retransmission_low_c", "retransmission_high_c"),
    )


def _link(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    linked = facts.linked
    if linked is None or sheet.get("protocol", "none") == "none":
        return
    wanted: dict[str, Value] = {"protocol": linked.protocol, "link_address": float(linked.address)}
    if linked.protocol == "rtu":
        wanted |= {"link_baud": str(linked.baud), "link_parity": linked.parity, "link_stop_bits": str(linked.stop_bits)}
    for name, value in wanted.items():
        if sheet.get(name, value) != value:
            yield Finding(
                "setup.link",
                Severity.FAULT,
                title="Not the link that Rellux uses",
                reason=f"Rellux reaches it with {value if isinstance(value, str) else f'{value:g}'}; "
                f"the sheet says {sheet[name] if isinstance(sheet[name], str) else f'{sheet[name]:g}'}.",
                fix="Alike on both ends, or it does not answer.",
                subjects=(name,),
                proposal=Proposal(f"setup.{name}", value, label="As Rellux reaches it"),
            )


def _link_lost(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    if (
        sheet.get("setpoint_source", "local") != "remote"
        or sheet.get("link_lost") != "goes_on"
        or not facts.purpose.heats
    ):
        return
    yield Finding(
        "setup.link-lost",
        Severity.FAULT,
        title="When the link is lost it holds what was sent last",
        reason="A programme that ended half way at its hottest is then held for good.",
        fix="Its own set-point, or the output off.",
        subjects=("link_lost", "setpoint_source"),
        proposal=Proposal("setup.link_lost", "local", label="Then takes its own"),
    )
