"""This module says what only isolated functions need: loaded once where they are forked from, and not by
server and worker.
"""

import ezdxf.document as ezdxf_document
import ezdxf.path as ezdxf_path
import svgelements as svgelements

from aimtrue.core.release.sheet import pages as pages

__all__ = ["ezdxf_document", "ezdxf_path", "pages", "svgelements"]
