"""This module lists the commands of the program, with their options and where each is done.

What does a command is named, not imported, so that none waits for what it does not need. Commands that only
answer are described by the rooms of the core, see :mod:`aimtrue.cli.answers`.
"""

from __future__ import annotations

import argparse

from aimtrue.cli.options import (
    Commands,
    add_body_option,
    add_reading_options,
    add_release_options,
    add_shape_options,
    add_sizing_options,
)
from aimtrue.core.model.lengths import Unit

_TOGETHER = (
    ("join", "join two bodies into one solid"),
    ("cut", "cut the second of two bodies from the first"),
    ("common", "keep what two bodies have in common"),
    ("split-by", "split the first of two bodies by the second"),
)
"""What is made of two bodies together, by the name of its command."""


def add_commands(commands: Commands) -> None:
    """Add the commands of the program to its parser, in the order of its help."""
    for add in (
        _add_up,
        _add_check,
        _add_bench,
        _add_inspect,
        _add_release,
        _add_verify,
        _add_send,
        _add_watch,
        _add_work,
        _add_seat,
        _add_estimate,
        _add_section,
        _add_divide,
        _add_trial,
        _add_split,
        _add_hollow,
        _add_offset,
        _add_thread,
        _add_outline,
        _add_must_hold,
        _add_inspection,
        _add_make,
        _add_mend,
        _add_sew,
        _add_face_outward,
        _add_completion,
    ):
        add(commands)
    for how, says in _TOGETHER:
        _add_together(commands, how, says)
    notices = commands.add_parser("notices", help="print the notice of third parties")
    notices.set_defaults(run="aimtrue.cli.notices:notices")


def _add_up(commands: Commands) -> None:
    up = commands.add_parser("up", help="set up what is missing, start everything, print the address")
    up.add_argument("--empty", action="store_true", help="without the demo jobs")
    up.set_defaults(run="aimtrue.cli.up:up")


def _add_check(commands: Commands) -> None:
    check = commands.add_parser("check", help="install what the tests need, then lint, type-check and test")
    check.add_argument("--only", action="append", metavar="STEP", help="run only this step; may be repeated")
    check.set_defaults(run="aimtrue.cli.check:check")


def _add_bench(commands: Commands) -> None:
    bench = commands.add_parser("bench", help="measure beside a general mesh library")
    bench.add_argument("--triangles", type=int, default=1_500_000, help="of the made mesh (1500000)")
    bench.add_argument("--curve", action="store_true", help="inspect from 10 thousand to 5 million triangles")
    bench.add_argument("--verdict", action="store_true", help="the unit verdict on made parts")
    bench.add_argument("--picture", action="store_true", help="from drop to first picture, in the browser")
    bench.add_argument("--truing", action="store_true", help="the solver, features and drawings")
    bench.add_argument("--drag", action="store_true", help="pictures a second while the factor is dragged")
    bench.add_argument(
        "--faults-in-core", action="store_true", help="put in one fault at a time; proofs must catch all"
    )
    bench.add_argument("--actions", action="store_true", help="the answer to an action, for 1 to 1000 bodies")
    bench.add_argument("--many", action="store_true", help="40 and 200 files dropped on one job")
    bench.add_argument(
        "--kills", type=int, metavar="N", help="kill what works on releases; nothing may be lost"
    )
    bench.add_argument(
        "--fuzz", type=float, metavar="SECONDS", help="read damaged files for so long; each is read or told"
    )
    bench.add_argument(
        "--knock",
        type=float,
        metavar="SECONDS",
        help="damaged requests for so long; nothing falls over",
    )
    bench.add_argument("--first", type=int, default=0, metavar="N", help="the first damaged file's number")
    bench.add_argument("--soak", type=float, metavar="MINUTES", help="mixed load with kills for so long")
    bench.add_argument(
        "--walk", type=float, metavar="MINUTES", help="whole journeys drawn at random, against an oracle"
    )
    bench.add_argument("--cad", action="store_true", help="a plate of many holes, beside the kernel alone")
    bench.add_argument("--workers", action="store_true", help="files a minute with one worker and with two")
    bench.add_argument("--seating", action="store_true", help="sections, ways to stand, arrangements")
    bench.add_argument("--fit", action="store_true", help="walls, distances, the pairs of many bodies")
    bench.add_argument("--cost", action="store_true", help="estimates quick and full, tool paths")
    bench.add_argument("--division", action="store_true", help="pieces, seams, hollows")
    bench.set_defaults(run="benchmarks.chosen:chosen")


