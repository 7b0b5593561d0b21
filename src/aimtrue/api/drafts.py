"""The addresses of drafts: what is laid out on a sheet and not yet made, so that it survives a reload."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Path
from pydantic import BaseModel

from aimtrue.store import drafts
from aimtrue.store.database import sessions, snapshot

router = APIRouter(prefix="/api")

DraftName = Annotated[str, Path(pattern=r"^[a-z][a-z0-9-]{0,39}$")]


class Draft(BaseModel):
    """What a sheet has laid out, by body, as it wrote it; None where nothing is any more."""

    value: dict[str, Any]


@router.get("/jobs/{key}/drafts")
def listed(key: str) -> dict[str, Any]:
    """Return the drafts of a job by their names."""
    with snapshot() as session:
        return drafts.drafts_of(session, key)


@router.put("/jobs/{key}/drafts/{name}", status_code=204)
def keep(key: str, name: DraftName, asked: Draft) -> None:
    """Keep entries of a draft; of each the last one that was sent is the one that is kept."""
    with sessions().begin() as session:
        drafts.keep(session, key, name, asked.value)
