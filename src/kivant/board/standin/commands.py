"""The stand-in's commands: one small function each, and the table of their headers."""

from __future__ import annotations

from collections.abc import Callable

from kivant import __version__
from kivant.board.protocol.record import PLACE_BITS, VERSION, Span, span_bytes, unpack
from kivant.board.protocol.syntax import DeviceError, Parameter, Quoted, Unit, quoted, spellings
from kivant.board.standin.braking import MOST_BRAKE_S
from kivant.board.standin.device import Session, StandIn

MOST_AXES = 64
MOST_AWAITED = 64
"""Answers of a connection that wait for the end of a motion."""
MOST_SHAFTS = 33
_MOST_NAME = 255  # characters of a line


def _texts(values: tuple[Parameter, ...], least: int) -> tuple[str, ...]:
    if len(values) < least:
        raise DeviceError(-109, "Missing parameter")
    if not all(isinstance(value, Quoted) for value in values):
        raise DeviceError(-104, "Data type error", "a string is expected")
    return tuple(str(value) for value in values)


def _numbers(values: tuple[Parameter, ...], count: int, low: float, high: float) -> list[float]:
    if len(values) != count:
        raise DeviceError(-109 if len(values) < count else -108, f"{count} parameters are expected")
    for value in values:
        if not isinstance(value, float):
            raise DeviceError(-104, "Data type error", "a number is expected")
        if not low <= value <= high:
            raise DeviceError(-222, "Data out of range", f"{value:g}")
    return [value for value in values if isinstance(value, float)]


def _choice(value: Parameter, choices: dict[str, int]) -> int:
    found = choices.get(value) if isinstance(value, str) and not isinstance(value, Quoted) else None
    if isinstance(value, float) and value in (0.0, 1.0):
        found = int(value)
    if found is None:
        raise DeviceError(-141, "Invalid character data", f"one of {' '.join(choices)} is expected")
    return found


_LEVELS = {"HIGH": 1, "LOW": 0}
_SWITCH = {"ON": 1, "OFF": 0}


def _none(_board: StandIn, _session: Session, _unit: Unit) -> None:
    return None


def _clear(board: StandIn, session: Session, _unit: Unit) -> None:
    board.errors.clear()
    board.events = 0
    session.awaits_completion = 0


def _reset(board: StandIn, _session: Session, _unit: Unit) -> None:
    board.set_axes(0)
    board.powered = False
    board.watchdog_s = board.DEFAULT_WATCHDOG_S


def _identify(_board: StandIn, _session: Session, _unit: Unit) -> str:
    return f"Kivant,stand-in board,0,{__version__}"


def _complete(board: StandIn, session: Session, unit: Unit) -> str | None:
    if unit.header == "*OPC":
        if board.player.moving:
            board.completing = True
        else:
            board.events |= 1
        return None
    if not board.player.moving:
        return "1"
    if session.awaits_completion >= MOST_AWAITED:
        raise DeviceError(-350, "Queue overflow", "too many wait for the end of the motion")
    session.awaits_completion += 1
    return None


def _event_status(board: StandIn, _session: Session, _unit: Unit) -> str:
    events, board.events = board.events, 0
    return str(events)


def _status(board: StandIn, _session: Session, _unit: Unit) -> str:
    byte = 4 * bool(board.errors) + 32 * bool(board.events & board.event_mask) + 128 * board.player.moving
    return str(byte + 64 * bool(byte & board.service_mask & ~64))


def _event_enable(board: StandIn, _session: Session, unit: Unit) -> str | None:
    if unit.header.endswith("?"):
        return str(board.event_mask)
    board.event_mask = int(_numbers(unit.parameters, 1, 0, 255)[0])
    return None


def _service_enable(board: StandIn, _session: Session, unit: Unit) -> str | None:
    if unit.header.endswith("?"):
        return str(board.service_mask)
    board.service_mask = int(_numbers(unit.parameters, 1, 0, 255)[0]) & ~64
    return None


def _error(board: StandIn, _session: Session, _unit: Unit) -> str:
    number, text = board.errors.pop(0) if board.errors else (0, "No error")
    return f"{number},{quoted(text)}"


def _watchdog(board: StandIn, _session: Session, unit: Unit) -> str | None:
    if unit.header.endswith("?"):
        return f"{board.watchdog_s:g}"
    board.watchdog_s = _numbers(unit.parameters, 1, 0, 3600)[0]
    return None


def _ticks(board: StandIn, _session: Session, unit: Unit) -> str | None:
    if unit.header.endswith("?"):
        return f"{board.player.tick_hz:g}"
    board.need_rest()
    board.player.clear()
    board.player.tick_hz = _numbers(unit.parameters, 1, 1000, 1e9)[0]
    return None


def _catalog(board: StandIn, _session: Session, _unit: Unit) -> str:
    return ",".join(map(quoted, board.lines))


def _line_names(board: StandIn, _session: Session, unit: Unit) -> None:
    board.need_rest()
    names = _texts(unit.parameters, 1)
    if len(set(names)) < len(names) or len(names) > 256 or max(map(len, names)) > _MOST_NAME:
        raise DeviceError(-224, "Illegal parameter value", "at most 256 lines, each with a short name of its own")
    board.lines = list(names)
    board.set_axes(0)


