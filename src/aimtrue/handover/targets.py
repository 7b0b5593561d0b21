"""Sending a release to a next program over HTTP: once, however often it has to be tried.

A release goes as one ZIP under a key that is told by its bytes, so that a program that has it already can
say so. An answer that is lost, or no answer, is tried again after a while; a refusal is not.
"""

from __future__ import annotations

import hashlib
import io
import ipaddress
import json
import socket
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import IO, TYPE_CHECKING
from urllib.parse import urlsplit, urlunsplit

from aimtrue.core.errors import AimTrueError, Refused

if TYPE_CHECKING:
    import httpx

WAITS = (0.5, 1.0, 2.0, 4.0)
"""Seconds before each further try."""
_PIECE = 1024 * 1024
_SECONDS = 20.0
"""For a program to take a release; a slow network has that for every part of it."""


@dataclass(frozen=True)
class Target:
    """A program that takes releases: what it is called, and its address."""

    name: str
    address: str
    simulated: bool = False

    @property
    def shown(self) -> str:
        """The address without the name and the password that may be in it."""
        parts = urlsplit(self.address)
        host = parts.netloc.rpartition("@")[2]
        return urlunsplit((parts.scheme, host, parts.path, "", ""))


@dataclass(frozen=True)
class SendOutcome:
    """How a release was sent: in how many tries, and whether the program had it already."""

    key: str
    tries: int
    already: bool
    says: str


class SendFailed(AimTrueError):
    """A release did not arrive, as far as anybody knows."""


def parsed(text: str) -> list[Target]:
    """Return the targets of a setting such as ``bench=http://127.0.0.1:9000/take, ...``.

    Raises:
        Refused: one has no name or no address.
    """
    targets = []
    for entry in filter(None, (part.strip() for part in text.split(","))):
        name, equals, address = entry.partition("=")
        if not equals or urlsplit(address).scheme not in ("http", "https"):
            raise Refused(
                "target-setting", f"“{entry}” is no target", remedy="write name=http://host:port/path"
            )
        targets.append(Target(name.strip(), address.strip()))
    return targets


def refuse_far(address: str, *, anywhere: bool = False) -> None:
    """Refuse addresses that are neither on this machine nor in a private network, unless that is allowed.

    Raises:
        Refused: it is farther away, or is no address.
    """
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise Refused("target-address", f"{address} is no address", remedy="write http://host:port/path")
    if anywhere:
        return
    try:
        addresses = {info[4][0] for info in socket.getaddrinfo(parts.hostname, parts.port or 80)}
    except OSError:
        raise Refused(
            "target-unknown", f"{parts.hostname} is not found", remedy="look at the address"
        ) from None
    near = [ipaddress.ip_address(str(address).partition("%")[0]) for address in addresses]
    # Link-local addresses are those of machines' own services, and of what hosts a machine, not of programs.
    if any(one.is_link_local for one in near) or not all(one.is_loopback or one.is_private for one in near):
        raise Refused(
            "target-far",
            f"{parts.hostname} is not in a private network",
            remedy="set AIMTRUE_TARGETS_ANYWHERE=1 where releases may leave it",
        )


def key_of(package: IO[bytes]) -> str:
    """Return the key of a release by the bytes of its ZIP."""
    package.seek(0)
    return hashlib.file_digest(package, "sha256").hexdigest()  # type: ignore[arg-type]


def send(
    package: IO[bytes],
    name: str,
    target: Target,
    *,
    anywhere: bool = False,
    wait: Callable[[float], None] = time.sleep,
    seconds: float = _SECONDS,
) -> SendOutcome:
    """Send a release, packed as ZIP, to a target.

    Args:
        package, name: the ZIP and what it is called.
        target: where to.
        anywhere: whether it may be outside of private networks.
        wait: waits so many seconds; replaced in tests.
        seconds: for each answer.

    Raises:
        Refused: the address is too far away, or the program refuses it.
        Unsent: it does not answer, or answers rubbish, each time.
    """
    import httpx  # The library brings much along, and is needed for this alone.

    refuse_far(target.address, anywhere=anywhere)
    key, reason = key_of(package), ""
    for tries, pause in enumerate((*WAITS, None), 1):
        try:
            return _taken(_asked(package, name, key, target, seconds), target, key, tries)
        except (httpx.HTTPError, OSError, ValueError) as error:
            reason = _reason(error, seconds)
        if pause is not None:
            wait(pause)
    raise SendFailed(
        "target-silent",
        f"{target.name} did not take it in {len(WAITS) + 1} tries: {reason}",
        where=target.shown,
        remedy="see whether it runs, then send it again; it takes a release that it has only once",
    )


def _asked(package: IO[bytes], name: str, key: str, target: Target, seconds: float) -> httpx.Response:
    import httpx

    headers = {
        "Content-Type": "application/zip",
        "Content-Length": str(package.seek(0, io.SEEK_END)),
        "X-Release": key,
        "X-Name": name.encode("ascii", "replace").decode(),
    }
    return httpx.post(
        target.address, content=_pieces(package), headers=headers, timeout=seconds, follow_redirects=False
    )


def _pieces(package: IO[bytes]) -> Iterator[bytes]:
    package.seek(0)
    while piece := package.read(_PIECE):
        yield piece


def _taken(answer: httpx.Response, target: Target, key: str, tries: int) -> SendOutcome:
    if 400 <= answer.status_code < 500:
        raise Refused(
            "target-refused",
            f"{target.name} refuses it: {_said(answer)}",
            remedy="see what it wants, then send it again",
        )
    if answer.status_code not in (200, 201):
        raise ValueError(f"answer {answer.status_code}")
    content = json.loads(answer.content)
    if not isinstance(content, dict) or content.get("sha256") != key:
        raise ValueError("an answer that names another release")
    already = bool(content.get("already"))
    return SendOutcome(key, tries, already, "it had it already" if already else "taken")


def _said(answer: httpx.Response) -> str:
    return " ".join(answer.text.split())[:120] or f"answer {answer.status_code}"


def _reason(error: Exception, seconds: float) -> str:
    import httpx

    if isinstance(error, httpx.TimeoutException):
        return f"no answer in {seconds:g} s"
    if isinstance(error, json.JSONDecodeError):
        return "an answer that is not understood"
    return str(error).strip() or type(error).__name__
