"""The only list of design standards."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Protocol

from piastra.core.model import standard_names
from piastra.core.model.floor import Floor
from piastra.core.model.loading import LoadCase
from piastra.core.standards import aci318, en1992
from piastra.core.standards.generating import Generated
from piastra.core.standards.parameters import Parameter, values_of
from piastra.core.standards.protocol import Service, Standard


class Folder(Protocol):
    """What a standard's folder offers."""

    @property
    def NAME(self) -> str:
        """As floor files name it."""
        ...

    @property
    def PARAMETERS(self) -> tuple[Parameter, ...]:
        """The values that it leaves open."""
        ...

    def bundle(self, values: Mapping[str, float], service: Service) -> Standard:
        """The rule sets for values in force, one a parameter, and for how the floor is to serve."""
        ...


_FOLDERS: dict[str, Folder] = {}


def register(folder: Folder) -> None:
    """Make a standard known to floor files, computation and interface."""
    _FOLDERS[folder.NAME] = folder
    standard_names.KNOWN[folder.NAME] = {p.key: p.design for p in folder.PARAMETERS}


def withdraw(name: str) -> None:
    """Take a standard out again."""
    del _FOLDERS[name], standard_names.KNOWN[name]


def names() -> tuple[str, ...]:
    """The standards at hand."""
    return tuple(_FOLDERS)


def parameters(name: str) -> tuple[Parameter, ...]:
    """The values that a standard leaves open."""
    return _FOLDERS[name].PARAMETERS


def standard_of(floor: Floor) -> Standard:
    """The standard of a floor with the values that the floor gives it."""
    return standard_named(
        floor.standard, floor.parameters, Service(floor.exposure, floor.crack_width_limit_mm, floor.construction)
    )


def standard_named(name: str, own: Mapping[str, float] | None = None, service: Service | None = None) -> Standard:
    """The standard that a floor names, with its ``own`` values instead of recommended ones.

    Raises :class:`piastra.core.model.RefusedError` for values that the standard does not leave open.
    """
    folder = _FOLDERS[name]
    return folder.bundle(values_of(folder.PARAMETERS, own or {}), service or Service())


def generated(
    name: str, cases: Sequence[LoadCase], own: Mapping[str, float], options: Mapping[str, Any] | None = None
) -> list[Generated]:
    """The combinations that a standard asks for. Raises :class:`piastra.core.model.RefusedError`."""
    return standard_named(name).actions.generate(cases, own, options or {})


register(en1992)
register(aci318)
