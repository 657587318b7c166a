import { useState } from "react";
import { useDisplay } from "../display/display";
import { nameOf } from "../kinds";
import { applied, loadsThere, type Worth } from "../kinds/applying";
import type { FloorDocument, Load, Ref } from "../model/floor";
import { loadText } from "../model/loads";
import { usePicked } from "../session";
import { read, unitOf, unreadable, useUnits } from "../units/quantities";

type Way = { kind: Load["kind"]; name: string };

/** Which loads can be put on the selected objects. */
export function waysFor(refs: Ref[]): Way[] {
  const only = (...kinds: string[]) => refs.length > 0 && refs.every((r) => kinds.includes(r.kind));
  return [
    ...(only("slabs") ? [{ kind: "area" as const, name: "over the area" }] : []),
    ...(only("slabs", "openings", "walls", "beams")
      ? [{ kind: "line" as const, name: only("walls", "beams") ? "along" : "along the edges" }]
      : []),
    ...(only("columns", "walls") ? [{ kind: "joint" as const, name: "at the joint" }] : []),
  ];
}

/** Puts a load on what is selected: says what is there, and asks whether to replace it or to add to it. */
export function ApplyLoad(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const { edit, choose } = usePicked("edit", "choose");
  const system = useUnits((u) => u.system);
  const active = useDisplay((d) => d.loadsOf);
  const ways = waysFor(refs);
  const cases = document.load_cases ?? [];
  const [kind, setKind] = useState(ways[0]?.kind ?? "area");
  const way = ways.find((w) => w.kind === kind) ?? ways[0];
  const [caseId, setCase] = useState(active ?? cases.find((c) => c.nature !== "self_weight")?.id ?? "");
  const [from, setFrom] = useState("own");
  const [value, setValue] = useState("");
  const [replace, setReplace] = useState<boolean | null>(null);
  const [problem, setProblem] = useState("");
  if (!way || !cases.length) return null;
  const there = loadsThere(document, refs, caseId, way.kind);
  const going = there.filter((t) => t.goes);
  const dimension = way.kind === "area" ? "pressure" : way.kind === "line" ? "lineload" : "force";
  const sources: [string, string][] =
    way.kind === "area"
      ? [
          ...(document.build_ups ?? []).map((b) => [`build_up|${b.id}`, b.id] as [string, string]),
          ...(document.occupancies ?? []).map((o) => [`occupancy|${o.id}`, o.id] as [string, string]),
        ]
      : way.kind === "line"
        ? (document.partitions ?? []).map((p) => [`partition|${p.id}`, p.id] as [string, string])
        : [];
  const put = async () => {
    let worth: Worth;
    if (from !== "own") {
      const [key = "", label = ""] = from.split("|");
      worth = { [key]: label } as Worth;
    } else {
      const number = read(value, dimension, system);
      if (number === null) {
        setProblem(unreadable(value, dimension, system));
        return;
      }
      worth =
        way.kind === "area" ? { q_kPa: number } : way.kind === "line" ? { q_kN_m: [number, number] } : { F_kN: number };
    }
    if (going.length && replace === null) {
      setProblem("Choose first: replace what is there, or add to it.");
      return;
    }
    setProblem("");
    const told = from === "own" ? `${value} ${unitOf(dimension, system).unit}` : (from.split("|")[1] ?? "");
    const verb = going.length ? (replace ? `replaces ${going.map((g) => g.load.id).join(", ")}` : "added") : "put";
    const change = (d: FloorDocument) => applied(d, refs, way.kind, caseId, worth, replace === true);
    await edit({ line: `Load of ${caseId}, ${told}, ${verb} on ${nameOf(refs)}`, change: (d) => change(d).document });
    setReplace(null);
  };
  return (
    <section className="apply-load" aria-label="Put a load on what is selected">
      <h3>Put a load on {refs.length > 1 ? "them" : "it"}</h3>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="apply-way">Load</label>
          <select id="apply-way" value={way.kind} onChange={(e) => setKind(e.target.value as Load["kind"])}>
            {ways.map((w) => (
              <option key={w.kind} value={w.kind}>
                {w.name}
              </option>
            ))}
          </select>
        </div>
        <div className="number-field">
          <label htmlFor="apply-case">Case</label>
          <select id="apply-case" value={caseId} onChange={(e) => setCase(e.target.value)}>
            {cases
              .filter((c) => c.nature !== "self_weight")
              .map((c) => (
                <option key={c.id}>{c.id}</option>
              ))}
          </select>
        </div>
        {sources.length > 0 && (
          <div className="number-field">
            <label htmlFor="apply-from">Value from</label>
            <select id="apply-from" value={from} onChange={(e) => setFrom(e.target.value)}>
              <option value="own">own</option>
              {sources.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          </div>
        )}
        {from === "own" && (
          <div className="number-field">
            <label htmlFor="apply-value">Value</label>
            <input
              id="apply-value"
              value={value}
              onChange={(e) => setValue(e.target.value)}
              onKeyDown={(e) => e.key === "Enter" && void put()}
            />
            <span className="unit">{unitOf(dimension, system).unit}</span>
          </div>
        )}
      </div>
      {there.length > 0 && (
        <div className="there">
          <p>There already in {caseId}:</p>
          <ul>
            {there.map((t) => (
              <li key={t.load.id}>
                <button type="button" className="plain" onClick={() => choose([{ kind: "loads", id: t.load.id }])}>
                  {t.load.id}
                </button>{" "}
                <span className="mono">{loadText(t.load, document, system)}</span>
                {!t.goes && <span className="quiet"> also elsewhere, stays</span>}
              </li>
            ))}
          </ul>
          {going.length > 0 && (
            <div role="radiogroup" aria-label="Replace or add">
              <label>
                <input type="radio" name="replace" checked={replace === true} onChange={() => setReplace(true)} />{" "}
                Replace {going.length === 1 ? "it" : `these ${going.length}`}
              </label>
              <label>
                <input type="radio" name="replace" checked={replace === false} onChange={() => setReplace(false)} /> Add
                to {going.length === 1 ? "it" : "them"}
              </label>
            </div>
          )}
        </div>
      )}
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      <div className="button-row">
        <button type="button" className="accent" onClick={() => void put()}>
          Put the load
        </button>
      </div>
    </section>
  );
}
