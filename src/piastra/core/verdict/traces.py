"""Traces of flexure, punching and deflection."""

from __future__ import annotations

import numpy as np

from piastra.core.combine.envelope import Factors, companion, envelope, governing_panels
from piastra.core.deflection.sag import Sag
from piastra.core.design.flexure import StationSteel
from piastra.core.design.punching import Zone
from piastra.core.loads.vectors import Unit
from piastra.core.model import Floor
from piastra.core.standards import Standard
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.trace import Step, Trace, Value

FACES = ("bottom", "top")


def _factors(floor: Floor, combination: str) -> dict[str, float]:
    return next((dict(c.factors) for c in floor.combinations if c.id == combination), {})


def flexure_trace(
    floor: Floor, standard: Standard, layout: Layout, cuts: Cuts, steel: StationSteel, combinations: list[Factors],
    units: tuple[Unit, ...], cut: int, face: int,
) -> Trace:  # fmt: skip
    """Why the steel of one face at one station is what it is."""
    strip = layout.strips[cuts.strip[cut]]
    demand = steel.demand[face]
    factors = combinations[int(demand.combination[cut])]
    b, d, h = float(cuts.width[cut]), float(steel.d[face, cut]), float(cuts.h[cut])
    sign = 1.0 if face == 0 else -1.0
    per_metre = cuts.forces[cut] / b
    panels: list[str] = []
    greatest = -np.inf
    for twist in (1.0, -1.0):
        functional = sign * per_metre[0] + twist * per_metre[1] - per_metre[3] * (d - h / 2)
        value = float(envelope(functional, factors)[1])
        if value > greatest:
            greatest = value
            panels = governing_panels(functional, factors, units, greatest=True)
            m, t = (float(companion(functional, along, factors, True)) for along in (sign * per_metre[0], per_metre[1]))
    strength, least = float(demand.strength[cut]) * 1e6, float(demand.least[cut]) * 1e6
    compression = float(demand.compression[cut]) * 1e6
    given = float(steel.provided[face, cut]) * 1e6
    n, m_ed, z = float(demand.n[cut]), float(demand.m[cut]), float(demand.z[cut])
    s = float(cuts.s[cut])
    middle = layout.axes[strip.axis].point(s, (strip.left + strip.right) / 2)
    clause = standard.clauses
    steps = (
        Step("Strip and station", "", "", f"{strip.label}, bars along {strip.direction}, {100 * (s - strip.start) / (strip.end - strip.start):.0f} % of the clear span",
             (Value("b", b, "m", "width of concrete in the strip"), Value("h", h, "m", "mean thickness"), Value("d", d, "m", f"effective depth of the {FACES[face]} bars"))),
        Step("Design moment", "Wood and Armer 1968", "m_Ed = |m| + |m_xy| - n (d - h/2)",
             f"m_Ed = {m:.1f} + {abs(t):.1f} - {n:.1f} × {d - h / 2:.3f} = {m_ed:.1f} kNm/m",
             (Value("M", m * b, "kNm", "moment of the strip, stretching this face"), Value("m_xy", t, "kNm/m", "twisting moment"), Value("n", n, "kN/m", "axial force, tension positive"))),
        Step("Steel for strength", clause["flexure"], "A_s = (m_Ed / z + n) / f_yd",
             f"z = {z:.3f} m, x/d = {float(demand.x_d[cut]):.3f}, A_s = {strength:.0f} mm²/m", (Value("A_s", strength, "mm²/m"),)),
        Step("Minimum steel", clause["least_steel"], "A_s,min = max(0.26 f_ctm / f_yk, 0.0013) d", f"A_s,min = {least:.0f} mm²/m",
             (Value("A_s,min", least, "mm²/m", "nil where the face is not in tension to speak of"),)),
        *((Step("Compression steel", clause["ductility"], "A_s2 = (m_Ed - m_lim) / (f_yd (d - d_2))", f"A_s2 = {compression:.0f} mm²/m in the other face"),) if compression > 0 else ()),
        Step("Provided", "", "A_s,required / A_s,provided", f"{max(strength, least):.0f} / {given:.0f} = {float(steel.utilisation[face, cut]):.2f}",
             (Value("A_s,provided", given, "mm²/m", f"{FACES[face]} bars along {strip.direction}"),)),
    )  # fmt: skip
    where = f"{FACES[face]} {strip.direction}, {strip.label}"
    return Trace("flexure", where, float(steel.utilisation[face, cut]), factors.combination, _factors(floor, factors.combination),
                 tuple(panels), (float(middle[0]), float(middle[1])), steps)  # fmt: skip


