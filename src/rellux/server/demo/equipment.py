"""What the optics shop owns by the piece: probes that moved, a limiter, relays, references."""

from dataclasses import dataclass, replace

from rellux.core.calibration.certificates import CertificateSays
from rellux.core.calibration.certified import Certificate, CertificatePoint
from rellux.core.equipment.equipment import Equipment, EquipmentRole, Probe, check_equipment
from rellux.server.equipment.domain import keep
from rellux.server.equipment.models import Equipment as Row
from rellux.server.equipment.models import Remark, Stay
from rellux.server.rigs.models import Rig

from .furnace import NEW_AGO
from .making import OPTICIAN, TECHNICIAN, Day

Span = tuple[str, float, float | None]
"""A rig's slug, and how many days ago it came in and went out."""


@dataclass(frozen=True)
class Owned:
    it: Equipment
    stays: tuple[Span, ...] = ()
    remarks: tuple[tuple[float, str, str], ...] = ()
    due_in: float | None = None
    certificates: tuple["Certified", ...] = ()


@dataclass(frozen=True)
class Certified:
    """A certificate of so many days ago: at a temperature its number and U, °C."""

    age: float
    says: CertificateSays
    points: tuple[tuple[float, float, float], ...]

    def on(self, day: Day) -> Certificate:
        return Certificate(day.ago(self.age).date(), self.says, tuple(CertificatePoint(*p) for p in self.points))


PLATINUM_CERTIFICATES = (
    Certified(
        742.0,
        CertificateSays.CORRECTION,
        ((0.0, 0.01, 0.03), (60.0, 0.02, 0.04), (120.0, 0.05, 0.05), (250.0, 0.09, 0.08)),
    ),
    Certified(
        377.0,
        CertificateSays.CORRECTION,
        ((0.0, 0.00, 0.03), (60.0, 0.00, 0.04), (120.0, 0.02, 0.05), (250.0, 0.06, 0.08)),
    ),
)
TYPE_S_CERTIFICATES = (
    Certified(590.0, CertificateSays.ERROR, ((300.0, 1.6, 1.0), (560.0, 2.6, 1.2), (900.0, 3.4, 1.5))),
    Certified(225.0, CertificateSays.ERROR, ((300.0, 1.8, 1.0), (560.0, 2.9, 1.2), (900.0, 3.8, 1.5))),
)

S, R = EquipmentRole.SENSOR, EquipmentRole
PLATINUM = Probe("Pt100", leads=3, sheath_mm=4.0, length_mm=60.0, lead_m=2.0, lead_mm2=0.22)
OWNED = (
    Owned(
        Equipment(
            "S-01",
            S,
            "mineral-insulated, bent once",
            Probe("K", sheath_mm=3.0, length_mm=220.0),
        ),
        (("blank-annealer", 119.0, 30.0), ("bake-out-shell", 5.0, None)),
        ((30.0, TECHNICIAN, "Taken out as too high; its reference's certificate was never looked at"),),
    ),
    Owned(Equipment("S-02", S, "", Probe("N", sheath_mm=3.0, length_mm=220.0)), (("blank-annealer", 30.0, None),)),
    Owned(Equipment("S-03", S, "reads lower every month", PLATINUM), (("cement-cabinet", 39.0, None),)),
    Owned(
        Equipment(
            "S-04",
            S,
            "two wires, lead crushed and shortened",
            Probe("Pt100", sheath_mm=6.0, length_mm=45.0, lead_m=1.2, lead_mm2=0.14),
        ),
        (),
        ((61.0, OPTICIAN, "Trolley over the lead; not good enough for the cabinet"),),
    ),
    Owned(Equipment("S-05", S, "", PLATINUM), (("cement-store", 50.0, None),)),
    Owned(Equipment("S-06", S, "for the cold box", PLATINUM), (("detector-cold-box", 27.0, None),)),
    Owned(
        Equipment("S-07", S, "", Probe("K", sheath_mm=3.0, length_mm=150.0)),
        (("bake-out-shell", 74.0, 5.0),),
        ((5.0, TECHNICIAN, "Plug loose, to be crimped anew"),),
    ),
    *(
        Owned(
            Equipment(f"S-{8 + k:02}", S, "in a ceramic tube", Probe("S", sheath_mm=6.0, length_mm=300.0)),
            (("spectro-furnace", came, went),),
        )
        for k, (came, went) in enumerate(((1010.0, 716.0), (715.0, 416.0), (415.0, NEW_AGO), (NEW_AGO, None)))
    ),
    Owned(Equipment("L-03", R.LIMITER, "own probe, type K"), (("spectro-furnace", 1010.0, None),)),
    Owned(Equipment("L-01", R.LIMITER, "own probe, type K"), (("blank-annealer", 119.0, None),)),
    Owned(Equipment("L-02", R.LIMITER, "own probe, type K"), (("bake-out-shell", 74.0, None),)),
    Owned(Equipment("C-01", R.CONTROLLER, "with the bus option"), (("blank-annealer", 119.0, None),)),
    Owned(
        Equipment("K-01", R.SWITCH, "cabinet's relay", life=100_000.0),
        (("cement-cabinet", 39.0, None),),
        ((39.0, TECHNICIAN, "New, out of its bag"),),
    ),
    Owned(
        Equipment("T-01", R.REFERENCE, "platinum thermometer, to {250 °C}"),
        due_in=-12.0,
        certificates=PLATINUM_CERTIFICATES,
    ),
    Owned(Equipment("T-02", R.REFERENCE, "type S in a ceramic tube"), due_in=140.0, certificates=TYPE_S_CERTIFICATES),
)


def equipment(day: Day) -> None:
    """Every piece, where it was, and what somebody wrote of it."""
    rigs = {r.slug: r for r in Rig.objects.all()}
    for owned in OWNED:
        check_equipment(owned.it, day.now.date())
        row = Row()
        keep(row, replace(owned.it, certificates=tuple(c.on(day) for c in owned.certificates)))
        row.due = day.ago(-owned.due_in).date() if owned.due_in is not None else None
        row.save()
        for slug, came, went in owned.stays:
            rig = rigs[slug]
            until = day.ago(went) if went is not None else None
            Stay.objects.create(equipment=row, rig=rig, rig_name=rig.name, since=day.ago(came), until=until)
        for age, who, text in owned.remarks:
            Remark.objects.create(equipment=row, at=day.ago(age), who=who, text=text)
