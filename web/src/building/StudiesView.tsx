import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useMemo, useState } from "react";
import { api, saying } from "../api/client";
import { ReadTable } from "../ledger/ReadTable";
import { usePicked, useSession } from "../session";
import { usePlace } from "../session/place";
import { clock } from "../units/moments";
import type { System } from "../units/quantities";
import type { Overview } from "./overview";
import { StudyForm } from "./StudyForm";
import { best, METRICS, type Metric, metricsOf, type Study, studyTable, toldOf, type Variant, WORDS } from "./study";

// Charts bring a good part of their library along, which nobody needs before there is a study.
const Scatter = lazy(() => import("./StudyCharts").then((m) => ({ default: m.Scatter })));
const Parallel = lazy(() => import("./StudyCharts").then((m) => ({ default: m.Parallel })));

/** How often a study that goes on is looked at, ms. */
const LOOK = 1500;

/** The studies of a building: made, looked at while they are computed, compared, and made floors. */
export function StudiesView(props: { project: number; overview: Overview; system: System; may: boolean }) {
  const { project, overview, system, may } = props;
  const { floor } = usePicked("floor");
  const client = useQueryClient();
  const [shown, setShown] = useState<number | "new" | null>(null);
  const list = useQuery({
    queryKey: ["studies", project],
    staleTime: 0,
    refetchInterval: (q) => (q.state.data?.some((s) => s.done < s.of && !s.stopped) ? LOOK : false),
    queryFn: async () =>
      (await api.GET("/api/projects/{project_id}/studies", { params: { path: { project_id: project } } })).data ?? [],
  });
  const studies = list.data ?? [];
  const current = shown ?? studies[0]?.id ?? "new";
  const again = () => client.invalidateQueries({ queryKey: ["studies", project] });
  return (
    <div className="studies">
      <nav aria-label="Studies">
        {may && (
          <button type="button" className="small accent" onClick={() => setShown("new")}>
            New study
          </button>
        )}
        {studies.map((s) => (
          <button
            type="button"
            key={s.id}
            className={`study-entry ${s.id === current ? "current" : ""}`}
            aria-current={s.id === current}
            onClick={() => setShown(s.id)}
          >
            <b>{s.name}</b>
            <span className="quiet">
              {s.done < s.of ? `${s.done} of ${s.of}${s.stopped ? ", stopped" : ""}` : `${s.of} variants`}
            </span>
            <span className="quiet">
              {s.author}, {clock(s.made)}
            </span>
          </button>
        ))}
        {!studies.length && <p className="quiet">No study yet.</p>}
      </nav>
      {current === "new" ? (
        may ? (
          <StudyForm
            project={project}
            overview={overview}
            system={system}
            first={floor?.id ?? 0}
            begun={(id) => {
              setShown(id);
              void again();
            }}
            cancel={() => setShown(studies[0]?.id ?? null)}
          />
        ) : (
          <p className="empty">No study yet. Designers of the project make them.</p>
        )
      ) : (
        <StudyResult
          key={current}
          project={project}
          id={current}
          system={system}
          may={may}
          changed={() => void again()}
          gone={() => {
            setShown(null);
            void again();
          }}
        />
      )}
    </div>
  );
}

