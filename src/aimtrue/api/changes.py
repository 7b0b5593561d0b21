"""This module says what changed between two answers, so that only that travels.

Both are plain JSON. A list whose entries have ids is compared entry by entry; any other of the same length
place by place. The pages apply it in ``web/src/api/changes.ts``; the two are held to each other by a test.

    {"is": value}                        the value itself
    {"set": {key: change}, "gone": []}   of an object
    {"set": {id: change}, "ids": [...]}  of a list by id; ``ids`` is its new order, when that is another
    {"at": {place: change}}              of a list by place
"""

from __future__ import annotations

from typing import Any

Change = dict[str, Any]


def changes(old: Any, new: Any) -> Change | None:  # noqa: ANN401 - of any type, or of none that is known
    """Return how to make one of the other; None when they are the same."""
    if old is new:
        return None
    if isinstance(old, dict) and isinstance(new, dict):
        # Not held against each other as a whole first: that would look at everything once a level.
        return _of_objects(old, new)
    if old == new:
        return None
    # What is a list of objects is told by its first entry.
    if type(new) is list and type(old) is list and old and new and type(new[0]) is dict:
        before, after = _by_id(old), _by_id(new)
        if before is not None and after is not None:
            return _of_named(before, after)
        if len(old) == len(new):
            pairs = dict(enumerate(old)), dict(enumerate(new))
            return {"at": {str(key): part for key, part in _of_keys(*pairs, list(pairs[1])).items()}}
    return {"is": new}


def _of_objects(old: dict[str, Any], new: dict[str, Any]) -> Change | None:
    changed = _of_keys(old, new, list(new))
    gone = [] if old.keys() == new.keys() else [key for key in old if key not in new]
    return {"set": changed, **({"gone": gone} if gone else {})} if changed or gone else None


def _of_keys(old: dict[Any, Any], new: dict[Any, Any], keys: list[Any]) -> dict[Any, Change]:
    of_keys = {}
    for key in keys:
        if key not in old:
            of_keys[key] = {"is": new[key]}
            continue
        one, other = old[key], new[key]
        if one is other:
            continue
        # Most values are plain, or lists of numbers: held against each other here, without a call for each.
        kind = type(other)
        if kind is not dict and (kind is not list or not other or type(other[0]) is not dict):
            if one != other or type(one) is not kind:
                of_keys[key] = {"is": other}
        elif (change := changes(one, other)) is not None:
            of_keys[key] = change
    return of_keys


def _by_id(some: list[Any]) -> dict[str, Any] | None:
    """Return the entries of a list by id, None where one has none of its own."""
    try:
        entries = {entry["id"]: entry for entry in some}
    except (TypeError, KeyError, IndexError):
        return None
    return entries if len(entries) == len(some) and all(type(key) is str for key in entries) else None


def _of_named(before: dict[str, Any], after: dict[str, Any]) -> Change:
    change: Change = {"set": _of_keys(before, after, list(after))}
    if list(before) != list(after):
        change["ids"] = list(after)
    return change