def _line_levels(board: StandIn, _session: Session, _unit: Unit) -> str:
    levels = board.levels()
    return ",".join(str(levels[line]) for line in board.lines)


def _axis_count(board: StandIn, _session: Session, unit: Unit) -> str | None:
    if unit.header.endswith("?"):
        return str(len(board.wiring))
    board.need_rest()
    count = int(_numbers(unit.parameters, 1, 0, MOST_AXES)[0])
    board.set_axes(count)
    return None


def _axis_coil(board: StandIn, _session: Session, unit: Unit) -> None:
    board.need_rest()
    wiring = board.wiring_of(unit)
    lines = board.known_lines(_texts(unit.parameters[:4], 4))
    if len(unit.parameters) < 7:
        raise DeviceError(-109, "Missing parameter", "lines, level and at least two words are expected")
    words = _numbers(unit.parameters[5:], len(unit.parameters) - 5, 0, 15)
    wiring.lines, wiring.active = lines, _choice(unit.parameters[4], _LEVELS)
    wiring.words = tuple(int(word) for word in words)


def _axis_pulse(board: StandIn, _session: Session, unit: Unit) -> None:
    board.need_rest()
    wiring = board.wiring_of(unit)
    if len(unit.parameters) != 11:
        raise DeviceError(-109 if len(unit.parameters) < 11 else -108, "11 parameters are expected")
    kind, pulse, positive, enable = unit.parameters[0], *unit.parameters[8:11]
    names = _texts(unit.parameters[1:4], 3)
    wiring.pair = bool(_choice(kind, {"STEP": 0, "PAIR": 1}))
    wiring.lines = board.known_lines(names if names[2] else names[:2])
    times_us = _numbers(unit.parameters[4:8], 4, 0, 1e6)
    wiring.high_s, wiring.low_s, wiring.setup_s, wiring.hold_s = (us * 1e-6 for us in times_us)
    wiring.active, wiring.positive = _choice(pulse, _LEVELS), _choice(positive, _LEVELS)
    wiring.enable_active = _choice(enable, _LEVELS)
    wiring.words = ()
    board.tell_timing()


def _axis_rate(board: StandIn, _session: Session, unit: Unit) -> None:
    board.need_rest()
    board.wiring_of(unit).interval_s = 1 / _numbers(unit.parameters, 1, 1e-3, 1e9)[0]
    board.tell_timing()


def _axis_rest(board: StandIn, _session: Session, unit: Unit) -> None:
    if len(unit.parameters) != 1:
        raise DeviceError(-109, "Missing parameter")
    board.wiring_of(unit).off_at_rest = bool(_choice(unit.parameters[0], {"HOLD": 0, "OFF": 1}))


def _axis_pointer(board: StandIn, _session: Session, unit: Unit) -> str | None:
    board.wiring_of(unit)
    axis = board.player.axes[unit.channel - 1]
    if unit.header.endswith("?"):
        if axis.pointer is None:
            raise DeviceError(-221, "Settings conflict", f"axis {unit.channel} has no pointer")
        return f"{axis.shown(board.player.within_s):.9g}"
    board.need_rest()
    (name,) = _texts(unit.parameters[:1], 1)
    pointer = board.pointers.get(name)
    if pointer is None:
        raise DeviceError(-224, "Illegal parameter value", f"no pointer {name}")
    if len(unit.parameters) > MOST_SHAFTS + 2:
        raise DeviceError(-108, "Parameter not allowed", f"at most {MOST_SHAFTS} shafts")
    _numbers(unit.parameters[1:2], 1, 1e-12, 1e12)
    ratio, *rates = _numbers(unit.parameters[1:], len(unit.parameters) - 1, 0, 1e12)
    pointer.attach(ratio, rates)
    axis.pointer = pointer
    return None


def _pointers(board: StandIn, _session: Session, _unit: Unit) -> str:
    return ",".join(map(quoted, board.pointers)) or '""'


def _position(board: StandIn, _session: Session, unit: Unit) -> str | None:
    if unit.header.endswith("?"):
        return ",".join(map(str, board.player.now()))
    board.need_rest()
    counts = [int(v) for v in _numbers(unit.parameters, len(board.wiring), -(2.0**62), 2.0**62)]
    for axis, count in zip(board.player.axes, counts, strict=True):
        axis.put(count)
        if axis.pointer is not None:
            axis.pointer.stand_at(count)
    board.origin = counts
    return None


def _position_share(board: StandIn, _session: Session, unit: Unit) -> None:
    board.need_rest()
    shares = _numbers(unit.parameters, len(board.wiring), 0, 2**PLACE_BITS - 1)
    for axis, share in zip(board.player.axes, shares, strict=True):
        axis.put(axis.count, int(share))


def _output(board: StandIn, _session: Session, unit: Unit) -> str | None:
    if unit.header.endswith("?"):
        return str(int(board.powered))
    if len(unit.parameters) != 1:
        raise DeviceError(-109, "Missing parameter")
    board.powered = bool(_choice(unit.parameters[0], _SWITCH))
    if not board.powered and board.player.moving:
        board.player.halt()
    return None


