import { beforeEach, describe, expect, it, vi } from "vitest";

type State = Record<string, unknown>;
let server: State;
const lines: { onopen?: () => void; onmessage?: (m: { data: string }) => void; close: () => void }[] = [];

vi.mock("../src/api/client", () => ({
  problemsOf: () => [],
  api: {
    GET: async (path: string) => {
      if (path.endsWith("/findings") || path === "/api/projects") return { data: [] };
      return path.startsWith("/api/floors") ? { data: structuredClone(server) } : {};
    },
  },
}));
vi.mock("../src/api/fields", () => ({ readFields: () => "fields" }));
vi.stubGlobal(
  "EventSource",
  class {
    static CONNECTING = 0;
    static CLOSED = 2;
    constructor() {
      lines.push(this as never);
    }
    close() {}
  },
);
vi.stubGlobal("history", { replaceState: () => {} });
vi.stubGlobal("fetch", async (path: string) => ({ ok: true, json: async () => path, arrayBuffer: async () => path }));
vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => {} });

const { useSession } = await import("../src/session");
const { useEntry } = await import("../src/api/entry");
useEntry.setState({ state: "in" });
const settle = () => new Promise((r) => setTimeout(r, 5));
const state = (revision: number, run: State, fresh: State | null): State => ({
  ...{ id: 1, name: "Level", project_id: 1, author: "Ada", line: "drawn" },
  ...{ revision, document: { name: "Level", slabs: [] }, run, fresh, undo: false, redo: false },
});
const running = { id: 7, revision: 1, state: "running" };

describe("a floor that is open", () => {
  beforeEach(async () => {
    server = state(1, running, null);
    await useSession.getState().open(1);
  });
  it("shows the end of a run that came before anybody listened", async () => {
    expect(useSession.getState().results).toBeNull();
    server = state(1, { ...running, state: "fresh" }, { id: 7, revision: 1 });
    lines[lines.length - 1]?.onopen?.();
    await settle();
    expect(useSession.getState().results).toBe("/api/runs/7/results");
    expect(useSession.getState().floor?.run?.state).toBe("fresh");
  });
  it("catches up with what happened while the line was broken", async () => {
    const line = lines[lines.length - 1];
    line?.onopen?.();
    line?.onmessage?.({ data: JSON.stringify({ ...running, kind: "run", floor: 1, run: 7, share: 0.5 }) });
    await settle();
    expect(useSession.getState().run?.state).toBe("running");
    server = state(3, { id: 9, revision: 3, state: "fresh" }, { id: 9, revision: 3 });
    line?.onopen?.();
    await settle();
    expect(useSession.getState().floor?.revision).toBe(3);
    expect([useSession.getState().run, useSession.getState().results]).toEqual([null, "/api/runs/9/results"]);
  });
  it("listens anew once somebody is signed in again", async () => {
    const line = lines[lines.length - 1] as (typeof lines)[number] & { readyState?: number; onerror?: () => void };
    const before = lines.length;
    line.readyState = 2;
    line.onerror?.();
    await settle();
    expect(lines).toHaveLength(before + 1);
    // The old line is nobody's any more.
    line.onerror?.();
    await settle();
    expect(lines).toHaveLength(before + 1);
    // One that the browser tries again by itself is left to it.
    const now = lines[lines.length - 1] as typeof line;
    now.readyState = 0;
    now.onerror?.();
    await settle();
    expect(useSession.getState().away).toBe(true);
    expect(lines).toHaveLength(before + 1);
  });
  it("does nothing where nothing happened", async () => {
    const before = useSession.getState();
    lines[lines.length - 1]?.onopen?.();
    await settle();
    expect(useSession.getState().document).toBe(before.document);
  });
});
