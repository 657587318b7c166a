import { describe, expect, it } from "vitest";
import type { FloorDocument } from "../src/model/floor";
import { EditQueue, type Put, type PutAnswer, type PutBody } from "../src/session/editQueue";
import { heardRun } from "../src/session/runs";

const document = (name: string): FloorDocument => ({ name, slabs: [] }) as never;
const adding = (id: string) => ({
  line: `slab ${id}`,
  change: (d: FloorDocument) => ({ ...d, slabs: [...d.slabs, { id } as never] }),
});
const ids = (d: FloorDocument) => d.slabs.map((s) => s.id).join("");

/** A server that answers when it is told to. */
function server(answers: ((floor: number, body: PutBody) => PutAnswer)[] = []) {
  const asked: { floor: number; body: PutBody; answer: () => void }[] = [];
  const put: Put = (floor, body) =>
    new Promise((resolve) => {
      const given =
        answers[asked.length] ?? ((_, b) => ({ saved: { revision: b.based_on + 1, line: b.line, run: null } }));
      asked.push({ floor, body, answer: () => resolve(given(floor, body)) });
    });
  return { asked, put };
}

function queueOf(floor: number, put: Put) {
  const told: string[] = [];
  const queue = new EditQueue(
    floor,
    document(`F${floor}`),
    7,
    put,
    {
      shown: (d) => told.push(`shown ${ids(d)}`),
      saved: (s, line) => told.push(`saved ${s.revision} ${line}`),
      refused: (p) => told.push(`refused ${p[0]?.sentence}`),
      conflict: (c) => told.push(`conflict ${c.sentence}`),
      pending: (n) => told.push(`pending ${n}`),
      away: (gone) => told.push(gone ? "away" : "there again"),
    },
    (ms) => {
      told.push(`waits ${ms}`);
      return Promise.resolve();
    },
  );
  return { queue, told };
}

const turn = () => new Promise((r) => setTimeout(r));

