"""What differs between two floor files, in words."""

from __future__ import annotations

from typing import Any

SHOWN = 30


def differences(before: Any, after: Any, path: str = "") -> list[str]:
    """Sentences about values that differ; lists of labelled objects are compared by id."""
    found: list[str] = []
    _compare(before, after, path, found)
    return found if len(found) <= SHOWN else [*found[:SHOWN], f"and {len(found) - SHOWN} more"]


def _by_id(items: Any) -> dict[str, Any] | None:
    if isinstance(items, list) and items and all(isinstance(i, dict) and "id" in i for i in items):
        return {i["id"]: i for i in items}
    return None


def _compare(before: Any, after: Any, path: str, found: list[str]) -> None:
    if before == after:
        return
    left, right = _by_id(before), _by_id(after)
    if isinstance(before, dict) and isinstance(after, dict):
        left, right = before, after
    if left is None or right is None:
        found.append(f"{path}: {_short(before)} against {_short(after)}")
        return
    for key in [*left, *(k for k in right if k not in left)]:
        here = f"{path} {key}".strip()
        if key not in right:
            found.append(f"{here}: only in the saved revision")
        elif key not in left:
            found.append(f"{here}: only in yours")
        else:
            _compare(left[key], right[key], here, found)


def _short(value: Any) -> str:
    text = str(value)
    return text if len(text) <= 40 else text[:37] + "..."
