import { useState } from "react";
import type { FieldHead } from "../api/fields";
import { chosenReading, chosenText, isStored, KINDS, LIVED, minusText, stored, useDisplay } from "../display/display";
import { useReadings } from "../readings/readings";
import { usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { useGesture } from "./tools/gesture";

const GROUPS: [string, string[]][] = [
  ["Shape", ["w"]],
  ["Moments", ["mx", "my", "mxy", "m1", "m2"]],
  ["Wood–Armer", ["wa_bottom_x", "wa_bottom_y", "wa_top_x", "wa_top_y"]],
  ["Shear", ["vx", "vy", "v"]],
  ["Membrane", ["nx", "ny", "nxy"]],
  ["Bedding", ["bearing"]],
];

/** What the value of a stage begins with, where combinations are chosen beside them. */
const STAGE = "stage|";

/** Address of the drawing of one face and direction. */
function drawingOf(run: number, of: string | null, kind: "svg" | "dxf"): string {
  const [face, direction] = (of ?? "top x").split(" ");
  return `/api/runs/${run}/bars.${kind}?face=${face}&direction=${direction}`;
}

/** Chooses what of the results lies on the plan. */
export function Toolbar(props: { heads: FieldHead[]; fit: () => void }) {
  const display = useDisplay();
  const minus = display.minus && "chosen" in display.minus ? display.minus.chosen : null;
  const catalogue = useReadings((r) => r.catalogue);
  const { tool, begin, set } = useGesture();
  const { step, document, edit, shownRun: run } = usePicked("step", "document", "edit", "shownRun");
  const [more, setMore] = useState(false);
  const { quantity, show } = display;
  const head = props.heads[stored(props.heads, display)];
  const chosen = chosenReading(catalogue, display);
  const known = catalogue?.quantities.find((q) => q.key === quantity);
  const steel = props.heads.filter((h) => h.quantity === "steel");
  const lasting = props.heads.filter((h) => h.quantity === "w");
  const lived = lasting.filter((h) => h.kind === "history");
  const ofLife = props.heads.filter((h) => h.quantity === quantity && LIVED.includes(quantity));
  const hasLife = (key: string) => props.heads.some((h) => h.quantity === key);
  const selection = catalogue?.selections.find((s) => s.of === (head?.of ?? chosen?.of));
  const kinds =
    quantity === "w" && lasting.some((h) => h.of === selection?.of && h.kind === "with creep") ? ["with creep"] : [];
  if (selection) kinds.push("all");
  if (selection?.pattern) kinds.push(...(known?.senses ?? []), "arrangement");
  return (
    <>
      <div className="toolbar" role="toolbar" aria-label="What the plan shows">
        <select
          value={quantity}
          aria-label="Field"
          onChange={(e) =>
            show({ quantity: e.target.value, kind: null, minus: null, ...(quantity === "steel" ? { of: null } : {}) })
          }
        >
          <option value="none">No field</option>
          {GROUPS.map(([group, keys]) => (
            <optgroup key={group} label={group}>
              {keys.map((key) => {
                const q = catalogue?.quantities.find((c) => c.key === key);
                return (
                  q && (
                    <option key={key} value={key}>
                      {`${q.symbol.replace("_", "")} ${q.name}`}
                    </option>
                  )
                );
              })}
            </optgroup>
          ))}
          {steel.length > 0 && <option value="steel">Steel</option>}
          {lived.length > 0 && (
            <optgroup label="Life">
              <option value="cracked">Cracked regions</option>
              <option value="steel_stress">Stress of bars</option>
              {hasLife("crack_width") && <option value="crack_width">Crack width</option>}
            </optgroup>
          )}
        </select>
        {quantity === "steel" && head && (
          <select
            aria-label="Face and direction"
            value={`${head.of}|${head.kind}`}
            onChange={(e) => {
              const [of = "", kind = ""] = e.target.value.split("|");
              show({ of, kind });
            }}
          >
            {steel.map((h) => (
              <option key={`${h.of}|${h.kind}`} value={`${h.of}|${h.kind}`}>
                {h.of}, {KINDS[h.kind]}
              </option>
            ))}
          </select>
        )}
        {ofLife.length > 0 && head && (
          <select
            aria-label="Stage"
            value={head.of}
            onChange={(e) => show({ of: e.target.value, kind: head.kind, minus: null })}
          >
            {[...new Set(ofLife.map((h) => h.of))].map((of) => (
              <option key={of} value={of}>
                {of}
              </option>
            ))}
          </select>
        )}
        {ofLife.length > 0 && head && head.kind !== "history" && (
          <select
            aria-label="Face"
            value={head.kind}
            onChange={(e) => show({ of: head.of, kind: e.target.value, minus: null })}
          >
            <option value="bottom">bottom</option>
            <option value="top">top</option>
          </select>
        )}
        {!isStored(quantity) && (selection ?? catalogue?.selections[0]) && (
          <>
            <select
              aria-label="Case or combination"
              value={head?.kind === "history" ? `${STAGE}${head.of}` : selection?.of}
              onChange={(e) => {
                const stage = e.target.value.startsWith(STAGE);
                show(
                  stage
                    ? { of: e.target.value.slice(STAGE.length), kind: "history", minus: null }
                    : { of: e.target.value, kind: null },
                );
              }}
            >
              {quantity === "w" && lived.length > 0 && (
                <optgroup label="end of a stage">
                  {lived.map((h) => (
                    <option key={h.of} value={`${STAGE}${h.of}`}>
                      {h.of}
                    </option>
                  ))}
                </optgroup>
              )}
              {[...new Set(catalogue?.selections.map((s) => s.limit_state))].map((state) => (
                <optgroup key={state ?? "cases"} label={state ? state.replace("_", "-") : "cases"}>
                  {catalogue?.selections
                    .filter((s) => s.limit_state === state)
                    .map((s) => (
                      <option key={s.of} value={s.of}>
                        {s.of}
                      </option>
                    ))}
                </optgroup>
              ))}
            </select>
            {head?.kind === "history" && lived.length > 1 && (
              <select
                aria-label="Since"
                className="narrow"
                title="From when on the deflection is told"
                value={display.since ?? ""}
                onChange={(e) => show({ since: e.target.value || null })}
              >
                <option value="">since casting</option>
                {lived.map((h) => (
                  <option key={h.of} value={h.of}>
                    since {h.of}
                  </option>
                ))}
              </select>
            )}
            {kinds.length > 1 && selection && head?.kind !== "history" && (
              <select
                aria-label="Of the arrangements"
                value={head ? head.kind : chosen?.kind}
                onChange={(e) =>
                  show({
                    of: selection.of,
                    kind: e.target.value,
                    ...(e.target.value === "arrangement" && !display.arrangement
                      ? { arrangement: catalogue?.arrangements[0]?.name ?? null }
                      : {}),
                  })
                }
              >
                {kinds.map((k) => (
                  <option key={k} value={k}>
                    {KINDS[k]}
                  </option>
                ))}
              </select>
            )}
            {chosen?.kind === "arrangement" && !head && (
              <select
                aria-label="Arrangement"
                value={display.arrangement ?? ""}
                onChange={(e) => show({ arrangement: e.target.value })}
              >
                {catalogue?.arrangements.map((a) => (
                  <option key={a.name}>{a.name}</option>
                ))}
              </select>
            )}
          </>
        )}
        <span className="rule" />
        <button type="button" aria-pressed={display.reactions} onClick={() => show({ reactions: !display.reactions })}>
          Reactions
        </button>
        {steel.length > 0 && (
          <button type="button" aria-pressed={display.bars} onClick={() => show({ bars: !display.bars })}>
            Bars
          </button>
        )}
        {step === "steel" && document && (
          <button
            type="button"
            aria-pressed={document.design_bars ?? false}
            title="Design what mats and kept bars leave over, with every run"
            onClick={() =>
              void edit({
                line: document.design_bars ? "Bars are not designed any more" : "Bars are designed",
                change: (d) => ({ ...d, design_bars: !d.design_bars }),
              })
            }
          >
            Design
          </button>
        )}
        {step === "punching" && document && (
          <button
            type="button"
            aria-pressed={document.design_rails ?? true}
            title="Design shear reinforcement where punching needs it, with every run"
            onClick={() =>
              void edit({
                line: (document.design_rails ?? true) ? "Rails are not designed any more" : "Rails are designed",
                change: (d) => ({ ...d, design_rails: !(d.design_rails ?? true) }),
              })
            }
          >
            Rails
          </button>
        )}
        <button type="button" aria-pressed={display.zones} onClick={() => show({ zones: !display.zones })}>
          Zones
        </button>
        <button
          type="button"
          aria-pressed={tool === "slice"}
          title="Lay a slice across the floor (4)"
          onClick={() => (tool === "slice" ? set({ tool: null, points: [] }) : begin("slice"))}
        >
          Slice <kbd>4</kbd>
        </button>
        <button
          type="button"
          title="The deflected floor in space, animated"
          disabled={!catalogue}
          onClick={() => useDialogs.getState().open("moving")}
        >
          Animate
        </button>
        <button type="button" aria-expanded={more} onClick={() => setMore(!more)}>
          More
        </button>
        <button type="button" title="Fit the floor (F)" onClick={props.fit}>
          Fit
        </button>
      </div>
      {more && (
        <div className="sheet-menu show" role="group" aria-label="More of the results">
          {(["x", "y"] as const).map((direction) => (
            <label key={direction}>
              <input
                type="checkbox"
                checked={display.strips === direction}
                onChange={() => show({ strips: display.strips === direction ? "off" : direction })}
              />
              Strips along {direction}
            </label>
          ))}
          <label>
            <input type="checkbox" checked={display.labels} onChange={() => show({ labels: !display.labels })} />
            Labels
          </label>
          <label>
            <input type="checkbox" checked={display.mesh} onChange={() => show({ mesh: !display.mesh })} />
            Mesh
          </label>
          <label title="One even value an element, not averaged between elements of one thickness">
            <input
              type="checkbox"
              checked={display.byElement}
              onChange={() => show({ byElement: !display.byElement, ...(quantity === "w" ? { kind: "all" } : {}) })}
            />
            By element
          </label>
          {step === "steel" && run && display.bars && (
            <span className="take-away" role="group" aria-label="Drawing of the bars shown">
              Drawing of these bars{" "}
              {(["svg", "dxf"] as const).map((kind) => (
                <a key={kind} className="small" href={drawingOf(run, display.of, kind)}>
                  {kind.toUpperCase()}
                </a>
              ))}
            </span>
          )}
          <fieldset>
            <legend>Less</legend>
            <select
              aria-label="What is taken off"
              value={minus?.of ?? ""}
              onChange={(e) =>
                show({
                  minus: e.target.value ? { chosen: { of: e.target.value, kind: "all" } } : null,
                  ...(display.kind === "with creep" ? { kind: "all" } : {}),
                  ...(quantity === "w" && !display.kind ? { kind: "all", of: selection?.of ?? null } : {}),
                })
              }
            >
              <option value="">nothing</option>
              {catalogue?.selections.map((s) => (
                <option key={s.of} value={s.of}>
                  {s.of}
                </option>
              ))}
            </select>
            {minus && (
              <select
                aria-label="Arrangement of what is taken off"
                value={minus.kind}
                onChange={(e) => show({ minus: { chosen: { of: minus.of, kind: e.target.value as "all" } } })}
              >
                {["all", "least", "greatest"].map((k) => (
                  <option key={k} value={k}>
                    {KINDS[k]}
                  </option>
                ))}
              </select>
            )}
            {display.minus && "run" in display.minus && (
              <>
                <span className="quiet">the same of revision {display.minus.revision}</span>
                <button type="button" className="small" onClick={() => show({ minus: null })}>
                  End the difference
                </button>
              </>
            )}
          </fieldset>
          {display.minus && chosen && (
            <p className="quiet">
              {chosenText(chosen)} {minusText(display.minus)}
            </p>
          )}
        </div>
      )}
    </>
  );
}
