"""The page of licences of what Piastra runs on and ships."""

from __future__ import annotations

import json
import re
import tomllib
from importlib import metadata
from pathlib import Path

from packaging.requirements import Requirement

NOTES = """
## What follows

- **Gmsh** (GPL-2.0 or later, with an exception for linking): who hands Piastra on together with it hands the whole on under that licence. It is called through one
  interface, `core/mesh`, and can be exchanged there. Run as a service within a practice nothing is handed on.
- **MKL**, which the direct solver calls through `pypardiso`, has its maker's licence: it may be used and passed on unchanged, without charge. The solver stands behind
  `core/fe/linear_solver.py`; without it (on other processors) SciPy's SuperLU takes its place.
- **IfcOpenShell** (LGPL-3.0 or later) is called as the library that it is, in a process of its own; who hands it on gives its source along, and it can be exchanged
  behind `exchange/ifc/reading.py`.
- **PyMySQL**, **SQLAlchemy** and the other permissive ones ask that their notices stay with copies. **MariaDB** (GPL-2.0) is a server of its own that Debian brings, and is
  spoken to over its socket.
- **certifi**, where it is present, is MPL-2.0: changes of its own files would have to be given on.
- **IBM Plex** (OFL-1.1) is shipped as web fonts under its own name and unchanged.
"""


def _named(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def python_packages(root: Path) -> list[tuple[str, str, str]]:
    """Name, version and licence of all that `pyproject.toml` asks for at run time, with what that asks for."""
    wanted = list(tomllib.loads((root / "pyproject.toml").read_text(encoding="utf-8"))["project"]["dependencies"])
    seen: dict[str, tuple[str, str, str]] = {}
    while wanted:
        asked = Requirement(wanted.pop())
        name = _named(asked.name)
        if name in seen or (asked.marker is not None and not asked.marker.evaluate({"extra": ""})):
            continue
        found = metadata.distribution(asked.name)
        seen[name] = (name, found.version, _licence(found))
        # Extras that were asked for count, others do not.
        for line in found.requires or []:
            more = Requirement(line)
            if more.marker is None or any(more.marker.evaluate({"extra": e}) for e in ("", *asked.extras)):
                wanted.append(line)
    return [seen[k] for k in sorted(seen)]


def _licence(found: metadata.Distribution) -> str:
    told = found.metadata
    named = (told.get_all("License-Expression") or [""])[0]
    classified = [c.split("::")[-1].strip() for c in told.get_all("Classifier") or [] if c.startswith("License ::")]
    plain = (told.get_all("License") or [""])[0].strip().splitlines()
    return named or ", ".join(c for c in classified if c != "OSI Approved") or (plain[0][:60] if plain else "not told")


def web_packages(root: Path) -> list[tuple[str, str, str]]:
    """Of all that the pages are built from and carry with them."""
    lock = json.loads((root / "web" / "package-lock.json").read_text(encoding="utf-8"))
    out = {
        (path.rpartition("node_modules/")[2], p["version"], p.get("license", "not told"))
        for path, p in lock["packages"].items() if path and not p.get("dev") and not p.get("optional") and not p.get("peer")
    }  # fmt: skip
    return sorted(out)


def licences_page(root: Path) -> str:
    """The page, in Markdown."""
    lines = ["# Licences", "", "What Piastra runs on and ships, with versions as locked. Written by `script/licences`.", ""]
    for title, found in (("Python", python_packages(root)), ("Pages", web_packages(root))):
        lines += [f"## {title}", "", "| package | version | licence |", "|---|---|---|"]
        lines += [f"| {name} | {version} | {licence.replace('|', '/')} |" for name, version, licence in found]
        lines.append("")
    return "\n".join(lines).rstrip() + "\n" + NOTES
