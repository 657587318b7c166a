"""Bars and cracks of a floor that lives, in service."""

from __future__ import annotations

from dataclasses import fields, replace

import numpy as np
import numpy.typing as npt

from piastra.core.history.body import Body
from piastra.core.history.life import Lasting
from piastra.core.standards.provision import CrackRules, Served

Array = npt.NDArray[np.float64]


def steel_stress(stage: Lasting, body: Body) -> Array:
    """Stress (2, 2, e) kN/m2 at the end of a stage of the bottom and top bars along both directions, in a crack; nil where there is none."""
    laid = np.maximum(body.area, 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(np.where(laid > 1e-6, stage.steel / laid, 0.0) * stage.state.cracked[None])


def yielded(stage: Lasting, body: Body) -> npt.NDArray[np.bool_]:
    """Where (e,) bars yield."""
    return np.asarray((np.abs(steel_stress(stage, body)) >= body.f_y).any(axis=(0, 1)))


def crack_widths(rules: CrackRules, stage: Lasting, body: Body) -> Array | None:
    """Widths (2, 2, e) m of cracks at the bars of both faces along both directions; None where the standard has no formula for them."""
    sigma = np.maximum(steel_stress(stage, body), 0.0)
    h, E_s = np.broadcast_to(body.h, sigma.shape), np.broadcast_to(body.E_s, sigma.shape)
    depth = h / 2 - np.abs(body.z)
    all_of = Served(h, h - depth, depth - body.bar / 2, body.bar, body.spacing, np.maximum(body.area, 1e-7), E_s, sigma)
    out = np.zeros(sigma.shape)
    for number, (concrete, _) in enumerate(body.kinds):
        some = np.broadcast_to(body.kind == number, sigma.shape) & (sigma > 0)
        found = rules.width_of(replace(all_of, **{f.name: getattr(all_of, f.name)[some] for f in fields(Served)}), concrete)
        if found is None:
            return None
        out[some] = found
    return out
