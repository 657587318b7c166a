"""Reads a DXF file."""

from __future__ import annotations

from piastra.core.model.refusal import Refusal, RefusedError
from piastra.exchange.confined import UnreadableError
from piastra.exchange.dxf.drawing import Drawing, drawing_from
from piastra.exchange.dxf.parsing import READER, SECONDS, UNITS

LARGEST = 40_000_000
"""Bytes of the largest file that is read."""


def read_dxf(content: bytes, name: str, unit: str | None = None, to_origin: bool = False) -> Drawing:
    """The drawing in a DXF file.

    ``unit`` (of ``UNITS``) overrides what the file says; ``to_origin`` moves its lower left corner to the origin.
    Raises :class:`RefusedError` with a sentence for a file that is too large, broken, or takes too long.
    """
    if len(content) > LARGEST:
        raise _refused(
            f"is {len(content) / 1e6:.0f} MB large; {LARGEST / 1e6:.0f} MB can be read. Remove what is not needed and export it again"
        )
    if unit is not None and unit not in UNITS:
        raise _refused(f"cannot be in “{unit}”; choose of {', '.join(UNITS)}")
    try:
        answer = READER.read({"name": name, "unit": unit, "to_origin": to_origin}, content)
    except TimeoutError:
        raise _refused(
            f"takes more than {SECONDS} s to read; remove layers and blocks that are not needed and export it again"
        ) from None
    except UnreadableError:
        raise _refused(
            "cannot be read: it is no DXF file, or is broken beyond repair. Export it again as DXF (R2000 or newer)"
        ) from None
    if "refused" in answer:
        raise _refused(answer["refused"])
    return drawing_from(answer)


def _refused(sentence: str) -> RefusedError:
    return RefusedError([Refusal("the drawing", sentence)])
