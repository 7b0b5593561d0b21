"""This module explains each command in a sentence, with examples that can be typed."""

from __future__ import annotations

import argparse

from aimtrue.cli.options import Commands

EXIT_CODES = (
    "exit codes: 0 done; 2 not understood; 3 a file cannot be read; 4 the unit is not settled;\n"
    "5 a proof does not hold, or something stops it; 6 the folder cannot be written"
)

EXAMPLES: dict[str, tuple[str, ...]] = {
    "up": ("aimtrue up", "aimtrue up --empty"),
    "check": ("aimtrue check", "aimtrue check --only types"),
    "bench": ("aimtrue bench --triangles 200000",),
    "inspect": ("aimtrue inspect rack.stl", "aimtrue inspect parts/ --unit mm --json"),
    "release": (
        "aimtrue release clamp.stl --out released --extent x=171.5",
        'aimtrue release knob.stl --unit m --shrinkage 0.4 --clearance "-0.1" --out released --proof-record',
    ),
    "verify": (
        "aimtrue verify released/clamp.3mf --proof released/PROOF.json",
        "aimtrue verify released",
    ),
    "send": ("aimtrue send clamp.stl --to http://127.0.0.1:8799",),
    "watch": ("aimtrue watch inbox --out released --release",),
    "work": ("aimtrue work --workers 2",),
    "seat": (
        'aimtrue seat clamp.stl --machine "250 x 210 x 220" --rest best',
        "aimtrue seat knob.stl --copies 3 --turn z=37.5 --out plates",
    ),
    "estimate": ('aimtrue estimate knob.stl --infill 20 --budget "40 g"',),
    "section": ("aimtrue section clamp.stl --at z=10 --svg clamp.svg",),
    "divide": (
        'aimtrue divide shield.3mf --fit "250 x 210 x 220" --seams --out pieces',
        'aimtrue divide shield.3mf --plane z=120 --pins "4,8,0.2,3" --out pieces',
    ),
    "trial": ("aimtrue trial clamp.stl --between z=10..16 --out trial",),
    "split": ("aimtrue split dial.stl --above z=4 --out parts",),
    "hollow": ("aimtrue hollow weight.stl --wall 2 --drain 4 --out hollow",),
    "offset": ("aimtrue offset knob.stl --face 0,0,22 --by 0.1 --out wider",),
    "thread": ("aimtrue thread knob.stl --face 3,0,10 --size M6 --clearance 0.3 --out threaded",),
    "outline": ("aimtrue outline clamp.stl --silhouette z --dxf clamp.dxf",),
    "must-hold": ("aimtrue must-hold drive.3mf --extent x=40 --pairs",),
    "inspection": ("aimtrue inspection clamp.stl --table sizes.csv",),
    "make": ("aimtrue make bolt M5x20 socket --out stock", "aimtrue make --list washer"),
    "mend": (
        "aimtrue mend scan.stl --out mended",
        "aimtrue mend scan.stl --remedy close-holes --remedy face-outward --out mended",
    ),
    "sew": ("aimtrue sew shells.step --out sewn",),
    "face-outward": ("aimtrue face-outward scan.stl --out mended",),
    "join": ("aimtrue join a.stl b.stl --out joined",),
    "cut": ("aimtrue cut block.stl tool.stl --out cut",),
    "common": ("aimtrue common a.stl b.stl --out common",),
    "split-by": ("aimtrue split-by block.stl tool.stl --out split",),
    "notices": ("aimtrue notices",),
    "completion": ('eval "$(aimtrue completion bash)"', "aimtrue completion zsh > ~/.zsh/_aimtrue"),
    "fit": ("aimtrue fit shaft.stl knob.stl --place axis --intent snug",),
    "walls": ("aimtrue walls clamp.stl --under 0.8",),
    "through": ("aimtrue through clamp.stl --bolt M5",),
}
"""What may be typed, by command; a test reads each with the parser of the program."""


def sentences_of(commands: Commands) -> dict[str, str]:
    """Return what each command does, by its name."""
    # Argparse tells nobody else.
    return {choice.dest: choice.help or "" for choice in commands._choices_actions}


def explain(commands: Commands) -> None:
    """Give every command its sentence and its examples."""
    says = sentences_of(commands)
    for name, parser in commands.choices.items():
        sentence = says.get(name, "")
        parser.description = f"{sentence[:1].upper()}{sentence[1:]}."
        examples = "\n".join(f"  {example}" for example in EXAMPLES.get(name, ()))
        parser.epilog = f"examples:\n{examples}\n\n{EXIT_CODES}"
        parser.formatter_class = argparse.RawDescriptionHelpFormatter
