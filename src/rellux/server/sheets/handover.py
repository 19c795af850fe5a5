"""What a pack says of a rig, gathered from every station."""

from collections.abc import Iterator

from rellux.core.fields import CONTROLS_FED_BY, COOLED_BY, MADE_BY
from rellux.core.findings import worst_first
from rellux.core.guarding.plan import Plan
from rellux.core.guarding.standing import ProofStanding, next_proof
from rellux.core.handover.ready import lacking
from rellux.core.handover.safe_use import PartOfUse, safe_use
from rellux.core.messages import difference, of_kind, quantity, temperature
from rellux.core.purpose.kinds import KINDS
from rellux.core.purpose.purpose import SUPPLY_WORDS, Purpose, Supply
from rellux.core.sensing.sensors import describe
from rellux.core.setup.parameters import parameters_for
from rellux.core.wiring.schedule import schedule
from rellux.core.zones.chamber import cools_s
from rellux.server.guarding.domain import proved_of, standing_of
from rellux.server.guarding.stored import plan_of
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import facts_of
from rellux.server.wiring.domain import connection_list, every_finding, wiring_findings
from rellux.server.zones.places import chamber_of, hot_together, zones_in

from .diagram import Drawn
from .guarding import day, guards, proof_says
from .handover_sheet import Handover
from .wiring_sheet import DrawingHead


def handover_of(rig: Rig, head: DrawingHead, drawings: tuple[Drawn, ...]) -> Handover:
    """The pack of a rig; it must have parts."""
    purpose, plan, facts, wiring = purpose_of(rig), plan_of(rig), facts_of(rig), connection_list(rig)
    titles = {(f.rule, f.subjects): f.title for f in every_finding(rig)}
    return Handover(
        head,
        tuple(_purpose(rig, purpose)),
        lacking_of(rig),
        use_of(rig),
        tuple((g.name, g.at, g.does) for g in guards(plan)) if plan else (),
        proof_says(rig, plan),
        tuple(_settings(rig, purpose)),
        _set_by(rig),
        _calibration(rig),
        tuple(_due(rig, plan)),
        wiring.parts,
        schedule(wiring)[0] if wiring.connections else (),
        tuple((titles.get((a.rule, tuple(a.subjects)), a.rule), a.reason, a.who) for a in rig.accepted.all()),
        tuple(worst_first([f for found in facts.findings.values() for f in found])),
        drawings,
    )


def lacking_of(rig: Rig) -> tuple[str, ...]:
    """What is missing or dangerous before it is handed over, also what was accepted with a reason."""
    open_now = wiring_findings(rig)
    return lacking(facts_of(rig), tuple(f for f in every_finding(rig) if f not in open_now))


def use_of(rig: Rig) -> tuple[PartOfUse, ...]:
    """The page of safe use; the rig must have parts."""
    purpose = purpose_of(rig)
    return safe_use(kind_of(rig), purpose, plan_of(rig), _cools_s(rig, purpose), connection_list(rig).fed_by)


def _purpose(rig: Rig, p: Purpose) -> Iterator[tuple[str, str]]:
    yield "Kind", KINDS[kind_of(rig)].title
    yield ("Works at" if p.acts else "Usually at"), temperature(p.working_c)
    yield ("Must stay below" if p.cools else "Never above"), f"{temperature(p.highest_c)}: {p.highest_reason}"
    if p.lowest_c is not None:
        yield ("Never below" if p.cools else "Not below"), f"{temperature(p.lowest_c)}: {p.lowest_reason}"
    for m in p.materials:
        yield m.name, f"stands {temperature(m.limit_c)}"
    hertz = "" if p.supply is Supply.DC else f", {quantity(p.frequency_hz, 'Hz')}"
    yield "Supply", f"{SUPPLY_WORDS[p.supply]}, {quantity(p.supply_voltage_v, 'V')}{hertz}"
    if p.own_mains:
        yield "Mains made by", f"{MADE_BY[p.own_mains.made_by].lower()}, {quantity(p.own_mains.made_w, 'W')}"
    if p.controls:
        yield "Controls fed by", f"{CONTROLS_FED_BY[p.controls.fed_by].lower()}, {quantity(p.controls.controls_v, 'V')}"
    if p.cooler:
        by = COOLED_BY[p.cooler.cooled_by]
        with_c = temperature(p.cooler.with_c(p.ambient_c))
        reach = "down to" if p.cooler.pumps else "at"
        yield "Cooled too", f"{by}, {reach} {with_c}: {quantity(p.cooler.cooler_w, 'W')} at work, never while it heats"
    if p.heater_sensor:
        yield (
            "Two loops",
            f"a second sensor at the heater, which may show {temperature(p.heater_sensor.most_c)} at the most",
        )
    if chamber := chamber_of(rig):
        others = " and ".join(r.name for r in zones_in(chamber) if r.pk != rig.pk)
        yield "Zone of", f"{chamber.name}, beside {others}: they keep it warm while they are on"
    if p.acts:
        yield (
            p.load.capitalize(),
            f"{quantity(p.heater_power_w, 'W')} at {quantity(p.heater_voltage_v, 'V')}",
        )
    yield "Sensor", describe(rig.sensor)


def _cools_s(rig: Rig, purpose: Purpose) -> float | None:
    if not purpose.heats:
        return 0.0
    return cools_s(hot_together(rig))


def _settings(rig: Rig, purpose: Purpose) -> Iterator[tuple[str, str]]:
    newest = rig.sheets.first()
    for p in parameters_for(purpose) if newest else ():
        value = newest.values.get(p.name) if newest else None
        if value is not None:
            words = dict(p.choices).get(str(value), str(value)) if p.choices else of_kind(float(value), p.kind)
            yield p.title, words


def _set_by(rig: Rig) -> str:
    newest = rig.sheets.first()
    if newest is None:
        return "Nothing was recorded of it."
    return f"As {newest.get_kind_display().replace('_', ' ').lower()} on {day(newest.at)}{f', {newest.why}' if newest.why else ''}."


def _calibration(rig: Rig) -> str:
    newest = rig.calibrations.first()
    if newest is None:
        return "Its display was never compared with a reference."
    other = "" if newest.sensor == rig.sensor else f" That was another sensor ({describe(newest.sensor)})."
    return (
        f"Compared with {newest.reference} on {day(newest.at)} by {newest.who}: offset left at {difference(newest.as_left_c)}, "
        f"± {difference(newest.uncertainty_c, '.2g')}.{other}"
    )


def _due(rig: Rig, plan: Plan | None) -> Iterator[tuple[str, str]]:
    proved, compared = proved_of(rig, plan) if plan else None, rig.calibrations.first()
    if plan:
        holds = proved is not None and standing_of(rig, plan) is ProofStanding.HOLDS
        next_day = day(next_proof(plan, proved)) if proved and holds else "now"
        yield "Alarms and limiter made to act", f"{next_day}, then every {plan.prove_days} days"
    last = f"last {day(compared.at)}; " if compared else ""
    yield "Display against a reference", f"{last}after every change of the sensor and every over-temperature"
