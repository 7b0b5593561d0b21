"""This module says what of files and bodies would make a bad part: unit, place, damage, specks, overlaps."""

from __future__ import annotations

from typing import Any

import numpy as np

from aimtrue.core.chain.sizes import bounds_of, group_sizes, true_sizes
from aimtrue.core.intake import finding_kinds as kinds
from aimtrue.core.intake.health import is_without_volume
from aimtrue.core.intake.units.verdict import UnitVerdict
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding, FindingKind
from aimtrue.core.model.ids import SourceId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, UNIT_NAMES
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import bodies_of, framed_with
from aimtrue.core.model.source import Source
from aimtrue.core.model.value import Vec3

_LIKE_A_UNIT = 0.02
"""A scale this near to the ratio of two units is more likely a wrong unit than a correction."""


_FAR = 4.0
"""A model farther from the origin than this many times its own size is lost to most programs."""
_STEP_TOLD_MM = 0.001
"""Where 32-bit numbers step by more, a measured size would be lost in them."""


def source_findings(job: Job, source: Source, judged: UnitVerdict) -> list[Finding]:
    """Say what is to be known of a file: its unit, where it lies, how it was read."""
    findings = [*_unit_findings(job, source, judged), *_place_findings(job, source)]
    for remark in source.remarks:
        findings.append(
            Finding(
                code=remark.code,
                severity=remark.severity,
                source_id=source.id,
                sheet="intake",
                says=remark.says,
                remedy=remark.remedy,
            )
        )
    twin = next(
        (other for other in job.sources if other.sha256 == source.sha256 and other.id != source.id), None
    )
    if twin is not None and job.sources.index(twin) < job.sources.index(source):
        findings.append(
            _of_source(source, kinds.SAME_FILE, f"{source.name} is the same file as {twin.name}", "delete")
        )
    if source.pairs_passed:
        pairs = "a pair" if source.pairs_passed == 1 else f"{source.pairs_passed} pairs"
        says = f"{pairs} of large bodies of {source.name} were not looked over for overlaps"
        findings.append(_of_source(source, kinds.OVERLAPS_UNKNOWN, says, "look-over"))
    findings += _frame_findings(job, source)
    for missing in job.missing:
        if missing.source == source.id:
            findings.append(_of_source(source, kinds.REVISION_LOST, missing.says, "look"))
    return findings


def _frame_findings(job: Job, source: Source) -> list[Finding]:
    """Say when a kit spans files that are not in one frame: what belongs together would come apart."""
    for other in framed_with(job, source.id):
        frame, theirs = (source.unit, source.up), (other.unit, other.up)
        if frame != theirs and job.sources.index(other) < job.sources.index(source):
            says = f"{other.name} and {source.name} share a kit but differ in unit, up axis or origin"
            return [_of_source(source, kinds.KIT_FRAMES, says, "leave-kit")]
    return []


def _of_source(source: Source, kind: FindingKind, says: str, remedy: str) -> Finding:
    return kind.found(source_id=source.id, says=says, remedy=remedy)


def _unit_findings(job: Job, source: Source, judged: UnitVerdict) -> list[Finding]:
    if source.unit is None:
        says = f"{source.name} does not say its unit; nothing is sized until you do"
        if source.before_mm:
            best = judged.candidates[0]
            reason = best.reasons[0] if best.reasons else "the evidence does not tell"
            says = (
                f"{source.name} differs in size from the revision before it, so its unit is asked anew: in "
                f"{UNIT_NAMES[best.unit]} {reason}"
            )
        return [_of_source(source, kinds.UNIT_UNSETTLED, says, "settle-unit")]
    best = judged.candidates[0]
    here = next(row for row in judged.candidates if row.unit == source.unit)
    if source.how != "told" and best.unit != source.unit and here.score < 0.01 and best.score > 0.9:
        reason = here.reasons[0] if here.reasons else "its sizes are unlikely"
        here_name, best_name = UNIT_NAMES[source.unit], UNIT_NAMES[best.unit]
        says = f"{source.name} is {source.how} as {here_name}, but {reason}; {best_name} fits better"
        return [_of_source(source, kinds.UNIT_DOUBTFUL, says, "settle-unit")]
    return _against_readings(job, source)


def _against_readings(job: Job, source: Source) -> list[Finding]:
    """Say when readings scale a file by just what another unit would: then that is likely its unit."""
    for body in bodies_of(job, source.id):
        factors = job.correction_of(body).factors
        if (
            source.unit is None
            or not job.correction_of(body).readings
            or max(factors) > 1.0001 * min(factors)
        ):
            continue
        for unit in MM_PER:
            ratio = MM_PER[unit] / MM_PER[source.unit]
            if unit != source.unit and abs(factors[0] / ratio - 1) < _LIKE_A_UNIT:
                says = (
                    f"the readings scale {source.name} by {factors[0]:.4g}, just as if it were in "
                    f"{UNIT_NAMES[unit]}; check the unit"
                )
                return [_of_source(source, kinds.UNIT_DOUBTFUL, says, "settle-unit")]
    return []


