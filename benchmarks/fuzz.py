"""Damaged files, as many as there is time for: each is read, or told in words; nothing hangs or gorges.

A case is told by its number alone (the seed it is made of, and what is done to it), so whatever is found can
be made again: ``damaged(seeds, number)``. Cases are read many to a process, each with a limit of time and
memory; where one ends its process, that is noted of it, and the others go on.
"""

from __future__ import annotations

import hashlib
import io
import logging
import os
import signal
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

import ezdxf
import numpy as np

from aimtrue.core.division.cutting.split import checked_rings
from aimtrue.core.division.sections.drawings import rings_in
from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats import CAD_ENDINGS, ending_of, stl, threemf
from aimtrue.core.formats.contents import UnpackingLimits as Packing
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.lengths import Unit
from aimtrue.core.release.bundle import (
    Bundle,
    BundledFile,
    BundledState,
    is_bundle,
    open_bundle,
    pack_bundle,
)
from aimtrue.work import sandbox
from benchmarks.shapes import wavy_sphere
from demo.parts import built

SECONDS, MEMORY_BYTES = 10, 4_000_000_000
_BATCH = 200
_CAD_EVERY = 100
"""The CAD kernel takes seconds for what others take milliseconds for, and often ends: one case in so many."""
_OUTCOMES = ("read", "told", "tripped", "crashed", "hung", "gorged", "defect")
"""``tripped``: told in our words, but only because what a reader raised was caught in the end."""
_ODD = (
    b"1e999",
    b"nan",
    b"-1",
    b"99999999999999999999999",
    b"1e-320",
    b"0x7f",
    b"",
    b"2147483648",
    b"\\0",
    b"UTF-9",
)


_End = tuple[int, str, float, str]
"""How a case ended: its number, the outcome, seconds, and the words."""


@dataclass(frozen=True)
class Seed:
    """A sound file."""

    name: str
    data: bytes


@dataclass
class Tally:
    """How the cases of one format ended, and the worst of them by number."""

    ends: Counter[str] = field(default_factory=Counter)
    longest: float = 0.0
    worst: list[str] = field(default_factory=list)


def fuzz(seconds: float, first: int = 0) -> int:
    """Read damaged files for so long, from a number on; return 1 if any was not answered in words."""
    with tempfile.TemporaryDirectory() as folder:
        seeds = seeds_in(Path(folder))
    sandbox.warm()
    tallies: dict[str, Tally] = {}
    begun, ends = time.monotonic(), time.monotonic() + seconds
    batches = iter(range(first, 10**9, _BATCH))

    def go_on() -> None:
        while time.monotonic() < ends:
            start = next(batches)
            _batch(seeds, range(start, start + _BATCH), tallies)

    with ThreadPoolExecutor(2) as both:
        for future in [both.submit(go_on) for _ in range(2)]:
            future.result()
    return _report(tallies, time.monotonic() - begun)


def seeds_in(folder: Path) -> list[Seed]:
    """Make sound files of every format, small, so that many can be damaged: plain ones and the demo's."""
    from demo.solids import box, cylinder, write_brep, write_iges, write_step

    ball = wavy_sphere(600)
    part = box(20, 30, 10) - cylinder(4, 10).at(z=-1)
    write_step(part, folder / "part.step")
    write_iges(part, folder / "part.igs")
    write_brep(part, folder / "part.brep")
    items = [threemf.BuildObject("ring", ball, "#336699"), threemf.BuildObject("marks", ball)]
    plain = {
        "ball.stl": stl.write_binary(ball, "ball"),
        "text.stl": stl.write_ascii(ball, "ball"),
        "pair.3mf": threemf.write(items, Unit.MM, "pair", ""),
        "ball.obj": _obj(ball),
        "text.ply": _ply(ball, "ascii"),
        "ball.ply": _ply(ball, "binary_little_endian"),
        "kit.zip": _zip({"a/ball.stl": stl.write_binary(ball, "a"), "b/ball.obj": _obj(ball)}),
        "job_bundle.zip": _bundle(stl.write_binary(ball, "ball")),
        "plan.svg": _SVG,
        "plan.dxf": _dxf(),
    }
    seeds = [Seed(name, data) for name, data in plain.items()]
    seeds += [Seed(path.name, path.read_bytes()) for path in sorted(folder.iterdir())]
    demo = built()
    return seeds + [
        Seed(path.name, path.read_bytes())
        for path in sorted(demo.iterdir())
        if path.name[0] != "." and path.stat().st_size < 100_000
    ]


