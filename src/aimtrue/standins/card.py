"""A simulated card: a folder that behaves like one, full, write-protected, or pulled out while it is written.

It stands for no card in particular. Its settings are a file beside the folder.
"""

from __future__ import annotations

import errno
import shutil
import tempfile
from pathlib import Path
from typing import IO

from pydantic import Field

from aimtrue.core.errors import Refused
from aimtrue.core.model.value import Value
from aimtrue.handover.folders import ASIDE, Folder

_SETTINGS = "card.json"


class CardSettings(Value):
    """How the card behaves.

    Attributes:
        capacity: bytes that it holds.
        longest_name: bytes of a file's name, its ending included.
        largest_file: bytes of one file.
        protected: whether its lock is on.
        out: whether it was pulled out, or ejected.
        pull_after: it is pulled out once so many bytes were written to it; None for never.
    """

    capacity: int = Field(64_000_000, ge=0, le=1 << 42)
    longest_name: int = Field(64, ge=8, le=255)
    largest_file: int = Field((1 << 32) - 1, ge=1)
    protected: bool = False
    out: bool = False
    pull_after: int | None = Field(None, ge=0)


class Card(Folder):
    """The card in its slot.

    Args:
        home: where the card's folder and its settings are kept.
    """

    def __init__(self, home: Path) -> None:
        super().__init__(home / "card")
        self._home = home
        self.path.mkdir(parents=True, exist_ok=True)
        self.settings = self._read()
        self._poured = 0

    def _read(self) -> CardSettings:
        path = self._home / _SETTINGS
        return CardSettings.model_validate_json(path.read_bytes()) if path.exists() else CardSettings()

    def set(self, settings: CardSettings) -> None:
        """Change how it behaves."""
        handle, aside = tempfile.mkstemp(dir=self._home)
        with open(handle, "w") as file:
            file.write(settings.model_dump_json())
        Path(aside).replace(self._home / _SETTINGS)
        self.settings = settings

    @property
    def longest_name(self) -> int:  # type: ignore[override]
        """Bytes that a name may have."""
        return self.settings.longest_name

    @property
    def largest_file(self) -> int:  # type: ignore[override]
        """Bytes that a file may have."""
        return self.settings.largest_file

    def files(self) -> list[tuple[str, int]]:
        """Return what is on it: names and bytes."""
        return sorted((path.name, path.stat().st_size) for path in self.path.iterdir() if path.is_file())

    def room(self) -> int:
        """Return how many bytes there is room for."""
        return max(0, self.settings.capacity - sum(size for _, size in self.files()))

    def refuse(self) -> None:
        """Refuse to be written to while it is out or locked."""
        if self.settings.out:
            raise Refused("drive-gone", "the card is not in its slot", remedy="put it in, and try again")
        if self.settings.protected:
            raise Refused("drive-protected", "the card is write-protected", remedy="unlock it")

    def pour(self, file: IO[bytes], piece: bytes) -> None:
        """Write a piece; the card may be pulled out in the middle of it, or fill up."""
        after = self.settings.pull_after
        if after is not None and self._poured + len(piece) > after:
            file.write(piece[: max(0, after - self._poured)])
            self.set(self.settings.model_copy(update={"out": True, "pull_after": None}))
            raise OSError(errno.ENODEV, "pulled out")
        if sum(size for _, size in self.files()) + len(piece) > self.settings.capacity:
            raise OSError(errno.ENOSPC, "full")
        file.write(piece)
        file.flush()
        self._poured += len(piece)

    def eject(self) -> None:
        """Take it out; what is on it is whole, since files get their names only when they are.

        Raises:
            Refused: a file is just being written to it.
        """
        if any(self.path.glob(ASIDE.format("*"))):
            raise Refused(
                "drive-busy", "a file is being written to the card", remedy="wait until all is down"
            )
        self.set(self.settings.model_copy(update={"out": True}))

    def put_in(self) -> None:
        """Put it in again; what was left half by a pull is gone, as a file system's check would have it."""
        for path in self.path.glob(ASIDE.format("*")):
            path.unlink()
        self.set(self.settings.model_copy(update={"out": False}))

    def empty(self) -> None:
        """Take everything off it."""
        shutil.rmtree(self.path)
        self.path.mkdir()