def _add_inspect(commands: Commands) -> None:
    inspect = commands.add_parser("inspect", help="say what is in model files, and how large")
    add_reading_options(inspect)
    inspect.add_argument(
        "--thorough", action="store_true", help="look for crossing faces in very large meshes, too"
    )
    inspect.set_defaults(run="aimtrue.cli.inspect:inspect")


def _add_release(commands: Commands) -> None:
    release = commands.add_parser("release", help="write files of a proven size")
    add_release_options(release)
    release.add_argument("--out", required=True, metavar="DIR", help="the folder that files are written to")
    release.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    release.add_argument("--sheet", metavar="FILE.pdf", help="write the proof sheet, to be printed")
    release.add_argument(
        "--go-on", action="store_true", help="each file by itself: go on past one that cannot be released"
    )
    release.add_argument("--report", metavar="FILE.csv", help="with --go-on: how each file went, as a table")
    release.add_argument(
        "--proof-record", action="store_true", help="beside the files, as PROOF.json, for verify"
    )
    release.set_defaults(run="aimtrue.cli.release:release")


def _add_send(commands: Commands) -> None:
    send = commands.add_parser("send", help="release files and hand them to a next program over HTTP")
    add_release_options(send)
    send.add_argument(
        "--to", required=True, metavar="TARGET", help="a name of AIMTRUE_TARGETS, or an address"
    )
    send.set_defaults(run="aimtrue.cli.send:send_files")


def _add_watch(commands: Commands) -> None:
    watch = commands.add_parser("watch", help="take in files as they come to a folder")
    watch.add_argument("folder", metavar="FOLDER", help="that is looked at")
    watch.add_argument(
        "--out", required=True, metavar="DIR", help="the folder that answers and releases go to"
    )
    watch.add_argument("--release", action="store_true", help="release those whose unit is clear")
    watch.add_argument(
        "--jobs",
        metavar="ADDRESS",
        help="open a job there, such as http://127.0.0.1:8787, for what stays open",
    )
    watch.add_argument("--once", action="store_true", help="end when nothing is left to be looked at")
    add_release_options(watch, files=False)
    watch.set_defaults(
        run="aimtrue.cli.watch:watch", proof_record=False, sheet=None, replace=False, go_on=False
    )


def _add_work(commands: Commands) -> None:
    work = commands.add_parser("work", help="take tasks from a database elsewhere until Ctrl-C")
    work.add_argument(
        "--database", metavar="URL", help="of the database; the one of the settings unless told"
    )
    work.add_argument("--workers", type=int, default=1, metavar="N", help="processes that work (1)")
    work.set_defaults(run="aimtrue.cli.work:work")


def _add_verify(commands: Commands) -> None:
    verify = commands.add_parser("verify", help="hold files against their proof record, anywhere")
    verify.add_argument("files", nargs="+", metavar="FILE", help="a released file, or a folder of them")
    verify.add_argument(
        "--proof", metavar="PROOF.json", help="the record; that of the folder unless told, where one is given"
    )
    verify.add_argument("--some", action="store_true", help="not every file of the record is given")
    verify.add_argument("--json", action="store_true", help="answer as JSON, failures, too")
    verify.set_defaults(run="aimtrue.cli.verify:verify")


def _add_seat(commands: Commands) -> None:
    seat = commands.add_parser("seat", help="stand bodies on the plates of a machine, flat and level")
    add_reading_options(seat)
    add_sizing_options(seat)
    add_body_option(seat)
    _add_seating_options(seat)
    seat.add_argument("--out", metavar="DIR", help="write a file for each plate")
    seat.add_argument(
        "--format", choices=("3mf", "stl", "stl-ascii", "obj"), default="3mf", help="of the files (3mf)"
    )
    seat.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    seat.set_defaults(run="aimtrue.cli.seat:seat")


def _add_section(commands: Commands) -> None:
    section = commands.add_parser("section", help="cut bodies by flat planes: areas, outlines, islands")
    add_reading_options(section)
    add_sizing_options(section)
    add_body_option(section)
    where = section.add_mutually_exclusive_group(required=True)
    where.add_argument("--at", action="append", metavar="AXIS=LENGTH", help="repeatable")
    where.add_argument("--layers", metavar="MM", help="the middles of all layers of this height")
    section.add_argument("--svg", metavar="FILE", help="write the outlines as SVG, in mm")
    section.add_argument("--dxf", metavar="FILE", help="write the outlines as DXF, in mm")
    section.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    section.set_defaults(run="aimtrue.cli.section:section")