def _place_findings(job: Job, source: Source) -> list[Finding]:
    bodies = bodies_of(job, source.id)
    if source.unit is None or not bodies:
        return []
    bounds = bounds_of(job, bodies)
    size = max(group_sizes(job, bodies))
    low, high = bounds[:, 0].min(axis=0).tolist(), bounds[:, 1].max(axis=0).tolist()
    away = max(abs(a + b) / 2 for a, b in zip(low, high, strict=True))
    if away > _FAR * size:
        says = (
            f"{source.name} lies {_length(away)} from its origin, over {int(away / size)} times its own size"
        )
        step = float(np.spacing(np.float32(max(map(abs, (*low, *high))))))
        if step >= _STEP_TOLD_MM:
            says += (
                f"; numbers of a released file step by {_length(step)} out there, and its sizes with them: "
                "bring it home, or release it with place: origin"
            )
        return [_of_source(source, kinds.FAR_FROM_ORIGIN, says, "bring-home")]
    # What hangs from zero, as a screw from its head, is drawn so; what lies deeper by more than its size is
    # lost.
    if high[2] < -size:
        says = f"{source.name} lies {_length(-high[2])} below zero, by more than its own size"
        return [_of_source(source, kinds.BELOW_PLATE, says, "bring-home")]
    return []


def _length(mm: float) -> str:
    return f"{mm / 1000:.3g} m" if mm >= 1000 else f"{mm:.3g} mm"


def health_findings(body: Body) -> list[Finding]:
    """Say what keeps a body from being one closed solid facing outward."""
    return [
        _of_body(
            body,
            kind,
            count=count,
            says=(one if count == 1 else many).format(f"{count:,}"),
            remedy=remedy,
            places=_places(body, kind.code),
            **({"severity": "look"} if kind is kinds.NON_MANIFOLD_EDGES and body.health.closed else {}),
        )
        for kind, count, one, many, remedy in (*_surface_rows(body), *_facet_rows(body))
        if count
    ]


def _of_body(body: Body, kind: FindingKind, **about: Any) -> Finding:  # noqa: ANN401 - of any type, or of none that is known
    return kind.found(body=body.name, body_id=body.id, accepted=kind.code in body.accepted, **about)


_Row = tuple[FindingKind, int, str, str, str]
"""Kind, count, words for one and for several, and the remedy."""


def _surface_rows(body: Body) -> list[_Row]:
    health = body.health
    holes = "one hole" if health.holes == 1 else f"{health.holes} holes"
    seams = _mostly_seams(body)
    around = f"around {holes}" + (", mostly unwelded seams" if seams else "")
    inward = "the surface faces inward, so its volume is negative"
    unseen = f"{body.triangles:,} triangles were not looked over for faces that cut through each other"
    shells = health.shells if health.shells - body.voids > 1 else 0
    flat = health.closed and is_without_volume(body)
    nothing = "it encloses nothing: its faces lie back to back"
    return [
        (kinds.OPEN_EDGES, health.open_edges, f"1 open edge {around}", f"{{}} open edges {around}",
         "weld" if seams else "close-holes"),
        (kinds.NON_MANIFOLD_EDGES, health.crowded_edges, "1 edge is shared by more than two faces",
         "{} edges are shared by more than two faces", "rebuild"),
        (kinds.INCONSISTENT_EDGES, health.turned_edges, "faces are turned over along 1 edge",
         "faces are turned over along {} edges", "face-outward"),
        (kinds.INSIDE_OUT, int(health.closed and body.volume < 0 and not flat), inward, inward,
         "face-outward"),
        (kinds.NO_VOLUME, int(flat), nothing, nothing, "draw it with a thickness, or remove it"),
        (kinds.CROSSINGS, health.crossings or 0, "1 face cuts through another",
         "{} faces cut through each other", "resolve-crossings"),
        (kinds.CROSSINGS_UNKNOWN, int(health.crossings is None), unseen, unseen, "look-over"),
        (kinds.ZERO_AREA, health.zero_area, "1 triangle has zero area", "{} triangles have zero area",
         "remove-degenerate"),
        (kinds.DUPLICATES, health.duplicates, "1 triangle is there twice",
         "{} triangles are there twice", "remove-degenerate"),
        (kinds.SEVERAL_SHELLS, shells, "", "{} separate shells are one body, as the file has it",
         "separate"),
    ]  # fmt: skip


def _facet_rows(body: Body) -> list[_Row]:
    facets = body.facets
    if facets is None:
        return []
    off = f"its facets enclose another volume than the CAD solid, by {_volume_off(body):.3g} %"
    lost = f"of the CAD body could not be cut into facets: {_missing(body)}".replace("{", "{{").replace(
        "}", "}}"
    )
    return [
        (kinds.FACE_MISSING, len(facets.missing), f"1 face {lost}", f"{{}} faces {lost}", "refine"),
        (kinds.VOLUME_OFF, int(bool(facets.volume_off)), off, off, "refine"),
    ]


_FAR_MOVED = 0.05
"""Mending may move a surface by this share of the body's size; the proof holds the same share by itself."""


