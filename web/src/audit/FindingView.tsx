import type { Finding } from "../api/client";
import type { FloorDocument, Labelled } from "../model/floor";
import type { ProjectDocument } from "../model/project";
import { usePicked } from "../session";
import { spoken, useUnits } from "../units/quantities";

type Steps = NonNullable<Finding["mend"]>["steps"];

/** A document after the steps of a mend. */
function mended<D extends FloorDocument | ProjectDocument>(document: D, steps: Steps): D {
  let out = document as unknown as Record<string, unknown>;
  for (const step of steps) {
    const items = (out[step.list] as Labelled[] | undefined) ?? [];
    if (step.item) {
      out = { ...out, [step.list]: [...items, step.item] };
      continue;
    }
    const next = step.key
      ? items.map((i) => (i.id === step.id ? (put(i, (step.key as string).split("."), step.value) as Labelled) : i))
      : items.filter((i) => i.id !== step.id);
    out = { ...out, [step.list]: next };
  }
  return out as unknown as D;
}

function put(here: unknown, [key, ...rest]: string[], value: unknown): unknown {
  if (key === undefined) return value;
  if (Array.isArray(here)) return here.map((v, i) => (i === Number(key) ? put(v, rest, value) : v));
  const object = (here ?? {}) as Record<string, unknown>;
  return { ...object, [key]: put(object[key], rest, value) };
}

/** One finding: what, why it matters, and the mend where there is one. */
export function FindingView(props: { finding: Finding; named?: boolean }) {
  const { finding, named } = props;
  const { edit, editProject } = usePicked("edit", "editProject");
  const system = useUnits((u) => u.system);
  const [what = "", why = ""] = spoken(finding.said, system).split("\n");
  const mend = finding.mend && { ...finding.mend, line: spoken(finding.mend.said, system) };
  return (
    <div className="finding" data-rule={finding.rule}>
      <p>
        <b>
          <span aria-hidden="true">! </span>
          {named ? `${finding.id} ` : ""}
          {what}.
        </b>{" "}
        {why}
      </p>
      {mend && (
        <button
          type="button"
          className="small"
          onClick={() =>
            void (mend.shared
              ? editProject({ line: mend.line, change: (p) => mended(p, mend.steps) })
              : edit({ line: mend.line, change: (d) => mended(d, mend.steps) }))
          }
        >
          Mend: {mend.line}
        </button>
      )}
    </div>
  );
}
