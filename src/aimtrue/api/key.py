"""The key of a server that others can reach: given once, and kept by the browser."""

from __future__ import annotations

from math import ceil

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from aimtrue.api.guard import COOKIE, TRIES, refused, same, token_of, who_asks
from aimtrue.settings import settings

router = APIRouter(prefix="/api")
_YEAR = 365 * 24 * 3600


class GiveKey(BaseModel):
    """The key, as typed."""

    key: str = Field(max_length=200)


@router.post("/key", status_code=204, response_class=Response)
def give_key(request: Request, asked: GiveKey) -> Response:
    """Take the key, and let the browser in from now on."""
    who = who_asks(request)
    if wait := TRIES.wait(who):
        return refused(429, "key-tries", f"too many wrong keys; wait {ceil(wait)} s", "then type it again")
    if not settings().key or not same(asked.key.strip(), settings().key):
        TRIES.wrong(who)
        return refused(403, "key-wrong", "that is not the key", "ask whoever runs this server")
    answer = Response(status_code=204)
    # Not marked as secure: many run this in a workshop's network, without a certificate.
    answer.set_cookie(COOKIE, token_of(settings().key), max_age=_YEAR, httponly=True, samesite="strict")
    return answer
