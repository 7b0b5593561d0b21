"""Patterns of fields, such as ``{job}_{body}_r{revision}``."""

from __future__ import annotations

import re
from collections.abc import Mapping

from aimtrue.core.errors import Refused
from aimtrue.core.model.text import refuse_odd
from aimtrue.core.release.names.safe import safe

FIELDS: dict[str, str] = {
    "job": "name of the job",
    "body": "name of the body, or of the first in the file",
    "file": "name of the file that it came from",
    "number": "number of the file among those of this release",
    "of": "how many files this release has",
    "count": "how many of the body the file stands for",
    "plate": "number of the plate",
    "machine": "name of the machine",
    "material": "name of the material",
    "size": "overall size in mm, such as 124x124x5.2",
    "factor": "correction in force",
    "unit": "unit that the file is written in",
    "revision": "number of the release",
    "date": "day of the release, such as 2026-11-27",
    "time": "hour and minute of the release",
    "takes": "how long it prints, as a display shows it, such as 3h51",
}
"""Every field with what it stands for."""
LONGEST_PATTERN = 300

_FIELD = re.compile(r"\{([^{}]*)\}")


def filled(pattern: str, fields: Mapping[str, str]) -> str:
    """Fill a pattern and make it a safe name.

    Args:
        pattern: text with fields in braces.
        fields: a value for each of :data:`FIELDS`.

    Raises:
        Refused: it is too long, names a field that does not exist, has a brace alone, or gives an empty name.
    """
    refuse_odd(pattern, "a pattern of names", most=len(pattern))
    if len(pattern) > LONGEST_PATTERN:
        raise Refused(
            "pattern-long",
            f"the name pattern has {len(pattern)} characters; at most {LONGEST_PATTERN} are taken",
            remedy="make it shorter",
        )
    unknown = next((name for name in _FIELD.findall(pattern) if name not in fields), None)
    if unknown is not None:
        raise Refused(
            "pattern-field",
            f"the name pattern has no field {{{unknown[:40]}}}",
            remedy="use " + ", ".join(f"{{{name}}}" for name in fields),
        )
    if re.search(r"[{}]", _FIELD.sub("", pattern)):
        raise Refused(
            "pattern-brace",
            "the name pattern has a brace without its other",
            remedy="put each field between { and }",
        )
    return safe(_FIELD.sub(lambda match: fields[match[1]], pattern))
