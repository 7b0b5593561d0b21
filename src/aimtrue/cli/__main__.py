"""Read the command and hand over; heavy imports wait until a command needs them."""

from __future__ import annotations

import argparse
import gc
import os
import sys
from collections.abc import Callable
from importlib import import_module

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.lengths import Unit
from aimtrue.settings import settings


def main(arguments: list[str] | None = None) -> int:
    """Run one command and return its exit code."""
    asked = _parser().parse_args(arguments)
    try:
        settings()
    except AimTrueError as error:
        print(f"aimtrue: {error.line()}", file=sys.stderr)
        return 2
    try:
        code = int(_loaded(asked.run)(asked))
        sys.stdout.flush()
    except BrokenPipeError:  # whoever read it, as `head` does, has had enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 6
    return code


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="aimtrue", description=__doc__.split(":")[0])
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    _add_up(commands)
    _add_check(commands)
    _add_bench(commands)
    _add_inspect(commands)
    _add_release(commands)
    _add_verify(commands)
    _add_send(commands)
    _add_watch(commands)
    _add_work(commands)
    _add_seat(commands)
    _add_section(commands)
    _add_divide(commands)
    _add_trial(commands)
    _add_split(commands)
    _add_hollow(commands)
    for how, says in (
        ("join", "join two bodies into one solid"),
        ("cut", "cut the second of two bodies from the first"),
        ("common", "keep what two bodies have in common"),
        ("split-by", "split the first of two bodies by the second"),
    ):
        _add_together(commands, how, says)
    _add_outline(commands)
    notices = commands.add_parser("notices", help="print the notice of third parties")
    notices.set_defaults(run="aimtrue.cli.notices:notices")
    return parser