def _spans(board: StandIn, parameters: tuple[Parameter, ...]) -> list[Span]:
    if len(parameters) != 1 or not isinstance(parameters[0], bytes):
        raise DeviceError(-104, "Data type error", "a block is expected")
    if board.player.state == "BRAKE":
        raise DeviceError(-221, "Settings conflict", "a board that brakes takes no more spans")
    if len(parameters[0]) > board.player.capacity * span_bytes(len(board.wiring)):
        raise DeviceError(-225, "Out of memory", f"room for {board.player.room} spans")
    try:
        return unpack(parameters[0], len(board.wiring))
    except ValueError as error:
        raise DeviceError(-161, "Invalid block data", str(error)) from None


def _fitting(board: StandIn, spans: list[Span], first: int) -> list[Span]:
    room = board.player.room + board.player.accepted - first
    if len(spans) > room:
        raise DeviceError(-225, "Out of memory", f"room for {room} spans")
    if board.player.too_steep(spans, first):
        raise DeviceError(-222, "Data out of range", "a span has more steps than ticks")
    if any(max(span.brake_us) > MOST_BRAKE_S * 1_000_000 for span in spans):
        raise DeviceError(-222, "Data out of range", f"a motion must be able to stop within {MOST_BRAKE_S} s")
    return spans


def _append(board: StandIn, _session: Session, unit: Unit) -> str:
    spans = _spans(board, unit.parameters)
    if board.player.complete:
        raise DeviceError(-221, "Settings conflict", "the motion takes no more spans")
    board.player.append(_fitting(board, spans, board.player.accepted))
    return f"{board.player.accepted},{board.player.room}"


def _replace(board: StandIn, _session: Session, unit: Unit) -> str:
    player = board.player
    first = int(_numbers(unit.parameters[:1], 1, 0, 2.0**53)[0])
    spans = _spans(board, unit.parameters[1:])
    if first > player.accepted:
        raise DeviceError(-222, "Data out of range", f"there are {player.accepted} spans")
    in_time = first >= player.begun
    if in_time:
        _fitting(board, spans, first)
        player.cut(first)
        player.append(spans)
    return f"{int(in_time)},{player.accepted},{player.room}"


def _end(board: StandIn, _session: Session, _unit: Unit) -> None:
    board.player.complete = True


def _motion_state(board: StandIn, _session: Session, _unit: Unit) -> str:
    player = board.player
    elapsed = round(player.elapsed_s * 1e6)
    return ",".join(map(str, (player.state, elapsed, player.begun, player.room, *player.now())))


def _initiate(board: StandIn, session: Session, _unit: Unit) -> None:
    board.need_rest()
    if not board.powered:
        raise DeviceError(-221, "Settings conflict", "the output is off")
    board.owner, board.heard_s = session, board.now_s
    board.player.start()


def _abort(board: StandIn, _session: Session, _unit: Unit) -> None:
    if board.player.moving:
        board.player.brake()
    else:
        board.player.clear()


WRITTEN: dict[str, Callable[[StandIn, Session, Unit], str | None]] = {
    "*CLS": _clear,
    "*ESE": _event_enable,
    "*ESE?": _event_enable,
    "*ESR?": _event_status,
    "*IDN?": _identify,
    "*OPC": _complete,
    "*OPC?": _complete,
    "*RST": _reset,
    "*SRE": _service_enable,
    "*SRE?": _service_enable,
    "*STB?": _status,
    "*TST?": lambda *_: "0",
    "*WAI": _none,
    "SYSTem:ERRor[:NEXT]?": _error,
    "SYSTem:VERSion?": lambda *_: "1999.0",
    "SYSTem:WATChdog": _watchdog,
    "SYSTem:WATChdog?": _watchdog,
    "SYSTem:TICKs": _ticks,
    "SYSTem:TICKs?": _ticks,
    "LINE:CATalog": _line_names,
    "LINE:CATalog?": _catalog,
    "LINE:LEVel?": _line_levels,
    "AXIS:COUNt": _axis_count,
    "AXIS:COUNt?": _axis_count,
    "AXIS:COIL": _axis_coil,
    "AXIS:PULSe": _axis_pulse,
    "AXIS:RATE": _axis_rate,
    "AXIS:REST": _axis_rest,
    "AXIS:POINter": _axis_pointer,
    "AXIS:POINter?": _axis_pointer,
    "POINter:CATalog?": _pointers,
    "POSition": _position,
    "POSition?": _position,
    "POSition:SHARe": _position_share,
    "OUTPut[:STATe]": _output,
    "OUTPut[:STATe]?": _output,
    "MOTion:APPend?": _append,
    "MOTion:END": _end,
    "MOTion:RECords?": lambda *_: str(VERSION),
    "MOTion:REPLace?": _replace,
    "MOTion:STATe?": _motion_state,
    "INITiate[:IMMediate]": _initiate,
    "ABORt": _abort,
}

COMMANDS = {spelling: command for header, command in WRITTEN.items() for spelling in spellings(header)}
