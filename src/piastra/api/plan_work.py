"""Work on the plan that needs no floor: outlines joined and cut."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import TypeAdapter, ValidationError

from piastra.api.messages import OutlineAnswer, OutlineWork
from piastra.api.wiring import REFUSED
from piastra.core.geometry import outlines as work
from piastra.core.model.refusal import Refusal, RefusedError, refusals_of
from piastra.core.model.shapes import Line, Outline

router = APIRouter(prefix="/api")

_OUTLINES: TypeAdapter[list[list[list[float]]]] = TypeAdapter(list[Outline])
_LINE: TypeAdapter[list[list[float]]] = TypeAdapter(Line)


@router.post("/outlines", responses=REFUSED)
def outline_work(body: OutlineWork) -> OutlineAnswer:
    """Join, cut or subtract outlines; arcs stay arcs."""
    try:
        given = _OUTLINES.validate_python(body.outlines)
        line = _LINE.validate_python(body.line) if body.operation == "cut" else None
    except ValidationError as error:
        raise RefusedError(refusals_of(error, body.outlines)) from None
    if body.operation == "cut":
        if line is None:
            raise RefusedError([Refusal("line", "is missing; give the two points of the cut")])
        found = work.cut(given[0], line)
    else:
        found = (work.join if body.operation == "join" else work.subtract)(given)
    return OutlineAnswer(outlines=list(found.outlines), holes=list(found.holes))
