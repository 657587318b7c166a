import { GATHERED } from "../model/provisions";
import type { BeamSpan, Results, Strip } from "../model/results";

export type Face = "top" | "bottom";
export const FACES = ["top", "bottom"] as const;

/** Required and given steel along the strips of a slab, by the metre, and along beams as areas. */
export type SteelAlong = {
  /** All strips and spans that have some. */
  strips: Strip[];
  beam: (s: Strip) => BeamSpan | undefined;
  asked: (s: Strip, face: Face) => number[];
  given: (s: Strip, face: Face) => number[];
};

export function steelAlong(results: Results | null): SteelAlong {
  const beams = new Map((results?.beams ?? []).map((b) => [b.strip, b]));
  const beam = (s: Strip) => beams.get(s.id);
  const ofBeam = (b: BeamSpan, face: Face) => ({
    asked: (face === "top" ? b.top_asked_mm2 : b.bottom_asked_mm2) ?? [],
    given: face === "top" ? b.top_given_mm2 : b.bottom_given_mm2,
  });
  return {
    strips: (results?.strips ?? []).filter((s) => (s.top && s.bottom) || beams.has(s.id)),
    beam,
    asked: (s, face) => {
      const own = beam(s);
      if (own) return ofBeam(own, face).asked;
      // What is gathered over a column is asked for in a band of the strip, and told beside the rest.
      return s.s_m.map((_, k) =>
        Math.max(
          0,
          ...Object.entries(s[face]?.provisions ?? {}).flatMap(([p, v]) => (GATHERED.has(p) ? [] : [v[k] ?? 0])),
        ),
      );
    },
    given: (s, face) => {
      const own = beam(s);
      return own ? ofBeam(own, face).given : (s[face]?.provided_mm2_m ?? []);
    },
  };
}
