"""The built pages: made when missing or when their sources changed."""

from __future__ import annotations

import hashlib
import shutil
from pathlib import Path

from aimtrue.cli import system
from aimtrue.settings import ROOT

WEB = ROOT / "web"
_INPUTS = ("package.json", "package-lock.json", "vite.config.ts", "tsconfig.json", "index.html")


def packages() -> None:
    """Install the pinned front-end packages unless they are in place."""
    lock = WEB / "package-lock.json"
    stamp = WEB / "node_modules" / ".installed-lock"
    if stamp.exists() and stamp.read_bytes() == lock.read_bytes():
        return
    system.say("installing front-end packages ...")
    system.run([system.node(), "ci", "--no-audit", "--no-fund"], WEB, "npm ci")
    shutil.copy(lock, stamp)


def build() -> None:
    """Build the pages unless the built ones match their sources.

    Packages that were not there before are taken away again: nothing needs them once the pages are built.
    """
    stamp, now = WEB / "dist" / ".built-from", _fingerprint()
    if stamp.exists() and stamp.read_text() == now:
        return
    lent = not (WEB / "node_modules").exists()
    packages()
    system.say("building the pages ...")
    system.run([system.node(), "run", "build"], WEB, "building the pages")
    stamp.write_text(now)
    if lent:
        shutil.rmtree(WEB / "node_modules", ignore_errors=True)


def _fingerprint() -> str:
    digest = hashlib.sha256()
    files = [WEB / name for name in _INPUTS] + sorted(p for p in (WEB / "src").rglob("*") if p.is_file())
    for file in files + sorted(p for p in (WEB / "public").rglob("*") if p.is_file()):
        digest.update(str(file.relative_to(WEB)).encode() + b"\0" + Path(file).read_bytes())
    return digest.hexdigest()