def _add_up(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    up = commands.add_parser("up", help="set up what is missing, start everything, print the address")
    up.add_argument("--empty", action="store_true", help="without the demo jobs")
    up.set_defaults(run="aimtrue.cli.up:up")


def _add_check(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    check = commands.add_parser("check", help="install what the tests need, then lint, type-check and test")
    check.add_argument("--only", action="append", metavar="STEP", help="run only this step; may be repeated")
    check.set_defaults(run="aimtrue.cli.check:check")


def _add_bench(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    bench = commands.add_parser("bench", help="measure beside a general mesh library")
    bench.add_argument("--triangles", type=int, default=1_500_000)
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
    bench.add_argument("--division", action="store_true", help="pieces, seams, hollows")
    bench.set_defaults(run="benchmarks.chosen:chosen")


def _add_inspect(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    inspect = commands.add_parser("inspect", help="say what is in model files, and how large")
    _add_reading_options(inspect)
    inspect.add_argument(
        "--thorough", action="store_true", help="look for crossing faces in very large meshes, too"
    )
    inspect.set_defaults(run="aimtrue.cli.inspect:inspect")


def _add_release_options(parser: argparse.ArgumentParser, *, files: bool = True) -> None:
    """How bodies are released: shared by what writes, sends and watches."""
    _add_reading_options(parser, files=files)
    _add_sizing_options(parser)
    _add_body_option(parser)
    parser.add_argument("--bodies", choices=("each", "together", "merged"), default="each")
    parser.add_argument("--format", choices=("3mf", "stl", "stl-ascii", "obj", "ply", "step"), default="3mf")
    parser.add_argument(
        "--place", choices=("own", "origin", "seated"), default="own", help="where bodies are in their files"
    )
    parser.add_argument("--count-alike", action="store_true", help="the same part once, with a count")
    parser.add_argument(
        "--in",
        dest="written",
        type=Unit,
        choices=list(Unit),
        default=Unit.MM,
        metavar="U",
        help="unit written (mm)",
    )
    parser.add_argument(
        "--name", metavar="PATTERN", default="", help="of {file}, {body}, {number}, {size} and others"
    )
    parser.add_argument(
        "--accept",
        metavar="CODE[=REASON]",
        action="append",
        default=[],
        help="accept a stop finding on purpose, by its code; repeatable",
    )


def _add_release(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    release = commands.add_parser("release", help="write files of a proven size")
    _add_release_options(release)
    release.add_argument("--out", required=True, metavar="DIR")
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


def _add_send(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    send = commands.add_parser("send", help="release files and hand them to a next program over HTTP")
    _add_release_options(send)
    send.add_argument(
        "--to", required=True, metavar="TARGET", help="a name of AIMTRUE_TARGETS, or an address"
    )
    send.set_defaults(run="aimtrue.cli.send:send_files")


def _add_watch(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    watch = commands.add_parser("watch", help="take in files as they come to a folder")
    watch.add_argument("folder", metavar="FOLDER")
    watch.add_argument("--out", required=True, metavar="DIR")
    watch.add_argument("--release", action="store_true", help="release those whose unit is clear")
    watch.add_argument(
        "--jobs",
        metavar="ADDRESS",
        help="open a job there, such as http://127.0.0.1:8787, for what stays open",
    )
    watch.add_argument("--once", action="store_true", help="end when nothing is left to be looked at")
    _add_release_options(watch, files=False)
    watch.set_defaults(
        run="aimtrue.cli.watch:watch", proof_record=False, sheet=None, replace=False, go_on=False
    )


def _add_work(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    work = commands.add_parser("work", help="take tasks from a database elsewhere until Ctrl-C")
    work.add_argument(
        "--database", metavar="URL", help="of the database; the one of the settings unless told"
    )
    work.add_argument("--workers", type=int, default=1, metavar="N")
    work.set_defaults(run="aimtrue.cli.work:work")


def _add_verify(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    verify = commands.add_parser("verify", help="hold files against their proof record, anywhere")
    verify.add_argument("files", nargs="+", metavar="FILE")
    verify.add_argument("--proof", required=True, metavar="PROOF.json")
    verify.add_argument("--some", action="store_true", help="not every file of the record is given")
    verify.add_argument("--json", action="store_true")
    verify.set_defaults(run="aimtrue.cli.verify:verify")


def _add_seat(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    seat = commands.add_parser("seat", help="stand bodies on the plates of a machine, flat and level")
    _add_reading_options(seat)
    _add_sizing_options(seat)
    _add_body_option(seat)
    seat.add_argument(
        "--machine", metavar="M", help='a name, "250 x 210 x 220" or "round 180 x 400" (Garden bench M)'
    )
    seat.add_argument("--margin", metavar="MM", help="to keep free at each side")
    seat.add_argument(
        "--rest", default="keep", metavar="R", help='best, keep, or what is to be down: "0,0,-1"'
    )
    seat.add_argument("--turn", action="append", default=[], metavar="AXIS=DEG", help="repeatable, in order")
    seat.add_argument("--copies", metavar="N")
    seat.add_argument("--gap", default="3", metavar="MM", help="between bodies (3)")
    seat.add_argument("--together", action="store_true", help="bodies of a file stay registered")
    seat.add_argument("--level", action="store_true", help="lay the lowest flat region flat")
    seat.add_argument("--out", metavar="DIR", help="write a file for each plate")
    seat.add_argument("--format", choices=("3mf", "stl", "stl-ascii", "obj"), default="3mf")
    seat.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    seat.set_defaults(run="aimtrue.cli.seat:seat")


def _add_section(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    section = commands.add_parser("section", help="cut bodies by flat planes: areas, outlines, islands")
    _add_reading_options(section)
    _add_sizing_options(section)
    _add_body_option(section)
    where = section.add_mutually_exclusive_group(required=True)
    where.add_argument("--at", action="append", metavar="AXIS=LENGTH", help="repeatable")
    where.add_argument("--layers", metavar="MM", help="the middles of all layers of this height")
    section.add_argument("--svg", metavar="FILE")
    section.add_argument("--dxf", metavar="FILE")
    section.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    section.set_defaults(run="aimtrue.cli.section:section")


def _add_divide(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    divide = commands.add_parser("divide", help="cut bodies into closed pieces that add up to the whole")
    _add_shape_options(divide)
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
    divide.add_argument("--keep", choices=("all", "above", "below"), default="all")
    divide.add_argument("--slivers", choices=("keep", "drop", "give"), default="keep")
    divide.add_argument("--pins", metavar='"D,DEPTH,CLEARANCE[,COUNT]"', help="line the pieces up")
    divide.add_argument("--pin-kind", choices=("dowel", "fixed"), default="dowel")
    divide.add_argument("--pin-wall", default="1.2", metavar="MM", help="left around each hole (1.2)")
    divide.add_argument("--turned", action="store_true", help="pieces may be turned by quarters to fit")
    divide.add_argument("--many", action="store_true", help="more than a hundred pieces are meant")
    divide.add_argument("--open", action="store_true", help="cut what is open, which stays so")
    divide.add_argument("--keyed", action="store_true", help="pins with a flat, that go in one way only")
    divide.set_defaults(run="aimtrue.cli.shape:divide")


def _add_trial(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    trial = commands.add_parser("trial", help="cut a slice out of bodies, to try on first")
    _add_shape_options(trial)
    trial.add_argument("--between", required=True, metavar="AXIS=LOW..HIGH")
    trial.add_argument("--wall", metavar="LENGTH", help="thinned from inside to so much")
    trial.set_defaults(run="aimtrue.cli.shape:trial")


def _add_split(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    split = commands.add_parser("split", help="make two bodies of one that add up to it")
    _add_shape_options(split)
    where = split.add_mutually_exclusive_group(required=True)
    where.add_argument("--above", metavar="AXIS=LENGTH")
    where.add_argument("--inside", metavar="OUTLINE", help="closed outlines in an SVG or DXF file")
    where.add_argument(
        "--face", action="append", default=[], metavar="X,Y,Z", help="raised or sunk; repeatable"
    )
    split.add_argument("--alike", action="store_true", help="with all such faces in the same plane")
    split.add_argument("--along", default="z", metavar="AXIS", help="that the outlines are seen along (z)")
    split.add_argument("--depth", metavar="LENGTH", help="above the plane, down from the top, or under faces")
    split.add_argument("--outline-unit", type=Unit, choices=list(Unit), metavar="U")
    split.set_defaults(run="aimtrue.cli.shape:split")


def _add_hollow(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    hollow = commands.add_parser("hollow", help="hollow bodies out, with drains at their lowest places")
    _add_shape_options(hollow)
    hollow.add_argument("--wall", required=True, metavar="LENGTH")
    hollow.add_argument(
        "--drain", action="append", default=[], metavar='"DIAMETER [@ X,Y,Z]"', help="repeatable"
    )
    hollow.set_defaults(run="aimtrue.cli.shape:hollow")


def _add_together(commands: argparse._SubParsersAction[argparse.ArgumentParser], how: str, says: str) -> None:
    together = commands.add_parser(how, help=says)
    _add_shape_options(together)
    together.set_defaults(run="aimtrue.cli.shape:together", how=how.removesuffix("-by"))


def _add_outline(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    outline = commands.add_parser("outline", help="draw a section or a silhouette as DXF or SVG in mm")
    _add_reading_options(outline)
    _add_sizing_options(outline)
    _add_body_option(outline)
    where = outline.add_mutually_exclusive_group(required=True)
    where.add_argument("--plane", metavar="AXIS=LENGTH")
    where.add_argument("--silhouette", metavar="AXIS")
    outline.add_argument("--svg", metavar="FILE")
    outline.add_argument("--dxf", metavar="FILE")
    outline.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")
    outline.set_defaults(run="aimtrue.cli.outline:outline")


def _add_shape_options(parser: argparse.ArgumentParser) -> None:
    _add_reading_options(parser)
    _add_sizing_options(parser)
    _add_body_option(parser)
    parser.add_argument("--out", required=True, metavar="DIR")
    parser.add_argument("--format", choices=("3mf", "stl", "stl-ascii", "obj"), default="3mf")
    parser.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")


def _add_body_option(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--body", action="append", default=[], metavar="NAME", help="only this; repeatable")


def _add_sizing_options(parser: argparse.ArgumentParser) -> None:
    sizing = parser.add_mutually_exclusive_group()
    sizing.add_argument("--factor", metavar="F")
    sizing.add_argument("--extent", metavar="AXIS=LENGTH", help="the other axes follow")
    sizing.add_argument(
        "--stretch", metavar="AXIS=LENGTH", action="append", help="this axis alone; repeatable"
    )
    sizing.add_argument(
        "--reading",
        metavar='"x,y,z : x,y,z = LENGTH [LOW..HIGH]"',
        action="append",
        help="points in the file's own numbers; several are met together, one without a band to 0.05 mm",
    )


def _add_reading_options(parser: argparse.ArgumentParser, *, files: bool = True) -> None:
    if files:
        parser.add_argument("files", nargs="+", metavar="FILE", help="a model file, or a folder of them")
    parser.add_argument("--unit", type=Unit, choices=list(Unit), metavar="U", help="um, mm, cm, m, in or ft")
    parser.add_argument("--up", choices=("x", "y", "z"), default="z")
    parser.add_argument(
        "--deflection", metavar="MM", type=float, help="chord deviation for CAD sources (0.01)"
    )
    parser.add_argument("--json", action="store_true")


def _loaded(where: str) -> Callable[[argparse.Namespace], int]:
    """Load what runs a command, ``module:function``.

    What is loaded stays, so looking for what nobody needs any more would only take time meanwhile.
    """
    module, _, function = where.partition(":")
    gc.disable()
    try:
        found: Callable[[argparse.Namespace], int] = getattr(import_module(module), function)
    finally:
        gc.enable()
    return found


if __name__ == "__main__":
    code = main()
    # Python ends by looking for garbage in all that is still held, which goes with the process anyway.
    gc.freeze()
    sys.exit(code)