def _add_divide(commands: Commands) -> None:
    divide = commands.add_parser("divide", help="cut bodies into closed pieces that add up to the whole")
    add_shape_options(divide)
    divide.add_argument(
        "--plane",
        action="append",
        default=[],
        metavar="P",
        help='z=120, "z=120 tilted 10 about x where above A", "0,0.5,1 @ 40"; repeatable',
    )
    divide.add_argument("--fit", metavar="M", help="so that the pieces go into a machine")
    divide.add_argument("--margin", metavar="MM", help="to keep free in it at each side")
    divide.add_argument("--seams", action="store_true", help="cut where it hides, where that fits")
    divide.add_argument(
        "--keep", choices=("all", "above", "below"), default="all", help="which pieces are kept (all)"
    )
    divide.add_argument(
        "--slivers",
        choices=("keep", "drop", "give"),
        default="keep",
        help="keep, drop, or give them to a neighbour (keep)",
    )
    divide.add_argument("--pins", metavar='"D,DEPTH,CLEARANCE[,COUNT]"', help="line the pieces up")
    divide.add_argument(
        "--pin-kind",
        choices=("dowel", "fixed"),
        default="dowel",
        help="loose in holes on both sides, or part of a piece",
    )
    divide.add_argument("--pin-wall", default="1.2", metavar="MM", help="left around each hole (1.2)")
    divide.add_argument("--turned", action="store_true", help="pieces may be turned by quarters to fit")
    divide.add_argument("--many", action="store_true", help="more than a hundred pieces are meant")
    divide.add_argument("--open", action="store_true", help="cut what is open, which stays so")
    divide.add_argument(
        "--fewer-pins", action="store_true", help="write pieces also where a pin has no room; 5 unless told"
    )
    divide.add_argument("--keyed", action="store_true", help="pins with a flat, that go in one way only")
    divide.set_defaults(run="aimtrue.cli.shape:divide")


def _add_trial(commands: Commands) -> None:
    trial = commands.add_parser("trial", help="cut a slice out of bodies, to try on first")
    add_shape_options(trial)
    trial.add_argument("--between", required=True, metavar="AXIS=LOW..HIGH", help="which slice: z=10..16")
    trial.add_argument("--wall", metavar="LENGTH", help="thinned from inside to so much")
    trial.set_defaults(run="aimtrue.cli.shape:trial")


def _add_split(commands: Commands) -> None:
    split = commands.add_parser("split", help="make two bodies of one that add up to it")
    add_shape_options(split)
    where = split.add_mutually_exclusive_group(required=True)
    where.add_argument("--above", metavar="AXIS=LENGTH", help="what lies above becomes a body of its own")
    where.add_argument("--inside", metavar="OUTLINE", help="closed outlines in an SVG or DXF file")
    where.add_argument(
        "--face", action="append", default=[], metavar="X,Y,Z", help="raised or sunk; repeatable"
    )
    split.add_argument("--alike", action="store_true", help="with all such faces in the same plane")
    split.add_argument("--along", default="z", metavar="AXIS", help="that the outlines are seen along (z)")
    split.add_argument("--depth", metavar="LENGTH", help="above the plane, down from the top, or under faces")
    split.add_argument(
        "--outline-unit", type=Unit, choices=list(Unit), metavar="U", help="of the numbers of the drawing"
    )
    split.set_defaults(run="aimtrue.cli.shape:split")


def _add_hollow(commands: Commands) -> None:
    hollow = commands.add_parser("hollow", help="hollow bodies out, with drains at their lowest places")
    add_shape_options(hollow)
    hollow.add_argument(
        "--wall", required=True, metavar="LENGTH", help="how thick the wall that stays is to be"
    )
    hollow.add_argument(
        "--drain", action="append", default=[], metavar='"DIAMETER [@ X,Y,Z]"', help="repeatable"
    )
    hollow.set_defaults(run="aimtrue.cli.shape:hollow")


def _add_together(commands: Commands, how: str, says: str) -> None:
    together = commands.add_parser(how, help=says)
    add_shape_options(together)
    together.set_defaults(run="aimtrue.cli.shape:together", how=how.removesuffix("-by"))


