"""Rows of a small CSV file (RFC 4180) that somebody has written, with the numbers of their lines."""

from __future__ import annotations

import csv
from collections.abc import Iterator

from kivant.core.errors import Fault, KivantError


def csv_rows(text: str, header: list[str], error: type[KivantError], *, most: int) -> list[tuple[int, list[str]]]:
    """Return the rows below the header, their fields without blanks at the ends.

    Raises
    ------
    KivantError
        Of the kind `error`, if the header is another one, there are more than `most` rows, or the text is no CSV.
    """
    rows = list(_rows(text, error))
    if not rows or [field.lower() for field in rows[0][1]] != header:
        raise error(Fault("line 1", f"Expected the header “{','.join(header)}”.", "Write it as the first line."))
    if len(rows) > most + 1:
        raise error(Fault("", f"There are more than {most} readings.", "Leave out the oldest."))
    return rows[1:]


def _rows(text: str, error: type[KivantError]) -> Iterator[tuple[int, list[str]]]:
    """Yield the lines that hold something."""
    reader = csv.reader(text.splitlines())
    try:
        for fields in reader:
            if any(field.strip() for field in fields):
                yield reader.line_num, [field.strip() for field in fields]
    except csv.Error as refused:
        raise error(Fault(f"line {reader.line_num}", f"This is not CSV: {refused}.", "Mend the line.")) from None
