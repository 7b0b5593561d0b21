"""Rows of numbers as text, many at once.

A fast JSON writer prints every float32 with the fewest digits that bring it back (Ryu, Adams 2018); the marks
between its numbers are then replaced by what a format wants there. Column by column in Python takes ten times
as long.
"""

from __future__ import annotations

import numpy as np
import orjson
from numpy.typing import NDArray

_AT_ONCE = 200_000
"""Rows of which the text is made at once, so that it never takes much memory."""


def rows_of_floats(rows: NDArray[np.floating], *, start: str, between: tuple[str, ...], end: str) -> bytes:
    """Print (n, k) numbers as float32.

    Args:
        rows: finite numbers.
        start: before the first number of a row.
        between: before each further one: k - 1 texts.
        end: after the last one.
    """
    return _text(rows.astype(np.float32), start, between, end, np.float32(np.nan), b"null")


def rows_of_whole(rows: NDArray[np.integer], *, start: str, between: tuple[str, ...], end: str) -> bytes:
    """Print (n, k) whole numbers of 0 or more; see :func:`rows_of_floats`."""
    return _text(rows.astype(np.int64), start, between, end, np.int64(-1), b"-1")


def _text(
    rows: NDArray[np.generic], start: str, between: tuple[str, ...], end: str, mark: np.generic, word: bytes
) -> bytes:
    """Print rows. Different texts between numbers are told apart by so many marks among them."""
    if not len(rows):
        return b""
    kinds = list(dict.fromkeys(between))
    columns: list[int] = [0]
    for number, text in enumerate(between, 1):
        columns += [-1] * kinds.index(text)
        columns.append(number)
    pieces = []
    for at in range(0, len(rows), _AT_ONCE):
        some = rows[at : at + _AT_ONCE]
        marked = np.full((len(some), len(columns)), mark, dtype=rows.dtype)
        own = np.array(columns) >= 0
        marked[:, own] = some
        written_rows = orjson.dumps(marked, option=orjson.OPT_SERIALIZE_NUMPY)[2:-2]
        written_rows = written_rows.replace(b"],[", (end + start).encode())
        for count in reversed(range(len(kinds))):
            written_rows = written_rows.replace(b"," + (word + b",") * count, kinds[count].encode())
        pieces.append(start.encode() + written_rows + end.encode())
    return b"".join(pieces)