describe("the changes of a floor", () => {
  it("leave before what is drawn because of them", async () => {
    const { asked, put } = server();
    const order: string[] = [];
    // As the page does it: what is shown is drawn in the next turn of the browser's own queue.
    const send: Put = (floor, body) => {
      order.push("sent");
      return put(floor, body);
    };
    const drawn = new EditQueue(1, document("F1"), 7, send, {
      shown: () => queueMicrotask(() => order.push("drawn")),
      saved: () => {},
      refused: () => {},
      conflict: () => {},
      pending: () => {},
      away: () => {},
    });
    void drawn.edit(adding("A"));
    await turn();
    expect(order).toEqual(["sent", "drawn"]);
    expect(asked).toHaveLength(1);
  });

  it("wait for a server that is away, and arrive in their order", async () => {
    const gone = () => ({ away: true }) as PutAnswer;
    const { asked, put } = server([gone, gone]);
    const { queue, told } = queueOf(1, put);
    const both = [queue.edit(adding("A")), queue.edit(adding("B"))];
    for (let k = 0; k < 12; k++) {
      await turn();
      asked[asked.length - 1]?.answer();
    }
    expect(await Promise.all(both)).toEqual([true, true]);
    expect(asked.map((c) => [ids(c.body.document), c.body.based_on])).toEqual([
      ["A", 7],
      ["A", 7],
      ["A", 7],
      ["AB", 8],
    ]);
    expect(told.filter((t) => /away|again|waits|saved/.test(t))).toEqual([
      "away",
      "waits 500",
      "away",
      "waits 1000",
      "there again",
      "saved 8 slab A",
      "saved 9 slab B",
    ]);
    expect(ids(queue.document)).toBe("AB");
  });
  it("go to their own floor, although another one is opened meanwhile", async () => {
    const { asked, put } = server();
    const a = queueOf(1, put);
    const first = a.queue.edit(adding("A"));
    const second = a.queue.edit(adding("B"));
    await turn();
    expect(asked).toHaveLength(1);
    const b = queueOf(2, put);
    const third = b.queue.edit(adding("C"));
    await turn();
    for (const call of asked) call.answer();
    await turn();
    for (const call of asked) call.answer();
    expect(await Promise.all([first, second, third])).toEqual([true, true, true]);
    expect(asked.map((c) => [c.floor, ids(c.body.document), c.body.based_on])).toEqual([
      [1, "A", 7],
      [2, "C", 7],
      [1, "AB", 8],
    ]);
    expect(ids(b.queue.document)).toBe("C");
    expect([a.queue.revision, b.queue.revision]).toEqual([9, 8]);
  });
  it("are shown at once and saved in turn", async () => {
    const { asked, put } = server();
    const { queue, told } = queueOf(1, put);
    void queue.edit(adding("A"));
    void queue.edit(adding("B"));
    expect(ids(queue.document)).toBe("AB");
    expect(told).toEqual(["pending 1", "shown A", "pending 2", "shown AB"]);
    await turn();
    asked[0]?.answer();
    await turn();
    expect(ids(queue.document)).toBe("AB");
    asked[1]?.answer();
    await turn();
    expect(told.slice(4)).toEqual(["saved 8 slab A", "pending 1", "saved 9 slab B", "pending 0"]);
  });
  it("that follow a refused one are made anew on what stands", async () => {
    const { asked, put } = server([() => ({ problems: [{ path: "slabs", sentence: "no" }] })]);
    const { queue, told } = queueOf(1, put);
    const first = queue.edit(adding("A"));
    const second = queue.edit(adding("B"));
    await turn();
    asked[0]?.answer();
    expect(await first).toBe(false);
    await turn();
    expect(ids(asked[1]?.body.document as FloorDocument)).toBe("B");
    asked[1]?.answer();
    expect(await second).toBe(true);
    expect(ids(queue.document)).toBe("B");
    expect(told).toContain("refused no");
  });
  it("tell a conflict with what was to be saved, and keep the next one waiting for nobody", async () => {
    const { asked, put } = server([() => ({ conflict: { sentence: "late" } as never })]);
    const { queue, told } = queueOf(1, put);
    const done = queue.edit(adding("A"));
    await turn();
    asked[0]?.answer();
    expect(await done).toBe(false);
    expect(told).toContain("conflict late");
    expect(ids(queue.document)).toBe("");
    expect(queue.pending).toBe(0);
  });
  it("that change nothing are not sent, and undoing waits for what is on its way", async () => {
    const { asked, put } = server();
    const { queue } = queueOf(1, put);
    expect(await queue.edit({ line: "nothing", change: (d) => d })).toBe(false);
    void queue.edit(adding("A"));
    let undone = 0;
    const undo = queue.inTurn(async () => {
      undone = queue.revision;
    });
    await turn();
    expect([asked.length, undone]).toEqual([1, 0]);
    asked[0]?.answer();
    await undo;
    expect(undone).toBe(8);
  });
});

describe("what is heard of runs", () => {
  const event = { kind: "run", floor: 1, run: 3, revision: 8, state: "running", share: 0.4 } as const;
  it("is shown for the open revision alone", () => {
    expect(heardRun(event, 8, null)).toEqual({ run: event });
    expect(heardRun(event, 7, null)).toBeNull();
    expect(heardRun(event, 9, null)).toBeNull();
    expect(heardRun({ ...event, verdict: [] }, 8, null)?.early).toEqual({ revision: 8, verdict: [], whole: true });
    expect(heardRun({ ...event, verdict: [], whole: false }, 8, null)?.early?.whole).toBe(false);
  });
  it("is shown for a revision whose results it will be, although it was begun for an earlier one", () => {
    expect(heardRun(event, 9, 4)).toBeNull();
    expect(heardRun(event, 9, 3)?.run).toEqual({ ...event, revision: 9 });
    expect(heardRun({ ...event, verdict: [] }, 9, 3)?.early).toEqual({ revision: 9, verdict: [], whole: true });
  });
});
