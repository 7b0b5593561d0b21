"""Settings, each from an environment variable that begins with ``AIMTRUE_``."""

from __future__ import annotations

import os
from functools import lru_cache
from ipaddress import ip_address
from pathlib import Path
from urllib.parse import quote

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from aimtrue.core.errors import AimTrueError

ROOT = Path(__file__).resolve().parents[2]
DATABASE_USER = "aimtrue"
OWN_HEADER = "X-Aim-True"
"""Wanted on every change. What it says does not matter: that it is there shows who sent it."""
_PREFIX = "AIMTRUE_"
_TASKS_AT_ONCE = 3
"""A worker does this many tasks at once: two that somebody waits for, and one aside."""
_LEAST_MEMORY = 4_000_000_000
"""A task has at least this many bytes of addresses; the libraries alone take half of them."""
LEAST_KEY = 12
"""Characters of a key: with few tries a minute, more than anyone can try."""


def password_file(cluster: Path) -> Path:
    """Return where the password of a database of our own is, given its folder; only its owner can read it."""
    return cluster.resolve().with_suffix(".password")


def address_of(port: int, passwords: Path) -> str:
    """Return the libpq address of a database of our own."""
    where = f"127.0.0.1:{port}/{DATABASE_USER}"
    return f"postgresql://{DATABASE_USER}@{where}?passfile={quote(str(passwords))}"


class Settings(BaseModel):
    """What can be set; the defaults suit one person on one machine."""

    model_config = ConfigDict(frozen=True)

    host: str = "127.0.0.1"
    port: int = 8787
    key: str = Field("", description="asked for once by every browser; needed where others reach the server")
    proxies: str = Field("", description="addresses of proxies in front of the server, by commas")
    database_port: int = 8788
    database_url: str = Field("", description="a PostgreSQL of your own; empty: one is started for you")
    data: Path = ROOT / ".data"
    upload_mb: int = Field(512, description="greatest size of one file, in MB (1 MB = 1000000 bytes)")
    unpacked_mb: int = Field(4096, description="greatest unpacked size of one packed file, in MB")
    cache_mb: int = Field(4000, description="greatest size of the disk cache, in MB")
    task_seconds: int = Field(600, description="time limit of one background task")
    task_memory_mb: int = Field(
        0,
        description="memory limit of one background task, in MB; 0: as this machine's goes round",
    )

    next_port: int = Field(8789, description="port of the simulated next program")
    targets: str = Field(
        "", description="programs that releases are sent to: name=http://host:port/path, ..."
    )
    targets_anywhere: bool = Field(False, description="whether targets may be outside of private networks")
    folders: str = Field("", description="folders on this machine that releases may be put in, by colons")

    @property
    def allowed_folders(self) -> list[Path]:
        """The folders that releases may be put in."""
        return [Path(folder) for folder in self.folders.split(":") if folder.strip()]

    @property
    def known_proxies(self) -> frozenset[str]:
        """Addresses that may tell whom they ask for."""
        return frozenset(address.strip() for address in self.proxies.split(",") if address.strip())

    @property
    def open_to_others(self) -> bool:
        """Whether the server listens to more than this machine."""
        try:
            return not ip_address(self.host).is_loopback
        except ValueError:
            return self.host != "localhost"

    @property
    def upload_bytes(self) -> int:
        """The upload limit in bytes."""
        return self.upload_mb * 1_000_000

    @property
    def task_memory_bytes(self) -> int:
        """The memory limit of a task in bytes: as many tasks as there may be at once fit into the machine."""
        if self.task_memory_mb:
            return self.task_memory_mb * 1_000_000
        return max(_LEAST_MEMORY, os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // _TASKS_AT_ONCE)

    @property
    def database(self) -> str:
        """The address of the database, as libpq reads it."""
        return self.database_url or address_of(self.database_port, password_file(self.data / "postgres"))

    @property
    def cache(self) -> Path:
        """Where geometry is kept on disk by its hash, to be made anew at any time."""
        return self.data / "cache"


@lru_cache
def settings() -> Settings:
    """Return the settings, read once from the environment.

    Raises:
        AimTrueError: a variable says what cannot be.
    """
    variables = {name: _PREFIX + name.upper() for name in Settings.model_fields}
    given = {name: os.environ[variable] for name, variable in variables.items() if variable in os.environ}
    try:
        return Settings.model_validate(given)
    except ValidationError as error:
        wrong = error.errors()[0]
        name = str(wrong["loc"][0])
        why = wrong["msg"].split(",")[0].replace("Input should", "it should")
        raise AimTrueError("setting", f"{variables[name]} is “{given[name]}”: {why}") from None
