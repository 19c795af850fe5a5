"""The kinds of programme people run: what each asks for, the profile that follows, and how a run of it is judged."""

from . import bench, cure, drying, firing, glass, reflow, sections
from .kind import ProfileKind

ALL: tuple[ProfileKind, ...] = (
    glass.KIND,
    cure.KIND,
    reflow.KIND,
    drying.KIND,
    firing.KIND,
    sections.KIND,
    bench.CYCLING,
    bench.STEPS,
    bench.PRESETS,
    bench.SEASONAL,
)
KINDS = {kind.key: kind for kind in ALL}
