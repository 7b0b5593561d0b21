"""Solids: shapes of parts built by the CAD kernel, exact and closed, and written as STEP.

The kernel takes seconds to load and is native code, so this package is imported only in the sandbox.
"""

from aimtrue.core.stock.solids.step import step_of as step_of
