"""The proof sheet: what a release is, how each size came about, and what was held against it; to print or
show.
"""

from aimtrue.core.release.sheet.content import ProofSheet as ProofSheet
from aimtrue.core.release.sheet.content import sheet_of as sheet_of
from aimtrue.core.release.sheet.pages import Paper as Paper
from aimtrue.core.release.sheet.pages import as_pdf as as_pdf
