import type { FloorDocument, Vertex } from "../model/floor";
import { usePicked } from "../session";

type Together = NonNullable<FloorDocument["panels_together"]>;

const TOGETHER: Record<Together, string> = {
  auto: "above 60 panels",
  never: "never",
  always: "always",
};

/** Which arrangements count, and panels of the floor's own. */
export function ArrangePanel(props: { document: FloorDocument }) {
  const { document } = props;
  const { results, edit } = usePicked("results", "edit");
  const pattern = (document.load_cases ?? []).filter((c) => c.pattern);
  const own = document.panels?.length ?? 0;
  const derived = results?.panels ?? [];
  return (
    <>
      <h2>Arrangements</h2>
      <p className="quiet">
        {pattern.length
          ? `${pattern.map((c) => c.id).join(", ")} can be on any choice of ${derived.length} panels.`
          : "No case is in patterns. Mark a live case “In patterns” in the load cases."}
      </p>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="which">Checks use</label>
          <select
            id="which"
            value={document.arrangements ?? "exact"}
            onChange={(e) =>
              void edit({
                line: `Checks use ${e.target.value === "exact" ? "the worst of all arrangements" : "the standard’s arrangements"}`,
                change: (d) => ({ ...d, arrangements: e.target.value as "exact" }),
              })
            }
          >
            <option value="exact">the worst of all</option>
            <option value="standard">the standard’s</option>
          </select>
        </div>
        <div className="number-field">
          <label htmlFor="together">Far panels together</label>
          <select
            id="together"
            value={document.panels_together ?? "auto"}
            onChange={(e) =>
              void edit({
                line: `Far panels together: ${TOGETHER[e.target.value as Together]}`,
                change: (d) => ({ ...d, panels_together: e.target.value as Together }),
              })
            }
          >
            {(Object.keys(TOGETHER) as Together[]).map((k) => (
              <option key={k} value={k}>
                {TOGETHER[k]}
              </option>
            ))}
          </select>
        </div>
      </div>
      <p className="quiet">
        The worst of all arrangements is exact: each panel’s effect is known, and the adverse ones are added. It is
        never less than any arrangement that the standard names. Panels nine bays apart can act together, which is
        quicker and changes next to nothing; how much is told with the results.
      </p>
      <h3>Panels</h3>
      <p className="quiet">
        {own
          ? "The floor has panels of its own. What is not on them counts as one panel more."
          : "Panels follow the lines of supports. Make them the floor’s own to change them on the plan."}
      </p>
      <div className="button-row">
        {own ? (
          <button
            type="button"
            onClick={() =>
              void edit({ line: "Panels follow the supports again", change: (d) => ({ ...d, panels: [] }) })
            }
          >
            Follow the supports again
          </button>
        ) : (
          <button
            type="button"
            disabled={!derived.length}
            onClick={() =>
              void edit({
                line: `${derived.length} panels are the floor’s own`,
                change: (d) => ({
                  ...d,
                  panels: derived.map((p) => ({ id: p.id, outline: withoutEnd(p.outline) })),
                }),
              })
            }
          >
            Make them the floor’s own
          </button>
        )}
      </div>
    </>
  );
}

/** An outline without the repeat of its first corner. */
function withoutEnd(outline: Vertex[]): Vertex[] {
  const [a, z] = [outline[0], outline[outline.length - 1]];
  return a && z && a[0] === z[0] && a[1] === z[1] ? outline.slice(0, -1) : outline;
}
