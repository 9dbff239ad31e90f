"""The text protocol: bytes to messages, messages to bytes. No sockets, no clock, no motion.

The syntax is that of IEEE 488.2-1992 (messages, common commands, definite-length blocks) and SCPI-1999
(long and short forms of headers, compound headers, error numbers). docs/board-protocol.md lists every command.
"""

from __future__ import annotations

import re
from typing import NamedTuple

from msgspec import Struct

MOST_MESSAGE_BYTES = 1 << 18
MOST_UNITS, MOST_PARAMETERS = 64, 512
"""Commands of a message, and parameters of a command."""
_MOST_HEADER = 120  # characters
_MOST_DIGITS = 255  # of a number, as IEEE 488.2 has it

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


class Unit(Struct, frozen=True):
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
    """Cuts a stream of bytes into messages; a line feed inside a block or a string ends none.

    Each byte is looked at once, in whatever pieces it comes, and no more is held than the longest message.
    """

    def __init__(self) -> None:
        self._held = bytearray()
        self._at = 0  # all before it is settled: no line feed there ends the message
        self._searched = 0  # neither the close of a string nor a line feed stands before it
        self._losing = False  # the message was too long already

    def receive(self, data: bytes) -> list[bytes | DeviceError]:
        """Take what has arrived and return the messages that are now complete, without their line feeds.

        In place of a message longer than `MOST_MESSAGE_BYTES` stands its error (-223), once, and all of it is passed
        over: what it held is never taken for commands.
        """
        self._held += data
        found: list[bytes | DeviceError] = []
        while (end := self._end()) is not None:
            if not self._losing:
                found.append(bytes(self._held[:end]))
            self._forget(end + 1)
            self._losing = False
        if not self._losing and max(len(self._held), self._at) > MOST_MESSAGE_BYTES:
            self._losing = True
            found.append(DeviceError(-223, "Too much data", f"a message has at most {MOST_MESSAGE_BYTES} bytes"))
        if self._losing:
            if self._searched > self._at:  # of a string without an end, its quote is enough
                del self._held[self._at + 1 : self._searched]
                self._searched = self._at + 1
            self._forget(min(self._at, len(self._held)))
        return found

    def _forget(self, count: int) -> None:
        del self._held[:count]
        self._at = max(self._at - count, 0)
        self._searched = max(self._searched - count, 0)

    def _end(self) -> int | None:
        """Return where the line feed is that ends the message, None if it has not come."""
        held = self._held
        while self._at < len(held):
            if self._searched <= self._at:
                match = _SETTLED.match(held, self._at)
                self._at = match.end() if match else self._at
                if self._at == len(held):
                    break
            sign = held[self._at : self._at + 1]
            if sign == b"\n":
                end, self._at = self._at, self._at + 1
                return end
            if sign == b"#":
                body = _block_span(held, self._at)
                if self._at + 1 == len(held) or body == _unknown(held):  # how long a block it is has not come yet
                    return None
                self._at = body[1] if body else self._at + 1  # maybe beyond what has come
                continue
            begin = max(self._at + 1, self._searched)
            close, newline = held.find(sign, begin), held.find(b"\n", begin)
            if newline >= 0 and not 0 <= close < newline:  # an unclosed string ends with its line
                self._at = newline
            elif close >= 0:
                self._at = close + 1
            else:
                self._searched = len(held)
                return None
        return None


_SETTLED = re.compile(rb"""(?:[^\n"'#]++|"[^"\n]*+"|'[^'\n]*+'|#(?=[^1-9]))*+""")


def _block_span(data: bytes | bytearray, at: int) -> tuple[int, int] | None:
    """Return where the body of a definite-length block at `at` begins and ends, None if there is none.

    Where its length is not in the data, that is beyond their end (`_unknown`).
    """
    head = bytes(data[at + 1 : at + 2])
    if not head.isdigit() or head == b"0":
        return None
    digits = bytes(data[at + 2 : at + 2 + int(head)])
    if not digits.isdigit() or len(digits) < int(head):
        return None if len(digits) == int(head) else _unknown(data)
    begin = at + 2 + int(head)
    return begin, begin + int(digits)


def _unknown(data: bytes | bytearray) -> tuple[int, int]:
    return len(data) + 1, len(data) + 1


def parse(message: bytes) -> list[Unit]:
    """Return the commands and queries of one message.

    Raises
    ------
    DeviceError
        If it breaks the syntax.
    """
    units, path = [], ""
    for part in _split(message, b";", MOST_UNITS):
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
        if len(header) > _MOST_HEADER:
            raise DeviceError(-112, "Program mnemonic too long", _readable(text))
        first, colon, rest = header.partition(":")
        name, number, query = re.fullmatch(r"(\*?[A-Z_]+(?:[0-9]+[A-Z_]+)*)([0-9]*)(\??)", first).groups()  # type: ignore[union-attr]
        values = tuple(
            _parameter(value.lstrip()) for value in _split(text[match.end() :].lstrip(), b",", MOST_PARAMETERS)
        )
        units.append(Unit(f"{name}{query}{colon}{rest}", int(number[:9] or 1), values))
    return units


_UP_TO = {sign: re.compile(rb"""(?:[^%b"'#]++|"[^"]*+"|'[^']*+'|#(?![1-9]))*+""" % sign) for sign in (b";", b",")}


def _split(data: bytes, separator: bytes, most: int) -> list[bytes]:
    """Cut at `separator`, but not within strings and blocks, into so many parts at the most."""
    parts: list[bytes] = []
    begin = at = blocks = 0
    while True:
        match = _UP_TO[separator].match(data, at)
        at = match.end() if match else at
        sign = data[at : at + 1]
        if not sign:
            return [*parts, data[begin:]] if data else []
        if sign == b"#":
            body = _block_span(data, at)
            if body is not None and body[1] > len(data):
                raise DeviceError(-161, "Invalid block data", "shorter than stated")
            at, blocks = body[1] if body is not None else at + 1, blocks + 1
            if blocks > MOST_UNITS:
                raise DeviceError(-223, "Too much data", f"at most {MOST_UNITS} blocks")
        elif sign == separator:
            parts.append(data[begin:at])
            if len(parts) >= most:
                raise DeviceError(-223, "Too much data", f"at most {most} parts")
            begin = at = at + 1
        else:
            raise DeviceError(-151, "Invalid string data", "no closing quote")


def _parameter(text: bytes) -> Parameter:
    if text[:1] == b"#" and (body := _block_span(text, 0)) is not None:
        if text[body[1] :].strip():
            raise DeviceError(-161, "Invalid block data", "a different length than stated")
        return text[body[0] : body[1]]
    text = text.rstrip()
    if text[:1] in (b'"', b"'"):
        if len(text) < 2 or text[-1:] != text[:1]:
            raise DeviceError(-151, "Invalid string data", _readable(text))
        quote = text[:1].decode()
        return Quoted(text[1:-1].decode("utf-8", "replace").replace(quote * 2, quote))
    if re.fullmatch(rb"[+-]?(\d++\.?\d*+|\.\d++)([eE][+-]?\d++)?", text):
        if len(text) > _MOST_DIGITS:
            raise DeviceError(-124, "Too many digits")
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
