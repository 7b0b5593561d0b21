"""This module holds the options that several commands share: what is read, its size, and its release."""

from __future__ import annotations

import argparse
from typing import TypeAlias

from aimtrue.core.model.lengths import Unit

Commands: TypeAlias = "argparse._SubParsersAction[argparse.ArgumentParser]"
"""Where a parser of commands is added to."""


def add_release_options(parser: argparse.ArgumentParser, *, files: bool = True) -> None:
    """Add how bodies are released: shared by what writes, sends and watches."""
    add_reading_options(parser, files=files)
    add_sizing_options(parser)
    add_allowance_options(parser)
    add_body_option(parser)
    parser.add_argument(
        "--bodies",
        choices=("each", "together", "merged"),
        default="each",
        help="a file each, one file, or one body of all (each)",
    )
    parser.add_argument(
        "--format",
        choices=("3mf", "stl", "stl-ascii", "obj", "ply", "step"),
        default="3mf",
        help="of the files (3mf)",
    )
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


def add_shape_options(parser: argparse.ArgumentParser) -> None:
    """Add what all commands have that make bodies of others."""
    add_reading_options(parser)
    add_sizing_options(parser)
    add_body_option(parser)
    parser.add_argument("--out", required=True, metavar="DIR", help="the folder that files are written to")
    parser.add_argument(
        "--format", choices=("3mf", "stl", "stl-ascii", "obj"), default="3mf", help="of the files (3mf)"
    )
    parser.add_argument(
        "--place",
        choices=("own", "origin"),
        default="own",
        help="where bodies are in their files: where they lie, or at the origin (own)",
    )
    parser.add_argument(
        "--proof-record", action="store_true", help="beside the files, as PROOF.json, for verify"
    )
    parser.add_argument("--replace", action="store_true", help="allow an existing file to be replaced")


def add_body_option(parser: argparse.ArgumentParser) -> None:
    """Add which bodies of the files are meant."""
    parser.add_argument("--body", action="append", default=[], metavar="NAME", help="only this; repeatable")


def add_sizing_options(parser: argparse.ArgumentParser) -> None:
    """Add how large bodies are to be."""
    sizing = parser.add_mutually_exclusive_group()
    sizing.add_argument("--factor", metavar="F", help="times as large: 1.02, or 102 %%")
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


def add_allowance_options(parser: argparse.ArgumentParser) -> None:
    """Add what is added on purpose after the correction, and what it is for."""
    parser.add_argument(
        "--clearance",
        metavar="[AXIS=]LENGTH",
        action="append",
        default=[],
        help="added to the size, or with a minus taken off; of all axes, or one; repeatable",
    )
    parser.add_argument(
        "--shrinkage",
        metavar="[AXIS=]PERCENT",
        action="append",
        default=[],
        help="by which the material will shrink; of all axes, or one; repeatable",
    )
    parser.add_argument(
        "--material", metavar="NAME", help="what it is made of, with the shrinkage that it has"
    )
    parser.add_argument(
        "--keep-bores", action="store_true", help="bores that suit a bolt keep the diameter of the file"
    )


def add_reading_options(parser: argparse.ArgumentParser, *, files: bool = True) -> None:
    """Add which files are read, and how."""
    if files:
        parser.add_argument("files", nargs="+", metavar="FILE", help="a model file, or a folder of them")
    parser.add_argument("--unit", type=Unit, choices=list(Unit), metavar="U", help="um, mm, cm, m, in or ft")
    parser.add_argument(
        "--up", choices=("x", "y", "z"), default="z", help="the axis of the file that points up (z)"
    )
    parser.add_argument(
        "--deflection", metavar="MM", type=float, help="chord deviation for CAD sources (0.01)"
    )
    parser.add_argument("--json", action="store_true", help="answer as JSON, failures, too")
