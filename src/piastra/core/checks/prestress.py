"""Floors with tendons: stresses of the concrete at transfer and in service, and mean precompression."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
import numpy.typing as npt

from piastra.core.checks.beams import NOT_DESIGNED, beam_row, middle_of
from piastra.core.checks.check import Context
from piastra.core.checks.flexure import beside_strips, station_row, without_station
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked, uncovered
from piastra.core.combine.envelope import Factors, companion, governing_panels
from piastra.core.model.materials import Concrete
from piastra.core.standards.prestress_rules import StressLimits
from piastra.core.tendons.stations import StationPrestress
from piastra.core.tendons.stresses import extremes, scaled
from piastra.core.trace import Step, Trace, Value

Array = npt.NDArray[np.float64]

MOST = 99.0
COMPRESSED = 1.0
"""A tension below this (kN/m2) is rounding."""
NO_STRIPS = "the floor has tendons, but no strip whose stations they could be checked at; give it supports that line up, or axes"
IN_NO_STRIP = "it runs through no strip, so that what it presses is not looked at"


def _at_hand(context: Context) -> tuple[Unchecked | None, StationPrestress | None]:
    """What is known of prestress at stations, or why it is not; neither for a floor without tendons."""
    if not context.floor.tendons:
        return None, None
    if context.standard.prestress is None:
        return context.not_at_hand(), None
    if context.prestress is None:
        return Unchecked(NO_STRIPS), None
    return None, context.prestress


def _uses(low: Array, high: Array, limits: Sequence[StressLimits]) -> Array:
    """Uses (k, 2, C) of the least and greatest stresses (k, 2, C) kN/m2 of stations of one concrete, whose limits are those of C combinations."""
    use = np.zeros(low.shape)
    for c, limit in enumerate(limits):
        pressed = -low[..., c] / (1e3 * limit.compression) if limit.compression else np.zeros_like(low[..., c])
        pulled = np.zeros_like(pressed)
        if limit.tension is not None:
            # A limit of nought is decompression: any tension is too much.
            pulled = np.where(high[..., c] > COMPRESSED, np.minimum(high[..., c] / max(1e3 * limit.tension, 1e-3), MOST), 0.0)
        use[..., c] = np.maximum(pressed, pulled)
    return use


def _beam_without(check: str, context: Context, number: int) -> Row:
    """A beam's span that no station lies on."""
    own = context.layout.strips[number]
    point = own.outline.representative_point()
    return uncovered(
        RowId(check, Ref("beams", own.beam), part=f"span {own.number + 1}"), own.label, NOT_DESIGNED, (point.x, point.y)
    )


