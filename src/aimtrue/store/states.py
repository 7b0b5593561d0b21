"""Kept states as values: brought up to the newest version, and the same value for the same content.

A body that an action did not touch is one and the same object in every state of its job. Whatever is worked
out of it is then known by that object (see :mod:`aimtrue.core.model.memo`), and is not worked out again.
"""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import Any, TypeVar

import orjson
from pydantic import BaseModel

from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job, Kit, Reading
from aimtrue.core.model.source import Source
from aimtrue.core.model.upgrades import JOBS
from aimtrue.store.tables import RevisionRow

_Item = TypeVar("_Item", bound=BaseModel)
_PARTS: dict[str, type[BaseModel]] = {"sources": Source, "bodies": Body, "kits": Kit, "readings": Reading}
_JOBS, _ITEMS = 64, 40_000


class _Recent(OrderedDict[Any, Any]):
    """The last few values, by key."""

    def __init__(self, most: int) -> None:
        super().__init__()
        self._most = most
        self._lock = Lock()

    def keep(self, key: Any, value: Any) -> Any:
        with self._lock:
            self[key] = value
            self.move_to_end(key)
            while len(self) > self._most:
                self.popitem(last=False)
        return value


_jobs, _items = _Recent(_JOBS), _Recent(_ITEMS)


def job_of(row: RevisionRow) -> Job:
    """Return the job that a revision keeps."""
    key = (row.job, row.number, row.digest)
    found: Job | None = _jobs.get(key)
    return found if found is not None else _jobs.keep(key, read(row.state, row.version))


def remember(row: RevisionRow, job: Job) -> None:
    """Note the job that was just kept as a revision, so that its parts stay the objects that they are."""
    _jobs.keep((row.job, row.number, row.digest), job)
    for name in _PARTS:
        for kept, part in zip(row.state[name], getattr(job, name), strict=True):
            _items.keep(_key(name, kept), part)


def read(state: dict[str, Any], version: int) -> Job:
    """Return a kept state as a job; parts that were met before are the very same objects."""
    kept = JOBS.up(state, version)
    parts = {name: tuple(_part(name, one) for one in kept.get(name, ())) for name in _PARTS}
    bare = Job.model_validate({name: value for name, value in kept.items() if name not in _PARTS})
    return bare.model_copy(update=parts)


def _part(name: str, kept: dict[str, Any]) -> BaseModel:
    key = _key(name, kept)
    found: BaseModel | None = _items.get(key)
    return found if found is not None else _items.keep(key, _PARTS[name].model_validate(kept))


def _key(name: str, kept: dict[str, Any]) -> tuple[str, bytes]:
    return name, orjson.dumps(kept, option=orjson.OPT_SORT_KEYS)
