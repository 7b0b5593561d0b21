"""What is shipped besides our own: told with its licence, and none that we do not want."""

import importlib.util
from pathlib import Path

from aimtrue.cli.notices import UNWANTED, notice, page_packages, python_packages
from aimtrue.settings import ROOT


def test_the_notice_is_current_and_names_no_unwanted_licence() -> None:
    assert (ROOT / "NOTICE.md").read_text() == notice()
    rows = [*python_packages(), *page_packages()]
    assert len(rows) > 80
    assert not [row for row in rows if UNWANTED.search(row[2])]


def test_parts_under_licences_that_we_do_not_want_are_not_installed() -> None:
    assert UNWANTED.search("GPL-3.0-only")
    assert UNWANTED.search("GNU Affero General Public License v3")
    assert not UNWANTED.search("LGPL-3.0-only")
    module_spec = importlib.util.find_spec("igl")
    assert module_spec is not None
    assert module_spec.submodule_search_locations is not None
    names = {
        path.name for location in module_spec.submodule_search_locations for path in Path(location).iterdir()
    }
    assert not names & {"copyleft", "triangle"}
