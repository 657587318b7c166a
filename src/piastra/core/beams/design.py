"""Beams designed: flexure over the whole section, links, torsion, and bars that fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from piastra.core.beams.curtailment import BAR, LINK, Laid
from piastra.core.beams.laying import MOST, Cracks, FaceBars, Needs, Site, lay, needs_of
from piastra.core.beams.sections import BeamSections
from piastra.core.beams.service import served
from piastra.core.combine.envelope import Factors, companion, envelopes, governing_panels
from piastra.core.loads.vectors import Unit
from piastra.core.model import Floor
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.reinforcement.worst import Responses, worst
from piastra.core.standards.beam_rules import BeamRules, Links, Webs
from piastra.core.standards.protocol import FlexureRules, Sections
from piastra.core.standards.provision import Stations
from piastra.core.standards.situations import Acting, all_of
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.trace import Loaded

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class BeamFace:
    """Flexure of one face at k stations: depth ``d`` m of its bars, the governing pair ``M`` kNm about them and ``N`` kN, the
    ``area`` (k,) m2 for strength, the ``least`` (k,), whether the block lies ``in_flange`` (k,), the ``lever`` (k,)
    m of the compressed parts together, depth of the ``block`` (k,) m, steel in the other face for ``compression`` (k,) m2, the moment over the greatest allowed
    ``over`` (k,), and the number of the ``combination`` (k,)."""

    d: Array
    M: Array
    N: Array
    area: Array
    least: Array
    in_flange: npt.NDArray[np.bool_]
    lever: Array
    block: Array
    over: Array
    compression: Array
    combination: Ints

    @property
    def required(self) -> Array:
        """m2."""
        return np.maximum(self.area, self.least)


P = TypeVar("P", BeamFace, Links)


@dataclass(frozen=True, slots=True)
class Stirrups:
    """Links of two legs of a diameter, at a spacing, m; whether they are enough."""

    bar: float
    spacing: float
    fit: bool

    @property
    def area(self) -> float:
        """m2 a metre."""
        return float(2 * np.pi * self.bar**2 / 4 / self.spacing)


@dataclass(frozen=True, slots=True)
class BeamDesign:
    """All stations of all beams: ``sections``, faces bottom and top, the greatest shear ``V`` kN and torsion ``T`` kNm (k,) with
    their ``links``, the ``webs`` by situation and kind of material; bars ``laid`` in both faces, ``stirrups`` of each span by the number of its
    strip; ``use`` (k,) of all."""

    sections: BeamSections
    faces: tuple[BeamFace, BeamFace]
    V: Array
    T: Array
    links: Links
    webs: tuple[tuple[Webs, ...], ...]
    kind: Ints
    laid: tuple[FaceBars, FaceBars]
    stirrups: dict[int, Stirrups]
    use: Array
    materials: tuple[tuple[Concrete, Rebar], ...]
    situations: tuple[Acting, ...]
    """Design situations, that of the finished floor first; ``combination`` of faces counts through all of theirs."""
    bent_in: tuple[Ints, Ints]
    """Number of the situation that governs each face (k,)."""
    sheared_in: Ints
    """Number of the situation whose shear and torsion govern (k,)."""

    @property
    def by_face(self) -> Array:
        """Utilisations (2, k) of the bars."""
        return np.stack([own.use for own in self.laid])

    @property
    def bars(self) -> dict[int, tuple[Laid, Laid, Stirrups]]:
        """Most bars of each span, by the number of its strip: bottom, top, links."""
        return {k: (self.laid[0].laid[k], self.laid[1].laid[k], own) for k, own in self.stirrups.items()}

    def served(self, cuts: Cuts, face: int, combinations: Sequence[Factors], pressed: bool = False) -> tuple[Stations, Ints]:
        """What the rules of service read of its stations: see ``beams.service.served``."""
        depths = self.faces[0].d, self.faces[1].d
        return served(self.sections, depths, self.kind, self.materials, cuts, face, self.laid[face], combinations, pressed)


def tee_steel(rules: FlexureRules, m: Array, n: Array, b: Array, h_f: Array, b_w: Array, d: Array, d2: Array, concrete: Concrete,
              rebar: Rebar) -> tuple[Array, Array, Array, Array, Array, Array]:  # fmt: skip
    """Tension steel (k,) m2 of tees for moments ``m`` kNm about it with axial tension ``n`` kN: (area, whether the block lies in the
    flange, lever arm m, moment over the greatest allowed, compression steel (k,) m2, depth of the block (k,) m).

    The block within the flange makes a rectangle of width ``b``; beyond it the flange beside the web is compressed all through,
    its couple has the arm d - h_f / 2, and the web takes the rest.
    """
    fc, fy, block_limit = rules.strengths(concrete, rebar)
    wide = rules.design(m / b, n / b, Sections(d + d2, d, d2, concrete, rebar))
    mu = np.maximum(m, 0.0) / (fc * b * d**2)
    depth = (1 - np.sqrt(np.maximum(1 - 2 * np.minimum(mu, 0.5), 0.0))) * d
    inside = (depth <= h_f + 1e-9) | (b <= b_w + 1e-9)
    force = fc * (b - b_w) * np.minimum(h_f, d)
    moment = force * (d - h_f / 2)
    web = rules.design((m - moment) / b_w, n / b_w, Sections(d + d2, d, d2, concrete, rebar))
    area = np.where(inside, wide.tension * b, web.tension * b_w + force / fy)
    limit = block_limit * (1 - block_limit / 2) * fc * b_w * d**2
    over = np.where(inside, wide.over, np.where(web.over > 0, (m - moment) / limit, 0.0))
    bent = np.maximum(area * fy - n, 1e-9)
    compression = np.where(inside, wide.compression * b, web.compression * b_w)
    return area, inside, np.maximum(m, 0.0) / bent, over, compression, np.where(inside, wide.omega, web.omega) * d


def design_beams(
    floor: Floor, situations: Sequence[Acting], service: Sequence[Factors], layout: Layout, cuts: Cuts, found: BeamSections
) -> BeamDesign | None:
    """Design every station of every beam in every design situation, and choose bars along each line of its spans that do for strength and,
    under the combinations of ``service``, for cracks."""
    standard = situations[0].standard
    if standard.beams is None or standard.flexure is None or not len(found.cuts) or not situations[0].combinations:
        return None
    concretes = {c.id: c for c in floor.concretes}
    rebar = {r.id: r for r in floor.rebars}[floor.slabs[0].rebar]
    used = sorted({b.concrete for b in floor.beams})
    pairs = tuple((concretes[c], rebar) for c in used)
    kind = np.array([used.index(b.concrete) for b in floor.beams], dtype=np.int64)[found.beams]
    cover = [max(s.cover_bottom_mm for s in floor.slabs) / 1e3, max(s.cover_top_mm for s in floor.slabs) / 1e3]
    asked = [_asked(floor, a, cuts, found, a.pairs(pairs), kind, cover) for a in situations]
    before = np.cumsum([0, *(len(a.combinations) for a in situations)])
    faces, bent_in = [], []
    for f in (0, 1):
        chosen = np.argmax([part.faces[f].area for part in asked], axis=0)
        own = _picked([part.faces[f] for part in asked], chosen)
        # Weak concrete may ask for compression steel in a situation that does not govern the tension steel.
        most = {name: np.max([getattr(p.faces[f], name) for p in asked], axis=0) for name in ("least", "over", "compression")}
        faces.append(replace(own, combination=own.combination + before[chosen], **most))
        bent_in.append(chosen)
    # By the links, or where struts give way by them: that is what is explained.
    struts = np.array([part.links.struts for part in asked])
    sheared = np.where(struts.max(axis=0) > 1, struts.argmax(axis=0), np.argmax([part.links.area for part in asked], axis=0))
    links = replace(
        _picked([part.links for part in asked], sheared),
        area=np.max([p.links.area for p in asked], axis=0),
        struts=struts.max(axis=0),
        along=np.max([p.links.along for p in asked], axis=0),
        spacing=np.min([p.links.spacing for p in asked], axis=0),
    )
    V, T = (np.array(values)[sheared, np.arange(len(kind))] for values in ([p.V for p in asked], [p.T for p in asked]))
    both, depths = (faces[0], faces[1]), (faces[0].d, faces[1].d)
    site = Site(floor, standard, layout, cuts, found, max(cover), depths, kind, pairs)
    needs = _needs(site, both, links)

    def cracks(face: int) -> Cracks | None:
        rules = standard.cracking
        if rules is None or not service:
            return None
        return lambda bars: rules.check(served(found, depths, kind, pairs, cuts, face, bars, service)[0]).use

    laid = lay(site, 0, needs[0], cracks(0)), lay(site, 1, needs[1], cracks(1))
    stirrups, use = _used(floor, site, both, laid, links)
    return BeamDesign(
        found, both, V, T, links, tuple(p.webs for p in asked), kind, laid, stirrups, use, pairs, tuple(situations), (bent_in[0], bent_in[1]), sheared,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Asked:
    """What one design situation asks for."""

    faces: tuple[BeamFace, BeamFace]
    V: Array
    T: Array
    links: Links
    webs: tuple[Webs, ...]


def _picked(parts: Sequence[P], chosen: Ints) -> P:
    """Of alike parts the values of the ``chosen`` one at each station."""
    here = np.arange(len(chosen))
    return type(parts[0])(**{f.name: np.array([getattr(p, f.name) for p in parts])[chosen, here] for f in fields(parts[0])})


def _asked(
    floor: Floor, a: Acting, cuts: Cuts, found: BeamSections, pairs: tuple[tuple[Concrete, Rebar], ...], kind: Ints, cover: Sequence[float]
) -> _Asked:  # fmt: skip
    rules, flexure, combinations = a.standard.beams, a.standard.flexure, a.combinations
    assert rules is not None
    assert flexure is not None
    deep = [c + LINK + BAR / 2 for c in cover]
    forces = cuts.forces[found.cuts]
    faces = []
    for f, sign in ((0, 1.0), (1, -1.0)):
        d, d2 = found.H - deep[f], np.full_like(found.H, deep[1 - f])
        b, h_f = found.compressed(f == 0)
        # From the centroid to this face's bars: down for the bottom, up for the top.
        arm = d - found.centroid if f == 0 else found.centroid - deep[1]
        responses = Responses(sign * forces[:, 0], np.zeros((len(d), 1, forces.shape[2])), forces[:, 3], arm)
        M, N, area, lever, over, chosen, inside, pressed, block = (np.zeros(len(d)) for _ in range(9))
        for k, (concrete, steel) in enumerate(pairs):
            mine = np.flatnonzero(kind == k)
            if not len(mine):
                continue
            limit = flexure.strengths(concrete, steel)[2]

            def tension(m: Array, n: Array, which: Ints, mine: Ints = mine, concrete: Concrete = concrete, steel: Rebar = steel,
                        b: Array = b, h_f: Array = h_f, d: Array = d, d2: Array = d2) -> Array:  # fmt: skip
                rows = mine[which]
                return tee_steel(flexure, m, n, b[rows], h_f[rows], found.b_w[rows], d[rows], d2[rows], concrete, steel)[0]

            some = Responses(responses.moment[mine], responses.twist[mine], responses.axial[mine], arm[mine])
            w = worst(some, combinations, d[mine], np.minimum(d[mine] * (1 - limit), d[mine] - d2[mine]), tension, 0.0)
            M[mine], N[mine], chosen[mine] = w.m, w.n, w.combination
            area[mine], inside[mine], lever[mine], over[mine], pressed[mine], block[mine] = tee_steel(
                flexure, w.m, w.n, b[mine], h_f[mine], found.b_w[mine], d[mine], d2[mine], concrete, steel
            )
        least = np.zeros(len(d))
        for k, (concrete, steel) in enumerate(pairs):
            mine = kind == k
            least[mine] = np.where(M[mine] > 0, rules.least(found.b_w[mine], d[mine], concrete, steel), 0.0)
        faces.append(BeamFace(d, M, N, area, least, inside > 0, lever, block, over, pressed, chosen.astype(np.int64)))
    V = _greatest(forces[:, 2], combinations)
    T = _greatest(forces[:, 1], combinations) * np.array([b.torsion == "equilibrium" for b in floor.beams])[found.beams]
    links, webs = _links(rules, found, (faces[0], faces[1]), V, T, kind, pairs, cover)
    return _Asked((faces[0], faces[1]), V, T, links, webs)


def _greatest(values: Array, combinations: Sequence[Factors]) -> Array:
    """The greatest size (k,) over combinations and arrangements."""
    low, high = envelopes(values, combinations)
    return np.asarray(np.maximum(high, -low).max(axis=1))


def _links(
    rules: BeamRules, found: BeamSections, faces: tuple[BeamFace, BeamFace], V: Array, T: Array, kind: Ints,
    pairs: tuple[tuple[Concrete, Rebar], ...], cover: Sequence[float],
) -> tuple[Links, tuple[Webs, ...]]:  # fmt: skip
    count = len(V)
    d = np.where(faces[0].M >= faces[1].M, faces[0].d, faces[1].d)
    steel = np.where(faces[0].M >= faces[1].M, faces[0].required, faces[1].required)
    area, struts, along, spacing, cot = (np.zeros(count) for _ in range(5))
    webs = []
    for k, (concrete, rebar) in enumerate(pairs):
        mine = kind == k
        w = Webs(
            found.b_w[mine],
            found.H[mine],
            d[mine],
            0.9 * d[mine],
            steel[mine] / (found.b_w[mine] * d[mine]),
            max(cover) + LINK / 2,
            concrete,
            rebar,
        )
        webs.append(w)
        links = rules.links(V[mine], T[mine], w)
        area[mine], struts[mine], along[mine], spacing[mine], cot[mine] = (
            links.area,
            links.struts,
            links.along,
            links.spacing,
            links.cot,
        )
    return Links(area, struts, along, spacing, cot), tuple(webs)


def _needs(
    site: Site, faces: tuple[BeamFace, BeamFace], links: Links
) -> tuple[Needs, Needs]:  # fmt: skip
    """Of both faces: the envelope shifted by the links' struts, compression steel for the other face's moment, torsion, the beam's ends."""
    rules = site.standard.beams
    assert rules is not None
    own = [np.maximum(faces[f].required, faces[1 - f].compression) for f in (0, 1)]
    d = np.where(faces[0].M >= faces[1].M, faces[0].d, faces[1].d)
    shift = rules.shift(0.9 * d, d, links.cot, max(site.floor.bar_sizes_mm) / 1e3)
    made = [needs_of(site, f, own[f], links.along, faces[0].required, shift) for f in (0, 1)]
    return made[0], made[1]


