"""File names: from a pattern, safe on every file system."""

from __future__ import annotations

import re
import unicodedata

from aimtrue.core.errors import Refused

LONGEST = 60
"""Characters of a name without its ending, so that small displays and old drives take it."""

_FIELD = re.compile(r"\{([^{}]*)\}")
_DEVICE_NAMES = {"con", "prn", "aux", "nul", *(f"{p}{n}" for p in ("com", "lpt") for n in range(1, 10))}


def from_pattern(pattern: str, fields: dict[str, str]) -> str:
    """Fill a pattern such as ``{job}_{body}_r{number}`` and make it a safe name.

    Raises:
        Refused: the pattern names a field that does not exist, or gives an empty name.
    """
    unknown = [name for name in _FIELD.findall(pattern) if name not in fields]
    if unknown:
        raise Refused(
            "pattern-field",
            f"the name pattern has no field {{{unknown[0]}}}",
            remedy="use " + ", ".join(f"{{{name}}}" for name in fields),
        )
    return safe(_FIELD.sub(lambda match: fields[match[1]], pattern))


def unique(name: str, taken: set[str]) -> str:
    """Return the name, with a number when it is taken; case does not tell names apart."""
    stems = {one.rpartition(".")[0].lower() for one in taken}
    number, candidate = 2, name
    while candidate.lower() in stems:
        candidate, number = f"{name[: LONGEST - 4]}-{number}", number + 1
    return candidate


def safe(text: str) -> str:
    """Return a name of letters, digits, ``-``, ``_`` and ``.`` that any file system takes."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    name = re.sub(r"-+", "-", re.sub(r"[^A-Za-z0-9._-]+", "-", plain)).strip("-._")[:LONGEST].rstrip("-._")
    if not name:
        raise Refused(
            "name-empty", f"“{text}” leaves no usable file name", remedy="type a name with letters or digits"
        )
    return f"{name}-part" if name.lower() in _DEVICE_NAMES else name
