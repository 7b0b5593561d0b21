"""Write the OpenAPI description that the front end's types are generated from."""

from __future__ import annotations

import json

from aimtrue.api.server import make_app


def described() -> str:
    """Return the description as JSON, the same text for the same routes."""
    return json.dumps(make_app().openapi(), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(described(), end="")
