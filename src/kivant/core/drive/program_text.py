"""A table of coil words as text for somebody's own program: words of a port, forwards and backwards."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec import Struct

from kivant.core.drive.phases import COILS

BITS = ("ABCD", "DCBA")
"""Which coil is the lowest bit of a port: the first one, or the last one."""


class Language(Struct, frozen=True):
    """How tables are written in a language: its name, and the text of both tables."""

    name: str
    text: Callable[[list[str], list[str], str], str]


def _c(forward: list[str], backward: list[str], note: str) -> str:
    tables = (("FORWARD", forward), ("BACKWARD", backward))
    rows = "\n".join(f"const unsigned char {name}[{len(t)}] = {{ {', '.join(t)} }};" for name, t in tables)
    return f"/* {note} */\n{rows}\n"


def _python(forward: list[str], backward: list[str], note: str) -> str:
    return f"# {note}\nFORWARD = ({', '.join(forward)})\nBACKWARD = ({', '.join(backward)})\n"


def _hex(forward: list[str], _backward: list[str], _note: str) -> str:
    return " ".join(word.removeprefix("0x") for word in forward) + "\n"


LANGUAGES: Mapping[str, Language] = {
    "c": Language("C", _c),
    "python": Language("Python", _python),
    "hex": Language("plain hex", _hex),
}
"""Every language by its key, in the order in which they are offered."""


def program_text(words: tuple[int, ...], language: str, *, bits: str = BITS[0], active: str = "high") -> str:
    """Return the words as text in a language.

    Parameters
    ----------
    words : tuple of int
        Coil A is the lowest bit.
    language : str
        A key of `LANGUAGES`.
    bits : str
        The coils from the lowest bit of the port upwards.
    active : str
        The level that switches a coil on.
    """
    all_on = (1 << len(COILS)) - 1

    def port(word: int) -> str:
        value = sum((word >> COILS.index(coil) & 1) << place for place, coil in enumerate(bits))
        return f"0x{value if active == 'high' else all_on - value:02X}"

    forward = [port(word) for word in words]
    note = f"{', '.join(f'{coil}: bit {place}' for place, coil in enumerate(bits))}; a coil is on at {active} level"
    return LANGUAGES[language].text(forward, [forward[0], *forward[:0:-1]], note)
