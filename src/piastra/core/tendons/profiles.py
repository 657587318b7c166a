"""Profiles of tendons by cover and spans: highest over supports, lowest in spans."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from piastra.core.model.tendons import ProfilePoint

NEAR = 0.25
"""Supports nearer (m) to an end than this are that end."""


@dataclass(frozen=True, slots=True)
class Levels:
    """Levels (mm) of a tendon's centre: ``high`` over supports, ``low`` in spans, at the anchors (``end``)."""

    high: float
    low: float
    end: float


def levels_of(top_mm: float, h_mm: float, cover_mm: float, duct_mm: float) -> Levels:
    """Levels in a slab whose top lies at ``top_mm``, thickness ``h_mm``: ``cover_mm`` to the sheath of ``duct_mm``, anchors at half."""
    return Levels(top_mm - cover_mm - duct_mm / 2, top_mm - h_mm + cover_mm + duct_mm / 2, top_mm - h_mm / 2)


def over_spans(length: float, supports: Sequence[float], at: Levels, reverse: float = 0.1) -> list[ProfilePoint]:
    """Points of a tendon ``length`` m long over supports at places along it: level at its highest over each, level at its lowest in the
    middle of each span, from anchor to anchor. An end without a support near it is the tip of a cantilever, which stays high.
    """
    inner = sorted(s for s in supports if NEAR < s < length - NEAR)
    starts = any(s <= NEAR for s in supports)
    ends = any(s >= length - NEAR for s in supports)
    points = [ProfilePoint(s_m=0.0, z_mm=at.end)]
    held = [*([0.0] if starts else []), *inner, *([length] if ends else [])]
    for a, b in zip(held, held[1:]):
        if a > 0.0:
            points.append(ProfilePoint(s_m=round(a, 4), z_mm=at.high, tangent="level", reverse=reverse))
        points.append(ProfilePoint(s_m=round((a + b) / 2, 4), z_mm=at.low, tangent="level"))
    if held and held[-1] < length and (len(held) > 1 or held[-1] > 0.0):
        points.append(ProfilePoint(s_m=round(held[-1], 4), z_mm=at.high, tangent="level", reverse=reverse))
    points.append(ProfilePoint(s_m=round(length, 4), z_mm=at.end))
    return points
