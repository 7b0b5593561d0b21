"""The proof sheet: what a release is, how each size came about, and what was held against it; to print or
show. It is written as PDF by ``pages``, which loads a large library.
"""

from aimtrue.core.release.sheet.content import Paper as Paper
from aimtrue.core.release.sheet.content import ProofSheet as ProofSheet
from aimtrue.core.release.sheet.content import sheet_of as sheet_of
