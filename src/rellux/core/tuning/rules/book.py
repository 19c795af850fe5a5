"""The rules side by side: what each is for, what it was published for, and its settings for a process."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from ...control.pid import PID
from ...process.models import FOPDT, SOPDT
from . import published as by
from .limit import Limit

CALM, LEAST_LOOKS = 2.0, 3.0
"""Calm SIMC: τ_c is two dead times, and three samples at the least (our choice, slower than the paper's one)."""
ORDINARY = (0.1, 1.0)
"""L/τ the early rules were made for (Åström & Hägglund 1995, from memory)."""
ANY = (0.0, float("inf"))


class MadeFor(StrEnum):
    """What a rule starts from."""

    LAG = "one lag and dead time"
    TWO_LAGS = "two lags and dead time"
    LIMIT = "gain and period at the limit of stability"


@dataclass(frozen=True)
class Known:
    """What is known of a process, its dead time with what sampling and actuator add. ``two``: where a second lag was found;
    ``limit``: where some gain makes it swing."""

    one: FOPDT
    two: SOPDT | None
    limit: Limit | None
    sample_s: float

    @property
    def calm_s(self) -> float:
        return max(CALM * self.one.dead_time_s, LEAST_LOOKS * self.sample_s)


@dataclass(frozen=True)
class Rule:
    """One rule. ``formulas`` of proportional band, integral and derivative time; ``ratio``: the L/τ it was made for."""

    key: str
    name: str
    source: str
    aim: str
    made_for: MadeFor
    formulas: tuple[str, str, str]
    settings: Callable[[Known], PID]
    ratio: tuple[float, float] = ANY

    def fits(self, known: Known) -> bool:
        """Whether what it starts from is known."""
        if self.made_for is MadeFor.LIMIT:
            return known.limit is not None
        return known.two is not None if self.made_for is MadeFor.TWO_LAGS else known.one.dead_time_s > 0.0

    def beyond(self, known: Known) -> str:
        """What is to be said where the process is not of the kind it was made for."""
        low, high = self.ratio
        ratio = known.one.dead_time_s / known.one.lag_s
        if low <= ratio <= high:
            return ""
        return f"Made for dead times of {low:g} to {high:g} lags; here it is {ratio:.2g}."


def _of_one(rule: Callable[[FOPDT], PID]) -> Callable[[Known], PID]:
    return lambda known: rule(known.one)


def _of_limit(rule: Callable[[Limit], PID]) -> Callable[[Known], PID]:
    def settings(known: Known) -> PID:
        assert known.limit is not None  # see Rule.fits
        return rule(known.limit)

    return settings


def _of_two(rule: Callable[[SOPDT, float], PID]) -> Callable[[Known], PID]:
    def settings(known: Known) -> PID:
        assert known.two is not None  # see Rule.fits
        return rule(known.two, max(CALM * known.two.dead_time_s, LEAST_LOOKS * known.sample_s))

    return settings


_ZN, _CC, _CHR = "Ziegler & Nichols 1942", "Cohen & Coon 1953", "Chien, Hrones & Reswick 1952"
_SIMC, _IMC = "Skogestad 2003", "Rivera, Morari & Skogestad 1986"
_TL, _AMIGO = "Tyreus & Luyben 1992", "Åström & Hägglund 2004"
_LAG, _TWO, _LIMIT = MadeFor.LAG, MadeFor.TWO_LAGS, MadeFor.LIMIT

RULES = (
    Rule("simc", "SIMC, calm", f"{_SIMC}, τ_c = 2 L", "Least overshoot, forgiving.", _LAG,
         ("PB = 100 K (τ_c + L) / τ", "T_i = min(τ, 4 (τ_c + L))", "none"), lambda k: by.simc_pi(k.one, k.calm_s)),
    Rule("simc_tight", "SIMC, tight", f"{_SIMC}, τ_c = L", "Faster, still robust.", _LAG,
         ("PB = 100 K (τ_c + L) / τ", "T_i = min(τ, 4 (τ_c + L))", "none"), lambda k: by.simc_pi(k.one, k.one.dead_time_s)),
    Rule("simc_pid", "SIMC with derivative", f"{_SIMC}, τ_c = 2 L, series form converted", "Looks ahead by the second lag.", _TWO,
         ("PB = 100 K (τ_c + L) / (τ₁ f), f = 1 + T_d′/T_i′", "T_i = T_i′ f, T_i′ = min(τ₁, 4 (τ_c + L))", "T_d = τ₂ / f"),
         _of_two(by.simc_pid)),
    Rule("amigo_pi", "AMIGO PI", f"{_AMIGO}", "Robust by design, Ms about 1.4.", _LAG,
         ("PB = 100 K / (0.15 + (0.35 − L τ/(L+τ)²) τ/L)", "T_i = 0.35 L + 13 L τ²/(τ² + 12 L τ + 7 L²)", "none"),
         _of_one(by.amigo_pi)),
    Rule("amigo_pid", "AMIGO PID", f"{_AMIGO}", "Robust by design, Ms about 1.4, with derivative.", _LAG,
         ("PB = 100 K / (0.2 + 0.45 τ/L)", "T_i = L (0.4 L + 0.8 τ)/(L + 0.1 τ)", "T_d = 0.5 L τ/(0.3 L + τ)"),
         _of_one(by.amigo_pid)),
    Rule("lambda", "Lambda, λ = τ", "Dahlin 1968", "The loop as slow as the rig by itself: no overshoot, slow recovery.", _LAG,
         ("PB = 100 K (λ + L) / τ", "T_i = τ", "none"), lambda k: by.lambda_pi(k.one, k.one.lag_s)),
    Rule("imc_pid", "IMC, λ = 2 L", f"{_IMC}, first-order Padé", "Set-point changes without overshoot.", _LAG,
         ("PB = 100 K (2 λ + L) / (2 τ + L)", "T_i = τ + L/2", "T_d = τ L / (2 τ + L)"),
         lambda k: by.imc_pid(k.one, CALM * k.one.dead_time_s)),
    Rule("imc_two", "IMC for two lags, λ = 2 L", _IMC, "Set-point changes without overshoot.", _TWO,
         ("PB = 100 K (λ + L) / (τ₁ + τ₂)", "T_i = τ₁ + τ₂", "T_d = τ₁ τ₂ / (τ₁ + τ₂)"), _of_two(by.imc_two_lags)),
    Rule("reaction_curve_pi", "Reaction curve PI, 1942", f"{_ZN}, open loop", "Quarter decay: fast, overshoots.", _LAG,
         ("PB = 100 K L / (0.9 τ)", "T_i = 3.3 L", "none"), _of_one(by.reaction_curve_pi), ORDINARY),
    Rule("reaction_curve", "Reaction curve PID, 1942", f"{_ZN}, open loop", "Quarter decay: fast, overshoots.", _LAG,
         ("PB = 100 K L / (1.2 τ)", "T_i = 2 L", "T_d = L / 2"), _of_one(by.reaction_curve_pid), ORDINARY),
    Rule("limit_pi", "Limit PI, 1942", f"{_ZN}, closed loop", "Quarter decay: fast, overshoots.", _LIMIT,
         ("PB = 100 / (0.45 K_u)", "T_i = P_u / 1.2", "none"), _of_limit(by.at_the_limit_pi), ORDINARY),
    Rule("limit_pid", "Limit PID, 1942", f"{_ZN}, closed loop", "Quarter decay: fast, overshoots.", _LIMIT,
         ("PB = 100 / (0.6 K_u)", "T_i = P_u / 2", "T_d = P_u / 8"), _of_limit(by.at_the_limit_pid), ORDINARY),
    Rule("tyreus_luyben_pi", "Limit PI, 1992", _TL, "Calmer at the limit's numbers; for rigs that nearly integrate.", _LIMIT,
         ("PB = 100 / (K_u / 3.2)", "T_i = 2.2 P_u", "none"), _of_limit(by.tyreus_luyben_pi)),
    Rule("tyreus_luyben_pid", "Limit PID, 1992", _TL, "Calmer at the limit's numbers; for rigs that nearly integrate.", _LIMIT,
         ("PB = 100 / (K_u / 2.2)", "T_i = 2.2 P_u", "T_d = P_u / 6.3"), _of_limit(by.tyreus_luyben_pid)),
    Rule("cohen_coon_pi", "Cohen–Coon PI", _CC, "Quarter decay, for longer dead times.", _LAG,
         ("PB = 100 K L / (τ (0.9 + r/12)), r = L/τ", "T_i = L (30 + 3 r)/(9 + 20 r)", "none"), _of_one(by.cohen_coon_pi), ORDINARY),
    Rule("cohen_coon_pid", "Cohen–Coon PID", _CC, "Quarter decay, for longer dead times.", _LAG,
         ("PB = 100 K L / (τ (4/3 + r/4)), r = L/τ", "T_i = L (32 + 6 r)/(13 + 8 r)", "T_d = 4 L / (11 + 2 r)"),
         _of_one(by.cohen_coon_pid), ORDINARY),
    Rule("chr_set_0_pi", "Set-point PI, 0 %, 1952", f"{_CHR}, set-point", "Set-point changes without overshoot.", _LAG,
         ("PB = 100 K L / (0.35 τ)", "T_i = 1.2 τ", "none"), lambda k: by.for_setpoint_pi(k.one, False), ORDINARY),
    Rule("chr_set_0_pid", "Set-point PID, 0 %, 1952", f"{_CHR}, set-point", "Set-point changes without overshoot.", _LAG,
         ("PB = 100 K L / (0.6 τ)", "T_i = τ", "T_d = 0.5 L"), lambda k: by.for_setpoint_pid(k.one, False), ORDINARY),
    Rule("chr_set_20_pi", "Set-point PI, 20 %, 1952", f"{_CHR}, set-point", "Set-point changes, a fifth over.", _LAG,
         ("PB = 100 K L / (0.6 τ)", "T_i = τ", "none"), lambda k: by.for_setpoint_pi(k.one, True), ORDINARY),
    Rule("chr_set_20_pid", "Set-point PID, 20 %, 1952", f"{_CHR}, set-point", "Set-point changes, a fifth over.", _LAG,
         ("PB = 100 K L / (0.95 τ)", "T_i = 1.4 τ", "T_d = 0.47 L"), lambda k: by.for_setpoint_pid(k.one, True), ORDINARY),
    Rule("chr_load_0_pi", "Disturbance PI, 0 %, 1952", f"{_CHR}, disturbance", "Doors and loads, without swinging over.", _LAG,
         ("PB = 100 K L / (0.6 τ)", "T_i = 4 L", "none"), lambda k: by.for_load_pi(k.one, False), ORDINARY),
    Rule("chr_load_0_pid", "Disturbance PID, 0 %, 1952", f"{_CHR}, disturbance", "Doors and loads, without swinging over.", _LAG,
         ("PB = 100 K L / (0.95 τ)", "T_i = 2.4 L", "T_d = 0.42 L"), lambda k: by.for_load_pid(k.one, False), ORDINARY),
    Rule("chr_load_20_pi", "Disturbance PI, 20 %, 1952", f"{_CHR}, disturbance", "Doors and loads, a fifth over.", _LAG,
         ("PB = 100 K L / (0.7 τ)", "T_i = 2.3 L", "none"), lambda k: by.for_load_pi(k.one, True), ORDINARY),
    Rule("chr_load_20_pid", "Disturbance PID, 20 %, 1952", f"{_CHR}, disturbance", "Doors and loads, a fifth over.", _LAG,
         ("PB = 100 K L / (1.2 τ)", "T_i = 2 L", "T_d = 0.42 L"), lambda k: by.for_load_pid(k.one, True), ORDINARY),
    Rule("some_overshoot", "“Some overshoot”", "common practice, no source", "A name, not a property: see what it does here.", _LIMIT,
         ("PB = 100 / (K_u / 3)", "T_i = P_u / 2", "T_d = P_u / 3"), _of_limit(by.some_overshoot)),
    Rule("no_overshoot", "“No overshoot”", "common practice, no source", "A name, not a property: see what it does here.", _LIMIT,
         ("PB = 100 / (K_u / 5)", "T_i = P_u / 2", "T_d = P_u / 3"), _of_limit(by.no_overshoot)),
)  # fmt: skip
"""In the order they are told where nothing else orders them."""
CALM_RULE = RULES[0]
"""The calm one: what is proposed where nothing else is asked for."""
