"""The processes that `up` starts: `server`, `worker`, and `next`, the simulated next program."""

from __future__ import annotations

import gc
import logging
import sys

from aimtrue.processes import end_with_parent, keep_memory_private
from aimtrue.settings import settings


class RateLimitedMessage(logging.Filter):
    """Lets a message through once a minute: what is no HTTP at all can come by the thousand.

    Args:
        message: that is held back, as it begins.
    """

    SECONDS = 60.0

    def __init__(self, message: str) -> None:
        super().__init__()
        self._message, self._last = message, -self.SECONDS

    def filter(self, record: logging.LogRecord) -> bool:
        """Tell whether a message is let through."""
        if not record.getMessage().startswith(self._message):
            return True
        if record.relativeCreated / 1000 - self._last < self.SECONDS:
            return False
        self._last = record.relativeCreated / 1000
        return True


def main(role: str) -> None:
    """Run one of them until told to stop."""
    end_with_parent()
    keep_memory_private()  # A reader that a file has taken over must not find the key in memory.
    logging.basicConfig(level=logging.WARNING, format=f"{role}: %(levelname)s %(message)s")
    if role == "worker":
        from aimtrue.work.worker import work

        work()
        return
    if role == "next":
        _next_program()
        return
    # A job is many small values that live long and know no cycles. Looking through them all for cycles took
    # longer than most answers; what has cycles (sessions, requests) is small and can wait.
    gc.set_threshold(200_000, 50, 20)
    import uvicorn

    from aimtrue.api.server import make_app
    from aimtrue.cli.system import SetupError, refuse_unguarded

    try:
        refuse_unguarded(settings())
    except SetupError as error:
        sys.exit(str(error))
    logging.getLogger("uvicorn.error").addFilter(RateLimitedMessage("Invalid HTTP request received."))
    # Open event streams would otherwise keep the server from stopping.
    uvicorn.run(
        make_app(),
        host=settings().host,
        port=settings().port,
        log_level="warning",
        timeout_graceful_shutdown=2,
    )


def _next_program() -> None:
    """Run the simulated next program; it listens on this machine only."""
    import uvicorn

    from aimtrue.standins.next_program import make_app

    uvicorn.run(make_app(), host="127.0.0.1", port=settings().next_port, log_level="warning")


if __name__ == "__main__":
    main(sys.argv[1])
