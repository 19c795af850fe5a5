"""Shorthand for writing a description in Python."""

from ..description import (
    Condition,
    Counted,
    Gesture,
    Page,
    PageChoice,
    Press,
    SideEffect,
    SideEffectKind,
    TerminalNumber,
)

DEGREES, DIFFERENCE = Counted.TEMPERATURE, Counted.DIFFERENCE


def terminals(text: str, variant: str = "") -> tuple[TerminalNumber, ...]:
    """``1=L 2=N``: what stands at each terminal."""
    pairs = (part.split("=") for part in text.split())
    return tuple(TerminalNumber(number, terminal, variant) for number, terminal in pairs)


def tap(key: str) -> Gesture:
    return Gesture(Press.TAP, key)


def hold(key: str, seconds: float) -> Gesture:
    return Gesture(Press.HOLD, key, seconds)


def number(
    code: str,
    title: str,
    sets: str,
    low: int,
    high: int,
    default: int = 0,
    *,
    decimals: int = 0,
    scale: float = 1.0,
    counted: Counted = Counted.PLAIN,
    low_from: str = "",
    high_from: str = "",
    when: tuple[Condition, ...] = (),
) -> Page:
    """A page with a number; its key is its code."""
    return Page(
        code, code, title, (sets,) if sets else (), (), low, high, decimals, scale, default, counted, low_from, high_from, when
    )  # fmt: skip


def choice(
    code: str,
    title: str,
    sets: str,
    *choices: tuple[str, str],
    effects: tuple[SideEffect, ...] = (),
    when: tuple[Condition, ...] = (),
    default: int = 0,
) -> Page:
    """A page with choices, each as (code, value of the parameter)."""
    made = tuple(PageChoice(shows, "", (value,) if sets else ()) for shows, value in choices)
    return Page(code, code, title, (sets,) if sets else (), made, shown_when=when, effects=effects, default=default)


def resets(*pages: str) -> tuple[SideEffect, ...]:
    return tuple(SideEffect(p) for p in pages)


def converts(*pages: str) -> tuple[SideEffect, ...]:
    return tuple(SideEffect(p, SideEffectKind.CONVERTS) for p in pages)


def at(page: str, *counts: int) -> tuple[Condition, ...]:
    return (Condition(page, counts),)
