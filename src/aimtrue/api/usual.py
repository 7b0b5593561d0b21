"""The addresses of usual settings: kept from a job, listed for the next, and taken away."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from aimtrue.core.usual.settings import UsualSettings, usual_of
from aimtrue.store import jobs, usual
from aimtrue.store.database import sessions, snapshot

router = APIRouter(prefix="/api")


class UsualName(BaseModel):
    """What a set is to be called."""

    name: str = Field(max_length=200)


@router.get("/usual")
def listed() -> list[UsualSettings]:
    """Return all sets of usual settings, by name."""
    with snapshot() as session:
        return usual.every(session)


@router.post("/jobs/{key}/usual")
def keep(key: str, asked: UsualName) -> list[UsualSettings]:
    """Keep what a job has settled, under a name, in the place of a set of that name; return all."""
    with sessions().begin() as session:
        usual.keep(session, usual_of(jobs.load(session, key).job, asked.name))
        return usual.every(session)


@router.post("/usual/remove")
def remove(asked: UsualName) -> list[UsualSettings]:
    """Take a set away, and return those that are left."""
    with sessions().begin() as session:
        usual.remove(session, asked.name)
        return usual.every(session)
