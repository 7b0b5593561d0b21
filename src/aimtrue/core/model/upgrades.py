"""The steps that bring kept jobs from one version to the next."""

from __future__ import annotations

from typing import Any

from aimtrue.core.model.versions import Kept, Ladder


def _owned_by_kits(job: Kept) -> Kept:
    """1 to 2: what bodies of a kit share is the kit's; seats, plates and machines are values of their own.

    What was tolerated before by defaults and validators is settled here, once: a correction that names one
    reading, a kept bore with a diameter in mm, a copy told by its id, a gauge of two bare points.
    """
    homes = {source["id"]: source.get("home", _ORIGIN) for source in job.get("sources", ())}
    bodies = [_settled_body(body) for body in job.get("bodies", ())]
    kits = [
        _owning(kit, mine, homes)
        for kit in job.get("kits", ())
        if (mine := [body for body in bodies if body.get("kit") == kit["id"]])
    ]
    known = {kit["id"] for kit in kits}
    seats = [seat for kit in kits for seat in kit.pop("seats")]
    for body in bodies:
        seats += _on_its_own(body, lone=body.get("kit") not in known, home=homes.get(body["source"], _ORIGIN))
    upgraded = {
        **job,
        "sources": [_without(source, "home") for source in job.get("sources", ())],
        "bodies": bodies,
        "kits": kits,
        "seats": seats,
        "plates": [_plate(job.get("machine", {}))],
        "readings": [_gauged(reading) for reading in job.get("readings", ())],
    }
    return _without(upgraded, "machine")


_ORIGIN = [0.0, 0.0, 0.0]


def _owning(kit: Kept, bodies: list[Kept], homes: Kept) -> Kept:
    """A kit with what its bodies share; whatever was not shared is a body's own from now on."""
    lead = next((body for body in bodies if not body.get("alone")), bodies[0])
    shared = _decisions(lead)
    for body in bodies:
        body["alone"] = body.get("alone", False) or _decisions(body) != shared
    home = homes.get(lead["source"], _ORIGIN)
    return {**kit, "shared": shared, "home": home, "seats": _seats(kit["id"], lead)}


def _on_its_own(body: Kept, *, lone: bool, home: list[float]) -> list[Kept]:
    """Leave with a body what is its own, and return its seats."""
    allowance, seats = body.get("allowance", {}), []
    body["clearance"] = {
        "mm": allowance.get("clearance_mm", _ORIGIN),
        "typed": allowance.get("clearance_typed", ["", "", ""]),
    }
    if lone:
        seats = _seats(body["id"], body)
        body["home"] = home
    if lone or body["alone"]:
        body["own"] = _decisions(body)
    for gone in ("correction", "allowance", "seat"):
        body.pop(gone, None)
    return seats


def _plate(machine: Kept) -> Kept:
    return {
        "id": "p1",
        "machine": {
            "name": machine.get("name", "Garden bench M"),
            "volume": {"shape": "box", "size": machine.get("volume", [250.0, 210.0, 220.0])},
            "process": {"bead": machine.get("bead", 0.4)},
        },
    }


def _settled_body(body: Kept) -> Kept:
    upgraded = dict(body)
    correction = dict(upgraded.get("correction", {}))
    if "reading" in correction:
        reading = correction.pop("reading")
        correction["readings"] = [reading] if reading else []
    upgraded["correction"] = correction
    upgraded["kept"] = [_without(bore, "diameter_mm") for bore in upgraded.get("kept", ())]
    if upgraded.get("stretched"):
        upgraded["stretched"] = {
            ("along" if name == "of" else name): value for name, value in upgraded["stretched"].items()
        }
    upgraded.setdefault("copied", str(upgraded.get("id", "")).startswith("d"))
    return upgraded


def _decisions(body: Kept) -> Kept:
    allowance = body.get("allowance", {})
    shrinkage = {
        "shares": allowance.get("shrinkage", [0.0, 0.0, 0.0]),
        "typed": allowance.get("shrinkage_typed", ["", "", ""]),
        "of_material": allowance.get("of_material", False),
        "says": allowance.get("says", ""),
    }
    return {"correction": body["correction"], "shrinkage": shrinkage}


def _seats(subject: str, body: Kept) -> list[Kept]:
    turns = body.get("seat", {}).get("turns", [])
    return [{"subject": subject, "turns": turns}] if turns else []


def _gauged(reading: Kept) -> Kept:
    if "a_point" not in reading:
        return reading
    upgraded = dict(reading)
    anchors = [upgraded.pop("a"), upgraded.pop("b")]
    points = [upgraded.pop("a_point"), upgraded.pop("b_point")]
    return {**upgraded, "gauge": {"kind": "points", "points": points, "anchors": anchors}}


def _without(kept: Kept, *names: str) -> dict[str, Any]:
    return {name: value for name, value in kept.items() if name not in names}


JOBS = Ladder("this job", [_owned_by_kits])
RELEASES = Ladder("this release")
CALIBRATIONS = Ladder("this calibration")
MACHINES = Ladder("this machine")
