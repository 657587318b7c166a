"""Which floors compute alike."""

from __future__ import annotations

import hashlib
import json

from piastra.core.model.floor import READ_ONLY, Floor


def computed_from(floor: Floor) -> str:
    """A hash of all of a floor that its computation reads: floors of equal hash have equal results."""
    content = floor.model_dump(mode="json", exclude=set(READ_ONLY))
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