class ConcreteStress:
    """Stress of the concrete over whole design strips, on gross sections, under some limit states."""

    lasting = False

    def __init__(self, name: str, transfer: bool) -> None:
        self.name, self.transfer = name, transfer

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst station of every strip; None where there are no tendons."""
        missing, found = _at_hand(context)
        if found is None:
            return missing
        given = context.transfer if self.transfer else context.all_service
        limited = self._limits(context, given)
        # Combinations under which the standard limits no stress prove nothing.
        which = [k for k in range(len(given)) if any(l.compression or l.tension is not None for l in (of[k] for of in limited))]
        combinations, limits = [given[k] for k in which], [[of[k] for k in which] for of in limited]
        if not combinations:
            state = "at transfer" if self.transfer else "of service in which stresses are limited"
            return Unchecked(f"there is no combination {state}; add one")
        spread = (1.0, 1.0) if self.transfer else found.spread
        stress = found.averaged
        low, high = extremes(stress, combinations, found.units, spread)
        out = []
        kind = context.steel.faces[0].at.kind if context.steel is not None else None
        use = np.zeros(low.shape)
        for p, of_kind in enumerate(limits):
            mine = slice(None) if kind is None else kind == p
            use[mine] = _uses(low[mine], high[mine], of_kind)
        of_beam = self._of_beams(context, combinations, low, high, use)
        for k, strip in enumerate(context.layout.strips):
            if strip.beam and strip.beam not in of_beam:
                continue
            cuts = np.flatnonzero(context.cuts.strip == k)
            if not len(cuts):
                out.append(_beam_without(self.name, context, k) if strip.beam else without_station(self.name, context, k))
                continue
            place, face, number = (int(v) for v in np.unravel_index(int(use[cuts].argmax()), use[cuts].shape))
            cut = int(cuts[place])
            limit = of_beam[strip.beam][number] if strip.beam else limits[0 if kind is None else int(kind[cut])][number]
            worst = min(float(use[cut, face, number]), MOST)
            explain = partial(
                self._trace,
                context,
                combinations[number],
                limit,
                cut,
                face,
                float(low[cut, face, number]),
                float(high[cut, face, number]),
                worst,
                spread,
            )
            named = combinations[number].combination
            if strip.beam:
                out.append(beam_row(self.name, context, k, cut, face, worst, explain()))
            else:
                out.append(station_row(self.name, context, cut, face, worst, named, explain))
        spans = {b for s in context.layout.strips for b in s.beams}
        out += [
            uncovered(RowId(self.name, Ref("beams", b.id)), b.id, NOT_DESIGNED, middle_of(b))
            for b in context.floor.beams
            if b.id not in spans
        ]
        out += beside_strips(self.name, context)
        return out + (jack_rows(self.name, context) if self.transfer else []) + context.doubtful_rows(self.name, combinations)

    def _of_beams(
        self, context: Context, combinations: Sequence[Factors], low: Array, high: Array, use: Array
    ) -> dict[str, list[StressLimits]]:
        """Limits of every beam's own concrete by its id, with the uses of its stations put into ``use``."""
        rules, found = context.standard.prestress, context.prestress
        assert rules is not None
        assert found is not None
        concretes = {c.id: c for c in context.floor.concretes}
        limits = {
            b.id: [
                rules.limits(f.limit_state, concretes[b.concrete], context.floor.prestress, found.bonded) for f in combinations
            ]
            for b in context.floor.beams
        }
        for k, strip in enumerate(context.layout.strips):
            if strip.beam:
                mine = context.cuts.strip == k
                use[mine] = _uses(low[mine], high[mine], limits[strip.beam])
        return limits

    def _concretes(self, context: Context) -> list[Concrete]:
        if context.steel is not None:
            return [pair[0] for pair in context.steel.faces[0].at.materials]
        used = {s.concrete for s in context.floor.slabs}
        return [min((c for c in context.floor.concretes if c.id in used), key=lambda c: c.strength_MPa)]

    def _limits(self, context: Context, combinations: Sequence[Factors]) -> list[list[StressLimits]]:
        rules, found = context.standard.prestress, context.prestress
        assert rules is not None
        assert found is not None
        return [
            [rules.limits(f.limit_state, c, context.floor.prestress, found.bonded) for f in combinations]
            for c in self._concretes(context)
        ]

    def _trace(
        self, context: Context, factors: Factors, limit: StressLimits, cut: int, face: int, low: float, high: float, use: float,
        spread: tuple[float, float],
    ) -> Trace:  # fmt: skip
        found = context.prestress
        assert found is not None
        s, g = found.whole.sections, int(found.whole.group[cut])
        pulled = limit.tension is not None and high > COMPRESSED and high / max(1e3 * limit.tension, 1e-3) >= use - 1e-9
        value = high if pulled else low
        stress = found.averaged[cut, face]
        # The least prestress leaves the most tension where it presses, the greatest the most compression; take the one that governed.
        by = min(spread, key=lambda r: abs((companion(stress, stress, scaled(factors, found.units, r), pulled)) - value))
        acting = scaled(factors, found.units, by)
        other = float(companion(stress, found.averaged[cut, 1 - face], acting, greatest=pulled))
        bottom, top = (value, other) if face == 0 else (other, value)
        W = float(s.I[g]) / float(s.bottom[g] if face == 0 else s.top[g])
        reach = float(s.bottom[g] + s.top[g])
        M = (bottom - top) / reach * float(s.I[g])
        N = (bottom * float(s.top[g]) + top * float(s.bottom[g])) / reach * float(s.A[g])
        sign = "+" if face == 0 else "-"
        sigma = Value("sigma", value / 1e3, "stress", "tension positive")
        told = (
            "The beam with its effective flanges, gross section"
            if context.layout.strips[context.cuts.strip[cut]].beam
            else "Column strip and middle strips together, gross section"
        )
        steps = [
            Step("Design strip", values=(Value("A", float(s.A[g]), "area"), Value("y", reach, "size", "depth of the section")),
                 note=f"{told}; prestress times {by:g}."),
            Step("Stress of the concrete", "", f"sigma = N / A {sign} M / (A · k)",
                 (Value("N", N, "force", "tension positive"), Value("A", float(s.A[g]), "area"), Value("M", M, "moment", "sagging positive"),
                  Value("k", W / float(s.A[g]), "size", "section modulus of this fibre over the area")), sigma),
            *limit.steps,
        ]  # fmt: skip
        if pulled:
            most = Value("sigma_t", limit.tension or 0.0, "stress")
            steps.append(Step("Utilisation", "", "use = sigma / sigma_t", (sigma, most), Value("use", use), note=limit.told) if limit.tension
                         else Step("Utilisation", values=(sigma, most), result=Value("use", use), note=limit.told))  # fmt: skip
        else:
            most = Value("sigma_c", limit.compression or 0.0, "stress")
            steps.append(Step("Utilisation", "", "use = max(0 - sigma, 0) / sigma_c", (sigma, most), Value("use", use),
                              note=limit.told if high > COMPRESSED else ""))  # fmt: skip
        panels = governing_panels(stress, acting, context.units, greatest=pulled)
        return Trace(factors.combination, context.factors_by_case(factors.combination), panels, tuple(steps))


