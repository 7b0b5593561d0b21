"""ZIP packages, the same bytes for the same contents, deflated by Intel's ISA-L.

The standard library's ``zipfile`` reads them; it cannot be given another compressor, and its own took half of
the time of a release. Format: PKWARE APPNOTE 6.3.10, with its longer fields (4.5.3, 4.3.14) where a package
needs them.
"""

from __future__ import annotations

import io
import struct
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from typing import IO

from isal import isal_zlib

_LEVEL = 2
"""The level of compression, from 0 to 3; level 3 takes twice as long and saves a hundredth."""
_DATE, _TIME = 0x0021, 0
"""1980-01-01, the first day of the format: no clock, so the same contents give the same bytes."""
_UTF8_NAMES = 0x0800
_USUAL, _LONG = 20, 45
"""Versions of the format that are needed to read an entry."""
_FIELD, _COUNT = 0xFFFF_FFFF, 0xFFFF
"""What a field says when its number is in a longer one."""
_MOST_BYTES, _MOST_ENTRIES = _FIELD, _COUNT
"""A package with this many bytes or entries, or more, needs the longer fields of ZIP64."""


def packed(entries: Iterable[tuple[str, bytes]]) -> bytes:
    """Pack files into a ZIP in their order; what does not get smaller is stored as it is.

    Args:
        entries: names, with ``/`` between folders, and contents.
    """
    out = io.BytesIO()
    pack(entries, out)
    return out.getvalue()


def pack(entries: Iterable[tuple[str, bytes]], out: IO[bytes]) -> None:
    """Pack files as :func:`packed` does into a file; only one of them is held at a time.

    Args:
        entries: names and contents, asked for one after the other.
        out: is written from where it stands, and only forward.
    """
    written, kept = 0, []
    for name, data in entries:
        body, method = _deflated(data)
        entry = _Entry(name.encode(), method, isal_zlib.crc32(data), len(body), len(data), written)
        written += out.write(entry.head())
        written += out.write(body)
        kept.append(entry)
    listing = b"".join(entry.listed() for entry in kept)
    out.write(listing + _end(len(kept), len(listing), written))


@dataclass(frozen=True)
class _Entry:
    """A file of a package: its sizes packed and whole, and at what byte it begins."""

    label: bytes
    method: int
    checksum: int
    packed: int
    whole: int
    at: int

    def head(self) -> bytes:
        """What stands before the file; of its two sizes both are long or none."""
        long = max(self.packed, self.whole) >= _MOST_BYTES
        longer = _longer(self.whole, self.packed) if long else b""
        sizes = (_FIELD, _FIELD) if long else (self.packed, self.whole)
        lengths = (len(self.label), len(longer))
        return (
            struct.pack("<4s5H3L2H", b"PK\3\4", *self._fields(longer), *sizes, *lengths) + self.label + longer
        )

    def listed(self) -> bytes:
        """What stands about it in the list at the end, where only what is too long is in longer fields."""
        numbers = (self.packed, self.whole, self.at)
        longer = _longer(*(size for size in (self.whole, self.packed, self.at) if size >= _MOST_BYTES))
        packed, whole, at = (_FIELD if number >= _MOST_BYTES else number for number in numbers)
        fields = self._fields(longer)
        lengths = (len(self.label), len(longer))
        return (
            struct.pack("<4s2B5H3L", b"PK\1\2", fields[0], 0, *fields, packed, whole)
            + struct.pack("<5H2L", *lengths, 0, 0, 0, 0, at)
            + self.label
            + longer
        )

    def _fields(self, longer: bytes) -> tuple[int, ...]:
        return (_LONG if longer else _USUAL, _UTF8_NAMES, self.method, _TIME, _DATE, self.checksum)


def _longer(*numbers: int) -> bytes:
    return struct.pack(f"<2H{len(numbers)}Q", 1, 8 * len(numbers), *numbers) if numbers else b""


def _end(entries: int, listing: int, at: int) -> bytes:
    """The end of a package, whose list of so many bytes begins at some byte."""
    long = entries >= _MOST_ENTRIES or listing >= _MOST_BYTES or at >= _MOST_BYTES
    longer = b""
    if long:
        record = (44, _LONG, _LONG, 0, 0, entries, entries, listing, at)
        longer = struct.pack("<4sQ2H2L4Q", b"PK\6\6", *record)
        longer += struct.pack("<4sLQL", b"PK\6\7", 0, at + listing, 1)
        entries, listing, at = _COUNT, _FIELD, _FIELD
    return longer + struct.pack("<4s4H2LH", b"PK\5\6", 0, 0, entries, entries, listing, at, 0)


def _deflated(data: bytes) -> tuple[bytes, int]:
    deflate = isal_zlib.compressobj(_LEVEL, isal_zlib.DEFLATED, -15)
    body = deflate.compress(data) + deflate.flush()
    return (body, zipfile.ZIP_DEFLATED) if len(body) < len(data) else (data, zipfile.ZIP_STORED)
