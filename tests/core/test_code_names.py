"""Names in the code say what they are: no two classes share one, and none is a word that says nothing."""

import ast
from collections import Counter
from pathlib import Path

import pytest

from aimtrue.settings import ROOT

_WORDS = (
    "told made found kept held taken went drawn asked shaped thought suits surprise swept without handed",
    "now again apart doing asking look thin along truth done joined seen given put set thing stuff",
    "misc helper helpers util utils common base data info manager",
)
SAYS_NOTHING = frozenset(word for line in _WORDS for word in line.split())
"""See docs/glossary.md for what to write instead."""
MODULES = sorted((ROOT / "src" / "aimtrue").rglob("*.py"))


def public_classes(path: Path) -> list[str]:
    tree = ast.parse(path.read_text(encoding="utf-8"))
    return [node.name for node in tree.body if isinstance(node, ast.ClassDef) and node.name[0] != "_"]


def test_no_two_public_classes_share_a_name() -> None:
    names = Counter(name for path in MODULES for name in public_classes(path))
    assert [name for name, count in names.items() if count > 1] == []


def test_no_file_and_no_public_class_is_called_by_a_word_that_says_nothing() -> None:
    assert [str(path) for path in MODULES if path.stem in SAYS_NOTHING] == []
    named = {name.lower() for path in MODULES for name in public_classes(path)}
    assert named & SAYS_NOTHING == set()


ROOMS = ["intake", "truing", "fit", "division", "seating", "release", "survey", "proof", "mesh"]
OWN = ("__init__.py", "room.py")
"""A folder's own description and entry, which are not counted."""


@pytest.mark.parametrize("room", ROOMS)
def test_a_folder_holds_what_a_person_would_look_for_together(room: str) -> None:
    """About fifteen files at most."""
    top = ROOT / "src" / "aimtrue" / "core" / room
    for folder in (top, *(path for path in top.rglob("*") if path.is_dir())):
        files = [path.name for path in folder.glob("*.py") if path.name not in OWN]
        assert len(files) <= 18, f"{folder.name} holds {len(files)} files"


def test_every_module_says_what_is_in_it() -> None:
    silent = [path.name for path in MODULES if not ast.get_docstring(ast.parse(path.read_text()))]
    assert silent in ([], ["env.py"])  # which is alembic's