def jack_rows(check: str, context: Context) -> list[Row]:
    """Of the tendons of each strand the one that is jacked most, against what the standard allows."""
    rules = context.standard.prestress
    assert rules is not None
    rows = []
    for strand in context.floor.strands:
        mine = [t for t in context.floor.tendons if t.strand == strand.id]
        if not mine:
            continue
        most = max(mine, key=lambda t: t.jack_MPa)
        limit = rules.jack_limit(strand)
        assert limit.result is not None
        sigma, use = Value("sigma_p", most.jack_MPa, "stress", "at the jack"), most.jack_MPa / limit.result.value
        allowed = Value("sigma_p,lim", limit.result.value, "stress")
        steps = (limit, Step("Utilisation at the jack", "", "use = sigma_p / sigma_p,lim", (sigma, allowed), Value("use", use)))
        x, y = most.line[0][:2]
        rows.append(checked(RowId(check, Ref("tendons", most.id), part="jack"), f"tendon {most.id}", use, (x, y),
                            Trace("", {}, (), steps)))  # fmt: skip
    return rows


ACROSS = 0.1
"""Tendons whose angle to a strip has no greater cosine than this run across it and not through it: the strip is no prestressed one by them."""


class Precompression:
    """Mean compression that the final prestress leaves in the concrete of every strip that tendons run through."""

    name = "precompression"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """One row a strip."""
        missing, found = _at_hand(context)
        if found is None:
            return missing
        rules = context.standard.prestress
        assert rules is not None
        least, most, rule, source = rules.precompression()
        rows = []
        along = np.isin(np.arange(len(context.cuts.strip)), found.crossings.cut[found.crossings.along > ACROSS])
        for k, strip in enumerate(context.layout.strips):
            mine = np.flatnonzero(context.cuts.strip == k)
            if not along[mine].any():
                continue
            groups = found.whole.group[mine]
            A = found.whole.sections.A[groups]
            by_analysis = -float(((found.whole.sums @ found.axial)[groups] / A).mean()) / 1e3
            by_area = float(((found.whole.sums @ found.at.force)[groups] / A).mean()) / 1e3
            sigma = Value("sigma_cp", by_analysis, "stress", "of the concrete, as the floor's analysis finds it")
            low, high = Value("sigma_min", least, "stress"), Value("sigma_max", most, "stress")
            plain = Value("P_A", by_area, "stress", "force of the tendons over the area: walls and columns keep the rest")
            if rule:
                use = min(least / by_analysis, MOST) if by_analysis > 0 else MOST
                step = Step(
                    "Utilisation",
                    "",
                    "use = sigma_min / sigma_cp" if use < MOST else "",
                    (low, sigma),
                    Value("use", use),
                    f"{source}.",
                )
            else:
                use = float(np.clip(by_analysis / most, 0.0, 1.0))
                step = Step("Utilisation", "", "use = max(min(sigma_cp / sigma_max, 1), 0)", (sigma, high), Value("use", use),
                            note="Between these two by common practice; no rule of the standard.")  # fmt: skip
            x, y = context.cuts.ends[mine[len(mine) // 2]].mean(axis=0)
            steps = (
                Step("Precompression", values=(sigma, plain, low, high), note="Mean along the span of the whole design strip."),
                step,
            )
            id = (
                RowId(self.name, Ref("beams", strip.beam), part=f"span {strip.number + 1}") if strip.beam
                else RowId(self.name, Ref("strips", strip.id))
            )  # fmt: skip
            label = strip.label if strip.beam else f"{strip.direction}, {strip.label}"
            rows.append(checked(id, label, use, (float(x), float(y)), Trace("", {}, (), steps)))
        if not rows:
            rows = [
                uncovered(RowId(self.name, Ref("tendons", t.id)), t.id, IN_NO_STRIP, (t.line[0][0], t.line[0][1]))
                for t in context.floor.tendons
            ]
        return rows


class TendonSpacing:
    """Tendons lie no farther apart than the standard has them."""

    name = "tendon_spacing"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """Of every slab with tendons the place where they lie farthest apart; None where the standard has no rule for it."""
        rules = context.standard.prestress.arrangement if context.standard.prestress is not None else None
        if context.arrangement is None or rules is None:
            return None
        rows = []
        for s in context.arrangement.spread:
            slab, use = context.floor.slabs[s.slab], min(s.use, MOST)
            step = rules.spacing_step(s.h)
            assert step.result is not None
            gaps = tuple(
                Value(f"s_{d}", g, "size", f"between the tendons along {d}")
                for d, g in zip("xy", s.gaps, strict=True)
                if np.isfinite(g)
            )
            named = min(gaps, key=lambda g: g.value) if gaps else None
            last = (
                Step("Utilisation", "", f"use = {named.symbol} / s_max", (named, step.result), Value("use", use)) if named is not None and use < MOST
                else Step("Utilisation", values=(step.result,), result=Value("use", use), note="No tendon is near.")
            )  # fmt: skip
            steps = (Step("Tendons beside this place", values=gaps), step, last)
            id = RowId(self.name, Ref("slabs", slab.id))
            rows.append(checked(id, f"tendons of {slab.id}", use, s.at, Trace("", {}, (), steps)))
        return rows
