"""Fixtures that all tests share: the demo files, and the whole application running."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn
from hypothesis import settings

from aimtrue.standins.next_program import make_app
from demo.parts import built
from tests.house import House, own_folder

# A check says the same of the same code each time. New draws are for `bench --walk`, which goes on for as
# long as it is told, and for `pytest --hypothesis-profile=anew`. No time is asserted: machines are busy.
settings.register_profile("same", derandomize=True, deadline=None)
settings.register_profile("anew", derandomize=False, deadline=None)
settings.load_profile("same")


@pytest.fixture(scope="session")
def demo() -> Path:
    """The folder of the Larch Hill files."""
    return built()


@pytest.fixture
def program() -> Iterator[str]:
    """The address of a simulated next program that is never silent for longer than a second."""
    server = uvicorn.Server(uvicorn.Config(make_app(silence=1.0), port=0, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        thread.join(0.01)
    yield f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
    server.should_exit = True
    thread.join()


@pytest.fixture(scope="session")
def house() -> Iterator[House]:
    """Database, worker and server on free ports, each a process of its own."""
    with own_folder() as folder:
        house = House(folder)
        house.start()
        yield house
        house.stop()
