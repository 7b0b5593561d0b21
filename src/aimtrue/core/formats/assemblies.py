"""Assemblies that name parts in other files."""

from __future__ import annotations

import re

_DOCUMENT_FILE = re.compile(rb"\bDOCUMENT_FILE\s*\(\s*'((?:[^']|'')+)'", re.I)


def parts_elsewhere(data: bytes) -> tuple[str, ...]:
    """Return the names of the files that a STEP assembly names parts in (ISO 10303-44, document_file)."""
    if not data.lstrip()[:12].startswith(b"ISO-10303-21"):
        return ()
    generator = (match[1].decode("latin-1") for match in _DOCUMENT_FILE.finditer(data))
    names = (name.replace("\\", "/").rpartition("/")[2] for name in generator)
    return tuple(dict.fromkeys(name for name in names if name.lower().endswith((".stp", ".step", ".p21"))))
