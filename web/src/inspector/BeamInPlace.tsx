import { diameter } from "../model/bars";
import type { Section } from "../model/section";
import { usePicked } from "../session";
import { measured, useUnits } from "../units/quantities";
import { resultOf } from "../units/results";

const WIDE = 280;
const TALL = 150;
const EDGE = 8;
/** Flanges are drawn so far beside the web, in depths of the beam; the rest is broken off. */
const BESIDE = 0.5;

type Web = NonNullable<Section["web"]>;

/** A beam's section to scale: web and flanges, its bars within their links, and the neutral axis. */
export function BeamInPlace(props: { section: Section; web: Web; axis: number | null; top: boolean }) {
  const { section, web, axis, top } = props;
  const system = useUnits((u) => u.system);
  const high = section.h_mm;
  const half = web.width_mm / 2;
  // To the left, and to the right of the web's middle.
  const ends = [half + Math.min(web.left_mm, BESIDE * high), -half - Math.min(web.right_mm, BESIDE * high)] as const;
  const scale = Math.min((TALL - 2 * EDGE) / high, (WIDE - 2 * EDGE) / (ends[0] - ends[1]));
  const x = (aside: number) => WIDE / 2 - scale * (aside - (ends[0] + ends[1]) / 2);
  const y = (below: number) => EDGE + scale * below;
  const depth = (bar: Web["bars"][number]) => (bar.face === "top" ? bar.depth_mm : high - bar.depth_mm);
  const reach = (of: (bar: Web["bars"][number]) => number) =>
    Math.max(...web.bars.map((b) => of(b) + (b.bar_mm + web.link_mm) / 2));
  const [aside, up, down] = [
    reach((b) => Math.abs(b.aside_mm)),
    high - reach((b) => high - depth(b)),
    reach((b) => depth(b)),
  ];
  const [over, under] = [web.flange_top_mm, web.flange_top_mm + web.flange_mm];
  const corners: [number, number][] = [
    [half, 0],
    [-half, 0],
    [-half, over],
    [ends[1], over],
    [ends[1], under],
    [-half, under],
    [-half, high],
    [half, high],
    [half, under],
    [ends[0], under],
    [ends[0], over],
    [half, over],
  ];
  const broken = [web.left_mm > BESIDE * high, web.right_mm > BESIDE * high];
  const crack = ends.map((end, k) => {
    const [middle, step] = [(y(over) + y(under)) / 2, 3];
    return broken[k]
      ? `M${x(end)} ${y(over) - 3}V${middle - step}l${step} ${step / 2}l${-2 * step} ${step}l${step} ${step / 2}V${y(under) + 3}`
      : "";
  });
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${TALL}`}
      role="img"
      aria-label={`Section of a beam ${measured(web.width_mm / 1e3, "size", system)} wide and ${measured(high / 1e3, "size", system)} deep, with its bars`}
    >
      <path d={`M${corners.map(([a, b]) => `${x(a)} ${y(b)}`).join("L")}Z`} className="body" />
      <path d={crack.join("")} className="zero" />
      {web.bars.length > 0 && (
        <rect
          x={x(aside)}
          y={y(up)}
          width={2 * scale * aside}
          height={scale * (down - up)}
          rx={4}
          className="link-of"
          style={{ strokeWidth: Math.max(1, scale * web.link_mm) }}
        />
      )}
      {web.bars.map((b) => (
        <circle
          key={`${b.face} ${b.depth_mm} ${b.aside_mm}`}
          cx={x(b.aside_mm)}
          cy={y(depth(b))}
          r={Math.max(2, (scale * b.bar_mm) / 2)}
          className="of-group"
          opacity={0.3 + 0.7 * b.developed}
        >
          <title>{`${b.mark}: ${diameter(b.bar_mm, system)}`}</title>
        </circle>
      ))}
      {axis !== null && (
        <path d={`M${EDGE / 2} ${y(top ? high - 1e3 * axis : 1e3 * axis)}H${WIDE - EDGE / 2}`} className="axis" />
      )}
    </svg>
  );
}

/** What lies in each face of a beam, by mark, and its links. */
export function InWeb(props: { web: Web }) {
  const { web } = props;
  const system = useUnits((u) => u.system);
  const { select } = usePicked("select");
  const of = (face: string) => {
    const bars = web.bars.filter((b) => b.face === face);
    return [...new Set(bars.map((b) => b.mark))].map((mark) => {
      const mine = bars.filter((b) => b.mark === mark);
      return { mark, told: `${mine.length} ${diameter(mine[0]?.bar_mm ?? 0, system)}`, share: mine[0]?.developed ?? 1 };
    });
  };
  return (
    <table className="small-table">
      <tbody>
        {(["top", "bottom"] as const).map((face) => (
          <tr key={face}>
            <th>{face}</th>
            <td className="bars-of">
              {of(face).map(({ mark, told, share }) => (
                <button type="button" className="link" key={mark} onClick={() => select({ type: "bars", mark })}>
                  {mark} {told}
                  {share < 1 && ` (${Math.round(100 * share)} % developed)`}
                </button>
              ))}
            </td>
          </tr>
        ))}
        <tr>
          <th>links</th>
          <td>
            {diameter(web.link_mm, system)} at {resultOf(web.link_spacing_mm, "mm", system, 0)}, two legs
          </td>
        </tr>
      </tbody>
    </table>
  );
}
