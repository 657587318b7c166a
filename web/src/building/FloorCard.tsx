import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { checkOf } from "../checks";
import { SIGN, use } from "../units/format";
import { clock } from "../units/moments";
import { reasonOf, useUnits } from "../units/quantities";
import { FloorPicture } from "./FloorPicture";
import { ago, type Card, goesOn, kindOf, markOfRow, stateOf, type Told, worstFirst } from "./overview";

/** Rows of the verdict that a card has room for. */
const ROWS = 4;

export type CardActs = {
  open: (card: Card) => void;
  pick: (card: Card) => void;
  rename: (card: Card, name: string) => Promise<string>;
  shift: (card: Card, by: number) => void;
  copy: (card: Card, twin: boolean) => void;
  away: (card: Card) => void;
  run: (card: Card) => void;
  cancel: (card: Card) => void;
};

/** A floor of the building: its plan, the worst of its checks, how it stands, and what can be done with it. */
export function FloorCard(props: {
  card: Card;
  box: [number, number, number, number];
  told: Told | undefined;
  now: number;
  picked: boolean;
  current: boolean;
  only: boolean;
  may: boolean;
  acts: CardActs;
}) {
  const { card, box, told, now, picked, current, only, may, acts } = props;
  const system = useUnits((u) => u.system);
  const [naming, setNaming] = useState(false);
  const rows = worstFirst(card.verdict);
  const behind = card.known !== card.revision;
  const state = stateOf(card, told);
  const busy = goesOn(card, told);
  const [worst] = rows;
  const idle = ["cancelled", "failed", "out of date", "no results"].includes(state);
  const keys = (event: KeyboardEvent<HTMLElement>) => {
    if (event.target !== event.currentTarget) return;
    const done = () => {
      event.preventDefault();
      event.stopPropagation();
    };
    if (event.key === "Enter") {
      acts.open(card);
      done();
    } else if (event.key === " ") {
      acts.pick(card);
      done();
    } else if (event.key === "F2" && may) {
      setNaming(true);
      done();
    } else if (event.key === "Delete" && may && !only) {
      acts.away(card);
      done();
    } else if (event.altKey && may && (event.key === "ArrowLeft" || event.key === "ArrowRight")) {
      acts.shift(card, event.key === "ArrowLeft" ? -1 : 1);
      done();
    }
  };
  return (
    <article
      className={`floor-card ${picked ? "picked" : ""} ${current ? "current" : ""}`}
      aria-label={card.name}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: as above
      tabIndex={0}
      onKeyDown={keys}
      data-floor={card.id}
    >
      <header>
        <input
          type="checkbox"
          aria-label={`Pick ${card.name}`}
          title="Pick it, to run or to compare (Space)"
          checked={picked}
          onChange={() => acts.pick(card)}
        />
        {naming ? (
          <NameField card={card} rename={acts.rename} end={() => setNaming(false)} />
        ) : (
          <button type="button" className="name" title="Open this floor (Enter)" onClick={() => acts.open(card)}>
            {card.name}
          </button>
        )}
        <span className={`mono state ${busy ? "busy" : ""}`} title={card.run?.told ?? ""}>
          {state}
        </span>
      </header>
      <p className="quiet kind">
        {card.level ?? "no level"} · {kindOf(card, system)}
        {card.follows && ` · twin of ${card.follows}`}
      </p>
      <FloorPicture card={card} box={box} mark={worst?.status === "fail" && !behind ? worst.at : null} />
      <ul className={`verdict ${behind ? "behind" : ""}`}>
        {rows.slice(0, ROWS).map((r) => {
          const mark = markOfRow(r);
          return (
            <li key={r.check} title={[r.where, r.combination, reasonOf(r, system)].filter(Boolean).join("; ")}>
              <span>{checkOf(r.check).title}</span>
              <span className={`mono ${behind ? "none" : mark}`}>
                {r.utilisation === null ? "not checked" : use(r.utilisation)} {behind ? "" : SIGN[mark]}
              </span>
            </li>
          );
        })}
        {rows.length > ROWS && <li className="quiet more">{rows.length - ROWS} more, none worse</li>}
        {!rows.length && <li className="quiet">{card.run?.state === "refused" ? card.run.told : "No verdict yet."}</li>}
      </ul>
      <footer>
        <span className="quiet when" title={`${clock(card.made)}, ${card.author}: ${card.line}`}>
          rev {card.revision}, {ago(card.made, now)}
        </span>
        <span className="acts">
          {busy && may && (
            <button type="button" className="small" onClick={() => acts.cancel(card)}>
              Cancel
            </button>
          )}
          {!busy && idle && may && (
            <button type="button" className="small" onClick={() => acts.run(card)}>
              Run
            </button>
          )}
          {may && (
            <>
              <button
                type="button"
                className="small sign"
                aria-label={`${card.name} earlier`}
                title="Earlier in the order (Alt ←)"
                onClick={() => acts.shift(card, -1)}
              >
                ←
              </button>
              <button
                type="button"
                className="small sign"
                aria-label={`${card.name} later`}
                title="Later in the order (Alt →)"
                onClick={() => acts.shift(card, 1)}
              >
                →
              </button>
              <details
                className="menu"
                onBlur={(e) => {
                  if (!e.currentTarget.contains(e.relatedTarget)) e.currentTarget.open = false;
                }}
                onClick={(e) => {
                  if ((e.target as HTMLElement).closest(".menu > div")) e.currentTarget.open = false;
                }}
                onKeyDown={(e) => {
                  if (e.key === "Escape") e.currentTarget.open = false;
                }}
              >
                <summary className="small" aria-label={`More of ${card.name}`}>
                  More
                </summary>
                <div>
                  <button type="button" onClick={() => setNaming(true)}>
                    Rename <kbd>F2</kbd>
                  </button>
                  <button type="button" onClick={() => acts.copy(card, false)}>
                    Copy
                  </button>
                  <button type="button" onClick={() => acts.copy(card, true)}>
                    Twin that follows it
                  </button>
                  <a href={`/api/floors/${card.id}/file`}>Floor file</a>
                  <button type="button" disabled={only} onClick={() => acts.away(card)}>
                    Put away <kbd>Delete</kbd>
                  </button>
                </div>
              </details>
            </>
          )}
        </span>
      </footer>
    </article>
  );
}

function NameField(props: { card: Card; rename: CardActs["rename"]; end: () => void }) {
  const { card, rename, end } = props;
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.select(), []);
  const take = async () => {
    const name = field.current?.value.trim() ?? "";
    if (name && name !== card.name) await rename(card, name);
    end();
  };
  return (
    <input
      ref={field}
      className="text"
      aria-label={`Name of ${card.name}`}
      defaultValue={card.name}
      onBlur={() => void take()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") {
          e.currentTarget.value = card.name;
          end();
        }
      }}
    />
  );
}
