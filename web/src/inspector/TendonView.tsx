import type { Results } from "../model/results";
import { useUnits } from "../units/quantities";
import { resultOf } from "../units/results";

const [WIDE, HIGH] = [248, 84];

/** Force along a tendon in every state, what it lost and by how much it is drawn out. */
export function TendonView(props: { results: Results | null; id: string }) {
  const system = useUnits((u) => u.system);
  const t = props.results?.tendons.find((r) => r.id === props.id);
  if (!t) return <p className="quiet">Its forces come with the next run.</p>;
  const most = Math.max(...t.jacking_kN);
  const least = 0.9 * Math.min(...t.final_kN);
  const length = t.s_m[t.s_m.length - 1] ?? 1;
  const x = (s: number) => (WIDE * s) / length;
  const y = (f: number) => 4 + ((HIGH - 8) * (most - f)) / Math.max(most - least, 1e-6);
  const path = (forces: number[]) =>
    forces.map((f, k) => `${k ? "L" : "M"}${x(t.s_m[k] ?? 0).toFixed(1)} ${y(f).toFixed(1)}`).join("");
  const over = t.jack_limit_MPa !== null && t.jack_MPa > t.jack_limit_MPa + 1e-6;
  const rows: [string, string][] = [
    ["At the jack", resultOf(most, "kN", system)],
    ["Locked, mean", resultOf(mean(t.s_m, t.locked_kN), "kN", system)],
    ["At transfer, mean", resultOf(mean(t.s_m, t.transfer_kN), "kN", system)],
    ["In the end, mean", resultOf(t.mean_kN, "kN", system)],
    ["In the end, least", resultOf(t.least_kN, "kN", system)],
    ["Extension at the jack", resultOf(t.extension_mm, "mm", system)],
    ["Extension locked", resultOf(t.extension_locked_mm, "mm", system)],
    ["Elastic shortening", resultOf(t.shortening_loss_MPa, "MPa", system)],
    ["Creep, shrinkage, relaxation", resultOf(t.time_loss_MPa, "MPa", system)],
    ["Length", resultOf(t.length_m, "m", system)],
  ];
  return (
    <section aria-label="Force">
      <h3>Force along the tendon</h3>
      <svg
        width={WIDE}
        height={HIGH}
        className="tendon-force"
        role="img"
        aria-label="Force at the jack, locked and in the end"
      >
        <path d={path(t.jacking_kN)} className="jacking" />
        <path d={path(t.locked_kN)} className="locked" />
        <path d={path(t.final_kN)} className="final" />
      </svg>
      <p className="quiet key-of">
        <i className="jacking" /> at the jack <i className="locked" /> locked <i className="final" /> in the end
      </p>
      {over && (
        <p className="warning">
          {resultOf(t.jack_MPa, "MPa", system)} at the jack is more than the{" "}
          {resultOf(t.jack_limit_MPa ?? 0, "MPa", system)} that the standard allows.
        </p>
      )}
      <dl className="pairs">
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd className="mono">{value}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function mean(s: number[], f: number[]): number {
  let total = 0;
  for (let k = 1; k < s.length; k++)
    total += (((f[k] as number) + (f[k - 1] as number)) / 2) * ((s[k] as number) - (s[k - 1] as number));
  return total / ((s[s.length - 1] as number) || 1);
}