def _add_thread(commands: Commands) -> None:
    thread = commands.add_parser("thread", help="put a thread on the wall of a bore or a boss")
    add_shape_options(thread)
    thread.add_argument("--face", required=True, metavar="X,Y,Z", help="a place on the wall")
    thread.add_argument("--size", metavar="M5", help="of the thread; what suits the wall unless told")
    thread.add_argument("--length", metavar="LENGTH", help="of the thread; all of the wall unless told")
    thread.add_argument("--clearance", metavar="LENGTH", help="in diameter, on this body alone")
    thread.add_argument("--add", action="store_true", help="ridges on the wall, not grooves in it")
    thread.add_argument("--left", action="store_true", help="left-hand")
    thread.set_defaults(run="aimtrue.cli.shape:thread")


def _add_offset(commands: Commands) -> None:
    offset = commands.add_parser("offset", help="move faces along their normals, for a clearance")
    add_shape_options(offset)
    which = offset.add_mutually_exclusive_group(required=True)
    which.add_argument(
        "--face", action="append", default=[], metavar="X,Y,Z", help="the face at this place; repeatable"
    )
    which.add_argument("--all", action="store_true", help="all faces")
    offset.add_argument(
        "--by", required=True, metavar="LENGTH", help="outward, away from material, is positive"
    )
    offset.set_defaults(run="aimtrue.cli.shape:offset")


def _add_outline(commands: Commands) -> None:
    outline = commands.add_parser("outline", help="draw a section or a silhouette as DXF or SVG in mm")
    add_reading_options(outline)
    add_sizing_options(outline)
    add_body_option(outline)
    where = outline.add_mutually_exclusive_group(required=True)
    where.add_argument("--plane", metavar="AXIS=LENGTH", help="the section at this height")
    where.add_argument("--silhouette", metavar="AXIS", help="all of it, seen along this axis")
    outline.add_argument("--svg", metavar="FILE", help="write the outlines as SVG, in mm")
    outline.add_argument("--dxf", metavar="FILE", help="write the outlines as DXF, in mm")
    outline.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    outline.set_defaults(run="aimtrue.cli.outline:outline")


def _add_make(commands: Commands) -> None:
    make = commands.add_parser(
        "make", help="make a bolt, a nut, a tube, a box, a gear and more by their standards"
    )
    make.add_argument(
        "part", nargs="*", metavar="PART", help="such as: bolt M5x20 socket, nut M5, box 60x40x20,2"
    )
    make.add_argument(
        "--list", action="store_true", help="list what there is, or what holds the words of PART"
    )
    make.add_argument("--thread", action="store_true", help="cut the thread; drawn plain unless told")
    make.add_argument("--clearance", metavar="LENGTH", help="of the thread, in diameter, on this part alone")
    make.add_argument("--machine", metavar="M", help="tells whether it can make the thread")
    make.add_argument("--out", metavar="DIR", help="the folder that files are written to")
    make.add_argument(
        "--format",
        choices=("step", "3mf", "stl", "stl-ascii", "obj"),
        default="step",
        help="of the files (step)",
    )
    make.add_argument("--deflection", metavar="MM", type=float, help="chord deviation of meshes (0.01)")
    make.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    make.add_argument("--json", action="store_true", help="answer as JSON, failures, too")
    make.set_defaults(run="aimtrue.cli.make:make")


def _add_mend(commands: Commands) -> None:
    mend = commands.add_parser(
        "mend", help="make bodies sound: close holes, weld, resolve crossings, rebuild"
    )
    add_shape_options(mend)
    mend.add_argument(
        "--remedy",
        action="append",
        default=[],
        choices=("weld", "remove-degenerate", "face-outward", "close-holes", "resolve-crossings", "rebuild"),
        help="what to do; repeatable, in order; what the findings name unless told",
    )
    mend.set_defaults(run="aimtrue.cli.mend:mend")


def _add_sew(commands: Commands) -> None:
    sew = commands.add_parser(
        "sew", help="sew loose surfaces of CAD files, join open edges of meshes that meet"
    )
    add_shape_options(sew)
    sew.set_defaults(run="aimtrue.cli.mend:sew")


def _add_face_outward(commands: Commands) -> None:
    face_outward = commands.add_parser("face-outward", help="turn the faces of bodies outward")
    add_shape_options(face_outward)
    face_outward.set_defaults(run="aimtrue.cli.mend:face_outward")


