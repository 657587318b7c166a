import { type KeyboardEvent, useCallback, useEffect, useMemo, useState } from "react";
import { api, saying } from "../api/client";
import { reaches } from "../api/entry";
import { copyTable, downloadTable, useExported } from "../ledger/exported";
import { useCompared } from "../readings/beside";
import { usePicked, useRole, useSession } from "../session";
import { useDialogs } from "../session/dialogs";
import { usePlace, type BuildingView as View } from "../session/place";
import { useUnits } from "../units/quantities";
import { does, keepFloor, nameFloor, orderFloors, shifted, travel } from "./actions";
import { type CardActs, FloorCard } from "./FloorCard";
import { Levels } from "./Levels";
import { ModelView } from "./ModelView";
import { boxOf, type Card, type CheckRow, goesOn, stateOf, useOverview } from "./overview";
import { StudiesView } from "./StudiesView";
import { Totals } from "./Totals";
import { VerdictTable } from "./VerdictTable";

const MINUTE = 60_000;

/** The time in ms, a new one every minute. */
function useNow(): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), MINUTE);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** A building: all its floors at once, with their verdicts and their runs. */
export function BuildingView(props: { view: View }) {
  const { floor, open, say, reload, openRow } = usePicked("floor", "open", "say", "reload", "openRow");
  const role = useRole();
  const may = role !== undefined && reaches(role, "designer");
  const go = usePlace((p) => p.go);
  const openDialog = useDialogs((d) => d.open);
  const system = useUnits((u) => u.system);
  const project = floor?.project_id;
  const { overview, problem, heard, again } = useOverview(project);
  const [picked, setPicked] = useState<Set<number>>(new Set());
  const now = useNow();
  const box = useMemo(() => boxOf(overview?.floors ?? []), [overview]);

  const openFloor = useCallback(
    async (card: Card, row?: CheckRow) => {
      go(null);
      if (card.id !== useSession.getState().floor?.id) await open(card.id);
      const mine = useSession.getState().results?.verdict.find((r) => r.check === row?.check);
      if (mine) openRow(mine);
    },
    [go, open, openRow],
  );

  if (!overview || project === undefined)
    return (
      <div className="building empty">{problem || (floor ? "Looking at the building." : "No floor is open.")}</div>
    );

  const ids = overview.floors.map((f) => f.id);
  const chosen = overview.floors.filter((f) => picked.has(f.id));
  const running = overview.floors.filter((f) => goesOn(f, heard[f.id]));
  const scope = chosen.length ? chosen : overview.floors;
  const waiting = scope.filter((f) =>
    ["cancelled", "failed", "out of date", "no results"].includes(stateOf(f, heard[f.id])),
  );
  const look = async () => {
    await Promise.all([again(), reload()]);
  };
  const wrong = (told: string) => {
    if (told) say(told, true);
  };
  const lives = scope.filter((f) => f.life === "estimated" && stateOf(f, heard[f.id]) === "up to date");
  const run = async (cards: Card[], withLives = false) => {
    const { data, error } = await api.POST("/api/projects/{project_id}/runs", {
      params: { path: { project_id: project } },
      body: { floors: cards.map((c) => c.id), lives: withLives },
    });
    if (!data) wrong(saying(error));
    else say(data.begun.length ? `Runs: ${data.begun.join(", ")}` : "Every one of them has its results.");
    await again();
  };
  const cancel = async (cards: Card[]) => {
    const { error, response } = await api.POST("/api/projects/{project_id}/runs/cancel", {
      params: { path: { project_id: project } },
      body: { floors: cards.map((c) => c.id) },
    });
    if (!response.ok) wrong(saying(error));
    await again();
  };
  const acts: CardActs = {
    open: (card) => void openFloor(card),
    pick: (card) =>
      setPicked((all) => {
        const next = new Set(all);
        if (!next.delete(card.id)) next.add(card.id);
        return next;
      }),
    rename: async (card, name) => {
      const told = await does({
        line: `${card.name} is called ${name} now`,
        undone: `${name} is called ${card.name} again`,
        again: () => nameFloor(card.id, name),
        back: () => nameFloor(card.id, card.name),
      });
      wrong(told);
      await look();
      return told;
    },
    shift: (card, by) => {
      const after = shifted(ids, card.id, by);
      if (after === ids) return;
      void does({
        line: `${card.name} stands ${by < 0 ? "earlier" : "later"} now`,
        undone: `${card.name} stands where it did`,
        again: () => orderFloors(project, after),
        back: () => orderFloors(project, ids),
      })
        .then(wrong)
        .then(look);
    },
    copy: (card, twin) => {
      void (async () => {
        const { data, error } = await api.POST("/api/projects/{project_id}/floors", {
          params: { path: { project_id: project } },
          body: {
            document: null,
            name: `${card.name}, ${twin ? "twin" : "copy"}`,
            level: twin ? null : card.level,
            copy_of: twin ? null : card.id,
            twin_of: twin ? card.id : null,
          },
        });
        if (!data) {
          wrong(saying(error));
          return;
        }
        await does({
          line: `${card.name} has a ${twin ? "twin" : "copy"} now`,
          undone: `The ${twin ? "twin" : "copy"} of ${card.name} is put away`,
          again: async () => "",
          back: () => keepFloor(data.floor, true),
        });
        await look();
      })();
    },
    away: (card) => {
      void does({
        line: `${card.name} is put away; Ctrl Z brings it back`,
        undone: `${card.name} is back`,
        again: () => keepFloor(card.id, true),
        back: () => keepFloor(card.id, false),
      })
        .then(wrong)
        .then(look);
    },
    run: (card) => void run([card]),
    cancel: (card) => void cancel([card]),
  };
  const compare = async () => {
    const [one, two] = chosen as [Card, Card];
    useCompared.getState().put({ kind: "floor", id: two.id, name: two.name });
    useSession.getState().setStep("deflection");
    await openFloor(one);
  };
  const keys = (event: KeyboardEvent) => {
    if ((event.target as HTMLElement).closest("input:not([type=checkbox]), select, textarea")) return;
    if ((event.ctrlKey || event.metaKey) && ["z", "y"].includes(event.key.toLowerCase())) {
      void travel(event.key.toLowerCase() === "z" && !event.shiftKey).then(look);
      event.preventDefault();
      event.stopPropagation();
      return;
    }
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 1, ArrowUp: -1, Home: -1e6, End: 1e6 }[event.key];
    const cards = [...event.currentTarget.querySelectorAll<HTMLElement>(".floor-card")];
    const at = cards.indexOf(event.target as HTMLElement);
    if (step === undefined || at < 0 || event.altKey) return;
    // Up and down go by a row of cards: as many as stand side by side.
    const across = cards.filter((c) => c.offsetTop === cards[0]?.offsetTop).length;
    const by = event.key === "ArrowDown" || event.key === "ArrowUp" ? step * across : step;
    cards[Math.max(0, Math.min(cards.length - 1, at + by))]?.focus();
    event.preventDefault();
  };
  const tabs: [View, string][] = [
    ["floors", "Floors"],
    ["verdicts", "Verdicts"],
    ["studies", "Studies"],
    ["model", "Model"],
  ];
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys of everything within
    <div className="building" onKeyDown={keys}>
      <div className="building-bar">
        <h2>{overview.name}</h2>
        <span className="quiet">
          {overview.standard}, {overview.units}
        </span>
        <div className="segments" role="tablist" aria-label="Views of the building">
          {tabs.map(([key, name]) => (
            <button key={key} type="button" role="tab" aria-selected={props.view === key} onClick={() => go(key)}>
              {name}
            </button>
          ))}
        </div>
        <span className="space" />
        {props.view === "verdicts" && <TableFiles />}
        {props.view === "floors" && may && (
          <>
            {chosen.length === 2 && (
              <button type="button" className="small" onClick={() => void compare()}>
                Compare both
              </button>
            )}
            <button type="button" className="small" onClick={() => openDialog("floor")}>
              New floor
            </button>
            {running.length > 0 && (
              <button type="button" className="small" onClick={() => void cancel(running)}>
                Cancel {running.length} {running.length === 1 ? "run" : "runs"}
              </button>
            )}
            {lives.length > 0 && (
              <button
                type="button"
                className="small"
                title={`Their deflections are quick estimates so far: ${lives.map((f) => f.name).join(", ")}`}
                onClick={() => void run(lives, true)}
              >
                Compute {lives.length} {lives.length === 1 ? "life" : "lives"}
              </button>
            )}
            <button
              type="button"
              className="small accent"
              disabled={!waiting.length}
              title={
                waiting.length
                  ? waiting.map((f) => f.name).join(", ")
                  : "Floors run by themselves after each change; none of these waits"
              }
              onClick={() => void run(waiting)}
            >
              {waiting.length
                ? `Run ${waiting.length} of ${scope.length}`
                : running.length
                  ? "All run"
                  : "All up to date"}
            </button>
          </>
        )}
      </div>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      {props.view === "model" ? (
        <ModelView project={project} system={system} may={may} changed={() => void look()} />
      ) : props.view === "studies" ? (
        <StudiesView project={project} overview={overview} system={system} may={may} />
      ) : props.view === "verdicts" ? (
        <VerdictTable overview={overview} system={system} open={openFloor} />
      ) : (
        <div className="building-body">
          <div className="floor-cards">
            {overview.floors.map((card) => (
              <FloorCard
                key={card.id}
                card={card}
                box={box}
                told={heard[card.id]}
                now={now}
                picked={picked.has(card.id)}
                current={card.id === floor?.id}
                only={overview.floors.length === 1}
                may={may}
                acts={acts}
              />
            ))}
          </div>
          <aside aria-label="The building">
            <h3>The building</h3>
            <Totals overview={overview} system={system} />
            <h3>Levels</h3>
            <Levels overview={overview} system={system} open={(card) => void openFloor(card)} />
          </aside>
        </div>
      )}
    </div>
  );
}

function TableFiles() {
  const table = useExported((e) => e.table);
  const say = usePicked("say").say;
  if (!table) return null;
  return (
    <>
      <button type="button" className="small" onClick={() => void copyTable(table).then(() => say("Copied"))}>
        Copy
      </button>
      {(["csv", "xlsx"] as const).map((kind) => (
        <button
          key={kind}
          type="button"
          className="small"
          onClick={() => void downloadTable(table, kind).then((told) => told && say(told, true))}
        >
          {kind.toUpperCase()}
        </button>
      ))}
    </>
  );
}
