import { type FormEvent, useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { reaches } from "../api/entry";
import { useGesture } from "../plan/tools/gesture";
import { useRole } from "../session";
import { type Comment, useReview } from "../session/review";
import { clock } from "../units/moments";
import { measured, useUnits } from "../units/quantities";
import { reviewed } from "./ask";

/** What was said of the floor, with its answers; and something to say, at a place of the plan or on the whole. */
export function CommentsView() {
  const { comments, picked, pick } = useReview();
  const may = reaches(useRole() ?? undefined, "checker");
  const heads = comments.filter((c) => c.answers === null);
  const shown = useRef<HTMLLIElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the picked one is brought into sight when it is picked
  useEffect(() => {
    shown.current?.scrollIntoView({ block: "nearest" });
  }, [picked]);
  return (
    <div className="said" role="region" aria-label="Comments">
      {may && <SayIt />}
      {heads.length === 0 && <p className="empty">Nobody has said anything about this floor.</p>}
      <ol>
        {heads.map((c, k) => (
          <li
            key={c.id}
            ref={picked === c.id ? shown : undefined}
            className={`${picked === c.id ? "picked" : ""} ${c.settled_by ? "settled" : ""}`}
          >
            <button type="button" className="number" aria-label={`Show comment ${k + 1}`} onClick={() => pick(c.id)}>
              {k + 1}
            </button>
            <Thread comment={c} answers={comments.filter((a) => a.answers === c.id)} may={may} />
          </li>
        ))}
      </ol>
    </div>
  );
}

function Thread(props: { comment: Comment; answers: Comment[]; may: boolean }) {
  const { comment, answers, may } = props;
  const [text, setText] = useState("");
  const system = useUnits((u) => u.system);
  const settle = (settled: boolean) =>
    void reviewed((floor_id) =>
      api.PUT("/api/floors/{floor_id}/comments/{comment_id}", {
        params: { path: { floor_id, comment_id: comment.id } },
        body: { settled },
      }),
    );
  const away = (id: number) =>
    void reviewed((floor_id) =>
      api.DELETE("/api/floors/{floor_id}/comments/{comment_id}", { params: { path: { floor_id, comment_id: id } } }),
    );
  const answer = async (event: FormEvent) => {
    event.preventDefault();
    const done = await reviewed((floor_id) =>
      api.POST("/api/floors/{floor_id}/comments", {
        params: { path: { floor_id } },
        body: { text, answers: comment.id, x: null, y: null },
      }),
    );
    if (done) setText("");
  };
  const where =
    comment.x === null || comment.y === null
      ? ""
      : ` at ${measured(comment.x, "length", system)}, ${measured(comment.y, "length", system)}`;
  return (
    <div className="thread">
      {[comment, ...answers].map((c) => (
        <div key={c.id} className={c.id === comment.id ? "" : "answer"}>
          <span className="by">
            <b>{c.author}</b>{" "}
            <span className="quiet">
              {clock(c.made)}, revision {c.number}
              {c.id === comment.id ? where : ""}
            </span>
            {c.mine && (c.id !== comment.id || answers.every((a) => a.mine)) && (
              <button type="button" className="link" onClick={() => away(c.id)}>
                Take away
              </button>
            )}
          </span>
          <p>{c.text}</p>
        </div>
      ))}
      {comment.settled_by ? (
        <p className="quiet">
          Settled by {comment.settled_by}.{" "}
          {may && (
            <button type="button" className="link" onClick={() => settle(false)}>
              Open again
            </button>
          )}
        </p>
      ) : (
        may && (
          <form className="answer-form" onSubmit={(e) => void answer(e)}>
            <input
              aria-label={`Answer to ${comment.author}`}
              placeholder="Answer"
              maxLength={2000}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <button type="submit" className="small" disabled={!text.trim()}>
              Answer
            </button>
            <button type="button" className="small" onClick={() => settle(true)}>
              Settled
            </button>
          </form>
        )
      )}
    </div>
  );
}

function SayIt() {
  const [text, setText] = useState("");
  const { kept, tool, begin, set } = useGesture();
  const system = useUnits((u) => u.system);
  const at = kept?.tool === "comment" ? kept.from : null;
  const say = async (event: FormEvent) => {
    event.preventDefault();
    const done = await reviewed((floor_id) =>
      api.POST("/api/floors/{floor_id}/comments", {
        params: { path: { floor_id } },
        body: { text, x: at?.[0] ?? null, y: at?.[1] ?? null, answers: null },
      }),
    );
    if (!done) return;
    setText("");
    set({ kept: null });
  };
  return (
    <form className="say-form" onSubmit={(e) => void say(e)}>
      <textarea
        aria-label="Something to say about this floor"
        placeholder="Something to say about this floor"
        maxLength={2000}
        rows={2}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <span className="where">
        {tool === "comment" ? (
          <b>Click on the plan</b>
        ) : at ? (
          <>
            at{" "}
            <span className="mono">{`${measured(at[0], "length", system)}, ${measured(at[1], "length", system)}`}</span>
          </>
        ) : (
          "on the whole floor"
        )}
      </span>
      {at ? (
        <button type="button" className="small" onClick={() => set({ kept: null })}>
          On the whole floor
        </button>
      ) : (
        <button
          type="button"
          className="small"
          onClick={() => (tool === "comment" ? set({ tool: null, points: [] }) : begin("comment"))}
        >
          {tool === "comment" ? "No place" : "At a place"}
        </button>
      )}
      <button type="submit" className="small accent" disabled={!text.trim()}>
        Say it
      </button>
    </form>
  );
}
