"""The name of every file of a release, before anything is written."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from aimtrue.core.formats import stem_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import Machine
from aimtrue.core.release import names
from aimtrue.core.release.filing import FileContents
from aimtrue.core.release.order import ENDINGS, Order


@dataclass(frozen=True)
class ReleaseFileName:
    """The name of a file, and in full where it was shortened to a display; both with their ending."""

    name: str
    full: str


def named(
    job: Job, files: Sequence[FileContents], order: Order, earlier: Collection[str] = ()
) -> list[ReleaseFileName]:
    """Name the files of a release; no two are alike on any system, nor like one released before.

    Args:
        job: whose.
        files: in order.
        order: with the pattern.
        earlier: names, with endings, of files released before.

    Raises:
        Refused: the pattern has an unknown field, or leaves no name.
    """
    ending = ENDINGS[order.format]
    taken = {names.key_of(_stem(name)) for name in earlier}
    full: list[str] = []
    for number, file in enumerate(files, 1):
        plain = names.filled(pattern_of(order, len(files)), _fields(job, file, order, number, len(files)))
        if names.key_of(plain) in taken and names.key_of(plain) not in map(names.key_of, full):
            # It was released before, and the revision tells the two apart.
            plain = names.safe(f"{plain}_r{order.number}")
        name = names.unique(plain, taken)
        taken.add(names.key_of(name))
        full.append(name)
    short = (
        _for_displays(job, files, full, ending, {names.key_of(_stem(name)) for name in earlier})
        if (order.short)
        else full
    )
    return [ReleaseFileName(a + ending, b + ending) for a, b in zip(short, full, strict=True)]


def pattern_of(order: Order, count: int) -> str:
    """Return the pattern in force: the one asked for, or the usual one for so many files."""
    if order.pattern.strip():
        return order.pattern
    if count == 1:
        return "{job}_r{revision}"
    return "{body}_r{revision}" if order.shape == "each" else "{job}_plate-{plate}_r{revision}"


def _stem(name: str) -> str:
    stem, dot, _ = name.rpartition(".")
    return stem if dot else name


def _fields(job: Job, file: FileContents, order: Order, number: int, count: int) -> dict[str, str]:
    first = file.items[0]
    low, high = file.bounds
    digits = len(str(count))
    return {
        "job": job.name,
        "body": first.name,
        "file": stem_of(job.source_of(first.body).name),
        "number": f"{number:0{digits}}",
        "of": str(count),
        "count": str(file.count),
        "plate": str(_plate_number(job, file)),
        "machine": _machine(job, file).name,
        "material": job.material_of(first.body).name or first.body.material,
        "size": "x".join(f"{size:.1f}".removesuffix(".0") for size in (high - low).tolist()),
        "factor": _factor(job.correction_of(first.body).factors),
        "unit": order.unit.value,
        "revision": str(order.number),
        "date": order.day,
        "time": order.time,
        "takes": file.takes,
    }


def _plate_number(job: Job, file: FileContents) -> int:
    ids = [plate.id for plate in job.plates]
    return ids.index(file.plate) + 1 if file.plate in ids else 1


def _machine(job: Job, file: FileContents) -> Machine:
    return job.plates[_plate_number(job, file) - 1].machine


def _factor(factors: tuple[float, float, float]) -> str:
    factors_told = [f"{factor:.6g}" for factor in factors]
    return factors_told[0] if len(set(factors_told)) == 1 else "x".join(factors_told)


def _for_displays(
    job: Job, files: Sequence[FileContents], full: Sequence[str], ending: str, earlier: set[str]
) -> list[str]:
    """Shorten names to what the display of each file's machine shows, its ending included."""
    names_on_display = list(full)
    groups: dict[int, list[int]] = {}
    for at, file in enumerate(files):
        display = _machine(job, file).display
        if display is not None:
            groups.setdefault(display, []).append(at)
    for display, mine in groups.items():
        others = earlier | {names.key_of(name) for i, name in enumerate(names_on_display) if i not in mine}
        short = names.shortened([full[i] for i in mine], display - len(ending), others)
        for i, name in zip(mine, short, strict=True):
            names_on_display[i] = name
    return names_on_display
