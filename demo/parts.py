"""The Larch Hill files and their true sizes: the table the tests hold everything against."""

from __future__ import annotations

import hashlib
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path

from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.source import Up
from aimtrue.core.model.value import Vec3

HERE = Path(__file__).resolve().parent
OUT = HERE / "out"


@dataclass(frozen=True)
class Part:
    """One demo file.

    Attributes:
        file: its name.
        title: the name of its demo job.
        unit: the unit the file is in.
        declared: whether the file says so itself.
        size_mm: true overall size with Z up.
        pieces: bodies in the file, specks included.
        closed: whether the mesh is closed.
        up: which axis points up in the file.
        settled: whether the demo job has its unit settled already.
        volume_mm3: where it is known by formula.
        slack_mm: how far facets may keep a round outline from its true size.
    """

    file: str
    title: str
    unit: Unit
    declared: bool
    size_mm: Vec3
    pieces: int
    closed: bool = True
    up: Up = "z"
    settled: bool = True
    volume_mm3: float | None = None
    slack_mm: float = 0.0


PARTS: tuple[Part, ...] = (
    Part("eyepiece-rack.stl", "Eyepiece rack", Unit.IN, False, (139.7, 44.45, 19.05), 6),
    Part("clamp-shells.stl", "Clamp shells", Unit.MM, False, (212.0, 158.86, 44.0), 2, slack_mm=0.06),
    Part("dew-shield.3mf", "Dew shield", Unit.MM, True, (262.0, 262.0, 310.0), 1, slack_mm=0.1),
    Part("setting-dial.3mf", "Setting dial", Unit.MM, True, (124.0, 124.0, 5.2), 2, slack_mm=0.05),
    Part("focus-knob.stl", "Focus knob", Unit.M, False, (38.0, 38.0, 22.0), 1, slack_mm=0.05),
    Part("focus-drive.3mf", "Focus drive", Unit.MM, True, (40.0, 38.0, 76.0), 4, slack_mm=0.05),
    Part("shim-plate.stl", "Shim plate", Unit.IN, False, (50.8, 25.4, 12.7), 1, settled=False),
    Part(
        "clamp-shells.step", "Clamp shells, from CAD", Unit.MM, True, (212.0, 158.86, 44.0), 2, slack_mm=0.06
    ),
    Part("counterweight.stl", "Counterweight", Unit.MM, False, (80.0, 80.0, 60.0), 1, up="y", slack_mm=0.05),
    Part(
        "hand-grip-scan.stl",
        "Hand grip, scanned",
        Unit.MM,
        False,
        (46.0, 38.0, 118.0),
        1,
        closed=False,
        slack_mm=2.0,
    ),
    Part("finder-shoe.stl", "Finder shoe, from a site", Unit.MM, False, (48.0, 32.0, 11.3), 29, closed=False),
)


def part(file: str) -> Part:
    """Return a part by its file name."""
    return next(one for one in PARTS if one.file == file)


def built(out: Path = OUT) -> Path:
    """Build the files unless they are there already, and return their folder.

    The CAD kernel is slow to load, so it is loaded in a process of its own.
    """
    stamp = out / ".built-from"
    made_by = (HERE / "build.py").read_bytes() + (HERE / "solids.py").read_bytes()
    now = hashlib.sha256(made_by).hexdigest()
    if not (stamp.exists() and stamp.read_text() == now):
        out.mkdir(parents=True, exist_ok=True)
        subprocess.run([sys.executable, "-m", "demo.build", str(out)], cwd=HERE.parent, check=True)
        stamp.write_text(now)
    return out


if __name__ == "__main__":
    built()