def _add_completion(commands: Commands) -> None:
    completion = commands.add_parser("completion", help="write what a shell offers when Tab is pressed")
    completion.add_argument("shell", choices=("bash", "zsh"), help="the shell that reads it")
    completion.set_defaults(run="aimtrue.cli.completion:completion")


def _add_must_hold(commands: Commands) -> None:
    must_hold = commands.add_parser("must-hold", help="say what must hold, before and after a correction")
    _add_fit_options(must_hold)
    must_hold.set_defaults(run="aimtrue.cli.inspection:must_hold")


def _add_inspection(commands: Commands) -> None:
    inspection = commands.add_parser(
        "inspection", help="hold measured printed parts against what they are to be"
    )
    _add_fit_options(inspection)
    inspection.add_argument(
        "--measured", metavar="TABLE.csv", help="a row a size, a column a part; see --table"
    )
    inspection.add_argument("--tolerance", metavar="LENGTH", help="of what has no band of its own (0.2 mm)")
    inspection.add_argument("--table", metavar="FILE.csv", help="write the table, to be filled")
    inspection.add_argument("--sheet", metavar="FILE.pdf", help="write the inspection sheet, to be printed")
    inspection.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    inspection.set_defaults(run="aimtrue.cli.inspection:inspection")


def _add_fit_options(command: argparse.ArgumentParser) -> None:
    add_reading_options(command)
    add_sizing_options(command)
    add_body_option(command)
    command.add_argument("--pairs", action="store_true", help="make a pair of whatever goes together")
    command.add_argument(
        "--keep-bores", action="store_true", help="bores that suit a bolt keep their diameter"
    )
    command.add_argument("--machine", metavar="M", help='a name, or "250 x 210 x 220" (Garden bench M)')
    command.add_argument("--margin", metavar="MM", help="to keep free at each side")


def _add_seating_options(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "--machine", metavar="M", help='a name, "250 x 210 x 220" or "round 180 x 400" (Garden bench M)'
    )
    command.add_argument("--margin", metavar="MM", help="to keep free at each side")
    command.add_argument(
        "--rest", default="keep", metavar="R", help='best, keep, or what is to be down: "0,0,-1"'
    )
    command.add_argument(
        "--turn", action="append", default=[], metavar="AXIS=DEG", help="repeatable, in order"
    )
    command.add_argument("--copies", metavar="N", help="of each body (1)")
    command.add_argument("--gap", default="3", metavar="MM", help="between bodies (3)")
    command.add_argument("--together", action="store_true", help="bodies of a file stay registered")
    command.add_argument("--level", action="store_true", help="lay the lowest flat region flat")


def _add_estimate(commands: Commands) -> None:
    estimate = commands.add_parser(
        "estimate", help="say what printing takes: time, material, money; tool paths"
    )
    add_reading_options(estimate)
    add_sizing_options(estimate)
    add_body_option(estimate)
    _add_seating_options(estimate)
    estimate.add_argument("--material", metavar="NAME", help="what it is made of (PLA)")
    estimate.add_argument("--settings", metavar="NAME|FILE.json", help="a set of settings, or a file of them")
    estimate.add_argument("--layer", metavar="MM", help="height of a layer (the machine's)")
    estimate.add_argument("--bead", metavar="MM", help="width of a bead (the machine's)")
    estimate.add_argument("--shells", type=int, metavar="N", help="beads around, the outline among them (2)")
    estimate.add_argument("--infill", metavar="PERCENT", help="of what is within (15)")
    estimate.add_argument("--supports", action="store_true", help="hold what hangs over")
    estimate.add_argument("--price", metavar="PER_KG", help="of the material, in your own money")
    estimate.add_argument("--hour", metavar="PRICE", help="of an hour of the machine")
    estimate.add_argument("--kwh", metavar="PRICE", help="of electricity")
    estimate.add_argument(
        "--budget",
        action="append",
        default=[],
        metavar='"40 g"',
        help="at most; repeatable; 5 where it is not met",
    )
    estimate.add_argument("--paths", metavar="FILE.gcode", help="write the tool paths, a stand-in")
    estimate.add_argument("--csv", metavar="FILE.csv", help="of a folder: write the table")
    estimate.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    estimate.set_defaults(run="aimtrue.cli.estimate:estimate")
