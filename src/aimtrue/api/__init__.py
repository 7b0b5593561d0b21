"""The web interface's server. It carries and shows; nothing is decided here."""

import warnings

from pydantic.warnings import UnsupportedFieldAttributeWarning

# Values of the core are built when they are first used. FastAPI names a parameter by an alias, and of one that
# is built late is warned that a value by itself has no use for it.
warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning)
