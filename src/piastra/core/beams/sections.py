"""Sections of beams at the stations of their strips: web, flange, centroid."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.recovery import Places
from piastra.core.model import Floor
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

LEVEL = 0.01
"""A flange whose face is no further than this (m) from the web's top or bottom is flush with it."""


@dataclass(frozen=True, slots=True)
class BeamSections:
    """k stations of beams: numbers of the ``cuts`` (k,) and of the floor's ``beams`` (k,); ``b_w`` and depth ``H`` m, the width
    ``b`` with the flanges, of which ``left`` (k,) m to the left of the web, the flange's thickness ``h_f`` m and the depth ``top`` m of its top below the web's; the depth
    ``centroid`` m of the whole section below the web's top."""

    cuts: Ints
    beams: Ints
    b_w: Array
    H: Array
    b: Array
    left: Array
    h_f: Array
    top: Array
    centroid: Array

    @property
    def wider(self) -> Array:
        """Width (k,) m of the wider flange beside the web."""
        return np.maximum(self.left, self.b - self.b_w - self.left)

    def compressed(self, sagging: bool) -> tuple[Array, Array]:
        """Width (k,) m at the compressed face and the flange's thickness there (k,) m; the web's own where no flange is flush with
        that face."""
        flush = self.top < LEVEL if sagging else self.top + self.h_f > self.H - LEVEL
        return np.where(flush & (self.h_f > 0), self.b, self.b_w), np.where(flush, self.h_f, 0.0)


def beam_sections(floor: Floor, layout: Layout, cuts: Cuts, kept: Places) -> BeamSections:
    """Of all stations of beams. Flanges are what lies beside the web; their mean thickness and level count."""
    number = {b.id: k for k, b in enumerate(floor.beams)}
    of = np.array([number[s.beam] if s.beam else -1 for s in layout.strips], dtype=np.int64)
    mine = np.flatnonzero(of[cuts.strip] >= 0) if len(cuts.strip) else np.zeros(0, dtype=np.int64)
    beams = of[cuts.strip[mine]]
    b_w = np.array([b.width_m for b in floor.beams])[beams]
    H = np.array([b.depth_m for b in floor.beams])[beams]
    samples = cuts.samples
    h, zeta = samples.spread @ kept.h, samples.spread @ kept.zeta
    offset = np.array([layout.axes[s.axis].offset for s in layout.strips])[cuts.strip]
    angle = cuts.angle[samples.cut]
    left = -samples.xy[:, 0] * np.sin(angle) + samples.xy[:, 1] * np.cos(angle) - offset[samples.cut]
    aside = np.abs(left)
    place = np.full(len(cuts.strip), -1, dtype=np.int64)
    place[mine] = np.arange(len(mine))
    own = place[samples.cut]
    of_beam = own >= 0
    web = of_beam & (aside <= np.where(of_beam, b_w[np.maximum(own, 0)] / 2, 0.0) + 1e-6) if len(mine) else of_beam
    flange = of_beam & ~web
    count = len(mine)

    def mean(values: Array, where: npt.NDArray[np.bool_]) -> tuple[Array, Array]:
        length = np.bincount(own[where], samples.length[where], minlength=count).astype(np.float64)
        total = np.bincount(own[where], samples.length[where] * values[where], minlength=count)
        return total / np.maximum(length, 1e-12), length

    middle, _ = mean(zeta, web)
    h_f, wide = mean(h, flange)
    level, _ = mean(zeta, flange)
    web_top = middle - H / 2
    there = wide > 1e-3
    on_left = np.where(there, mean(h, flange & (left > 0))[1], 0.0)
    h_f = np.where(there, h_f, 0.0)
    return BeamSections(
        mine, beams, b_w, H, np.where(there, b_w + wide, b_w), on_left, h_f, np.where(there, level - h_f / 2 - web_top, 0.0), cuts.zeta[mine] - web_top
    )  # fmt: skip
