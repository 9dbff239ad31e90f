"""Bytes in, bytes out: what one connection says to the stand-in, and what it hears. No sockets."""

from __future__ import annotations

from kivant.board.protocol.syntax import DeviceError, Unit, parse
from kivant.board.standin.commands import COMMANDS
from kivant.board.standin.device import Session, StandIn


def receive(board: StandIn, session: Session, data: bytes) -> bytes:
    """Take bytes of a connection and return the answers to what they complete."""
    board.advance()
    if session is board.owner:
        board.heard_s = board.now_s
    answers = bytearray()
    try:
        messages = session.receiver.receive(data)
    except DeviceError as error:
        board.report(error)
        messages = []
    for message in messages:
        try:
            session.waiting_units.extend(parse(message))
        except DeviceError as error:
            board.report(error)
        answers += _work(board, session)
    return bytes(answers)


def poll(board: StandIn, session: Session) -> bytes:
    """Let time pass and return answers that have become due."""
    board.advance()
    return _work(board, session)


def _work(board: StandIn, session: Session) -> bytes:
    answers: list[str] = []
    if not board.player.moving:
        answers += ["1"] * session.awaits_completion
        session.awaits_completion = 0
    while session.waiting_units:
        if session.waiting_units[0].header == "*WAI" and board.player.moving:
            break
        unit = session.waiting_units.pop(0)
        try:
            answer = _execute(board, session, unit)
        except DeviceError as error:
            board.report(error)
            continue
        if answer is not None:
            answers.append(answer)
    return (";".join(answers) + "\n").encode() if answers else b""


def _execute(board: StandIn, session: Session, unit: Unit) -> str | None:
    command = COMMANDS.get(unit.header)
    if command is None:
        raise DeviceError(-113, "Undefined header", unit.header)
    return command(board, session, unit)
