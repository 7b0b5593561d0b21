"""Kept states as values: brought up to the newest version, and the same value for the same content.

A body that an action did not touch is one and the same object in every state of its job. Whatever is worked
out of it is then known by that object (see :mod:`aimtrue.core.model.memo`), and is not worked out again.
"""

from __future__ import annotations

import hashlib
import zlib
from functools import partial
from typing import Any, TypeVar

import orjson
from pydantic import BaseModel

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job, Kit
from aimtrue.core.model.memo import Memo, RecentValues
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.source import Source
from aimtrue.core.model.upgrades import JOBS
from aimtrue.store.tables import RevisionRow

_Item = TypeVar("_Item", bound=BaseModel)
_PARTS: dict[str, type[BaseModel]] = {"sources": Source, "bodies": Body, "kits": Kit, "readings": Reading}
_JOBS, _ITEMS = 64, 40_000


_jobs: RecentValues[tuple[str, int, str], Job] = RecentValues(_JOBS)
_items: RecentValues[bytes, Any] = RecentValues(_ITEMS)


def job_of(row: RevisionRow) -> Job:
    """Return the job that a revision keeps."""
    key = (row.job, row.number, row.digest)
    job = _jobs.get(key)
    return job if job is not None else _jobs.keep(key, read(kept_state(row), row.version))


def kept_state(row: RevisionRow) -> dict[str, Any]:
    """Return the state of a revision as it is kept."""
    if row.packed is not None:
        kept: dict[str, Any] = orjson.loads(zlib.decompress(row.packed))
        return kept
    if row.state is None:
        raise AimTrueError(
            "revision-thinned",
            "this state is too long ago and was not kept",
            remedy="go back to a release, or on from here",
        )
    return row.state


def remember(row: RevisionRow, job: Job) -> None:
    """Note the job that was just kept as a revision, so that its parts stay the objects that they are."""
    _jobs.keep((row.job, row.number, row.digest), job)
    for name in _PARTS:
        for part in getattr(job, name):
            _items.keep(_KEYS.get((part,), (name,), partial(_key_of, name, part)), part)


_KEYS: Memo[bytes] = Memo(_ITEMS)


def _key_of(name: str, part: BaseModel) -> bytes:
    return _key(name, _plain_part(part))


def read(state: dict[str, Any], version: int) -> Job:
    """Return a kept state as a job; parts that were met before are the very same objects."""
    kept = JOBS.up(state, version)
    parts = {name: tuple(_part(name, item) for item in kept.get(name, ())) for name in _PARTS}
    bare = Job.model_validate({name: value for name, value in kept.items() if name not in _PARTS})
    return bare.model_copy(update=parts)


def packed(state: dict[str, Any]) -> tuple[bytes, str]:
    """Return a state as it is kept, and what tells it from others that are not the same.

    The database takes text of a megabyte apart and packs it in a tenth of a second, with the job locked;
    packed here, at its quickest, it takes a tenth of that.
    """
    text = orjson.dumps(state)
    return zlib.compress(text, 1), hashlib.md5(text, usedforsecurity=False).hexdigest()


def plain(job: Job) -> dict[str, Any]:
    """Return a job as it is kept; parts that an action did not touch are not written out again."""
    state = job.model_dump(mode="json", exclude=set(_PARTS))
    for name in _PARTS:
        state[name] = [_plain_part(item) for item in getattr(job, name)]
    return state


_PLAIN: Memo[dict[str, Any]] = Memo(_ITEMS)


def _plain_part(part: BaseModel) -> dict[str, Any]:
    return _PLAIN.get((part,), (), partial(part.model_dump, mode="json"))


def _part(name: str, kept: dict[str, Any]) -> BaseModel:
    key = _key(name, kept)
    base_model: BaseModel | None = _items.get(key)
    return base_model if base_model is not None else _items.keep(key, _PARTS[name].model_validate(kept))


def _key(name: str, kept: dict[str, Any]) -> bytes:
    """A part's content in few bytes: its text is as long as the part itself is large."""
    text = orjson.dumps((name, kept), option=orjson.OPT_SORT_KEYS)
    return hashlib.blake2b(text, digest_size=20).digest()
