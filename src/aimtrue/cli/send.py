"""aimtrue send: release files and hand them to a next program over HTTP."""

from __future__ import annotations

import argparse
import io
import json
from datetime import datetime
from pathlib import Path

from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode
from aimtrue.cli.release import Made, make_some, recorded
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.proof.record import as_json
from aimtrue.core.release.manifest import manifest_of, pack_release
from aimtrue.handover.targets import SendOutcome, Target, send
from aimtrue.settings import settings
from aimtrue.work.sending import targets


def send_files(asked: argparse.Namespace) -> int:
    """Release files as one ZIP and send it; nothing is sent unless every proof holds."""
    try:
        target = _target(asked.to)
        releases = make_some(asked.files, asked)
        sent = _sent(releases, target)
    except CommandFailure as failure:
        complain(failure.says)
        return failure.code
    names = [file.file.name for _, release in releases for file in release.files]
    if asked.json:
        answer = {"target": target.name, "address": target.address, "key": sent.key, "tries": sent.tries}
        print(json.dumps({**answer, "already": sent.already, "files": names, "findings": []}, indent=1))
    else:
        tries = "1 try" if sent.tries == 1 else f"{sent.tries} tries"
        print(f"{target.name}: {sent.says}, in {tries}: {', '.join(names)}")
    return ExitCode.DONE


def _target(text: str) -> Target:
    """A target by its name in the settings, or by its address."""
    if "://" in text:
        return Target(text, text)
    named = next((target for target in targets() if target.name.lower() == text.lower()), None)
    if named is None:
        known = ", ".join(target.name for target in targets())
        raise CommandFailure(
            ExitCode.USAGE, f"--to {text}: no such target; known are {known}, or give an address"
        )
    return named


def _sent(releases: Made, target: Target) -> SendOutcome:
    files = [file for _, release in releases for file in release.files]
    record = recorded(releases)
    manifest = manifest_of(record.job, 1, [file.file for file in files])
    name = f"{Path(files[0].file.name).stem}_{datetime.now().astimezone():%Y-%m-%d}.zip"
    package = io.BytesIO()
    pack_release(manifest, [(file.file.name, file.data) for file in files], as_json(record), package)
    try:
        return send(package, name, target, anywhere=settings().targets_anywhere)
    except Refused as error:
        usage = error.code in ("target-address", "target-far", "target-unknown")
        raise CommandFailure(ExitCode.USAGE if usage else ExitCode.UNWRITABLE, error.line()) from None
    except AimTrueError as error:
        raise CommandFailure(ExitCode.UNWRITABLE, error.line()) from None
