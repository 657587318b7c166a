import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { usePicked, useStale } from "../session";

const DETAILS = ["summary", "governing", "all"] as const;
type Detail = (typeof DETAILS)[number] | "out";
const WORDS: Record<Detail, string> = {
  out: "left out",
  summary: "in short",
  governing: "what governs",
  all: "everything",
};

type TitleLine = { id: string; text: string };

/** The project's own lines of the title block: job, client, part; each is kept as it is left. */
function TitleBlock() {
  const { project, editProject } = usePicked("project", "editProject");
  const [name, setName] = useState("");
  const lines = (project?.document.title_block ?? []) as TitleLine[];
  const change = (line: string, next: TitleLine[]) =>
    void editProject({ line, change: (p) => ({ ...p, title_block: next }) });
  return (
    <fieldset className="title-block">
      <legend>Title block</legend>
      {lines.map((l) => (
        <div className="title-line" key={l.id}>
          <label htmlFor={`title-${l.id}`}>{l.id}</label>
          <input
            id={`title-${l.id}`}
            defaultValue={l.text}
            maxLength={200}
            onBlur={(e) => {
              const text = e.target.value;
              if (text !== l.text)
                change(
                  `title block: ${l.id}`,
                  lines.map((o) => (o.id === l.id ? { ...o, text } : o)),
                );
            }}
          />
          <button
            type="button"
            className="small"
            aria-label={`Take ${l.id} away`}
            onClick={() =>
              change(
                `title block without ${l.id}`,
                lines.filter((o) => o.id !== l.id),
              )
            }
          >
            Take away
          </button>
        </div>
      ))}
      {lines.length < 12 && (
        <form
          className="title-line"
          onSubmit={(e) => {
            e.preventDefault();
            const id = name.trim();
            if (!id || lines.some((l) => l.id === id)) return;
            change(`title block with ${id}`, [...lines, { id, text: "" }]);
            setName("");
          }}
        >
          <label htmlFor="title-new">New line</label>
          <input
            id="title-new"
            value={name}
            placeholder="job, client, part"
            maxLength={60}
            onChange={(e) => setName(e.target.value)}
          />
          <button type="submit" className="small" disabled={!name.trim() || lines.some((l) => l.id === name.trim())}>
            Add
          </button>
        </form>
      )}
    </fieldset>
  );
}

/** The calculation report of the newest results: which chapters, and how much of each; as a web page or as PDF. */
export function Report() {
  const { shownRun } = usePicked("shownRun");
  const stale = useStale();
  const [chosen, setChosen] = useState<Record<string, Detail>>({});
  const { data: chapters = [] } = useQuery({
    queryKey: ["report chapters"],
    queryFn: async () => (await api.GET("/api/report-chapters")).data ?? [],
  });
  const detail = (key: string): Detail => chosen[key] ?? "governing";
  const wanted = chapters.filter((c) => detail(c.key) !== "out");
  const query = wanted.map((c) => `chapter=${c.key}:${detail(c.key)}`).join("&");
  const address = (kind: string) => `/api/runs/${shownRun}/report.${kind}?${query}`;
  if (shownRun === null) return <p>There are no results yet that could be reported.</p>;
  return (
    <>
      {stale && (
        <p className="warning">The floor was changed since its last results; the report says so on its first page.</p>
      )}
      <div className="fields report-chapters">
        {chapters.map((c) => (
          <div className="number-field" key={c.key}>
            <label htmlFor={`chapter-${c.key}`}>{c.title}</label>
            <select
              id={`chapter-${c.key}`}
              value={detail(c.key)}
              onChange={(e) => setChosen({ ...chosen, [c.key]: e.target.value as Detail })}
            >
              {(["out", ...DETAILS] as const).map((d) => (
                <option key={d} value={d}>
                  {WORDS[d]}
                </option>
              ))}
            </select>
          </div>
        ))}
      </div>
      <TitleBlock />
      <div className="buttons">
        <a className={`button ${wanted.length ? "" : "off"}`} href={address("html")} target="_blank" rel="noreferrer">
          Web page
        </a>
        <a className={`button ${wanted.length ? "" : "off"}`} href={address("xlsx")}>
          Tables (XLSX)
        </a>
        <a
          className={`button accent ${wanted.length ? "" : "off"}`}
          href={address("pdf")}
          target="_blank"
          rel="noreferrer"
        >
          PDF
        </a>
      </div>
    </>
  );
}
