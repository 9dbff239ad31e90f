"""Switch banks of drivers: which pattern of switches gives which number of microsteps, or which current."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from typing import Annotated, Any

from kivant.core.bounds import Ge, Le, MaxLen
from kivant.core.errors import Fault
from kivant.core.fields import WHOLE, About, Extra, Form, Name, Part, Positive
from kivant.core.path import Path

MOST_SWITCHES = 8
MOST_MICROSTEPS = 10_000
_PATTERN = r"[01]{1,8}"


def _pattern(value: Any) -> Any:
    if not isinstance(value, str) or not re.fullmatch(_PATTERN, value):
        raise ValueError('expected a digit 0 (off) or 1 (on) for each switch, such as "110"')
    return value


Pattern = Annotated[str, Form(_pattern, {"type": "string", "pattern": f"^{_PATTERN}$"})]
SwitchNames = Annotated[tuple[Name, ...], MaxLen(MOST_SWITCHES), About("Label beside each switch")]


class SwitchBank(Part, frozen=True, kw_only=True):
    """Switches that choose the number of microsteps; a pattern has a digit for each switch, 1 for on."""

    names: SwitchNames
    microsteps: Annotated[
        Mapping[Pattern, Annotated[int, Ge(1), Le(MOST_MICROSTEPS), WHOLE]],
        About("Pulses of a full step for each pattern that the driver knows"),
    ]
    setting: Annotated[Pattern | None, About("How the switches are set")] = None
    x: Extra = None

    @property
    def table(self) -> Mapping[str, float]:
        """What each pattern gives."""
        return self.microsteps


class CurrentBank(Part, frozen=True, kw_only=True):
    """Switches that choose the driver's current; a pattern has a digit for each switch, 1 for on."""

    names: SwitchNames
    current_a: Annotated[Mapping[Pattern, Positive], About("Current for each pattern that the driver knows", "A")]
    setting: Annotated[Pattern | None, About("How the switches are set")] = None
    x: Extra = None

    @property
    def table(self) -> Mapping[str, float]:
        """What each pattern gives."""
        return self.current_a


Bank = SwitchBank | CurrentBank


def given(bank: Bank) -> float | None:
    """Return what the switches give as they stand, None where that is not known."""
    return bank.table.get(bank.setting) if bank.setting is not None else None


def setting_for(bank: Bank, wanted: float) -> str | None:
    """Return how the switches must stand for a number of microsteps or a current, None where they cannot give it."""
    return next((pattern for pattern, value in bank.table.items() if abs(value - wanted) <= 1e-9 * wanted), None)


def words(bank: Bank, pattern: str) -> str:
    """Return a pattern as it is read to somebody at the switches: ``1 on, 2 off, 3 on``."""
    return ", ".join(f"{name} {'on' if bit == '1' else 'off'}" for name, bit in zip(bank.names, pattern, strict=True))


def faults_of_bank(bank: Bank, place: Path) -> Iterator[Fault]:
    """Yield what is wrong with a bank: names, patterns of another length, two patterns for one value."""
    key = "microsteps" if isinstance(bank, SwitchBank) else "current_a"
    if not bank.names:
        yield Fault(place / "names", "A switch bank has at least one switch.", "Name each switch.")
    for number, name in enumerate(bank.names):
        if name in bank.names[:number]:
            yield Fault(place / "names" / number, f"The switch “{name}” appears twice.", "Give each another name.")
    patterns = [(place / key / pattern, pattern) for pattern in bank.table]
    patterns += [(place / "setting", bank.setting)] if bank.setting is not None else []
    for where, pattern in patterns:
        if len(pattern) != len(bank.names):
            message = f"“{pattern}” has {len(pattern)} digits; the bank has {len(bank.names)} switches."
            yield Fault(where, message, "Give one digit 0 or 1 for each switch.")
    seen: dict[float, str] = {}
    for pattern, value in bank.table.items():
        if value in seen:
            message = f"The patterns “{seen[value]}” and “{pattern}” both give {value:g}."
            yield Fault(place / key / pattern, message, "Keep the one that the driver's label shows.")
        seen.setdefault(value, pattern)
    if bank.setting is not None and bank.table and bank.setting not in bank.table:
        yield Fault(place / "setting", f"The table has no pattern “{bank.setting}”.", "Use a pattern of the table.")