def punching_trace(floor: Floor, standard: Standard, zone: Zone) -> Trace:
    """Why a zone's utilisation is what it is."""
    clause = standard.clauses
    p, r = zone.perimeter, zone.resistance
    outline = "the column" if zone.around == "column" else "the thickening"
    lost = "".join(f"; {length:.2f} m lost to opening {label}" for label, length in p.lost)
    k, W = zone.k, zone.W
    moment = f"β = 1 + u/V (k_x |M_x|/W_x + k_y |M_y|/W_y) = 1 + {p.length:.3f}/{zone.V:.0f} ({k[0]:.2f} × {abs(zone.M_x):.1f}/{W[0]:.3f} + {k[1]:.2f} × {abs(zone.M_y):.1f}/{W[1]:.3f}) = {zone.beta:.2f}"
    steps = [
        Step("Effective depth", clause["punching_d"], "d = (d_x + d_y) / 2", f"d = ({zone.d_x:.4f} + {zone.d_y:.4f}) / 2 = {zone.d:.4f} m",
             (Value("h", zone.h, "m"), Value("d", zone.d, "m"))),
        Step("Control perimeter", clause["punching_perimeter"], f"at {standard.perimeter_distance(1.0):g} d from {outline}",
             f"{p.place}, u = {p.length:.3f} m{lost}", (Value("u", p.length, "m"),)),
        Step("Force", "", "V_Ed = joint's force less the load inside the perimeter", f"V_Ed = {zone.V_joint:.1f} - {zone.load_inside:.1f} = {zone.V:.1f} kN",
             (Value("V_Ed", zone.V, "kN"), Value("M_x", zone.M_x, "kNm", "about the perimeter's centroid, own axes"), Value("M_y", zone.M_y, "kNm"))),
        Step("Eccentricity", clause["punching_beta"], "W = ∫|e| dl", moment, (Value("β", zone.beta), Value("W_x", W[0], "m²"), Value("W_y", W[1], "m²"))),
        Step("Stress at the perimeter", clause["punching_stress"], "v_Ed = β V_Ed / (u d)",
             f"v_Ed = {zone.beta:.2f} × {zone.V:.1f} / ({p.length:.3f} × {zone.d:.4f}) = {zone.v_ed:.0f} kPa", (Value("v_Ed", zone.v_ed, "kPa"),)),
        Step("Resistance without shear reinforcement", clause["punching_resistance"], "v_Rd,c = max(0.12 k (100 ρ_l f_ck)^(1/3), v_min)",
             f"k = {r.k:.3f}, ρ_l = √({100 * zone.rho_x:.2f} % × {100 * zone.rho_y:.2f} %) = {100 * r.rho_l:.2f} %, v_min = {r.v_min:.0f} kPa, v_Rd,c = {r.v_rd_c:.0f} kPa",
             (Value("v_Rd,c", r.v_rd_c, "kPa"), Value("ρ_l", 100 * r.rho_l, "%"))),
        Step("Use at the perimeter", "", "v_Ed / v_Rd,c", f"{zone.v_ed:.0f} / {r.v_rd_c:.0f} = {zone.use_perimeter:.2f}"),
    ]  # fmt: skip
    if zone.around == "column":
        steps.append(
            Step("Column face", clause["punching_face"], "v_Ed,0 = β V / (u_0 d) ≤ v_Rd,max",
                 f"{zone.beta:.2f} × {zone.V_joint:.1f} / ({zone.u0:.3f} × {zone.d:.4f}) = {zone.v_ed_0:.0f} ≤ {r.v_rd_max:.0f} kPa, use {zone.use_face:.2f}",
                 (Value("u_0", zone.u0, "m"), Value("v_Ed,0", zone.v_ed_0, "kPa"), Value("v_Rd,max", r.v_rd_max, "kPa")))
        )  # fmt: skip
    return Trace(
        "punching",
        zone.column,
        zone.utilisation,
        zone.combination,
        _factors(floor, zone.combination),
        zone.panels,
        zone.at,
        tuple(steps),
    )


def deflection_trace(floor: Floor, standard: Standard, sag: Sag, creep: str) -> Trace:
    """Why a line's sag is what it is."""
    line = sag.line
    where = f"cantilever off {line.labels[0]}" if line.cantilever else "–".join(line.labels)
    base = "the slab at the line of supports" if line.cantilever else "the straight line between the supports"
    line_w = sag.w_at - sag.sag
    steps = (
        Step("Model", standard.clauses.get("effective_modulus", ""), "E_eff = E_cm / (1 + φ)",
             f"uncracked section, {creep}; cracking and load history are not in this value"),
        Step("Sag", "", f"w less {base}", f"{1e3 * sag.w_at:.2f} mm - {1e3 * line_w:.2f} mm = {1e3 * sag.sag:.2f} mm at {100 * sag.fraction:.0f} % of the line",
             (Value("w", 1e3 * sag.w_at, "mm"), Value("sag", 1e3 * sag.sag, "mm"))),
        Step("Limit", standard.clauses["deflection"], f"{'2 × overhang' if line.cantilever else 'span'} / {floor.deflection.span_over:g}",
             f"{line.span:.3f} m / {floor.deflection.span_over:g} = {1e3 * sag.limit:.2f} mm", (Value("L", line.span, "m"), Value("limit", 1e3 * sag.limit, "mm"))),
        Step("Use", "", "sag / limit", f"{1e3 * sag.sag:.2f} mm / {1e3 * sag.limit:.2f} mm = {sag.utilisation:.2f}"),
    )  # fmt: skip
    return Trace(
        "deflection", where, sag.utilisation, sag.combination, _factors(floor, sag.combination), sag.panels, sag.at, steps
    )
