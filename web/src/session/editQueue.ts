import type { Conflict, Problem, Saved } from "../api/client";
import type { FloorDocument, Ref } from "../model/floor";
import { atLevel } from "../model/levels";

export type Edit = {
  line: string;
  change: (document: FloorDocument) => FloorDocument;
  /** What is selected once the change is made. */
  picks?: Ref[];
};
export type Settle = "ask" | "both" | "mine";
export type PutBody = { based_on: number; document: FloorDocument; line: string; settle: Settle };
export type PutAnswer = { saved: Saved } | { conflict: Conflict } | { problems: Problem[] } | { away: true };
export type Put = (floorId: number, body: PutBody) => Promise<PutAnswer>;

/** What a queue tells while it works. */
export type Told = {
  /** The document as it is shown, ahead of the server by the changes on their way. */
  shown: (document: FloorDocument) => void;
  saved: (saved: Saved, line: string) => void;
  refused: (problems: Problem[], document: FloorDocument) => void;
  conflict: (told: Conflict, document: FloorDocument, line: string) => void;
  pending: (count: number) => void;
  /** Whether the server is not reached; what is changed meanwhile waits. */
  away: (gone: boolean) => void;
};

/** Greatest time between two attempts to reach the server, ms. */
const PATIENCE = 4000;
const after = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

/**
 * The changes of one floor: shown at once, saved in turn, each based on the revision before it. A queue belongs to its
 * floor for good: what is still on its way when another floor is opened goes where it was meant to go.
 */
export class EditQueue {
  private turn: Promise<unknown> = Promise.resolve();
  private refusals = 0;
  private waiting = 0;
  private confirmed: FloorDocument;

  constructor(
    readonly floorId: number,
    private shownNow: FloorDocument,
    private revisionNow: number,
    private readonly put: Put,
    private readonly tell: Told,
    private readonly wait: (ms: number) => Promise<void> = after,
  ) {
    this.confirmed = shownNow;
  }

  get document(): FloorDocument {
    return this.shownNow;
  }

  get revision(): number {
    return this.revisionNow;
  }

  get pending(): number {
    return this.waiting;
  }

  /** Takes the server's newest state; what was refused or is being settled is gone with it. */
  take(document: FloorDocument, revision: number) {
    this.confirmed = document;
    this.shownNow = document;
    this.revisionNow = revision;
  }

  /** Work that waits for the changes before it, such as undoing. */
  inTurn<T>(work: () => Promise<T>): Promise<T> {
    const next = this.turn.then(work);
    this.turn = next.catch(() => undefined);
    return next;
  }

  /** Shows a change at once, and saves it when those before it are saved. Whether it was saved. */
  edit(edit: Edit): Promise<boolean> {
    const ahead = atLevel(edit.change(this.shownNow));
    if (ahead === this.shownNow) return Promise.resolve(false);
    const seen = this.refusals;
    // Its turn is taken before it is shown: a request that can leave does not wait until the page is drawn.
    const saved = this.inTurn(async () => {
      // A change made on top of a refused one is made anew on what stands.
      const document = seen === this.refusals ? ahead : atLevel(edit.change(this.confirmed));
      const done = await this.send(document, edit.line, "ask", this.revisionNow);
      this.count(-1);
      return done;
    });
    this.count(1);
    this.show(ahead);
    return saved;
  }

  async send(document: FloorDocument, line: string, settle: Settle, basis: number): Promise<boolean> {
    const answer = await this.reached({ based_on: basis, document, line, settle });
    if ("saved" in answer) {
      this.confirmed = document;
      this.revisionNow = answer.saved.revision;
      // After a refusal what was shown is behind what has been saved since.
      if (this.waiting <= 1) this.show(document);
      this.tell.saved(answer.saved, line);
      return true;
    }
    this.refusals++;
    this.show(this.confirmed);
    if ("conflict" in answer) this.tell.conflict(answer.conflict, document, line);
    else this.tell.refused(answer.problems, document);
    return false;
  }

  /** The server's answer, however long it is away: sent again, a change that had been saved is told as saved. */
  private async reached(body: PutBody): Promise<Exclude<PutAnswer, { away: true }>> {
    for (let tries = 0; ; tries++) {
      const answer = await this.put(this.floorId, body);
      if (!("away" in answer)) {
        if (tries) this.tell.away(false);
        return answer;
      }
      this.tell.away(true);
      await this.wait(Math.min(500 * 2 ** tries, PATIENCE));
    }
  }

  private show(document: FloorDocument) {
    if (document === this.shownNow) return;
    this.shownNow = document;
    this.tell.shown(document);
  }

  private count(by: number) {
    this.waiting += by;
    this.tell.pending(this.waiting);
  }
}