def _used(
    floor: Floor, site: Site, faces: tuple[BeamFace, BeamFace], laid: tuple[FaceBars, FaceBars], links: Links
) -> tuple[dict[int, Stirrups], Array]:  # fmt: skip
    """Links of each span by the number of its strip, and utilisations (k,) of bars, struts and links."""
    stirrups: dict[int, Stirrups] = {}
    use = np.maximum.reduce([links.struts, faces[0].over, faces[1].over, laid[0].use, laid[1].use])
    for strip in np.unique(site.strip).tolist():
        mine = np.flatnonzero(site.strip == strip)
        found = stirrups[strip] = choose_links(floor, float(links.area[mine].max()), float(links.spacing[mine].min()))
        use[mine] = np.maximum(use[mine], np.minimum(links.area[mine] / found.area, MOST))
    return stirrups, use


def choose_links(floor: Floor, area: float, most: float) -> Stirrups:
    """Links of two legs of at most 16 mm: the thinnest that give an ``area`` (m2 a metre) at an allowed spacing up to ``most`` m."""
    spacings = sorted((s / 1e3 for s in floor.spacings_mm if s / 1e3 <= most + 1e-9), reverse=True) or [
        np.floor(most / 0.025) * 0.025
    ]
    for mm in sorted(b for b in floor.bar_sizes_mm if 8 <= b <= 16):
        for s in spacings:
            if (found := Stirrups(mm / 1e3, float(s), True)).area >= area * (1 - 1e-9):
                return found
    thickest = max((b for b in floor.bar_sizes_mm if b <= 16), default=8)
    return Stirrups(thickest / 1e3, float(min(spacings)), False)


@dataclass(frozen=True, slots=True)
class StationForces:
    """What acts at one station under the governing combination of a face."""

    combination: str
    panels: tuple[Loaded, ...]
    M: float
    N: float


def station_forces(cuts: Cuts, design: BeamDesign, k: int, face: int, units: Sequence[Unit]) -> StationForces:
    """Moment and force of the arrangement that governs a face at station ``k``."""
    own = design.faces[face]
    factors = all_of(design.situations)[int(own.combination[k])]
    c = int(design.sections.cuts[k])
    sign = 1.0 if face == 0 else -1.0
    arm = own.d[k] - design.sections.centroid[k] if face == 0 else design.sections.centroid[k] - (design.sections.H[k] - own.d[k])
    moment, axial = sign * cuts.forces[c, 0], cuts.forces[c, 3]
    functional = (moment - axial * arm) / own.d[k] + axial
    panels = governing_panels(functional, factors, units, greatest=True)
    M, N = (float(companion(functional, a, factors, True)) for a in (moment, axial))
    return StationForces(factors.combination, panels, M, N)
