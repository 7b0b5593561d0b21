"""This module says what a machine must be to be taken: of sizes that one can have, with something left
within its margins.
"""

from __future__ import annotations

from math import isfinite

from aimtrue.core.errors import Refused
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.text import refuse_odd

_LEAST_MM, _MOST_MM = 1.0, 100_000.0
_LONGEST_NAME = 60


def checked_machine(machine: Machine) -> Machine:
    """Return a machine with its name tidied.

    Raises:
        Refused: it has no name, its sizes are no machine's, or its margins leave nothing.
    """
    name = " ".join(machine.name.split())
    if not name or len(name) > _LONGEST_NAME:
        raise Refused(
            "machine-name", "a machine needs a name", remedy=f"type one of up to {_LONGEST_NAME} characters"
        )
    refuse_odd(name, "a machine's name")
    _check_sizes(machine, name)
    _check_process(machine, name)
    return machine.model_copy(update={"name": name})


def _check_sizes(machine: Machine, name: str) -> None:
    for size, what in zip(machine.volume.room, ("width", "depth", "height"), strict=True):
        if not isfinite(size) or not _LEAST_MM <= size <= _MOST_MM:
            raise Refused(
                "machine-size",
                f"a {what} of {size:g} mm is no machine's",
                remedy=f"type one between {_LEAST_MM:g} mm and {_MOST_MM / 1000:g} m",
            )
    free = machine.free
    if not all(isfinite(length) and length > 0 for length in free):
        raise Refused(
            "machine-margins",
            f"the margins of {name}, with what is drawn around the first layer, leave nothing of its plate",
            remedy="make them smaller",
        )


def _check_process(machine: Machine, name: str) -> None:
    process = machine.process
    if not process.layers or not all(isfinite(layer) and layer > 0 for layer in process.layers):
        raise Refused(
            "machine-layers", f"{name} has no layer height that it can make", remedy="give one such as 0.2"
        )
    if not (isfinite(process.layer) and isfinite(process.bead)) or process.layer > 10 or process.bead > 50:
        raise Refused(
            "machine-layers", "this bead or layer is beyond any machine", remedy="type it in mm, such as 0.4"
        )
    if machine.display is not None and not 4 <= machine.display <= 255:
        raise Refused(
            "machine-display", "a display shows from 4 to 255 characters", remedy="leave it empty for all"
        )
