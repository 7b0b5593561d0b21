"""This module says what to do in commands: the core names sheets, which the command line has none of."""

from __future__ import annotations

import re

_WAYS: tuple[tuple[str, str], ...] = (
    (r"settle it on sheet 1, Intake", "tell it with --unit"),
    (r"mark it as to print on Intake, or leave it out", "leave it out with --body"),
    (r"mark it as to print on Intake", "release the job that it is of"),
    (r"close the hole on Intake", "close the hole with aimtrue mend"),
    (r"close its holes first, on sheet 1", "close its holes first with aimtrue mend"),
    (r"close its holes, on sheet 1", "close its holes with aimtrue mend"),
    (r"turn its faces outward, on sheet 1", "turn its faces outward with aimtrue face-outward"),
    (r"put it on one, on sheet 5, or release it where the file has it", "use aimtrue seat, or --place own"),
    (r"make copies of it on sheet 5", "make copies of it with aimtrue seat --copies"),
    (r"set how many it shows, on sheet 5, or do not shorten names for it", "use another pattern of names"),
    (r"cut it from the part on Division", "cut it from the part with aimtrue cut"),
    (r"scale its whole on Truing", "scale its whole with --factor"),
)

COMMAND_OF_REMEDY = {
    "close-holes": "aimtrue mend --remedy close-holes",
    "weld": "aimtrue mend --remedy weld",
    "remove-degenerate": "aimtrue mend --remedy remove-degenerate",
    "resolve-crossings": "aimtrue mend --remedy resolve-crossings",
    "rebuild": "aimtrue mend --remedy rebuild",
    "face-outward": "aimtrue face-outward",
    "sew": "aimtrue sew",
}
"""The command that does what a finding proposes, by the word that a finding has for it."""


def as_commands(says: str) -> str:
    """Return a message that names commands where it named sheets."""
    for sheet, command in _WAYS:
        says = re.sub(sheet, command, says)
    return re.sub(r"accept it there on purpose \(([a-z, -]+)\)", _accepting, says)


def _accepting(codes: re.Match[str]) -> str:
    options = " ".join(f"--accept {code}" for code in codes[1].split(", "))
    return f"accept it on purpose with {options}"
