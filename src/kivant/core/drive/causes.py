"""What can be wrong with an axis's drive: a list of causes for each kind of driver, computed from its own figures."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from kivant.core.drive.drivers import board_lines, driver_kind
from kivant.core.drive.phases import COILS, row_of
from kivant.core.drive.symptoms import Cause, Told, Values
from kivant.core.drive.wiring import ORDERS, plugged
from kivant.core.machine.parts import Axis

Moves = tuple[int | None, ...]
_ALL_ON = (1 << len(COILS)) - 1
_OTHER = {"high": "low", "low": "high"}


def causes(axis: Axis) -> tuple[Cause, ...]:
    """Return all that can be wrong with an axis's drive, as far as it can be told from outside."""
    table = driver_kind(axis.driver).rows(axis.driver)
    own = _of_coils(axis, tuple(row.word for row in table)) if table else _of_pulses(axis)
    return (*own, *_of_any(axis))


def follow(words: tuple[int, ...], wires: str, dead_end: str = "") -> Moves:
    """Return which way the rotor goes at each step forward, from row 0 on around the cycle.

    The rotor follows the field by the shorter way, and stays where there is none; half a turn may go either way. A
    dead end of the winding carries nothing.
    """
    lit = _ALL_ON & ~sum(1 << COILS.index(end) for end in dead_end)
    fields = [row_of(plugged(word, wires) & lit) for word in words]
    start = next((row.field_deg for row in [fields[0], *fields[::-1]] if row.torque), None)
    if start is None:
        return (0,) * len(words)
    angle, moves = start, list[int | None]()
    for row in (*fields[1:], fields[0]):
        if not row.torque:
            moves.append(0)
            continue
        way = 180.0 - (180.0 - (row.field_deg - angle)) % 360.0
        moves.append(None if way == 180.0 else (way > 0) - (way < 0))
        angle = row.field_deg
    return tuple(moves)


def _seen(moves: Moves) -> frozenset[Told]:
    """Return what such moves look like at slow speed."""
    ways = set(moves) - {0}
    if ways == {-1}:
        return frozenset({"wrong_way"})
    if not ways:
        return frozenset({"nothing", "hot"})
    both = None in ways or len(ways) > 1
    return frozenset({"shudders", "two_and_back"}) if both else frozenset()


def _swapped(wires: str, first: str, second: str) -> str:
    letters = list(wires)
    i, j = COILS.index(first), COILS.index(second)
    letters[i], letters[j] = letters[j], letters[i]
    return "".join(letters)


def _of_coils(axis: Axis, words: tuple[int, ...]) -> Iterator[Cause]:
    wires = getattr(axis.driver, "wires", None) or ORDERS[0]
    lines = board_lines(axis.driver)
    for first, second in combinations(COILS, 2):
        other = _swapped(wires, first, second)
        moves = follow(words, other)
        seen = _seen(moves)
        if not seen:
            continue
        turned = seen == {"wrong_way"}
        yield Cause(
            kind="coil-reversed" if turned else "coils-mixed",
            title="One coil is plugged the wrong way round." if turned else "Plugs of the two coils are mixed up.",
            cure=f"Swap the plugs of outputs {first} and {second}.",
            shows=seen,
            may=frozenset() if turned else frozenset({"hot"}),
            moves=moves,
            likely=9.0 if turned else 8.0,
            wires=other,
            swap=(first, second),
            values={("driver", "lines", first): lines[second], ("driver", "lines", second): lines[first]},
        )
    for coil in COILS:
        end = wires[COILS.index(coil)]
        moves = follow(words, wires, dead_end=end)
        seen = _seen(moves) or frozenset({"shudders", "two_and_back"})
        yield Cause(
            kind="line-dead",
            title="An output does nothing: its line does not switch, or does not reach it.",
            cure=f"Check line {lines[coil]} from the board to input {coil} of the driver.",
            shows=seen | {"dark_lamp"}, may=frozenset({"hot"}), moves=moves, likely=5.0, dead=coil,
        )  # fmt: skip
        opposite = COILS[(COILS.index(end) + 2) % 4] if axis.motor.winding == "bipolar" else ""
        moves = follow(words, wires, dead_end=end + opposite)
        seen = _seen(moves) or frozenset({"shudders", "two_and_back"})
        yield Cause(
            kind="end-open",
            title="A wire of the motor has no contact.",
            cure=f"Check the plug of output {coil}, and measure its coil.",
            shows=seen, may=frozenset({"hot"}), moves=moves, likely=4.0, dead=coil,
        )  # fmt: skip
    yield from _levels_of_coils(axis, words, wires)
    lamps: frozenset[Told] = frozenset({"nothing", "dark_lamp"})
    yield Cause("no-power", "The driver has no power, or the wire of the taps has no supply.",
                "Measure the supply at the driver, and at the wire of the taps.", lamps, likely=6.0)  # fmt: skip


def _levels_of_coils(axis: Axis, words: tuple[int, ...], wires: str) -> Iterator[Cause]:
    """Yield the cause that coils are on at the other level: the complement of each word is what is switched."""
    moves = follow(tuple(_ALL_ON - word for word in words), wires)
    active = _OTHER[axis.driver.active]  # type: ignore[attr-defined]
    yield Cause("level-inverted", "The driver switches its coils at the other level: what should be off is on.",
                f"Set coils to be on at {active} level.", (_seen(moves) - {"wrong_way"}) | {"hot"}, moves=moves,
                likely=5.0, values={("driver", "active"): active})  # fmt: skip


