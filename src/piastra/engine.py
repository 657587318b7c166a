"""Which engine made results: the version with what its computation is made of."""

from __future__ import annotations

from functools import cache
from hashlib import blake2b
from pathlib import Path

from piastra import __version__

COMPUTING = ("core", "exchange")
"""Packages whose code results follow from."""


def digest(root: Path, packages: tuple[str, ...] = COMPUTING) -> str:
    """Twelve figures that change with any file of the packages below a folder: its name or its content."""
    found = blake2b(digest_size=6)
    for package in packages:
        for path in sorted((root / package).rglob("*.py")):
            found.update(f"{path.relative_to(root).as_posix()}\0{path.stat().st_size}\0".encode())
            found.update(path.read_bytes())
    return found.hexdigest()


@cache
def engine() -> str:
    """Of this installation, at most 20 characters. Results of another one are out of date: they might not be the same now."""
    return f"{__version__}+{digest(Path(__file__).parent)}"