function StudyResult(props: {
  project: number;
  id: number;
  system: System;
  may: boolean;
  changed: () => void;
  gone: () => void;
}) {
  const { project, id, system, may, changed, gone } = props;
  const { say, open, reload } = usePicked("say", "open", "reload");
  const go = usePlace((p) => p.go);
  const [picked, setPicked] = useState<number | null>(null);
  const [axes, setAxes] = useState({ x: "carbon", y: "use" });
  const where = { params: { path: { project_id: project, study_id: id } } };
  const { data: study, refetch } = useQuery({
    queryKey: ["study", project, id],
    staleTime: 0,
    refetchInterval: (q) => {
      const s = q.state.data;
      return s && !s.stopped && s.variants.some((v) => !v.found) ? LOOK : false;
    },
    queryFn: async () => {
      const { data, error } = await api.GET("/api/projects/{project_id}/studies/{study_id}", {
        params: { path: { project_id: project, study_id: id } },
      });
      if (!data) throw new Error(saying(error));
      return data;
    },
  });
  const pick = useCallback((number: number) => setPicked(number), []);
  const metrics = useMemo(() => (study ? metricsOf(study) : METRICS), [study]);
  const named = (key: string) => metrics.find((m) => m.key === key) ?? (metrics[0] as Metric);
  const [x, y] = [named(axes.x), named(axes.y)];
  const front = useMemo(() => (study ? best(study, x, y) : new Set<number>()), [study, x, y]);
  const table = useMemo(
    () => (study ? studyTable(study, system, front, (v) => setPicked(v.number)) : null),
    [study, system, front],
  );
  if (!study || !table) return <p className="empty">Looking at the study.</p>;
  const done = study.variants.filter((v) => v.found).length;
  const chosen = study.variants.find((v) => v.number === picked) ?? null;
  const stop = async (stopped: boolean) => {
    const { error, response } = await api.PUT("/api/projects/{project_id}/studies/{study_id}/stopped", {
      ...where,
      body: { stopped },
    });
    if (!response.ok) say(saying(error), true);
    await refetch();
    changed();
  };
  const takeAway = async () => {
    const { error, response } = await api.DELETE("/api/projects/{project_id}/studies/{study_id}", where);
    if (!response.ok) say(saying(error), true);
    else gone();
  };
  const take = async (variant: Variant, into: "new" | "floor") => {
    const { data, error } = await api.POST("/api/projects/{project_id}/studies/{study_id}/variants/{number}/floor", {
      params: { path: { project_id: project, study_id: id, number: variant.number } },
      body: { into, told: toldOf(variant, system).slice(0, 200) },
    });
    if (!data) {
      say("problems" in (error ?? {}) ? saying(error) : "The floor was changed meanwhile; try again.", true);
      return;
    }
    await reload();
    go(null);
    if (data.floor !== useSession.getState().floor?.id) await open(data.floor);
    say(`Variant ${variant.number} of ${study.name}`);
  };
  const path = `/api/projects/${project}/studies/${id}`;
  return (
    <section className="study" aria-label={study.name}>
      <header className="button-row">
        <h3>{study.name}</h3>
        <span className="quiet" role="status">
          {done < study.variants.length
            ? `${done} of ${study.variants.length} computed${study.stopped ? "; stopped" : ""}`
            : `${done} variants`}
          {study.history ? ", with the life of the floors" : ", deflections by the quick estimate"}
          {study.behind.length > 0 && `; ${study.behind.join(", ")} was changed since`}
        </span>
        <span className="space" />
        {may && done < study.variants.length && (
          <button type="button" className="small" onClick={() => void stop(!study.stopped)}>
            {study.stopped ? "Go on" : "Stop"}
          </button>
        )}
        <a className="small" href={`${path}/table.csv`}>
          CSV
        </a>
        <a className="small" href={`${path}/table.xlsx`}>
          XLSX
        </a>
        <a className="small" href={`${path}/file`} title="To compute it on the command line: piastra study">
          Study file
        </a>
        {may && (
          <button type="button" className="small" onClick={() => void takeAway()}>
            Take away
          </button>
        )}
      </header>
      <ReadTable table={table} name={`study-${id}`} />
      {chosen && <Chosen study={study} variant={chosen} system={system} may={may} take={take} />}
      {done > 1 && (
        <div className="charts">
          <div>
            <div className="button-row">
              {(["x", "y"] as const).map((axis) => (
                <label key={axis}>
                  {axis === "x" ? "Across" : "Up"}{" "}
                  <select value={axes[axis]} onChange={(e) => setAxes((a) => ({ ...a, [axis]: e.target.value }))}>
                    {metrics.map((m) => (
                      <option key={m.key} value={m.key}>
                        {m.name}
                      </option>
                    ))}
                  </select>
                </label>
              ))}
              <span className="quiet">◆ {front.size} that no other working one beats in both</span>
            </div>
            <Suspense fallback={null}>
              <Scatter study={study} system={system} x={x} y={y} front={front} picked={picked} pick={pick} />
            </Suspense>
          </div>
          <div>
            <p className="quiet">
              <b className="pass">●</b> works, <b className="fail">✕</b> does not, <b className="near">◇</b> not all
              covered, ■ not all checked. Drag along an axis to pick.
            </p>
            <Suspense fallback={null}>
              <Parallel
                study={study}
                system={system}
                metrics={metrics.filter((m) => ["use", "sag", "bars", "concrete", "carbon"].includes(m.key))}
                picked={picked}
                pick={pick}
              />
            </Suspense>
          </div>
        </div>
      )}
    </section>
  );
}

/** The variant that is picked: what it is, and the ways to make it a floor. */
function Chosen(props: {
  study: Study;
  variant: Variant;
  system: System;
  may: boolean;
  take: (variant: Variant, into: "new" | "floor") => Promise<void>;
}) {
  const { study, variant, system, may, take } = props;
  const several = new Set(study.variants.map((v) => v.floor)).size > 1;
  return (
    <p className="button-row chosen-variant">
      <b>{variant.number}</b>
      <span>
        {several && `${variant.floor_name}: `}
        {toldOf(variant, system)}
        {variant.found ? `; ${WORDS[variant.found.verdict]}` : ""}
      </span>
      <span className="space" />
      {may && (
        <>
          <button type="button" className="small" onClick={() => void take(variant, "new")}>
            Open as a new floor
          </button>
          <button
            type="button"
            className="small"
            disabled={!Object.keys(variant.values).length}
            title={`Puts its values into ${variant.floor_name}, as a revision that can be undone`}
            onClick={() => void take(variant, "floor")}
          >
            Make it {variant.floor_name}
          </button>
        </>
      )}
    </p>
  );
}
