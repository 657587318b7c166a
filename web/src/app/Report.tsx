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
      <div className="fields">
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
      <p className="quiet">Figures are in SI units.</p>
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
