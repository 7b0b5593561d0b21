"""The addresses of sheet 5 that are no actions: the shelf of machines; what is drawn of plates and seats."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.shared import store
from aimtrue.core.model.ids import PlateId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import Machine
from aimtrue.core.seating import views
from aimtrue.core.seating.layer_analysis import layers as layered
from aimtrue.core.seating.orientation.ways_to_stand import WayToStand, Wish, ways_to_stand
from aimtrue.store import jobs, machines
from aimtrue.store.database import sessions, snapshot

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


class MachineView(BaseModel):
    """A machine on the shelf."""

    id: int
    machine: Machine


@router.get("/machines")
def list_machines() -> list[MachineView]:
    """List the machines on the shelf."""
    with snapshot() as session:
        return [
            MachineView(id=stored_machine.id, machine=stored_machine.machine)
            for stored_machine in machines.every(session)
        ]


@router.post("/machines", status_code=201)
def add_machine(asked: Machine) -> MachineView:
    """Put a machine on the shelf."""
    with sessions().begin() as session:
        kept = machines.put(session, asked)
    return MachineView(id=kept.id, machine=kept.machine)


@router.post("/machines/which")
def which_machine(machine: Machine) -> int | None:
    """Return the number of the machine on the shelf that is the same in all; None where there is none."""
    with snapshot() as session:
        return next((each.id for each in machines.every(session) if each.machine == machine), None)


@router.put("/machines/{number}")
def change_machine(number: int, asked: Machine) -> MachineView:
    """Change a machine on the shelf; jobs that took it keep it as it was."""
    with sessions().begin() as session:
        kept = machines.put(session, asked, number)
    return MachineView(id=kept.id, machine=kept.machine)


@router.delete("/machines/{number}")
def remove_machine(number: int) -> list[MachineView]:
    """Take a machine off the shelf; jobs that took it keep it."""
    with sessions().begin() as session:
        machines.remove(session, number)
    return list_machines()


def _job(key: str) -> Job:
    with snapshot() as session:
        return jobs.load(session, key).job


@heavy.get("/jobs/{key}/plates/{plate}/plan")
def plan(key: str, plate: PlateId) -> views.Plan:
    """Draw a plate from above, by the true outlines of what stands on it."""
    return views.plan_of(_job(key), plate, store)


@heavy.get("/jobs/{key}/plates/{plate}/layers")
def layers(key: str, plate: PlateId) -> layered.Layers:
    """Tell what all layers of a plate come to."""
    return layered.layers_now(_job(key), plate, store)


@heavy.get("/jobs/{key}/plates/{plate}/layers/{number}")
def layer(key: str, plate: PlateId, number: int) -> layered.Layer:
    """Draw one layer of a plate."""
    return layered.layer_at(_job(key), plate, number, store)


@heavy.get("/jobs/{key}/seats/{body}/{copy_number}/ways")
def ways(key: str, body: Subject, copy_number: int, wish: Wish = "contact") -> list[WayToStand]:
    """List the ways that a body or kit can stand."""
    return list(ways_to_stand(_job(key), body, copy_number, store, wish))


@heavy.get("/jobs/{key}/seats/{body}/{copy_number}/first-layer")
def first_layer(key: str, body: Subject, copy_number: int) -> views.FirstLayer:
    """Draw the first layer of a seat, and tell what hangs over."""
    return views.first_layer(_job(key), body, copy_number, store)


@heavy.get("/jobs/{key}/seats/{body}/{copy_number}/try")
def try_move(
    key: str, body: Subject, copy_number: int, dx: float = 0.0, dy: float = 0.0, turn: float = 0.0
) -> views.TriedMove:
    """Tell what a move or turn on the plate would come to; asked while a hand drags, nothing is changed."""
    return views.tried(_job(key), body, copy_number, dx, dy, store, turn)


@heavy.get("/jobs/{key}/seats/{body}/mirrored")
def mirrored(key: str, body: Subject) -> list[views.MirrorReport]:
    """Tell what would show that the bodies of a seat are mirrored."""
    return list(views.mirrored_words(_job(key), body, store))
