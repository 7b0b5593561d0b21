"""Programs from the machine: installed when missing, started and stopped."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from aimtrue.settings import LEAST_KEY, Settings

CHROMIUM_FLAGS = [
    "--headless=new",
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
]
"""Chromium without a monitor, a network or a graphics card."""


class SetupError(Exception):
    """Setting up failed; the text says what and what to do."""


def refuse_unguarded(here: Settings) -> None:
    """Raise :class:`SetupError` where others could reach the server without a key."""
    if here.open_to_others and len(here.key) < LEAST_KEY:
        raise SetupError(
            f"on {here.host} others can reach this server, so it wants a key of at least {LEAST_KEY} "
            "characters: set AIMTRUE_KEY, or leave AIMTRUE_HOST as it is"
        )


def say(text: str) -> None:
    """Tell the person at the terminal what is going on."""
    print(f"aimtrue: {text}", file=sys.stderr, flush=True)


def install(*packages: str) -> None:
    """Install Debian packages.

    Raises:
        SetupError: not root, no apt, or the installation failed.
    """
    wanted = " ".join(packages)
    if os.geteuid() != 0 or not shutil.which("apt-get"):
        raise SetupError(f"{wanted} is needed: install it (on Debian: sudo apt-get install {wanted})")
    say(f"installing {wanted} ...")
    command = ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *packages]
    if _apt(command).returncode == 0:
        return
    _apt(["apt-get", "update", "-qq"])
    done = _apt(command)
    if done.returncode != 0:
        raise SetupError(f"installing {wanted} failed:\n{done.stderr[-2000:]}")


_LOCK_SECONDS = 900
_LOOK_AGAIN_SECONDS = 5.0


def _apt(command: list[str], seconds: float = _LOCK_SECONDS) -> subprocess.CompletedProcess[str]:
    """Run apt-get, waiting while another installation holds its lock, and saying so."""
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive", "LC_ALL": "C"}
    ends, warned = time.monotonic() + seconds, False
    while True:
        done = subprocess.run(
            command,
            check=False,
            text=True,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            env=environment,
        )
        locked = done.returncode != 0 and (
            "Could not get lock" in done.stderr or "Unable to lock" in done.stderr
        )
        if not locked or time.monotonic() > ends:
            return done
        if not warned:
            say(f"another installation is under way; waiting for it, up to {seconds / 60:g} minutes ...")
            warned = True
        time.sleep(_LOOK_AGAIN_SECONDS)


def node() -> str:
    """Return the path of npm, with a Node.js that is new enough.

    Raises:
        SetupError: there is none.
    """
    if not shutil.which("npm") or not shutil.which("node"):
        install("nodejs", "npm")
    version = subprocess.run(
        ["node", "--version"], capture_output=True, text=True, check=False
    ).stdout.strip()
    if int(version.lstrip("v").split(".")[0] or 0) < 20:
        raise SetupError(f"Node.js 20 or newer is needed to build the pages; found {version or 'none'}")
    return shutil.which("npm") or "npm"


def chromium() -> str:
    """Return the path of Chromium, for the browser tests."""
    if not shutil.which("chromium"):
        install("chromium")
    return shutil.which("chromium") or "/usr/bin/chromium"


def run(command: list[str], folder: Path, what: str) -> None:
    """Run a command and show its output only when it fails.

    Raises:
        SetupError: it failed.
    """
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise SetupError(f"{what} failed:\n{(done.stdout + done.stderr)[-4000:]}")


def until_told(mind: Callable[[], None]) -> None:
    """Look after what runs, a few times a second, until Ctrl-C or a polite signal."""
    warned = False

    def stop(*_: object) -> None:
        nonlocal warned
        warned = True

    signal.signal(signal.SIGINT, stop)
    signal.signal(signal.SIGTERM, stop)
    while not warned:
        mind()
        time.sleep(0.2)
