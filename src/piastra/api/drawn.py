"""The floor that a run computed, with its results: what drawings and reports are made of."""

from __future__ import annotations

import json
import zlib
from typing import Any

from sqlalchemy.orm import Session

from piastra.api.projects import with_project
from piastra.core.model import Floor
from piastra.exchange import floor_file
from piastra.store import repository as store


def drawn(session: Session, run_id: int) -> tuple[Floor, dict[str, Any]]:
    """Both. Raises :class:`piastra.store.repository.MissingError`."""
    document = json.loads(zlib.decompress(store.result(session, run_id, "results")))
    revision = store.revision_of(session, run_id)
    return floor_file.floor_from(
        with_project(session, store.floor(session, revision.floor_id), store.unpack(revision.content))
    ), document