def _ascending(count: int, first: int, *, last_is_lowest: bool = False) -> dict[str, int]:
    found = {}
    for number in range(1 << count):
        bits = f"{number:0{count}b}"
        if first << number <= MOST_MICROSTEPS:
            found[bits if last_is_lowest else bits[::-1]] = first << number
    return found


TABLES: Mapping[str, Callable[[int], dict[str, int]]] = {
    "all off is full steps, the first switch counts one": lambda count: _ascending(count, 1),
    "all off is full steps, the last switch counts one": lambda count: _ascending(count, 1, last_is_lowest=True),
    "all off is half steps, the first switch counts one": lambda count: _ascending(count, 2),
    "all off is half steps, the last switch counts one": lambda count: _ascending(count, 2, last_is_lowest=True),
    "all on is full steps, the first switch counts one": lambda count: {
        pattern.translate(str.maketrans("01", "10")): value for pattern, value in _ascending(count, 1).items()
    },
}
"""Common tables by their words: each pattern further on doubles the microsteps. They take the number of switches."""


def new_bank(count: int, table: str, microsteps: int) -> SwitchBank:
    """Return a bank of so many switches with a table of `TABLES`, set to a number of microsteps if it has it.

    Raises
    ------
    KeyError
        If there is no such table.
    """
    names = tuple(str(number + 1) for number in range(count))
    bank = SwitchBank(names=names, microsteps=TABLES[table](count))
    return SwitchBank(names=names, microsteps=bank.microsteps, setting=setting_for(bank, microsteps))


def table_text(bank: Bank) -> str:
    """Return the table of a bank as it is typed."""
    return ", ".join(f"{pattern} {value:g}" for pattern, value in bank.table.items())


def bank_of(text: str, before: Bank | None, *, currents: bool) -> Bank:
    """Return the bank whose table was typed; names and setting stay, if it has as many switches as before.

    Raises
    ------
    ValueError
        As `parse_switch_table`.
    """
    table = parse_switch_table(text, currents=currents)
    count = len(next(iter(table)))
    same = before is not None and len(before.names) == count
    names = before.names if before is not None and same else tuple(str(number + 1) for number in range(count))
    setting = before.setting if before is not None and same and before.setting in table else None
    if currents:
        return CurrentBank(names=names, current_a=table, setting=setting)
    return SwitchBank(names=names, microsteps={k: int(v) for k, v in table.items()}, setting=setting)


def parse_switch_table(text: str, *, currents: bool = False) -> dict[str, float]:
    """Return the table in a text, such as ``000 1, 100 2, 010 4``: patterns and microsteps (or currents) in turns.

    Raises
    ------
    ValueError
        With what was expected, if it is none.
    """
    entries = [entry for entry in re.split(r"[\s,;:=→/]+", text.strip()) if entry]
    if not entries or len(entries) % 2 or len(entries) > 2 << MOST_SWITCHES:
        raise ValueError("Type patterns, each followed by what it gives, such as 000 1, 100 2, 010 4.")
    found: dict[str, float] = {}
    number_text = r"\d{1,3}(\.\d{1,6})?" if currents else r"\d{1,5}"
    for pattern, number in zip(entries[::2], entries[1::2], strict=True):
        if not re.fullmatch(_PATTERN, pattern) or not re.fullmatch(number_text, number, re.ASCII):
            raise ValueError(f"“{pattern[:20]} {number[:20]}” is not a pattern of 0 and 1 and what it gives.")
        if pattern in found:
            raise ValueError(f"The pattern “{pattern}” appears twice.")
        found[pattern] = float(number)
    return found