def _of_pulses(axis: Axis) -> Iterator[Cause]:
    lines, driver = board_lines(axis.driver), axis.driver
    keys = list(lines)
    shudder: frozenset[Told] = frozenset({"shudders", "two_and_back"})
    hot, nothing = frozenset[Told]({"hot"}), frozenset[Told]({"nothing"})
    swap_first: Values = {("driver", "lines", keys[0]): lines[keys[1]], ("driver", "lines", keys[1]): lines[keys[0]]}
    backwards: frozenset[Told] = frozenset({"wrong_way"})
    yield Cause("coil-reversed", "One coil is plugged the wrong way round.", "Swap the plugs of A and C.", backwards,
                moves=(-1,), likely=7.0, wires="CBAD", swap=("A", "C"))  # fmt: skip
    if driver.kind == "step_direction":
        level = _OTHER[driver.positive_level]  # type: ignore[attr-defined]
        yield Cause("direction-inverted", "The direction line has the opposite sense.",
                    f"Set DIR to be {level} for positive motion.", backwards, moves=(-1,), likely=9.0,
                    values={("driver", "positive_level"): level})  # fmt: skip
        yield Cause("line-dead", "The direction line does not reach the driver, which then always goes one way.",
                    f"Check line {lines['DIR']} from the board to DIR.", frozenset({"one_way"}), likely=9.0,
                    moves=(None,), dead="DIR")  # fmt: skip
        yield Cause("step-dead", "No pulses reach the driver: it holds and does not step.",
                    f"Check line {lines['STEP']} from the board to STEP.", nothing | hot, likely=6.0, dead="STEP",
                    moves=(0,))  # fmt: skip
        yield Cause("lines-swapped", "STEP and DIR are swapped: the motor steps only where it reverses.",
                    "Swap lines STEP and DIR.", nothing | shudder, hot, likely=4.0, swap=("STEP", "DIR"),
                    moves=(0,), values=swap_first)  # fmt: skip
    else:
        yield Cause("lines-swapped", "CW and CCW are swapped.", "Swap lines CW and CCW.", backwards, moves=(-1,),
                    likely=9.0, swap=("CW", "CCW"), values=swap_first)  # fmt: skip
        for key, way in (("CW", 0), ("CCW", 1)):
            yield Cause("line-dead", "One pulse line does not reach the driver.",
                        f"Check line {lines[key]} from the board to {key}.", frozenset({"one_way"}), likely=9.0,
                        moves=(way,), dead=key)  # fmt: skip
        yield Cause("step-dead", "No pulses reach the driver: it holds and does not step.",
                    "Check the common wire of the inputs, and both pulse lines.", nothing | hot, likely=5.0,
                    moves=(0,))  # fmt: skip
    yield from _enable(axis)
    yield Cause("coils-mixed", "Plugs of the two coils are mixed up.", "Swap the plugs of B and C.", shudder, hot,
                moves=(None,), likely=6.0, wires="ACBD", swap=("B", "C"))  # fmt: skip
    yield Cause("end-open", "A wire of the motor has no contact.", "Measure both coils at the driver's plugs.", shudder,
                hot, moves=(None,), likely=5.0, dead="A")  # fmt: skip
    yield Cause("no-power", "The driver has no supply.", "Measure the supply at the driver.", nothing | {"dark_lamp"},
                likely=5.0, moves=(0,))  # fmt: skip


def _enable(axis: Axis) -> Iterator[Cause]:
    if "EN" not in board_lines(axis.driver):
        yield Cause("enable-open", "The driver waits to be enabled, but no line enables it.", "Wire EN to a free line.",
                    frozenset({"nothing"}), likely=5.5, dead="EN", moves=(0,))  # fmt: skip
        return
    level = _OTHER[axis.driver.enable_active]  # type: ignore[attr-defined]
    yield Cause("enable-inverted", "Enable is active at the other level: the motor is limp when it should move.",
                f"Set EN to be active at {level} level.", frozenset({"nothing"}), likely=7.0, moves=(0,),
                values={("driver", "enable_active"): level})  # fmt: skip


def _of_any(axis: Axis) -> Iterator[Cause]:
    stalls, moves = frozenset[Told]({"stalls"}), (1,)
    start = axis.limits.start_speed
    jump = f"The start speed is {start:g} {axis.unit}/s." if start else "Perhaps it cannot follow the acceleration."
    yield Cause("too-fast", f"Too fast from standstill. {jump}", "Go to Ramp and lower start speed and acceleration.",
                stalls, frozenset({"hot"}), moves, 9.0, station="ramp")  # fmt: skip
    yield Cause("speed-too-high", "The speed is more than motor and supply allow.", "Go to Ramp and lower the speed.",
                stalls, frozenset({"hot"}), moves, 7.0, station="ramp")  # fmt: skip
    yield Cause("load", "The load is too heavy, or something binds.", "Turn the shaft by hand, without power.",
                stalls, frozenset({"hot", "one_way"}), moves, 4.0)  # fmt: skip
    yield Cause("load-one-way", "The load pulls one way, and the motor cannot lift it.", "Try without the load.",
                frozenset({"one_way"}), frozenset({"hot", "stalls"}), (), 3.0)  # fmt: skip
    if axis.driver.at_rest == "hold":
        values: Values = {("driver", "reduced_percent"): 50.0, ("driver", "at_rest"): "reduced"}
        yield Cause("hold-warms", "The full current also flows at rest.", "Reduce it at rest to 50 %.",
                    frozenset({"hot"}), frozenset(), moves, 4.0, values=values)  # fmt: skip
    yield Cause("current-too-high", "The current is more than the motor is made for.",
                "Compare supply over resistance, or the driver's set current, with the motor's.",
                frozenset({"hot"}), frozenset(), moves, 5.0)  # fmt: skip
