"""The web interface's server. It carries and shows; nothing is decided here."""

import warnings

from pydantic.warnings import UnsupportedFieldAttributeWarning

# Values of the core are built when they are first used. FastAPI names parameters by an alias, for which
# a value that is built late has no use, and says so.
warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning)