def seed_of(seeds: list[Seed], number: int) -> Seed:
    """Return what a case is made of."""
    cad = number % _CAD_EVERY == 0
    some = [seed for seed in seeds if (ending_of(seed.name) in CAD_ENDINGS) == cad]
    return some[number // _CAD_EVERY % len(some)] if cad else some[number % len(some)]


def damaged(seeds: list[Seed], number: int) -> Seed:
    """Return a case by its number: a seed, damaged in one to three ways."""
    random = np.random.default_rng(number)
    seed = seed_of(seeds, number)
    inner = ending_of(seed.name) in (".3mf", ".zip") and random.random() < 0.8
    data = _inside(seed.data, random) if inner else _ways(seed.data, random)
    return Seed(f"case-{number}{ending_of(seed.name)}", data)


def _ways(data: bytes, random: np.random.Generator) -> bytes:
    for _ in range(int(random.integers(1, 4))):
        data = _WAYS[int(random.integers(len(_WAYS)))](data, random)
    return data


def _inside(data: bytes, random: np.random.Generator) -> bytes:
    """Damage a member of a package, and pack it again."""
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        members = {zip_info.filename: package.read(zip_info) for zip_info in package.infolist()}
    name = list(members)[int(random.integers(len(members)))]
    members[name] = _ways(members[name], random)
    return _zip(members)


def _some(data: bytes, random: np.random.Generator) -> tuple[int, int]:
    at = int(random.integers(len(data) + 1))
    return at, min(len(data), at + int(random.integers(1, 400)))


def _other_bytes(data: bytes, random: np.random.Generator) -> bytes:
    whole = bytearray(data)
    for place in random.integers(max(1, len(whole)), size=int(random.integers(1, 30))).tolist():
        if place < len(whole):
            whole[place] = int(random.integers(256))
    return bytes(whole)


def _other_digits(data: bytes, random: np.random.Generator) -> bytes:
    whole = bytearray(data)
    plain = np.frombuffer(data, np.uint8)
    digits = np.flatnonzero((plain >= 48) & (plain < 58))
    for place in random.choice(digits, min(20, len(digits))).tolist() if len(digits) else ():
        whole[place] = int(random.integers(48, 58))
    return bytes(whole)


def _cut_out(data: bytes, random: np.random.Generator) -> bytes:
    at, to = _some(data, random)
    return data[:at] + data[to:]


def _twice(data: bytes, random: np.random.Generator) -> bytes:
    at, to = _some(data, random)
    return data[:at] + data[at:to] * int(random.integers(2, 30)) + data[to:]


def _cut_short(data: bytes, random: np.random.Generator) -> bytes:
    return data[: int(random.integers(len(data) + 1))]


def _swapped(data: bytes, random: np.random.Generator) -> bytes:
    a, b = _some(data, random)
    c, d = _some(data, random)
    return data[:a] + data[c:d] + data[b:]


def _odd_token(data: bytes, random: np.random.Generator) -> bytes:
    """Put something odd in place of a word."""
    words = data.split(b" ")
    if len(words) < 2:
        return data
    for _ in range(int(random.integers(1, 4))):
        words[int(random.integers(len(words)))] = _ODD[int(random.integers(len(_ODD)))]
    return b" ".join(words)


def _great_number(data: bytes, random: np.random.Generator) -> bytes:
    """Put a count, as binary files have them, where there was something else."""
    at = int(random.integers(max(1, len(data) - 8)))
    value = (0xFFFFFFFF, 0x7FFFFFFF, 0, 1, 0x80000000, 0x7F800000)[int(random.integers(6))]
    return data[:at] + value.to_bytes(4, "little") + data[at + 4 :]


_WAYS: list[Callable[[bytes, np.random.Generator], bytes]] = [
    _other_bytes, _other_digits, _cut_out, _twice, _cut_short, _swapped, _odd_token, _great_number,
]  # fmt: skip


def _batch(seeds: list[Seed], numbers: range, tallies: dict[str, Tally]) -> None:
    left = list(numbers)
    while left:
        ended: list[_End] = []
        heard = [time.monotonic()]
        note = partial(_note, ended, heard)
        limits = sandbox.TaskLimits(seconds=SECONDS * (len(left) + 1), memory_bytes=MEMORY_BYTES)
        whole = True
        try:
            sandbox.run(read_cases, seeds, left, limits=limits, progress=note)
        except AimTrueError as error:
            whole = False
            took = time.monotonic() - heard[-1]
            kinds = {"task-crashed": "crashed" if took < SECONDS else "hung", "task-memory": "gorged"}
            number = left[len(ended)] if len(ended) < len(left) else left[-1]
            ended.append((number, kinds.get(error.code, "defect"), took, error.says))
        for number, end, took, words in ended:
            _count(tallies, ending_of(seed_of(seeds, number).name), number, end, took, words)
        left = [] if whole else left[len(ended) :]


def _note(ended: list[_End], heard: list[float], share: float, says: str) -> None:
    number, end, took, words = says.split("\t", 3)
    ended.append((int(number), end, float(took), words))
    heard.append(time.monotonic())


def _count(tallies: dict[str, Tally], ending: str, number: int, end: str, took: float, words: str) -> None:
    tally = tallies.setdefault(ending, Tally())
    tally.ends[end] += 1
    tally.longest = max(tally.longest, took)
    if end in ("hung", "gorged", "defect") or (end == "tripped" and len(tally.worst) < 12):
        tally.worst.append(f"{number}: {end}: {words[:150]}")


def read_cases(seeds: list[Seed], numbers: list[int], progress: Callable[[float, str], None]) -> None:
    """Read cases one after the other, in the sandbox, and tell how each ended."""

    def too_long(*_: object) -> None:
        raise TimeoutError

    signal.signal(signal.SIGALRM, too_long)
    logging.disable()
    for printed in (1, 2):  # the CAD kernel says there what it thinks of a file
        os.dup2(os.open(os.devnull, os.O_WRONLY), printed)
    for number in numbers:
        case, started = damaged(seeds, number), time.perf_counter()
        signal.alarm(SECONDS)
        signal.setitimer(signal.ITIMER_PROF, SECONDS + 1)  # ends the process, also in native code
        end, words = _read(case)
        signal.alarm(0)
        signal.setitimer(signal.ITIMER_PROF, 0)
        progress(0.0, f"{number}\t{end}\t{time.perf_counter() - started:.3f}\t{words}")


def _take(case: Seed) -> None:
    """Give a file to the reader that would be given it."""
    limits = Packing(unpacked_bytes=200_000_000)
    if ending_of(case.name) in (".svg", ".dxf"):
        assert checked_rings(rings_in(case.name, case.data.decode("utf-8", "replace")))
    elif ending_of(case.name) == ".zip" and is_bundle(io.BytesIO(case.data)):
        bundle = open_bundle(io.BytesIO(case.data), limits)
        for file in bundle.told.files:
            b"".join(bundle.pieces(file, 1000))
    else:
        taken = take_in("s1", case.name, case.data, limits=limits)
        assert taken.bodies
        assert all(np.isfinite([body.low, body.high]).all() for body in taken.bodies)


def _read(case: Seed) -> tuple[str, str]:
    try:
        _take(case)
    except AimTrueError as error:
        if isinstance(error.__cause__, TimeoutError):
            return "hung", ""
        ours = error.says and (error.remedy or error.where)
        return ("tripped" if error.code == "file-damaged" else "told") if ours else "defect", error.line()
    except TimeoutError:
        return "hung", ""
    except MemoryError:
        return "gorged", ""
    except Exception as error:  # noqa: BLE001 - whatever it is, it is told
        return "defect", f"{type(error).__name__}: {error}"
    return "read", ""


def _report(tallies: dict[str, Tally], seconds: float) -> int:
    total = sum(tally.ends.total() for tally in tallies.values())
    print(
        f"{total} damaged files in {seconds:.0f} s, at most {SECONDS} s and {MEMORY_BYTES / 1e9:g} GB each\n"
    )
    print(f"{'format':<8}" + "".join(f"{end:>10}" for end in _OUTCOMES) + f"{'longest s':>11}")
    for ending, tally in sorted(tallies.items()):
        print(
            f"{ending:<8}"
            + "".join(f"{tally.ends[end]:>10}" for end in _OUTCOMES)
            + f"{tally.longest:>11.2f}"
        )
    for ending, tally in sorted(tallies.items()):
        for line in tally.worst:
            print(f"{ending} case {line}")
    return int(any(tally.ends["defect"] or tally.ends["hung"] for tally in tallies.values()))


def _zip(members: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for name, data in members.items():
            package.writestr(name, data)
    return out.getvalue()


def _bundle(data: bytes) -> bytes:
    file = BundledFile(
        path="originals/ball.stl",
        kind="original",
        name="ball.stl",
        sha256=hashlib.sha256(data).hexdigest(),
        bytes=len(data),
    )
    state = BundledState(number=1, version=1, state={"name": "ball"})
    out = io.BytesIO()
    pack_bundle(Bundle(name="ball", files=(file,), states=(state,)), lambda _: data, out)
    return out.getvalue()


_SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">
<g transform="translate(2 1) rotate(10)"><rect x="1" y="2" width="4" height="3" rx="1"/>
<circle cx="20" cy="12" r="4.5"/><ellipse cx="30" cy="12" rx="4.5" ry="2"/></g>
<path d="M 5 20 C 8 10 12 10 15 20 A 5 3 20 0 1 5 20 Z"/><polygon points="1,20 3,20 2,25"/></svg>
"""


def _dxf() -> bytes:
    out = io.StringIO()
    drawing = ezdxf.new(units=4)  # type: ignore[attr-defined]
    space = drawing.modelspace()
    corners = [(0, 0), (20, 0), (20, 10), (0, 10)]
    for corner, other in zip(corners, [*corners[1:], corners[0]], strict=True):
        space.add_line(corner, other)
    space.add_lwpolyline([(2, 2, 0.5), (6, 2, 0), (6, 6, -0.3)], format="xyb", close=True)
    space.add_circle((12, 5), 2)
    space.add_spline([(15, 3), (17, 2), (18, 6), (15, 3)])
    drawing.write(out)
    return out.getvalue().encode()


def _obj(mesh: Mesh) -> bytes:
    lines = [f"v {x:.6g} {y:.6g} {z:.6g}" for x, y, z in mesh.vertices.tolist()]
    lines += ["f " + " ".join(str(corner + 1) for corner in face) for face in mesh.faces.tolist()]
    return ("# a ball\no ball\n" + "\n".join(lines) + "\n").encode()


def _ply(mesh: Mesh, how: str) -> bytes:
    head = ["ply", f"format {how} 1.0", "comment a ball", f"element vertex {len(mesh.vertices)}"]
    head += [f"property float {axis}" for axis in "xyz"]
    head += [f"element face {mesh.triangles}", "property list uchar int vertex_indices", "end_header", ""]
    if how == "ascii":
        rows = [" ".join(f"{value:.6g}" for value in row) for row in mesh.vertices.tolist()]
        rows += ["3 " + " ".join(map(str, row)) for row in mesh.faces.tolist()]
        return ("\n".join(head) + "\n".join(rows) + "\n").encode()
    faces = np.zeros(mesh.triangles, np.dtype([("n", "u1"), ("f", "<i4", 3)]))
    faces["n"], faces["f"] = 3, mesh.faces
    return "\n".join(head).encode() + mesh.vertices.astype("<f4").tobytes() + faces.tobytes()
