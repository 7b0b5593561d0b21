"""The shelf of machines: kept between jobs, each under a name of its own."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from aimtrue.core.errors import Refused
from aimtrue.core.model.machine import SHIPPED, Machine
from aimtrue.core.model.upgrades import MACHINES
from aimtrue.core.seating.machines import checked_machine
from aimtrue.store.tables import MachineRow

_MOST = 200


@dataclass(frozen=True)
class StoredMachine:
    """A machine on the shelf, by its number."""

    id: int
    machine: Machine


def every(session: Session) -> list[StoredMachine]:
    """Return all machines, in the order that they were put there."""
    rows = session.scalars(select(MachineRow).order_by(MachineRow.id)).all()
    return [
        StoredMachine(row.id, Machine.model_validate(MACHINES.up(row.machine, row.version))) for row in rows
    ]


def fill(session: Session) -> None:
    """Put the machines that the app comes with on a shelf that was never filled."""
    # Ids are never used twice, so a shelf that its user emptied is told from a new one.
    filled = session.scalar(text("select is_called from machine_id_seq"))
    for machine in () if filled else SHIPPED:
        session.add(_row(machine))
    session.flush()


def put(session: Session, machine: Machine, number: int | None = None) -> StoredMachine:
    """Put a machine on the shelf, or in the place of one.

    Raises:
        Refused: it is no machine, its name is taken, it is there no more, or the shelf is full.
    """
    machine = checked_machine(machine)
    taken = session.scalar(select(MachineRow).where(func.lower(MachineRow.name) == machine.name.lower()))
    if taken is not None and taken.id != number:
        raise Refused(
            "machine-taken", f"there is a machine {taken.name} already", remedy="give this one another name"
        )
    if number is None:
        if (session.scalar(select(func.count()).select_from(MachineRow)) or 0) >= _MOST:
            raise Refused("machines-full", f"{_MOST} machines are kept at most", remedy="remove one first")
        row = _row(machine)
        session.add(row)
    else:
        machine_row = session.get(MachineRow, number)
        if machine_row is None:
            raise Refused("machine-unknown", "this machine was removed", remedy="add it as a new one")
        row = machine_row
        row.name, row.machine, row.version = machine.name, machine.model_dump(mode="json"), MACHINES.newest
    session.flush()
    return StoredMachine(row.id, machine)


def remove(session: Session, number: int) -> None:
    """Take a machine off the shelf; jobs that took it keep theirs."""
    row = session.get(MachineRow, number)
    if row is not None:
        session.delete(row)


def _row(machine: Machine) -> MachineRow:
    return MachineRow(name=machine.name, machine=machine.model_dump(mode="json"), version=MACHINES.newest)
