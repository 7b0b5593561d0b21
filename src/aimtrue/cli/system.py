"""Programs from the machine: installed when missing, started and stopped."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

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
    quiet = {"stdout": subprocess.DEVNULL, "env": {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}}
    command = ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *packages]
    if subprocess.run(command, check=False, stderr=subprocess.DEVNULL, **quiet).returncode == 0:  # type: ignore[call-overload]
        return
    subprocess.run(["apt-get", "update", "-qq"], check=False, **quiet)  # type: ignore[call-overload]
    if subprocess.run(command, check=False, **quiet).returncode != 0:  # type: ignore[call-overload]
        raise SetupError(f"installing {wanted} failed; see the lines above")


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
