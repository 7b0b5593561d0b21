"""Fixtures that all tests share: the demo files, and the whole application running."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from demo.parts import built
from tests.house import House


@pytest.fixture(scope="session")
def demo() -> Path:
    """The folder of the Larch Hill files."""
    return built()


@pytest.fixture(scope="session")
def house(tmp_path_factory: pytest.TempPathFactory) -> Iterator[House]:
    """Database, worker and server on free ports, each a process of its own."""
    house = House(tmp_path_factory.mktemp("house"))
    house.start()
    yield house
    house.stop()
