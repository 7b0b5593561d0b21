"""Whatever happens behind the fence, only that task ends."""

import contextlib
import ctypes
import os
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from aimtrue.core.errors import AimTrueError, UnreadableFile
from aimtrue.core.formats.contents import Limits as Packing
from aimtrue.work.fence import Limits, run
from aimtrue.work.fenced import read_file

Progress = Callable[[float, str], None]
LIMITS = Limits(seconds=20, memory_bytes=4_000_000_000)


def answer(value: int, progress: Progress) -> int:
    progress(0.5, "half")
    return value * 2


def refuse(progress: Progress) -> None:
    raise UnreadableFile("odd", "this is odd", where="here", remedy="mend it")


def crash(progress: Progress) -> None:
    ctypes.string_at(0)


def leave(progress: Progress) -> None:
    os._exit(3)


def hang(progress: Progress) -> None:
    time.sleep(60)


def gorge(progress: Progress) -> None:
    bytearray(8_000_000_000)


def stumble(progress: Progress) -> None:
    raise RuntimeError("a slip")


def test_answers_and_progress_come_through() -> None:
    told: list[tuple[float, str]] = []
    assert run(answer, 21, limits=LIMITS, progress=lambda share, says: told.append((share, says))) == 42
    assert told == [(0.5, "half")]


def test_a_refusal_comes_through_whole() -> None:
    with pytest.raises(UnreadableFile) as told:
        run(refuse, limits=LIMITS)
    assert told.value.line() == "this is odd, here; mend it"


@pytest.mark.parametrize(
    ("doing", "code"),
    [
        (crash, "task-crashed"),
        (leave, "task-crashed"),
        (hang, "task-too-long"),
        (gorge, "task-memory"),
        (stumble, "task-failed"),
    ],
)
def test_every_end_is_told(doing: Callable[[Progress], None], code: str) -> None:
    with pytest.raises(AimTrueError) as told:
        run(doing, limits=Limits(seconds=3, memory_bytes=4_000_000_000))
    assert told.value.code == code


@pytest.mark.parametrize("seed", range(4))
def test_damaged_cad_ends_at_most_its_own_task(demo: Path, tmp_path: Path, seed: int) -> None:
    """Whatever damage does to the kernel, it is read or told, and this process goes on."""
    random = np.random.default_rng(seed)
    data = bytearray((demo / "clamp-shells.step").read_bytes())
    for _ in range(40):
        data[int(random.integers(200, len(data) - 40))] = int(random.integers(32, 127))
    path = tmp_path / "damaged.step"
    path.write_bytes(data)
    limits = Limits(seconds=60, memory_bytes=8_000_000_000)
    with contextlib.suppress(AimTrueError):
        assert run(read_file, path, "s1", path.name, Packing(), tmp_path, limits=limits).action
    assert run(answer, 2, limits=LIMITS) == 4
