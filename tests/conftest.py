"""Fixtures that all tests share: the demo files, and the whole application running."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from demo.parts import built
from tests.house import House, own_folder


@pytest.fixture(scope="session")
def demo() -> Path:
    """The folder of the Larch Hill files."""
    return built()


@pytest.fixture(scope="session")
def house() -> Iterator[House]:
    """Database, worker and server on free ports, each a process of its own."""
    with own_folder() as folder:
        house = House(folder)
        house.start()
        yield house
        house.stop()
