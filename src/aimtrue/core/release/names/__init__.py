"""Names of released files: from a pattern of fields, safe anywhere, unique, short enough for a display."""

from aimtrue.core.release.names.display import shortened as shortened
from aimtrue.core.release.names.pattern import FIELDS as FIELDS
from aimtrue.core.release.names.pattern import filled as filled
from aimtrue.core.release.names.safe import LONGEST as LONGEST
from aimtrue.core.release.names.safe import key_of as key_of
from aimtrue.core.release.names.safe import safe as safe
from aimtrue.core.release.names.safe import unique as unique
