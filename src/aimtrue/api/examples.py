"""The addresses of the example files: what there is to try, and a job opened with one."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from aimtrue.api import uploads
from aimtrue.api.views import OpenedJob
from aimtrue.examples import EXAMPLES, example
from aimtrue.store.database import sessions

router = APIRouter(prefix="/api")


class ExampleView(BaseModel):
    """A file to try, what it shows, and what one does with it."""

    name: str
    promise: str
    says: str


@router.get("/examples")
def listed() -> list[ExampleView]:
    """List the example files."""
    return [ExampleView(name=known.name, promise=known.promise, says=known.says) for known in EXAMPLES]


@router.post("/examples/{name}", status_code=201)
def opened(name: str) -> OpenedJob:
    """Open a job with an example file."""
    chosen = example(name)
    with chosen.path.open("rb") as file, sessions().begin() as session:
        return OpenedJob(id=uploads.opened_with(session, file, name))
