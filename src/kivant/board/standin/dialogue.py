"""Bytes in, bytes out: what one connection says to the stand-in, and what it hears. No sockets.

Taking bytes needs no board and may take a while; working on the board is done in small parts, so that no connection
keeps another one waiting.
"""

from __future__ import annotations

from itertools import islice

from kivant.board.protocol.syntax import DeviceError, Unit, parse, spellings
from kivant.board.standin.commands import COMMANDS
from kivant.board.standin.device import Session, StandIn

MOST_WAITING = 1024
"""How many commands of a connection may wait to be worked on."""
_AT_A_TIME = 16

_STOPS, _POWER = frozenset(spellings("ABORt")), frozenset(spellings("OUTPut[:STATe]"))

_Waiting = Unit | DeviceError | None


def take(session: Session, data: bytes) -> None:
    """Take bytes of a connection: the commands that they complete wait to be worked on."""
    for message in session.receiver.receive(data):
        units = _units(message)
        if len(session.waiting) + len(units) >= MOST_WAITING:
            units = _rest(session, units)
        if units:
            session.waiting.extend((*units, None))


def _units(message: bytes | DeviceError) -> list[_Waiting]:
    if isinstance(message, DeviceError):
        return [message]
    try:
        return [*parse(message)]
    except DeviceError as error:
        return [error]


def _rest(session: Session, units: list[_Waiting]) -> list[_Waiting]:
    """Return what is taken of a message for which there is no room: a stop is never refused, one is as good as many."""
    latest = list(islice(reversed(session.waiting), 5))  # what was taken beyond the bound stands there
    stops = [] if any(map(_is_stop, latest)) else [unit for unit in units if _is_stop(unit)][:1]
    known = any(isinstance(waiting, DeviceError) and waiting.number == -350 for waiting in latest)
    return [*stops, *([] if known else [DeviceError(-350, "Queue overflow", "too many commands wait")])]


def work(board: StandIn, session: Session, most: int = _AT_A_TIME) -> bytes:
    """Let time pass, do at most so many of the commands that wait, and return all answers that are due."""
    board.advance()
    lines: list[str] = []
    if not board.player.moving:
        lines += ["1"] * session.awaits_completion
        session.awaits_completion = 0
    for _ in range(most):
        if not session.waiting or board.behind:
            break
        if _is_held_back(board, session):
            unit = _stop_behind(session)
            if unit is None:
                break
        else:
            unit = session.waiting.popleft()
        if unit is not None:
            _do(board, session, unit)
        if session.answers and (unit is None or _is_held_back(board, session)):
            lines.append(";".join(session.answers))
            session.answers.clear()
    return "".join(f"{line}\n" for line in lines).encode()


def is_ready(board: StandIn, session: Session) -> bool:
    """Return whether there is something to work on now."""
    if board.behind:
        return True
    return bool(session.waiting) and (not _is_held_back(board, session) or any(map(_is_stop, session.waiting)))


def _is_stop(unit: _Waiting) -> bool:
    if not isinstance(unit, Unit):
        return False
    return unit.header in _STOPS or (unit.header in _POWER and unit.parameters in (("OFF",), (0.0,)))


def _is_held_back(board: StandIn, session: Session) -> bool:
    first = session.waiting[0] if session.waiting else None
    return isinstance(first, Unit) and first.header == "*WAI" and board.player.moving


def _stop_behind(session: Session) -> _Waiting:
    """Take a stop, wherever it stands behind what has to wait; None if there is none."""
    stop = next(filter(_is_stop, session.waiting), None)
    if stop is not None:
        session.waiting.remove(stop)
    return stop


def _do(board: StandIn, session: Session, unit: Unit | DeviceError) -> None:
    try:
        if isinstance(unit, DeviceError):
            raise unit
        command = COMMANDS.get(unit.header)
        if command is None:
            raise DeviceError(-113, "Undefined header", unit.header)
        answer = command(board, session, unit)
    except DeviceError as error:
        board.report(error)
        return
    # What is not understood is no sign of a host that knows what it does.
    session.heard_s = board.now_s
    if session is board.owner:
        board.heard_s = board.now_s
    if answer is not None:
        session.answers.append(answer)