def moved_findings(body: Body) -> list[Finding]:
    """Say when remedies moved a surface by so much that what it was no longer tells what it is."""
    size = max(high - low for low, high in zip(body.low, body.high, strict=True))
    moved = sum(step.moved for step in body.mended)
    if moved <= _FAR_MOVED * size:
        return []
    return [
        _of_body(
            body,
            kinds.MOVED_FAR,
            says=f"mending moved the surface of {body.name} by up to {100 * moved / size:.0f} % of its size",
            remedy="mend it by a smaller distance",
        )
    ]


def _volume_off(body: Body) -> float:
    return 100 * body.facets.volume_off if body.facets else 0.0


def _places(body: Body, code: str) -> tuple[Vec3, ...]:
    if code == "face-missing" and body.facets:
        return body.facets.places
    return body.health.places.get(code, ())


def _missing(body: Body) -> str:
    missing = body.facets.missing if body.facets else ()
    return "; ".join(missing[:3]) + (f"; and {len(missing) - 3} more" if len(missing) > 3 else "")


def _mostly_seams(body: Body) -> bool:
    return body.health.seams > body.health.open_edges / 2


def stray_findings(job: Job, body: Body) -> list[Finding]:
    """Say when a body is tiny against the rest of its file, or under a bead in every direction."""
    settled = job.source_of(body).unit is not None
    longest = max(true_sizes(job, body)) if settled else None
    under = longest is not None and longest < job.machine.process.bead
    if not (body.stray or under):
        return []
    size = f", {longest:.3g} mm long" if longest is not None else ""
    why = "is under one bead in every direction" if under else "is tiny against the rest of its file"
    return [
        _of_body(
            body,
            kinds.STRAY,
            says=f"{body.name} {why}{size}",
            remedy="drop",
            places=(_middle(body),),
        )
    ]


def _middle(body: Body) -> Vec3:
    x, y, z = ((low + high) / 2 for low, high in zip(body.low, body.high, strict=True))
    return (x, y, z)


def overlap_findings(job: Job) -> list[Finding]:
    """Say which bodies fill the same place."""
    here = {body.id: body for body in job.bodies}
    return [
        kinds.OVERLAP.found(
            body=here[overlap.a].name,
            body_id=overlap.a,
            other_id=overlap.b,
            says=f"{here[overlap.a].name} and {here[overlap.b].name} overlap",
            remedy="join",
            accepted="overlap" in here[overlap.a].accepted,
            places=(overlap.place,),
        )
        for source in job.sources
        for overlap in source.overlaps
        if overlap.a in here and overlap.b in here
    ]


def size_findings(job: Job, body: Body) -> list[Finding]:
    """Say when a size is beyond reason, which most often means a wrong unit."""
    longest, unit = max(true_sizes(job, body)), job.settled_unit(body)
    if longest <= 10 * max(job.machine.volume.room) and (longest >= 1 or body.stray):
        return []
    return [
        _of_body(
            body,
            kinds.SIZE_UNLIKELY,
            remedy="settle-unit",
            says=f"{body.name} is {_length(longest)} long as {UNIT_NAMES[unit]}; check the unit",
        )
    ]


_OF_SIZES: Memo[tuple[Finding, ...]] = Memo(8192)
_HEALTH: Memo[tuple[Finding, ...]] = Memo(8192)


def body_findings(job: Job, body: Body) -> tuple[Finding, ...]:
    """Return what is to be known of a body: its surface, and its size where that is beyond reason."""
    return (*_of_health(body), *_of_size(job, body))


def _of_health(body: Body) -> tuple[Finding, ...]:
    return _HEALTH.get((body,), (), lambda: (*health_findings(body), *moved_findings(body)))


def _usual(job: Job) -> set[str]:
    """Return the bodies of whose sizes there is nothing to say, told by their bounds, all at once."""
    least = max(1.0, job.machine.process.bead) * (1 + 1e-9)
    most = 10 * max(job.machine.volume.room) * (1 - 1e-9)
    plain_bodies: set[str] = set()
    for source in job.sources:
        bodies = bodies_of(job, source.id)
        if source.unit is not None and bodies:
            longest = np.ptp(bounds_of(job, bodies), axis=1).max(axis=1)
            plain = ((longest > least) & (longest < most)).tolist()
            plain_bodies |= {body.id for body, ok in zip(bodies, plain, strict=True) if ok and not body.stray}
    return plain_bodies


def _of_size(job: Job, body: Body) -> tuple[Finding, ...]:
    return _OF_SIZES.get((*job.in_force(body), job.machine), (), lambda: _worked_out(job, body))


def _worked_out(job: Job, body: Body) -> tuple[Finding, ...]:
    findings = stray_findings(job, body)
    return tuple(findings if job.source_of(body).unit is None else findings + size_findings(job, body))


def intake_findings(job: Job, judged: dict[SourceId, UnitVerdict]) -> list[Finding]:
    """Return everything that is to be known of the files and bodies of a job."""
    findings = [
        finding for source in job.sources for finding in source_findings(job, source, judged[source.id])
    ]
    usual = _usual(job)
    for body in job.bodies:
        findings += _of_health(body) if body.id in usual else body_findings(job, body)
    return findings + overlap_findings(job)
