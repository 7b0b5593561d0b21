"""Files to try the app with: they lie beside this page, and each shows one promise by being worked on.

They are of the Larch Hill parts; ``demo/build.py`` makes them, and a test holds them to what it makes.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from aimtrue.core.errors import AimTrueError


class UnknownExample(AimTrueError):
    """There is no example of that name."""


@dataclass(frozen=True)
class Example:
    """A file to try: ``promise`` is what it shows, ``says`` what one does with it."""

    name: str
    promise: str
    says: str

    @property
    def path(self) -> Path:
        """Where it lies."""
        return Path(__file__).parent / self.name


EXAMPLES = (
    Example(
        "shim-plate.stl",
        "The unit is never guessed",
        "A plate of 2 × 1 × 1/2, and the file does not say of what. See what each unit makes of it.",
    ),
    Example(
        "clamp-shells.stl",
        "A measurement sets the size",
        "Two shells drawn for a tube of 142.86 mm; the tube was measured at 140.3 mm. Type it on Truing.",
    ),
    Example(
        "setting-dial.3mf",
        "What leaves is read back",
        "Two colours that belong together, of the right size already. Release them, and see the proof.",
    ),
)


def example(name: str) -> Example:
    """Return an example by its name.

    Raises:
        UnknownExample: there is none.
    """
    for known in EXAMPLES:
        if known.name == name:
            return known
    names = ", ".join(known.name for known in EXAMPLES)
    raise UnknownExample("example-unknown", f"there is no example {name}", remedy=f"open one of {names}")
