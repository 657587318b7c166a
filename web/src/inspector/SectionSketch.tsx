import { sized } from "../model/bars";
import type { Row } from "../model/results";
import {
  isCut,
  placesOf,
  type Section,
  type SectionBars,
  type Strained,
  strainedOf,
  strainTold,
} from "../model/section";
import { usePicked } from "../session";
import { measured, useUnits } from "../units/quantities";
import { resultOf } from "../units/results";
import { BeamInPlace, InWeb } from "./BeamInPlace";

const WIDE = 280;
const TALL = 96;
const EDGE = 8;
const HIGH = 132;
/** Strains beyond are drawn as this one. */
const DRAWN = 0.01;

/** A station's section with its bars in place, and the strains and stresses under what governs there. */
export function SectionSketch(props: { row: Row; face: "bottom" | "top"; section?: Section | undefined }) {
  const { row, section } = props;
  const system = useUnits((u) => u.system);
  const first = row.trace?.steps[0]?.values ?? [];
  const h = first.find((v) => v.symbol === "h" || v.symbol === "H")?.value;
  const d = first.find((v) => v.symbol === "d")?.value;
  if (!["flexure", "beams"].includes(row.check) || !h || !d) return null;
  const strained = strainedOf(row);
  const web = section?.web;
  const top = props.face === "top";
  const axis = strained?.axis ?? null;
  const size = (v: number) => measured(v, "size", system);
  return (
    <figure className="sketch">
      {section && web && <BeamInPlace section={section} web={web} axis={axis} top={top} />}
      {section && !web && <InPlace section={section} axis={axis} top={top} />}
      {strained && <Diagrams h={h} d={d} top={top} strained={strained} size={size} />}
      <figcaption className="quiet">
        {section &&
          `${resultOf(section.width_m, "m", system, 2)} wide${web ? " with the flanges that count" : ", height drawn larger"}. `}
        {strained
          ? `${strained.state === "strength" ? "Strains and stresses at the ultimate moment" : "Strains and stresses in service, cracked"}, ${
              top ? "hogging" : "sagging"
            }; dashed: neutral axis.`
          : `What governs here is no bending that stretches the ${top ? "top" : "bottom"}.`}
      </figcaption>
      {section && (web ? <InWeb web={web} /> : <InFaces bars={section.bars} />)}
    </figure>
  );
}

function InPlace(props: { section: Section; axis: number | null; top: boolean }) {
  const { section, axis, top } = props;
  const system = useUnits((u) => u.system);
  const pieces = section.concrete_m as [number, number][];
  const across = (WIDE - 2 * EDGE) / Math.max(...pieces.map(([, end]) => end));
  const scale = (TALL - 2 * EDGE) / section.h_mm;
  const y = (bars: SectionBars) => EDGE + scale * (bars.face === "top" ? bars.depth_mm : section.h_mm - bars.depth_mm);
  const x = (m: number) => EDGE + across * m;
  const told = (b: SectionBars) => `${b.name}: ${sized(b, system)}`;
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${TALL}`}
      role="img"
      aria-label={`Section ${measured(section.width_m, "length", system)} wide and ${measured(section.h_mm / 1e3, "size", system)} deep, with its bars`}
    >
      {pieces.map(([start, end]) => (
        <rect
          key={start}
          x={x(start)}
          y={EDGE}
          width={across * (end - start)}
          height={TALL - 2 * EDGE}
          className="body"
        />
      ))}
      {section.bars
        .filter((b) => !isCut(b))
        .map((b) => (
          <path key={b.name + b.start_m} d={`M${x(b.start_m)} ${y(b)}H${x(b.end_m)}`} className={kindOf(b)}>
            <title>{told(b)}</title>
          </path>
        ))}
      {section.bars.filter(isCut).flatMap((b) =>
        placesOf(b).map((m) => (
          <circle
            key={`${b.name} ${m}`}
            cx={x(m)}
            cy={y(b)}
            r={Math.max(1.6, (b.bar_mm / 2) * scale * 1.4)}
            className={kindOf(b)}
            opacity={0.3 + 0.7 * b.developed}
          >
            <title>{told(b)}</title>
          </circle>
        )),
      )}
      {axis !== null && (
        <path
          d={`M${EDGE / 2} ${EDGE + 1e3 * scale * (top ? section.h_mm / 1e3 - axis : axis)}H${WIDE - EDGE / 2}`}
          className="axis"
        />
      )}
    </svg>
  );
}

const kindOf = (b: SectionBars) => `of-${b.kind}`;

function Diagrams(props: { h: number; d: number; top: boolean; strained: Strained; size: (v: number) => string }) {
  const { h, d, top, strained, size } = props;
  const { axis, block, concrete, steel } = strained;
  const scale = (HIGH - 34) / h;
  // The stretched face lies where the row says it does: at the top, the section is compressed from below.
  const y = (depth: number) => 14 + scale * (top ? h - depth : depth);
  const pulled = Math.min(steel, DRAWN);
  const wide = 52 / Math.max(concrete, pulled);
  const [zero, forces] = [108, 196];
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={`Strains and stresses: depth ${size(h)}, neutral axis at ${size(axis)}`}
    >
      <rect x={8} y={14} width={24} height={scale * h} className="body" />
      {block !== null && (
        <rect x={8} y={Math.min(y(0), y(block))} width={24} height={scale * block} className="block" />
      )}
      <circle cx={20} cy={y(d)} r={3.4} className="of-group" />
      <path d={`M4 ${y(axis)}H${WIDE - 6}`} className="axis" />
      <path
        d={`M${zero} ${y(0)}H${zero - concrete * wide}L${zero + pulled * wide} ${y(d)}H${zero}Z`}
        className="strain"
      />
      <path d={`M${zero} ${y(0)}V${y(d)}`} className="zero" />
      {block !== null ? (
        <rect x={forces} y={Math.min(y(0), y(block))} width={34} height={scale * block} className="block" />
      ) : (
        <path d={`M${forces} ${y(0)}h34L${forces} ${y(axis)}Z`} className="block" />
      )}
      <path d={`M${forces} ${y(0)}V${y(d)}M${forces} ${y(d)}h40m-6 -4l6 4l-6 4`} className="force" />
      <text x={8} y={HIGH - 4}>
        d {size(d)}
      </text>
      <text x={84} y={HIGH - 4}>
        ε {strainTold(steel)}
      </text>
      <text x={forces - 4} y={HIGH - 4}>
        {strained.symbol} {size(axis)}
      </text>
    </svg>
  );
}

/** What lies in each face, by name; groups can be opened. */
function InFaces(props: { bars: SectionBars[] }) {
  const system = useUnits((u) => u.system);
  const select = usePicked("select").select;
  return (
    <table className="small-table">
      <tbody>
        {(["top", "bottom"] as const).map((face) => (
          <tr key={face}>
            <th>{face}</th>
            <td className="bars-of">
              {props.bars
                .filter((b) => b.face === face && isCut(b))
                .map((b) =>
                  b.kind === "group" ? (
                    <button
                      type="button"
                      className="link"
                      key={b.name + b.start_m}
                      onClick={() => select({ type: "bars", mark: b.name })}
                    >
                      {b.name} {sized(b, system)}
                    </button>
                  ) : (
                    <span key={b.name + b.start_m}>{sized(b, system)}</span>
                  ),
                )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
