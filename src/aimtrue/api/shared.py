"""What the routers share: the shelf of this server."""

from __future__ import annotations

from aimtrue.store.shelf import StoreShelf

shelf = StoreShelf()
