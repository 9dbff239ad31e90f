"""The text protocol: bytes to messages, messages to bytes. No sockets, no clock, no motion.

The syntax is that of IEEE 488.2-1992 (messages, common commands, definite-length blocks) and SCPI-1999
(long and short forms of headers, compound headers, error numbers). docs/board-protocol.md lists every command.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import NamedTuple

MOST_MESSAGE_BYTES = 1 << 20

NO_ERROR = (0, "No error")


class DeviceError(Exception):
    """What a board puts into its error queue: an SCPI error number (-100 to -499) with its text."""

    def __init__(self, number: int, text: str, detail: str = "") -> None:
        super().__init__(f"{number}, {text}")
        self.number = number
        self.text = f"{text};{detail}" if detail else text


def syntax_error(detail: str) -> DeviceError:
    """Return SCPI error -102."""
    return DeviceError(-102, "Syntax error", detail)


Parameter = str | float | bytes
"""A decoded parameter: character data or a quoted string as str, a number as float, a block as bytes."""


class Quoted(str):
    """A string that stood in quotes, so that it is never taken for a keyword."""

    __slots__ = ()


@dataclass(frozen=True, slots=True)
class Unit:
    """One command or query of a message: its full header in upper case, its suffix numbers taken out.

    Parameters
    ----------
    header : str
        Such as ``*IDN?`` or ``AXIS:COIL``.
    channel : int
        The numeric suffix of its first keyword, 1 where there is none.
    parameters : tuple
    """

    header: str
    channel: int
    parameters: tuple[Parameter, ...]


class Keyword(NamedTuple):
    """A keyword of a header in both forms: ``SYSTem`` may be written SYST or SYSTEM."""

    short: str
    long: str


class Receiver:
    """Cuts a stream of bytes into messages; a line feed inside a block or a string ends none."""

    def __init__(self) -> None:
        self._held = bytearray()

    def receive(self, data: bytes) -> list[bytes]:
        """Take what has arrived and return the messages that are now complete, without their line feeds.

        Raises
        ------
        DeviceError
            If a message is longer than 1 MiB (-363); it is then forgotten.
        """
        self._held += data
        found = []
        while (end := _message_end(self._held)) is not None:
            found.append(bytes(self._held[:end]))
            del self._held[: end + 1]
        if len(self._held) > MOST_MESSAGE_BYTES:
            self._held.clear()
            raise DeviceError(-363, "Input buffer overrun")
        return found


_NOTABLE = re.compile(rb"[\n\"'#]")


def _message_end(held: bytearray) -> int | None:
    at = 0
    while match := _NOTABLE.search(held, at):
        at = match.end()
        sign = match.group()
        if sign == b"\n":
            return match.start()
        if sign == b"#":
            body = _block_span(held, match.start())
            if body is not None:
                at = body[1]
            if at > len(held):
                return None
            continue
        close = held.find(sign, at)
        newline = held.find(b"\n", at)
        if close < 0 or 0 <= newline < close:  # an unclosed string ends with its line
            return newline if newline >= 0 else None
        at = close + 1
    return None


def _block_span(data: bytes | bytearray, at: int) -> tuple[int, int] | None:
    """Return where the body of a definite-length block at `at` begins and ends, None if there is none."""
    head = bytes(data[at + 1 : at + 2])
    if not head.isdigit() or head == b"0":
        return None
    digits = bytes(data[at + 2 : at + 2 + int(head)])
    if not digits.isdigit() or len(digits) < int(head):
        return None if len(digits) == int(head) else (len(data) + 1, len(data) + 1)
    begin = at + 2 + int(head)
    return begin, begin + int(digits)


def parse(message: bytes) -> list[Unit]:
    """Return the commands and queries of one message.

    Raises
    ------
    DeviceError
        If it breaks the syntax.
    """
    units, path = [], ""
    for part in _split(message, b";"):
        text = part.lstrip()  # what ends a part may be the last byte of a block, and is no space then
        if not text:
            continue
        match = re.match(rb"(\*[A-Za-z]+\??|:?[A-Za-z][A-Za-z0-9_]*(?::[A-Za-z][A-Za-z0-9_]*)*\??)(?=\s|$)", text)
        if not match:
            raise syntax_error(_readable(text))
        header = match.group().decode().upper()
        if not header.startswith("*"):
            header = header[1:] if header.startswith(":") else f"{path}{header}"
            path = header.rstrip("?").rpartition(":")[0]
            path = f"{path}:" if path else ""
        first, colon, rest = header.partition(":")
        name, number, query = re.fullmatch(r"(\*?[A-Z_]+(?:[0-9]+[A-Z_]+)*)([0-9]*)(\??)", first).groups()  # type: ignore[union-attr]
        values = tuple(_parameter(value.lstrip()) for value in _split(text[match.end() :].lstrip(), b","))
        units.append(Unit(f"{name}{query}{colon}{rest}", int(number[:9] or 1), values))
    return units


def _split(data: bytes, separator: bytes) -> list[bytes]:
    """Cut at `separator`, but not within strings and blocks."""
    parts, begin, at = [], 0, 0
    while at < len(data):
        sign = data[at : at + 1]
        if sign in (b'"', b"'"):
            close = data.find(sign, at + 1)
            if close < 0:
                raise DeviceError(-151, "Invalid string data", "no closing quote")
            at = close
        elif sign == b"#" and (body := _block_span(data, at)) is not None:
            if body[1] > len(data):
                raise DeviceError(-161, "Invalid block data", "shorter than it says")
            at = body[1] - 1
        elif sign == separator:
            parts.append(data[begin:at])
            begin = at + 1
        at += 1
    return [*parts, data[begin:]] if data else []


def _parameter(text: bytes) -> Parameter:
    if text[:1] == b"#" and (body := _block_span(text, 0)) is not None:
        if text[body[1] :].strip():
            raise DeviceError(-161, "Invalid block data", "another length than it says")
        return text[body[0] : body[1]]
    text = text.rstrip()
    if text[:1] in (b'"', b"'"):
        if len(text) < 2 or text[-1:] != text[:1]:
            raise DeviceError(-151, "Invalid string data", _readable(text))
        quote = text[:1].decode()
        return Quoted(text[1:-1].decode("utf-8", "replace").replace(quote * 2, quote))
    if re.fullmatch(rb"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", text):
        return float(text)
    if re.fullmatch(rb"[A-Za-z][A-Za-z0-9_]*", text):
        return text.decode().upper()
    raise syntax_error(_readable(text) or "a parameter is missing")


def _readable(data: bytes) -> str:
    text = data.decode("ascii", "replace")
    return "".join(c if c.isprintable() and c != '"' else "?" for c in text[:40])


def keyword(written: str) -> Keyword:
    """Return both forms of a keyword written as the standard does, the short form in capitals."""
    short = "".join(c for c in written if not c.islower())
    return Keyword(short.upper(), written.upper())


def spellings(header: str) -> list[str]:
    """Return every way to write a header such as ``SYSTem:ERRor[:NEXT]?``, in capitals."""
    query = "?" if header.endswith("?") else ""
    found = [""]
    for optional, written in re.findall(r"(\[?):?([A-Za-z_*]+)\]?", header.rstrip("?")):
        forms = [f"{base}:{form}".lstrip(":") for base in found for form in dict.fromkeys(keyword(written))]
        found = found + forms if optional else forms
    return [f"{form}{query}" for form in found]


def block(data: bytes) -> bytes:
    """Return `data` as a definite-length block."""
    length = str(len(data))
    return f"#{len(length)}{length}".encode() + data


def quoted(text: str) -> str:
    """Return `text` as a string parameter."""
    return '"' + text.replace('"', '""').replace("\n", " ") + '"'
